/** The clips of the row: the place, the trims, the fit of each. */
import { lazy, Suspense, useRef, useState } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { ArrowDown, ArrowUp, Scissors, Trash2 } from 'lucide-react';
import { timecode } from '../../core/base/time.ts';
import { LIMITS } from '../../core/document/limits.ts';
import {
  BETWEENS,
  EASING_NAMES,
  JOINS,
  DEFAULT_CLIP_SOUND,
  SLOWED_SOUNDS,
  type Clip,
  type ClipSound,
  type EasingName,
} from '../../core/document/types.ts';
import { setFit } from '../../core/document/formats.ts';
import { joinClip, placeClip, removeClip, setSpeed, soundClip, slipClip, trimClip } from '../../core/timeline/row.ts';
import { Choice } from '../parts/choice.tsx';
import { NumberField } from '../parts/number-field.tsx';
import { BETWEEN_NAMES, JOIN_NAMES, SLOWED_NAMES } from '../parts/speed-names.ts';
import { TimeField } from '../parts/time-field.tsx';
import { useDerived } from '../stores/derived.ts';
import type { ClipSpan } from '../../core/timeline/timeline.ts';
import { frameServer } from '../stores/media.ts';
import { edit } from '../stores/montage.ts';
import { cutHere } from '../stores/row.ts';
import { notice, useView } from '../stores/view.ts';

const SpeedLadder = lazy(() => import('./speed-ladder.tsx').then((m) => ({ default: m.SpeedLadder })));

/** Height of a clip's card with the gap below it, pixels. */
const CARD = 176;

/** However many there are, those in sight are drawn. */
export function ClipList({ clips }: { clips: readonly Clip[] }) {
  const scroller = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: clips.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => CARD,
    overscan: 2,
    getItemKey: (i) => clips[i]!.id,
  });
  return (
    // A few stand in the panel itself; more of them have a height of their own.
    <div ref={scroller} className={clips.length > 3 ? 'max-h-[372px] shrink-0 overflow-y-auto' : ''}>
      <ol className="relative" style={{ height: list.getTotalSize() }} aria-label="Clips">
        {list.getVirtualItems().map(({ index, key, start }) => (
          <li
            key={key}
            ref={list.measureElement}
            data-index={index}
            className="absolute inset-x-0 pb-2"
            style={{ top: start }}
            aria-posinset={index + 1}
            aria-setsize={clips.length}
          >
            <ClipRow clip={clips[index]!} at={index} last={index === clips.length - 1} />
          </li>
        ))}
      </ol>
    </div>
  );
}

/** How fast a clip runs; what that looks and sounds like is asked where it is not as it was recorded. */
function SpeedFields({ clip, at, span }: { clip: Clip; at: number; span: ClipSpan | undefined }) {
  const [laddered, setLaddered] = useState(false);
  const { speed = 1, between = 'nearest', slowed = 'follows' } = clip;
  const set = (change: Parameters<typeof setSpeed>[1], group?: string): void =>
    edit(setSpeed(clip.id, change), group && `speed-${clip.id}`);
  return (
    <div className="mt-1 flex flex-wrap items-center gap-x-2 gap-y-1">
      <label className="flex items-center gap-1">
        speed
        <NumberField
          label={`Speed of clip ${at + 1}, percent`}
          value={Math.round(Math.abs(speed) * 1000) / 10}
          min={LIMITS.speed.min * 100}
          max={LIMITS.speed.max * 100}
          step={5}
          className="field mono w-16 px-1 py-0 text-[12px]"
          onLeave
          onValue={(percent) => set({ speed: (Math.sign(speed) * percent) / 100 })}
        />
        %
      </label>
      <label className="flex items-center gap-1">
        <input
          type="checkbox"
          className="accent-lamp"
          aria-label={`Clip ${at + 1} backwards`}
          checked={speed < 0}
          onChange={(event) => set({ speed: Math.abs(speed) * (event.currentTarget.checked ? -1 : 1) })}
        />
        backwards
      </label>
      <button
        className="key-quiet"
        aria-expanded={laddered}
        aria-label={`Speeds along clip ${at + 1}, frame by frame`}
        onClick={() => setLaddered(!laddered)}
      >
        by frames
      </button>
      {(speed !== 1 || clip.speeds) && (
        <>
          between
          <Choice
            label={`Between the frames of clip ${at + 1}`}
            className="field py-0"
            value={between}
            options={BETWEENS}
            names={BETWEEN_NAMES}
            onValue={(value) => set({ between: value })}
          />
          sound
          <Choice
            label={`Sound of clip ${at + 1}`}
            className="field py-0"
            value={slowed}
            options={SLOWED_SOUNDS}
            names={SLOWED_NAMES}
            onValue={(value) => set({ slowed: value })}
          />
        </>
      )}
      {laddered && span && (
        <div className="w-full min-w-0">
          <Suspense>
            <SpeedLadder clip={clip} span={span} at={at} />
          </Suspense>
        </div>
      )}
    </div>
  );
}

