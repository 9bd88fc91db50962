/** Bring in footage and music, put the clips in a row, choose what is listened to. */
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { ArrowDown, ArrowUp, FileVideo, Music, Scissors, Trash2 } from 'lucide-react';
import {
  moveClip,
  removeClip,
  removeSource,
  setMusicGain,
  setSettings,
  splitClip,
  trimClip,
  updateSource,
} from '../../core/document/edits.ts';
import { nanoid } from 'nanoid';
import { listenedTracks, trackRole } from '../../core/finding/detectors/index.ts';
import {
  CONTENTS,
  TRACK_ROLES,
  type Clip,
  type Content,
  type Source,
  type TrackRole,
} from '../../core/document/types.ts';
import { rateLabel, timecode } from '../../core/base/time.ts';
import type { BroughtFile } from '../../engine/index.ts';
import { LIMITS } from '../../core/document/limits.ts';
import { NumberField } from '../parts/number-field.tsx';
import { FileButton } from '../parts/file-button.tsx';
import { useDerived } from '../stores/derived.ts';
import { bringIn } from '../stores/bring-in.ts';
import { findInSources, isFound, listenTo, setTrackRole } from '../stores/finding.ts';
import { useMedia } from '../stores/media.ts';
import { edit } from '../stores/montage.ts';
import { applyStoredProfile, useProfiles } from '../stores/profiles.ts';
import { notice, useView } from '../stores/view.ts';

const ACCEPT = 'video/*,audio/*,.mkv,.mov,.mp4,.webm,.wav,.mp3,.flac,.ogg,.m4a,.opus';

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
  const go = useNavigate();
  const [over, setOver] = useState(false);
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
        <p className="text-fog">Drop footage and music here</p>
        <FileButton accept={ACCEPT} label="Choose files" multiple handles onFiles={(files) => void bringIn(files)} />
      </div>

      {montage.sources.length > 0 && <h2 className="caption">Sources</h2>}
      <ul className="flex flex-col gap-2">
        {montage.sources.map((source) => (
          <SourceRow
            key={source.id}
            source={source}
            state={states[source.id] ?? 'looking'}
            analysed={isFound(source, media)}
          />
        ))}
      </ul>

      {montage.clips.length > 0 && <h2 className="caption">Row of clips</h2>}
      <ol className="flex flex-col gap-2">
        {montage.clips.map((clip, i) => (
          <ClipRow key={clip.id} clip={clip} at={i} last={i === montage.clips.length - 1} />
        ))}
      </ol>

      {montage.music.map((item) => (
        <label key={item.id} className="flex items-center gap-2 text-fog">
          <Music size={14} />
          <span className="min-w-0 grow truncate">{montage.sources.find((s) => s.id === item.source)?.name}</span>
          <input
            className="range w-24"
            type="range"
            min={0}
            max={2}
            step={0.05}
            value={item.gain}
            aria-label="Loudness of the music"
            onChange={(event) => edit(setMusicGain(item.id, Number(event.currentTarget.value)), `gain-${item.id}`)}
          />
        </label>
      ))}
      {montage.clips.length > 0 && (
        <label className="flex items-center gap-2 text-fog">
          <FileVideo size={14} />
          <span className="grow">Sound of the clips</span>
          <input
            className="range w-24"
            type="range"
            min={0}
            max={2}
            step={0.05}
            value={montage.settings.clipGain}
            aria-label="Loudness of the clips"
            onChange={(event) => edit(setSettings({ clipGain: Number(event.currentTarget.value) }), 'clip-gain')}
          />
        </label>
      )}

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
            {busy ? 'Finding…' : montage.sources.some((s) => partial[s.id]) ? 'Go on finding' : 'Find hits'}
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

const ROLE_NAMES: Record<TrackRole, string> = {
  game: 'game or hall',
  music: 'music',
  voice: 'voice, no hits',
  off: 'left out',
};

const CONTENT_NAMES: Record<Content, string> = {
  unsaid: 'not said',
  firearms: 'firearms',
  blows: 'blows and kicks',
  ball: 'a ball',
  drums: 'drums',
  mixed: 'a mixture',
};

const STATES = { looking: 'looking…', here: '', locked: 'waiting for permission', missing: 'missing' } as const;

