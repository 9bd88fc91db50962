/** A source: what it is and holds, and how it gets into the row. */
import { lazy, Suspense } from 'react';
import { FileImage, FileVideo, Music, Trash2 } from 'lucide-react';
import { removeSource, updateSource } from '../../core/document/edits.ts';
import {
  CONTENTS,
  TRACK_ROLES,
  type Content,
  type Shield,
  type Source,
  type TrackRole,
} from '../../core/document/types.ts';
import { rateLabel } from '../../core/base/time.ts';
import { trackRole } from '../../core/finding/detectors/index.ts';
import { listenTo, setTrackRole } from '../stores/finding.ts';
import { edit } from '../stores/montage.ts';
import { applyStoredProfile, useProfiles } from '../stores/profiles.ts';
import { useView } from '../stores/view.ts';
import { Tray } from './tray.tsx';

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

/** Areas of the picture that accents leave as they are: feed, score, crosshair, names. */
function Shields({ source }: { source: Source }) {
  const { shields = [] } = source;
  const drawing = useView((s) => s.drawing === 'shield');
  const set = (next: readonly Shield[], group?: string): void =>
    edit(updateSource(source.id, { shields: next.length ? next : undefined }), group);
  return (
    <div className="mt-1 flex flex-wrap items-center gap-1 text-[12px] text-fog">
      <span className="grow">
        {shields.length
          ? `${shields.length} ${shields.length === 1 ? 'area is' : 'areas are'} left alone by accents`
          : 'Accents act on all of it'}
      </span>
      <button
        className="key-quiet"
        aria-pressed={drawing}
        title="Drag a rectangle on the picture, or press point after point of an outline and Enter: accents leave it as it is"
        aria-label={`Shield an area of ${source.name}`}
        onClick={() => useView.setState({ drawing: drawing ? null : 'shield' })}
      >
        Shield
      </button>
      {shields.map(({ id, soft }, i) => (
        <span key={id} className="flex w-full items-center gap-1 pl-3">
          <span className="grow">area {i + 1}, edge</span>
          <input
            className="range w-20"
            type="range"
            min={0}
            max={0.2}
            step={0.005}
            aria-label={`Edge of area ${i + 1} of ${source.name}`}
            value={soft}
            onChange={(event) =>
              set(
                shields.map((one) => (one.id === id ? { ...one, soft: Number(event.currentTarget.value) } : one)),
                `shield-${id}`,
              )
            }
          />
          <button
            className="key-quiet"
            aria-label={`Remove area ${i + 1} of ${source.name}`}
            onClick={() => set(shields.filter((one) => one.id !== id))}
          >
            <Trash2 size={12} />
          </button>
        </span>
      ))}
    </div>
  );
}

const SubjectCard = lazy(() => import('./subject-card.tsx').then((m) => ({ default: m.SubjectCard })));

/** What of the picture is kept apart, cut out when it is opened. */
function SubjectPart({ source }: { source: Source }) {
  const open = useView((s) => s.subject === source.id);
  const { paths = [], key, brushed } = source.subject ?? {};
  const parts = paths.length + (key ? 1 : 0) + (brushed ? 1 : 0);
  return (
    <div className="mt-1 text-[12px] text-fog">
      <div className="flex items-center gap-1">
        <span className="grow">
          {parts ? `Its subject is cut out by ${parts} ${parts === 1 ? 'part' : 'parts'}` : 'No subject is cut out'}
        </span>
        <button
          className="key-quiet"
          aria-expanded={open}
          aria-label={`Subject of ${source.name}`}
          title="Keep a fighter, a car, a weapon apart from what is behind it"
          onClick={() => useView.setState({ subject: open ? null : source.id, subjectView: 'seen', drawing: null })}
        >
          Subject
        </button>
      </div>
      {open && (
        <Suspense>
          <SubjectCard source={source} />
        </Suspense>
      )}
    </div>
  );
}

const STATES = { looking: 'looking…', here: '', locked: 'waiting for permission', missing: 'missing' } as const;

export function SourceRow({
  source,
  state,
  analysed,
}: {
  source: Source;
  state: keyof typeof STATES;
  analysed: boolean;
}) {
  const { video, audio } = source;
  const profiles = useProfiles();
  return (
    <li className="rounded-md bg-plank px-3 py-2">
      <div className="flex items-center gap-2">
        {source.still ? (
          <FileImage size={15} className="shrink-0 text-tide" />
        ) : video ? (
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
        {source.still ? 'a still picture' : `${source.duration.toFixed(1)} s${analysed ? ' · found' : ''}`}
        {STATES[state] && <span className="text-ember"> · {STATES[state]}</span>}
      </p>
      <Tray source={source} />
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
      {audio.length > 1 && (
        <div className="mt-1 flex flex-wrap items-center gap-x-3 text-[12px] text-fog">
          <span>Heard in the mix</span>
          {audio.map(({ readable }, i) => (
            <label key={i} className="flex items-center gap-1">
              {i + 1}
              <input
                className="range w-14"
                type="range"
                min={0}
                max={2}
                step={0.05}
                disabled={!readable}
                aria-label={`Volume of track ${i + 1} of ${source.name}`}
                value={source.mix ? (source.mix[i] ?? 0) : source.listen === i ? 1 : 0}
                onChange={(event) => {
                  const mix = audio.map((_, k) => source.mix?.[k] ?? (source.mix ? 0 : source.listen === k ? 1 : 0));
                  mix[i] = Number(event.currentTarget.value);
                  edit(updateSource(source.id, { mix }), `mix-${source.id}-${i}`);
                }}
              />
            </label>
          ))}
        </div>
      )}
      {video && !source.still && <Shields source={source} />}
      {video && source.role === 'footage' && <SubjectPart source={source} />}
      {audio.length > 0 && source.role === 'footage' && (
        <label className="mt-1 flex items-center gap-2 text-[12px] text-fog">
          <span className="grow">Content</span>
          <select
            className="field py-0.5"
            aria-label={`Content of ${source.name}`}
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
          <span className="grow">Same game or venue as</span>
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
            {audio.length > 1 ? `Track ${i + 1}${track.name ? `, ${track.name}` : ''} contains` : 'The sound contains'}
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