/** How loud a clip is heard, its fades, and whether it is heard before or after it is seen. */
function SoundFields({ clip, at }: { clip: Clip; at: number }) {
  const [open, setOpen] = useState(clip.sound !== undefined);
  const sound = clip.sound ?? DEFAULT_CLIP_SOUND;
  const set = (change: Partial<ClipSound>, group: string): void =>
    edit(soundClip(clip.id, { ...sound, ...change }), `clip-sound-${clip.id}-${group}`);
  const field = (label: string, key: 'fadeIn' | 'fadeOut' | 'early' | 'late', most: number, step: number) => (
    <label className="flex items-center gap-1">
      {label}
      <NumberField
        label={`${label} of clip ${at + 1}'s sound`}
        value={sound[key]}
        min={0}
        max={most}
        step={step}
        onValue={(value) => set({ [key]: step === 1 ? Math.round(value) : value }, key)}
      />
    </label>
  );
  return (
    <div className="mt-1 flex flex-wrap items-center gap-x-2 gap-y-1">
      <button
        className="key-quiet -ml-1.5"
        aria-expanded={open}
        aria-label={`Level, fades and ends of what clip ${at + 1} sounds like`}
        onClick={() => setOpen(!open)}
      >
        its sound
      </button>
      {open && (
        <>
          <input
            className="range w-20"
            type="range"
            min={0}
            max={2}
            step={0.05}
            aria-label={`Volume of clip ${at + 1}`}
            value={sound.gain}
            onChange={(event) => set({ gain: Number(event.currentTarget.value) }, 'gain')}
          />
          <label className="flex items-center gap-1">
            <input
              type="checkbox"
              className="accent-tide"
              aria-label={`Clip ${at + 1} is mute`}
              checked={sound.mute}
              onChange={(event) => set({ mute: event.currentTarget.checked }, 'mute')}
            />
            mute
          </label>
          {field('fade in, s', 'fadeIn', 60, 0.1)}
          {field('out, s', 'fadeOut', 60, 0.1)}
          {field('begins early, frames', 'early', 3600, 1)}
          {field('goes on, frames', 'late', 3600, 1)}
        </>
      )}
    </div>
  );
}

const CUT = 'cut';

/** How a clip follows from the one before it. */
function JoinFields({ clip, at }: { clip: Clip; at: number }) {
  const { join } = clip;
  const set = (change: Partial<NonNullable<Clip['join']>>): void =>
    edit(joinClip(clip.id, { kind: 'fade', frames: 12, ease: 'linear', ...join, ...change }), `join-${clip.id}`);
  const choose = async (kind: string): Promise<void> => {
    if (kind === CUT) return edit(joinClip(clip.id, undefined));
    if (kind === 'fade') return set({ kind });
    const alike = await frameServer()
      .flowsInto(clip.id)
      .catch(() => null);
    if (alike) return set({ kind: 'flow' });
    notice(
      alike === null
        ? 'These clips cannot flow into one another: their pictures are of different sizes. Fade them instead.'
        : 'These shots are not alike enough to flow into one another: hardly any place of one is found in the other. Fade them instead.',
      'error',
    );
  };
  return (
    <div className="mt-1 flex flex-wrap items-center gap-x-2 gap-y-1">
      <label className="flex items-center gap-1">
        joined by
        <select
          className="field py-0"
          aria-label={`Join before clip ${at + 1}`}
          value={join?.kind ?? CUT}
          onChange={(event) => void choose(event.currentTarget.value)}
        >
          <option value={CUT}>a cut</option>
          {JOINS.map((kind) => (
            <option key={kind} value={kind}>
              {JOIN_NAMES[kind]}
            </option>
          ))}
        </select>
      </label>
      {join && (
        <>
          <NumberField
            label={`Frames of the join before clip ${at + 1}`}
            value={join.frames}
            min={1}
            max={LIMITS.joinFrames}
            onValue={(frames) => set({ frames: Math.round(frames) })}
          />
          frames,
          <select
            className="field py-0"
            aria-label={`Curve of the join before clip ${at + 1}`}
            value={typeof join.ease === 'string' ? join.ease : 'linear'}
            onChange={(event) => set({ ease: event.currentTarget.value as EasingName })}
          >
            {EASING_NAMES.filter((name) => name !== 'hold' && name !== 'bounce' && name !== 'overshoot').map((name) => (
              <option key={name} value={name}>
                {name === 'linear' ? 'evenly' : name}
              </option>
            ))}
          </select>
        </>
      )}
    </div>
  );
}

