/** Accents to take from: those kept, those that ship with Akmeon, and files. */
import { Download, Trash2, Upload } from 'lucide-react';
import type { Accent } from '../../core/document/types.ts';
import { STARTER_ACCENTS } from '../../effects/starters.ts';
import { FileButton } from '../parts/file-button.tsx';
import { forgetAccent, keepAccent, openAccentFile, saveAccentFile, takeAccent, useLibrary } from '../stores/library.ts';
import { AccentPicture } from './accent-picture.tsx';
import { useChosenAccent, useShapingFrame } from './shaping.ts';

const ALIGNS = { start: 'start on the hit', peak: 'peak on the hit', end: 'end on the hit' } as const;

export function Library() {
  const accent = useChosenAccent();
  const frame = useShapingFrame();
  const kept = useLibrary();
  return (
    <>
      <div className="flex flex-wrap gap-1.5">
        <button className="key" disabled={!accent} onClick={() => accent && void keepAccent(accent, frame)}>
          Keep “{accent?.name ?? '–'}”
        </button>
        <button className="key" disabled={!accent} onClick={() => accent && void saveAccentFile(accent, frame)}>
          <Download size={13} />
          To a file
        </button>
        <FileButton
          label="From files"
          icon={<Upload size={13} />}
          accept=".akmeon-accent"
          multiple
          onFiles={(files) => files.forEach(({ file }) => void openAccentFile(file))}
        />
      </div>
      {kept.length > 0 && (
        <>
          <h3 className="caption">Yours</h3>
          <ul className="grid grid-cols-2 gap-1.5" aria-label="Your accents">
            {kept.map((one) => (
              <Card key={one.id} accent={one.accent} frame={frame} picture={one.picture}>
                <button
                  className="key-quiet px-1"
                  aria-label={`Forget ${one.name}`}
                  onClick={() => void forgetAccent(one.id)}
                >
                  <Trash2 size={13} />
                </button>
              </Card>
            ))}
          </ul>
        </>
      )}
      <h3 className="caption">Ours</h3>
      <ul className="grid grid-cols-2 gap-1.5" aria-label="Accents that come with Akmeon">
        {STARTER_ACCENTS.map((one) => (
          <Card key={one.id} accent={one} frame={frame} />
        ))}
      </ul>
    </>
  );
}

/** On the person's own frame; without one, the picture that was kept with the accent. */
function Card({
  accent,
  frame,
  picture,
  children,
}: {
  accent: Accent;
  frame: number | null;
  picture?: string;
  children?: React.ReactNode;
}) {
  return (
    <li className="overflow-hidden rounded-md border border-rope hover:border-tide">
      <button className="block w-full text-left" aria-label={`Take ${accent.name}`} onClick={() => takeAccent(accent)}>
        {frame !== null ? (
          <AccentPicture accent={accent} frame={frame} />
        ) : picture ? (
          <img className="block aspect-video w-full" src={picture} alt="" />
        ) : (
          <span className="block aspect-video bg-black" />
        )}
        <span className="block truncate px-1.5 pt-0.5 text-[12px]">{accent.name}</span>
      </button>
      <span className="flex items-center px-1.5 pb-0.5 text-[11px] text-fog">
        <span className="grow">{ALIGNS[accent.align]}</span>
        {children}
      </span>
    </li>
  );
}