function SourceRow({ source, state, analysed }: { source: Source; state: keyof typeof STATES; analysed: boolean }) {
  const { video, audio } = source;
  const profiles = useProfiles();
  return (
    <li className="rounded-md bg-plank px-3 py-2">
      <div className="flex items-center gap-2">
        {video ? (
          <FileVideo size={15} className="shrink-0 text-tide" />
        ) : (
          <Music size={15} className="shrink-0 text-tide" />
        )}
        <span className="min-w-0 grow truncate font-medium" title={source.name}>
          {source.name}
        </span>
        <button
          className="key-quiet"
          aria-label={`Remove ${source.name}`}
          onClick={() => edit(removeSource(source.id))}
        >
          <Trash2 size={14} />
        </button>
      </div>
      <p className="mono mt-0.5 text-[11px] text-fog">
        {video &&
          `${video.width}×${video.height} · ${rateLabel(video.rate)}${video.variable ? ' variable' : ''} · ${video.codec} · `}
        {source.duration.toFixed(1)} s{analysed ? ' · found' : ''}
        {STATES[state] && <span className="text-ember"> · {STATES[state]}</span>}
      </p>
      {audio.length > 1 && (
        <label className="mt-1 flex items-center gap-2 text-[12px] text-fog">
          Listen to
          <select
            className="field grow py-0.5"
            value={source.listen ?? ''}
            onChange={(event) =>
              listenTo(source, event.currentTarget.value === '' ? null : Number(event.currentTarget.value))
            }
          >
            {audio.map((track, i) => (
              <option
                key={i}
                value={i}
                disabled={!track.readable}
              >{`Track ${i + 1}${track.name ? `, ${track.name}` : ''} (${track.codec}, ${track.channels} ch)`}</option>
            ))}
            <option value="">No sound</option>
          </select>
        </label>
      )}
      {audio.length > 0 && source.role === 'footage' && (
        <label className="mt-1 flex items-center gap-2 text-[12px] text-fog">
          <span className="grow">What happens in it</span>
          <select
            className="field py-0.5"
            aria-label={`What happens in ${source.name}`}
            title="How likely shots and impacts are before anything is heard"
            value={source.content}
            onChange={(event) => edit(updateSource(source.id, { content: event.currentTarget.value as Content }))}
          >
            {CONTENTS.map((content) => (
              <option key={content} value={content}>
                {CONTENT_NAMES[content]}
              </option>
            ))}
          </select>
        </label>
      )}
      {profiles.length > 0 && audio.length > 0 && source.role === 'footage' && (
        <label className="mt-1 flex items-center gap-2 text-[12px] text-fog">
          <span className="grow">Same game or hall as</span>
          <select
            className="field min-w-0 py-0.5"
            aria-label={`Profile for ${source.name}`}
            title="What was named in an earlier recording is named in this one when its hits are found"
            value=""
            onChange={(event) => {
              const known = profiles.find(({ id }) => id === event.currentTarget.value);
              if (known) applyStoredProfile(known.profile, source);
            }}
          >
            <option value="">choose a profile…</option>
            {profiles.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </select>
        </label>
      )}
      {audio.map((track, i) => (
        <label key={i} className="mt-1 flex items-center gap-2 text-[12px] text-fog">
          <span className="min-w-0 grow truncate">
            {audio.length > 1 ? `Track ${i + 1}${track.name ? `, ${track.name}` : ''} holds` : 'Its sound holds'}
          </span>
          <select
            className="field py-0.5"
            aria-label={`What sound track ${i + 1} of ${source.name} holds`}
            disabled={!track.readable}
            value={trackRole(source, i)}
            onChange={(event) => setTrackRole(source, i, event.currentTarget.value as TrackRole)}
          >
            {TRACK_ROLES.map((role) => (
              <option key={role} value={role}>
                {ROLE_NAMES[role]}
              </option>
            ))}
          </select>
        </label>
      ))}
    </li>
  );
}

function ClipRow({ clip, at, last }: { clip: Clip; at: number; last: boolean }) {
  const derived = useDerived()!;
  const playhead = useView((s) => s.playhead);
  const source = derived.montage.sources.find((s) => s.id === clip.source);
  const span = derived.line.spans.find((s) => s.clip.id === clip.id);
  const times = derived.media.get(clip.source);
  const inside = span && playhead >= span.first && playhead < span.end;
  const here = inside && times ? times.timeOf(derived.line.sourceFrame(span, playhead)) : null;
  const bound = (name: 'in' | 'out') => (
    <label className="flex items-center gap-1">
      {name}
      <NumberField
        label={name}
        className="field mono w-20 py-0 text-[12px]"
        step={0.1}
        min={Math.min(0, source?.video?.first ?? 0)}
        max={source?.duration ?? LIMITS.sourceTime.max}
        value={Math.round(clip[name] * 1000) / 1000}
        onValue={(value) => edit(trimClip(clip.id, { [name]: value }), `trim-${clip.id}-${name}`)}
      />
    </label>
  );
  return (
    <li className="rounded-md border border-rope px-3 py-2 text-[12px] text-fog">
      <div className="flex items-center gap-1">
        <span className="min-w-0 grow truncate text-[13px] text-sail">
          {at + 1}. {source?.name}
        </span>
        <button
          className="key-quiet"
          aria-label={`Clip ${at + 1} earlier`}
          disabled={at === 0}
          onClick={() => edit(moveClip(clip.id, -1))}
        >
          <ArrowUp size={13} />
        </button>
        <button
          className="key-quiet"
          aria-label={`Clip ${at + 1} later`}
          disabled={last}
          onClick={() => edit(moveClip(clip.id, 1))}
        >
          <ArrowDown size={13} />
        </button>
        <button
          className="key-quiet"
          aria-label={`Cut clip ${at + 1} at the playhead`}
          title="Cut at the playhead"
          disabled={here === null || here <= clip.in}
          onClick={() => here !== null && edit(splitClip(clip.id, here, nanoid(8)))}
        >
          <Scissors size={13} />
        </button>
        <button className="key-quiet" aria-label={`Remove clip ${at + 1}`} onClick={() => edit(removeClip(clip.id))}>
          <Trash2 size={13} />
        </button>
      </div>
      <div className="mt-1 flex items-center gap-2">
        {bound('in')}
        {bound('out')}
        <select
          className="field py-0"
          aria-label={`Fit of clip ${at + 1}`}
          value={clip.fit}
          onChange={(event) => edit(trimClip(clip.id, { fit: event.currentTarget.value as Clip['fit'] }))}
        >
          <option value="fit">fit</option>
          <option value="fill">fill</option>
        </select>
      </div>
      {span && (
        <p className="mono mt-1 text-[11px]">
          {timecode(span.first, derived.line.rate)} – {timecode(span.end, derived.line.rate)}
        </p>
      )}
    </li>
  );
}