function ClipRow({ clip, at, last }: { clip: Clip; at: number; last: boolean }) {
  const derived = useDerived()!;
  const format = useView((s) => s.format);
  const source = derived.montage.sources.find((s) => s.id === clip.source);
  const span = derived.line.spans.find((s) => s.clip.id === clip.id);
  const times = derived.media.get(clip.source);
  const inside = useView((s) => span !== undefined && s.playhead > span.first && s.playhead < span.end);
  const bound = (name: 'in' | 'out') => (
    <label className="flex items-center gap-1">
      {name}
      <TimeField
        label={`${name} of clip ${at + 1}`}
        rate={source?.video?.rate ?? derived.line.rate}
        seconds={clip[name]}
        onSeconds={(value) => edit(trimClip(clip.id, { [name]: value }), `trim-${clip.id}-${name}`)}
      />
    </label>
  );
  return (
    <div className="rounded-md border border-rope px-3 py-2 text-[12px] text-fog">
      <div className="flex items-center gap-1">
        <span className="min-w-0 grow truncate text-[13px] text-sail">
          {at + 1}. {source?.name}
        </span>
        <button
          className="key-quiet"
          aria-label={`Clip ${at + 1} earlier`}
          disabled={at === 0}
          onClick={() => edit(placeClip(clip.id, at - 1))}
        >
          <ArrowUp size={13} />
        </button>
        <button
          className="key-quiet"
          aria-label={`Clip ${at + 1} later`}
          disabled={last}
          onClick={() => edit(placeClip(clip.id, at + 1))}
        >
          <ArrowDown size={13} />
        </button>
        <button
          className="key-quiet"
          aria-label={`Cut clip ${at + 1} at the playhead`}
          title="Cut at the playhead"
          disabled={!inside || !times}
          onClick={cutHere}
        >
          <Scissors size={13} />
        </button>
        <button className="key-quiet" aria-label={`Remove clip ${at + 1}`} onClick={() => edit(removeClip(clip.id))}>
          <Trash2 size={13} />
        </button>
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-x-2 gap-y-1">
        {bound('in')}
        {bound('out')}
        <select
          className="field py-0"
          aria-label={`Fit of clip ${at + 1}`}
          value={clip.fit}
          onChange={(event) => edit(setFit(clip.id, event.currentTarget.value as Clip['fit'], format))}
        >
          <option value="fit">whole</option>
          <option value="fill">filled</option>
          <option value="focus">focus</option>
        </select>
      </div>
      <div className="mt-1 flex items-center gap-1">
        <span className="grow">slip what it shows</span>
        {([-10, -1, 1, 10] as const).map((frames) => (
          <button
            key={frames}
            className="key px-1.5 py-0"
            title="Shows another stretch of the source between the same ends"
            aria-label={`Slip clip ${at + 1} by ${frames} frames`}
            onClick={() =>
              source?.video && edit(slipClip(clip.id, (frames * source.video.rate.den) / source.video.rate.num))
            }
          >
            {frames > 0 ? `+${frames}` : frames}
          </button>
        ))}
      </div>
      <SpeedFields clip={clip} at={at} span={span} />
      <SoundFields clip={clip} at={at} />
      {at > 0 && <JoinFields clip={clip} at={at} />}
      {span && (
        <p className="mono mt-1 text-[11px]">
          {timecode(span.first, derived.line.rate)} – {timecode(span.end, derived.line.rate)}
        </p>
      )}
    </div>
  );
}
