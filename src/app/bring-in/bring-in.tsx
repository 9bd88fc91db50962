/** Bring in footage and music, put the clips in a row, choose what is listened to. */
import { ofAccents } from '../../core/document/words.ts';
import { lazy, Suspense, useState, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import { FileVideo, Volume2 } from 'lucide-react';
import { setSettings } from '../../core/document/edits.ts';
import { listenedTracks } from '../../core/finding/detectors/index.ts';
import type { BroughtFile } from '../../engine/index.ts';
import { FileButton } from '../parts/file-button.tsx';
import { useDerived } from '../stores/derived.ts';
import { bringIn } from '../stores/bring-in.ts';
import { findInSources, isFound } from '../stores/finding.ts';
import { useMedia } from '../stores/media.ts';
import { edit } from '../stores/montage.ts';
import { DialogGuard } from '../rescue.tsx';
import { notice, useView } from '../stores/view.ts';
import { Formats } from './formats.tsx';
import { ClipList } from './clip-row.tsx';
import { MusicRow } from './music-row.tsx';
import { SourceRow } from './source-row.tsx';

const LandDialog = lazy(() => import('./land-dialog.tsx').then((m) => ({ default: m.LandDialog })));
const Refused = lazy(() => import('./refused.tsx').then((m) => ({ default: m.Refused })));
const GatherDialog = lazy(() => import('./gather-dialog.tsx').then((m) => ({ default: m.GatherDialog })));

const ACCEPT = 'video/*,audio/*,image/*,.mkv,.mov,.mp4,.webm,.wav,.mp3,.flac,.ogg,.m4a,.opus';

/** Files of a drop, with lasting handles where the browser offers them. */
async function dropped(items: DataTransferItemList): Promise<BroughtFile[]> {
  const wanted = [...items]
    .filter((item) => item.kind === 'file')
    .map((item) => ({
      file: item.getAsFile(),
      handle: 'getAsFileSystemHandle' in item ? item.getAsFileSystemHandle() : Promise.resolve(null),
    }));
  const files = await Promise.all(
    wanted.map(async ({ file, handle }) => {
      const got = await handle.catch(() => null);
      return file ? [{ file, handle: got?.kind === 'file' ? (got as FileSystemFileHandle) : null }] : [];
    }),
  );
  return files.flat();
}

export function BringIn() {
  const derived = useDerived()!;
  const media = useMedia();
  const { states, partial } = media;
  const busy = useView((s) => s.jobs.some((job) => job.kind === 'analyse'));
  const refused = useView((s) => s.refused.length > 0);
  const go = useNavigate();
  const [over, setOver] = useState(false);
  const [gathering, setGathering] = useState(false);
  const [landing, setLanding] = useState(false);
  const { montage } = derived;
  const analysed = montage.sources.length > 0 && montage.sources.every((s) => isFound(s, media));
  const toCheck = (): void => void go(`/montage/${montage.id}/check`);
  const find = async (): Promise<void> => {
    if (!(await findInSources())) return;
    // What is heard is named by families first; where nothing is, there are only hits.
    if (montage.sources.some((source) => listenedTracks(source).length)) useView.setState({ checkTab: 'Families' });
    toCheck();
  };
  return (
    <>
      <div
        className={`flex flex-col items-center gap-2 rounded-xl border-2 border-dashed p-4 text-center ${over ? 'border-lamp bg-plank' : 'border-rope'}`}
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(event) => {
          event.preventDefault();
          setOver(false);
          void dropped(event.dataTransfer.items).then((files) =>
            files.length ? bringIn(files) : notice('Nothing that is a file was dropped.', 'error'),
          );
        }}
      >
        <p className="text-fog">Drop footage, pictures and music here</p>
        <FileButton accept={ACCEPT} label="Choose files" multiple handles onFiles={(files) => void bringIn(files)} />
      </div>

      {refused && (
        <Suspense>
          <Refused />
        </Suspense>
      )}
      {montage.sources.length === 0 && <Beginning />}
      {montage.sources.length > 0 && <h2 className="caption">Sources</h2>}
      <ul className="flex flex-col gap-2">
        {montage.sources
          .filter((source) => !ofAccents(source))
          .map((source) => (
            <SourceRow
              key={source.id}
              source={source}
              state={states[source.id] ?? 'looking'}
              analysed={isFound(source, media)}
            />
          ))}
      </ul>

      {montage.sources.length > 0 && (
        <div className="flex items-center gap-1">
          <h2 className="caption grow">Row of clips</h2>
          <span title="A timeline of another program: OpenTimelineIO, or a CMX 3600 decision list">
            <FileButton
              accept=".otio,.edl"
              label="From a timeline"
              onFiles={(files) =>
                void import('../stores/lists.ts').then(({ readRowFile }) => readRowFile(files[0]!.file))
              }
            />
          </span>
          <button
            className="key px-1.5 py-0.5 text-[12px]"
            title="Hits onto beats of the music, by gentle speeds"
            onClick={() => setLanding(true)}
          >
            Land…
          </button>
          <button
            className="key px-1.5 py-0.5 text-[12px]"
            title="A row of kept hits"
            onClick={() => setGathering(true)}
          >
            Gather…
          </button>
        </div>
      )}
      <Suspense>
        {gathering && (
          <DialogGuard name="Gather" onClose={() => setGathering(false)}>
            <GatherDialog onClose={() => setGathering(false)} />
          </DialogGuard>
        )}
        {landing && (
          <DialogGuard name="Land" onClose={() => setLanding(false)}>
            <LandDialog onClose={() => setLanding(false)} />
          </DialogGuard>
        )}
      </Suspense>
      {montage.clips.length > 0 && (
        <Volume
          icon={<FileVideo size={14} />}
          said="Sound of the clips"
          label="Volume of the clips"
          value={montage.settings.clipGain}
          onValue={(clipGain) => edit(setSettings({ clipGain }), 'clip-gain')}
        />
      )}
      {montage.accents.some(({ sounds }) => sounds?.length) && (
        <Volume
          icon={<Volume2 size={14} />}
          said="Sounds of the accents"
          label="Volume of the accents"
          value={montage.settings.accentGain ?? 1}
          onValue={(accentGain) => edit(setSettings({ accentGain }), 'accent-gain')}
        />
      )}
      <ClipList clips={montage.clips} />

      {montage.clips.length > 0 && <Formats />}

      {montage.music.length > 0 && <h2 className="caption">Music</h2>}
      <ol className="flex flex-col gap-2">
        {montage.music.map((item, i) => (
          <MusicRow key={item.id} item={item} at={i} />
        ))}
      </ol>

      <div className="foot">
        {analysed ? (
          <button className="key-main" data-main onClick={toCheck}>
            Check the hits
          </button>
        ) : (
          <button
            className="key-main"
            data-main
            disabled={busy || montage.sources.length === 0}
            onClick={() => void find()}
          >
            {busy ? 'Finding…' : montage.sources.some((s) => partial[s.id]) ? 'Resume finding' : 'Find hits'}
          </button>
        )}
        {analysed && (
          <button className="key-quiet mt-2 w-full justify-center" onClick={() => void findInSources(true)}>
            Find again from the start
          </button>
        )}
      </div>
    </>
  );
}

function Volume({
  icon,
  said,
  label,
  value,
  onValue,
}: {
  icon: ReactNode;
  said: string;
  label: string;
  value: number;
  onValue: (value: number) => void;
}) {
  return (
    <label className="flex items-center gap-2 text-fog">
      {icon}
      <span className="grow">{said}</span>
      <input
        className="range w-24"
        type="range"
        min={0}
        max={2}
        step={0.05}
        value={value}
        aria-label={label}
        onChange={(event) => onValue(Number(event.currentTarget.value))}
      />
    </label>
  );
}

/** What happens here, for the first minutes. */
function Beginning() {
  const go = useNavigate();
  return (
    <div className="flex flex-col gap-2 text-fog">
      <ol className="list-decimal pl-5">
        <li>Bring in footage, and music if you have some.</li>
        <li>Find the hits: what is heard and seen is listed, and you keep what is right.</li>
        <li>Shape an accent once; a rule lays it on all of them, and one file comes out.</li>
      </ol>
      <button className="key self-start" onClick={() => void go('/demo-montage')}>
        Look at the demo
      </button>
    </div>
  );
}
