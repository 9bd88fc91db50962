/** Sounds to choose from by ear: those that Akmeon makes, and one's own. Each is heard on the hit, in its surroundings. */
import { useEffect, useRef, useState } from 'react';
import { Play, Trash2 } from 'lucide-react';
import type { Accent, SoundAsset } from '../../core/document/types.ts';
import { make, MADE_SOUNDS, type MadeSound } from '../../core/sound/made/index.ts';
import { FileButton } from '../parts/file-button.tsx';
import { bringSounds } from '../stores/bring-in.ts';
import { forgetSound, hearOn, soundOf, takeSound, useSounds } from '../stores/sounds.ts';

const FAMILY_NAMES: Record<MadeSound['family'], string> = {
  blow: 'Blows',
  metal: 'Metal',
  air: 'Air',
  rise: 'Rising',
  glitch: 'Faults',
};
/** Milliseconds that a pointer rests on a sound before it is heard. */
const REST = 350;
const [WIDTH, HEIGHT] = [76, 22];

export function SoundShelf({
  accent,
  frame,
  onTake,
  onClose,
}: {
  accent: Accent;
  /** The hit that it is heard on. */
  frame: number | null;
  onTake: (asset: SoundAsset) => void;
  onClose: () => void;
}) {
  const [sought, setSought] = useState('');
  const own = useSounds();
  const words = sought.trim().toLowerCase();
  const found = MADE_SOUNDS.filter(({ name, doc, family }) =>
    `${name} ${doc} ${FAMILY_NAMES[family]}`.toLowerCase().includes(words),
  );
  const hear = (asset: SoundAsset): void => {
    if (frame !== null) hearOn(frame, accent, [...(accent.sounds ?? []), soundOf(asset)]);
  };
  return (
    <section className="flex flex-col gap-2 rounded-md border border-rope p-2" aria-label="Sounds to choose from">
      <div className="flex items-center gap-2">
        <input
          className="field min-w-0 grow py-0.5"
          type="search"
          aria-label="Seek a sound"
          placeholder="Seek by name or kind"
          value={sought}
          onChange={(event) => setSought(event.currentTarget.value)}
          onKeyDown={(event) => {
            if (event.key === 'Escape') onClose();
            if (event.key !== 'Enter') return;
            const mine = own.find(({ name }) => name.toLowerCase().includes(words));
            const first = Object.keys(FAMILY_NAMES).flatMap((family) =>
              found.filter((one) => one.family === family),
            )[0];
            if (first) onTake({ made: first.id, params: {} });
            else if (mine) onTake(takeSound(mine.source, mine.peak));
          }}
        />
        <button className="key-quiet" onClick={onClose}>
          Close
        </button>
      </div>
      {(Object.keys(FAMILY_NAMES) as MadeSound['family'][]).map((family) => {
        const list = found.filter((sound) => sound.family === family);
        return (
          list.length > 0 && (
            <div key={family}>
              <h4 className="caption">{FAMILY_NAMES[family]}</h4>
              <ul className="grid grid-cols-2 gap-1">
                {list.map((sound) => (
                  <ShelfSound
                    key={sound.id}
                    name={sound.name}
                    doc={sound.doc}
                    made={sound.id}
                    onHear={() => hear({ made: sound.id, params: {} })}
                    onTake={() => onTake({ made: sound.id, params: {} })}
                  />
                ))}
              </ul>
            </div>
          )
        );
      })}
      <h4 className="caption">Your own</h4>
      <ul className="flex flex-col gap-1">
        {own
          .filter(({ name }) => name.toLowerCase().includes(words))
          .map(({ id, name, source, peak }) => (
            <li key={id} className="flex items-center gap-1 rounded bg-plank px-2 py-0.5">
              <span className="min-w-0 grow truncate text-sail" title={name}>
                {name}
              </span>
              <span className="mono text-[11px]">{source.duration.toFixed(1)} s</span>
              <button
                className="key-quiet"
                aria-label={`Hear ${name} on the hit`}
                onClick={() => hear(takeSound(source, peak))}
              >
                <Play size={13} />
              </button>
              <button className="key px-1.5 py-0" onClick={() => onTake(takeSound(source, peak))}>
                Take
              </button>
              <button className="key-quiet" aria-label={`Forget ${name}`} onClick={() => void forgetSound(id)}>
                <Trash2 size={13} />
              </button>
            </li>
          ))}
        {own.length === 0 && <li>None yet. What you bring in here is kept for all your montages.</li>}
      </ul>
      <FileButton
        accept="audio/*,.wav,.mp3,.flac,.ogg,.m4a,.opus"
        label="Bring in sounds"
        multiple
        handles
        onFiles={(files) =>
          void bringSounds(files).then((assets) => {
            if (assets.length === 1) onTake(assets[0]!);
          })
        }
      />
    </section>
  );
}

function ShelfSound({
  name,
  doc,
  made,
  onHear,
  onTake,
}: {
  name: string;
  doc: string;
  made: string;
  onHear: () => void;
  onTake: () => void;
}) {
  const rest = useRef(0);
  const stop = (): void => window.clearTimeout(rest.current);
  useEffect(() => stop, []);
  return (
    <li>
      <button
        className="flex w-full flex-col rounded bg-plank px-2 py-1 text-left hover:bg-rope focus-visible:bg-rope"
        title={`${doc} Rest on it, or press space: it is heard on the hit. Click: it is taken.`}
        data-shelf-sound={made}
        onPointerEnter={() => {
          stop();
          rest.current = window.setTimeout(onHear, REST);
        }}
        onPointerLeave={stop}
        onKeyDown={(event) => {
          if (event.key !== ' ') return;
          event.preventDefault();
          event.stopPropagation();
          onHear();
        }}
        onClick={() => {
          stop();
          onTake();
        }}
      >
        <span className="truncate text-sail">{name}</span>
        <Wave made={made} />
      </button>
    </li>
  );
}

/** What a made sound looks like, with its loudest moment. */
function Wave({ made }: { made: string }) {
  const [path, setPath] = useState<{ readonly d: string; readonly peak: number } | null>(null);
  useEffect(() => {
    // One after another, so that the shelf opens at once.
    const waiting = window.setTimeout(() => {
      const { samples, peak, duration } = make(made, {}, 1);
      const bars = Array.from({ length: WIDTH / 2 }, (_, i) => {
        const [from, to] = [i, i + 1].map((k) => Math.floor((k * samples.length) / (WIDTH / 2)));
        const top = samples.subarray(from, to).reduce((most, v) => Math.max(most, Math.abs(v)), 0);
        const half = Math.max(0.5, top * HEIGHT);
        return `M${2 * i + 1} ${(HEIGHT / 2 - half / 1).toFixed(1)}v${(2 * half).toFixed(1)}`;
      });
      setPath({ d: bars.join(''), peak: (peak / duration) * WIDTH });
    });
    return () => window.clearTimeout(waiting);
  }, [made]);
  return (
    <svg aria-hidden viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="h-[22px] w-full" preserveAspectRatio="none">
      {path && (
        <>
          <path d={path.d} className="stroke-tide/70" strokeWidth={1.4} />
          <path d={`M${path.peak.toFixed(1)} 0v${HEIGHT}`} className="stroke-lamp" strokeWidth={1} />
        </>
      )}
    </svg>
  );
}
