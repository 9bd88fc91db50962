/** The clips and the music under the landscape: dragged to another place, trimmed at their ends, slipped under fixed ends. */
import { useEffect, useMemo, useRef, useState, type PointerEvent } from 'react';
import { frameToSeconds } from '../../core/base/time.ts';
import type { Clip, MusicItem } from '../../core/document/types.ts';
import { musicEnd, musicTime } from '../../core/timeline/music.ts';
import { changeMusic, endMoved, moveJoin, placeClip, slipClip, trimClip } from '../../core/timeline/row.ts';
import type { TimeMap } from '../../core/timeline/speed.ts';
import type { ClipSpan } from '../../core/timeline/timeline.ts';
import { seek } from '../stores/actions.ts';
import { derivedNow, useDerived } from '../stores/derived.ts';
import { useMedia } from '../stores/media.ts';
import { edit, newGesture } from '../stores/montage.ts';
import { momentsOf } from '../stores/row.ts';
import { useView } from '../stores/view.ts';
import { SIDEWAYS, stepKeys } from '../parts/step-keys.ts';
import { FramePicture } from '../parts/frame-picture.tsx';
import { JOIN_NAMES } from '../parts/speed-names.ts';
import { Head } from './head.tsx';
import type { SoundSignals } from '../../core/finding/signals/types.ts';
import { frameToX, musicWaveform, snapped, type View } from './geometry.ts';

/** Pixels within which an end comes to rest on a hit, a beat, a join or the playhead. */
const SNAP = 7;
/** Least pixels a block must be wide to have its name, and a picture; pixels from one picture to the next. */
const NAMED = 60;
const PICTURED = 44;
const PICTURE_STEP = 160;

interface Lane {
  readonly view: View;
  readonly width: number;
}

/** Height of a lane of music, pixels. */
const LANE = 22;

const quiet = (): void => useView.setState({ dragging: null });

/** Calls back with the pixels dragged so far; the whole drag is one step of undo. */
function useDrag(
  onDrag: (pixels: number, event: PointerEvent, gesture: string) => void,
  onDrop?: (pixels: number) => void,
) {
  const from = useRef<{ x: number; gesture: string } | null>(null);
  return {
    onPointerDown(event: PointerEvent) {
      if (event.button !== 0) return;
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      from.current = { x: event.clientX, gesture: newGesture() };
    },
    onPointerMove(event: PointerEvent) {
      if (from.current) onDrag(event.clientX - from.current.x, event, from.current.gesture);
    },
    onPointerUp(event: PointerEvent) {
      if (!from.current) return;
      const pixels = event.clientX - from.current.x;
      from.current = null;
      onDrop?.(pixels);
    },
  };
}

export function RowLanes({ view, width }: Lane) {
  const derived = useDerived()!;
  const { line, montage } = derived;
  const inSight = line.spans.filter(({ first, end }) => end > view[0] && first < view[1]);
  const perFrame = width / (view[1] - view[0]);
  return (
    <div
      className="relative border-t border-rope bg-night"
      style={{ height: 36 + 26 * Math.min(3, montage.music.length) }}
    >
      {inSight.map((span) => (
        <ClipBlock key={span.clip.id} span={span} view={view} width={width} perFrame={perFrame} />
      ))}
      <Head view={view} width={width} />
      {montage.music.slice(0, 24).map((item, i) => (
        <MusicBlock key={item.id} item={item} lane={i % 3} view={view} width={width} perFrame={perFrame} />
      ))}
    </div>
  );
}

/** Output frames that an end may rest on: hits, joins and the playhead. */
const restsOn = (): number[] => {
  const derived = derivedNow();
  if (!derived) return [];
  return [
    useView.getState().playhead,
    ...derived.shown.filter(({ hit }) => hit.state !== 'rejected').map(({ frame }) => frame),
    ...derived.line.spans.map(({ first }) => first),
  ];
};

function ClipBlock({ span, view, width, perFrame }: Lane & { span: ClipSpan; perFrame: number }) {
  const derived = useDerived()!;
  const [moved, setMoved] = useState(0);
  const begun = useRef<{ clip: Clip; span: ClipSpan; rests: readonly number[] } | null>(null);
  const { clip } = span;
  const { rate } = derived.line;
  const seconds = (frames: number): number => frameToSeconds(frames, rate);
  const start = (): void => void (begun.current = { clip, span, rests: restsOn() });
  /** Whole output frames for a drag of an end, which comes to rest on what is near unless Alt is held. */
  const framesOf = (pixels: number, edge: number, alt: boolean): number =>
    snapped(edge + pixels / perFrame, begun.current!.rests, alt ? 0 : SNAP / perFrame) - edge;
  const begins = useDrag((pixels, event, gesture) => {
    const { clip: was, span: at } = begun.current!;
    const frames = framesOf(pixels, at.first, event.altKey);
    if (event.shiftKey) edit(moveJoin(was.id, seconds(frames) - (derivedClip(was.id).in - was.in)), gesture);
    else edit(trimClip(was.id, endMoved(was, 'in', seconds(frames))), gesture);
    seek(spanNow(was.id)?.first ?? at.first);
    sayEnd(was.id, 'in');
  }, quiet);
  const ends = useDrag((pixels, event, gesture) => {
    const { clip: was, span: at } = begun.current!;
    edit(trimClip(was.id, endMoved(was, 'out', seconds(framesOf(pixels, at.end, event.altKey)))), gesture);
    seek((spanNow(was.id)?.end ?? at.end) - 1);
    sayEnd(was.id, 'out');
  }, quiet);
  const body = useDrag(
    (pixels, event, gesture) => {
      if (!event.altKey) return setMoved(pixels);
      const { clip: was, span: at } = begun.current!;
      const shift = seconds(Math.round(pixels / perFrame)) * (was.speed ?? 1);
      edit(slipClip(was.id, was.in - shift - derivedClip(was.id).in), gesture);
      seek(at.first);
    },
    (pixels) => {
      setMoved(0);
      if (Math.abs(pixels) < 4) return seek(span.first);
      // What was slipped stays in its place.
      if (!moved) return;
      const middle = frameToX((span.first + span.end) / 2, view, width) + pixels;
      const { spans } = derived.line;
      const before = spans.filter(
        (other) => other !== span && frameToX((other.first + other.end) / 2, view, width) < middle,
      ).length;
      if (before !== span.index) edit(placeClip(clip.id, before));
    },
  );
  const [left, right] = [frameToX(span.first, view, width), frameToX(span.end, view, width)];
  const name = derived.montage.sources.find(({ id }) => id === clip.source)?.name ?? '';
  const byKey = (end: 'in' | 'out', by: number): void => edit(trimClip(clip.id, endMoved(clip, end, seconds(by))));
  const handle = (end: 'in' | 'out') => ({
    role: 'slider',
    tabIndex: 0,
    'aria-label': `${end === 'in' ? 'Beginning' : 'End'} of clip ${span.index + 1}`,
    'aria-valuenow': Math.round(clip[end] * 1000) / 1000,
    'aria-valuetext': `${clip[end].toFixed(3)} s of ${name}`,
    title:
      end === 'in'
        ? 'Drag: trims. Shift: moves the join. Alt: rests on nothing.'
        : 'Drag: trims. Alt: rests on nothing.',
    onKeyDown: stepKeys(SIDEWAYS, (by) => byKey(end, by)),
    className: `absolute inset-y-0 z-10 w-2 cursor-ew-resize touch-none bg-lamp/0 hover:bg-lamp focus-visible:bg-lamp ${end === 'in' ? 'left-0' : 'right-0'}`,
  });
  return (
    <div
      className={`absolute top-1 h-7 overflow-hidden rounded-sm border border-rope bg-plank ${moved ? 'z-20 opacity-80' : ''}`}
      style={{ left: left + moved, width: Math.max(2, right - left - 1) }}
      data-clip={clip.id}
      onPointerDownCapture={start}
    >
      <div {...handle('in')} {...begins} />
      <div
        className="flex h-full cursor-grab touch-none items-center gap-1 px-2 text-[11px] text-fog"
        title="Drag: to another place of the row. Alt and drag: another stretch of the source between the same ends."
        {...body}
      >
        {right - left > PICTURED && <Pictures span={span} left={left} right={right} width={width} />}
        {right - left > NAMED + PICTURED && (
          // The name stays in sight however far the block goes on to the left.
          <span
            className="pointer-events-none relative truncate rounded-sm bg-night/70 px-1"
            style={{ marginLeft: Math.max(0, -left) + 44 }}
          >
            {name}
            {clip.speed !== undefined && ` · ${Math.round(clip.speed * 1000) / 10} %`}
          </span>
        )}
      </div>
      {clip.join && span.index > 0 && (
        <span
          className="pointer-events-none absolute inset-y-0 left-0 z-[5] border-r border-sail/70 bg-[linear-gradient(to_top_right,rgba(216,222,233,.35)_50%,transparent_50%)]"
          style={{ width: Math.max(4, (clip.join.frames / 2) * perFrame) }}
          data-join={clip.join.kind}
          title={`Joined by ${JOIN_NAMES[clip.join.kind]}`}
        />
      )}
      {span.map && <SpeedCurve map={span.map} width={right - left} />}
      <div {...handle('out')} {...ends} />
    </div>
  );
}

/** The speed of a clip along its block: on the middle line as recorded, below it slower, above it faster. */
function SpeedCurve({ map, width }: { map: TimeMap; width: number }) {
  const path = useMemo(() => {
    const x = (frame: number): number => (frame / map.frames) * width;
    const y = (frame: number): number =>
      14 - 12 * Math.max(-1, Math.min(1, Math.log(Math.max(1e-3, Math.abs(map.speedAt(frame)))) / Math.log(20)));
    const points: string[] = [];
    for (const { first, frames, from, to } of map.pieces.slice(0, 2000)) {
      // Just inside of its ends, so that a step is seen as one.
      const places = from === to ? [0.001, 0.999] : [0.001, 0.2, 0.35, 0.5, 0.65, 0.8, 0.999];
      for (const share of places)
        points.push(`${x(first + frames * share).toFixed(1)} ${y(first + frames * share).toFixed(1)}`);
    }
    return `M${points.join('L')}`;
  }, [map, width]);
  return (
    <svg
      className="pointer-events-none absolute inset-0 z-[5] h-full w-full"
      role="img"
      aria-label="Speed along the clip"
    >
      <path d={path} fill="none" className="stroke-tide" strokeWidth={1.5} />
    </svg>
  );
}

/** Frames of a clip along its block, as far as it is in sight; they stand still while the view moves. */
function Pictures({ span, left, right, width }: { span: ClipSpan; left: number; right: number; width: number }) {
  const frames = span.end - span.first;
  const perPixel = frames / (right - left);
  // Steps of a power of two, so that zooming asks for few new ones.
  const step = Math.max(1, 2 ** Math.ceil(Math.log2(PICTURE_STEP * perPixel)));
  const from = Math.max(0, Math.floor((-left * perPixel) / step) * step);
  const to = Math.min(frames, (width - left) * perPixel);
  const places: number[] = [];
  for (let at = from; at < to && places.length < 24; at += step) if ((frames - at) / perPixel > 20) places.push(at);
  return places.map((at) => (
    <span key={at} className="pointer-events-none absolute inset-y-0 w-12" style={{ left: at / perPixel }}>
      <FramePicture
        frame={span.first + at}
        width={48}
        height={27}
        plain
        label={`Frame ${at} of clip ${span.index + 1}`}
      />
    </span>
  ));
}

/** Says which source frame an end has now, large on the picture. */
function sayEnd(id: string, end: 'in' | 'out'): void {
  const derived = derivedNow();
  const span = spanNow(id);
  const times = span && derived?.media.get(span.clip.source);
  if (!derived || !span || !times) return;
  const frame = derived.line.sourceFrame(span, end === 'in' ? span.first : span.end - 1);
  useView.setState({ dragging: `${end === 'in' ? 'begins with' : 'ends with'} frame ${frame}` });
}

const derivedClip = (id: string): Clip => derivedNow()!.montage.clips.find((clip) => clip.id === id)!;
const spanNow = (id: string): ClipSpan | undefined => derivedNow()!.line.spans.find(({ clip }) => clip.id === id);

function MusicBlock({ item, lane, view, width, perFrame }: Lane & { item: MusicItem; lane: number; perFrame: number }) {
  const derived = useDerived()!;
  const { line, montage } = derived;
  const signals = useMedia((s) => s.signals[item.source]);
  const begun = useRef<{ item: MusicItem; moments: readonly number[]; rests: readonly number[] } | null>(null);
  const frameAt = (t: number): number => t * line.fps;
  const start = (): void =>
    void (begun.current = {
      item,
      // What of it comes to rest on the picture's hits: where it begins, its drops, marks and beats.
      moments: [item.at, ...momentsOf(derived, item).flatMap(({ t }) => musicTime(item, t) ?? [])],
      rests: restsOn().map((frame) => line.timeOf(frame)),
    });
  const whole = useDrag((pixels, event, gesture) => {
    const { item: was, moments, rests } = begun.current!;
    const by = pixels / perFrame / line.fps;
    const reach = event.altKey ? 0 : SNAP / perFrame / line.fps;
    const best = moments
      .map((moment) => snapped(moment + by, rests, reach, 0) - moment)
      .reduce(
        (nearest, shift) =>
          Math.abs(shift - by) > 1e-9 && Math.abs(shift - by) < Math.abs(nearest - by || Infinity) ? shift : nearest,
        by,
      );
    edit(changeMusic(was.id, { at: was.at + best }), gesture);
  });
  const begins = useDrag((pixels, _event, gesture) => {
    const { item: was } = begun.current!;
    const by = Math.max(-was.at, Math.min(was.out - was.in - 0.02, Math.max(-was.in, pixels / perFrame / line.fps)));
    edit(changeMusic(was.id, { at: was.at + by, in: was.in + by }), gesture);
  });
  const ends = useDrag((pixels, _event, gesture) => {
    const { item: was } = begun.current!;
    edit(changeMusic(was.id, { out: was.out + pixels / perFrame / line.fps }), gesture);
  });
  const [left, right] = [frameToX(frameAt(item.at), view, width), frameToX(frameAt(musicEnd(item)), view, width)];
  if (right < 0 || left > width) return null;
  const name = montage.sources.find(({ id }) => id === item.source)?.name ?? '';
  const moments = momentsOf(derived, item).filter(({ kind }) => kind !== 'beat');
  const sound = Object.values(signals?.sounds ?? {})[0];
  return (
    <div
      className="absolute h-[22px] overflow-hidden rounded-sm border border-tide/50 bg-tide/15"
      style={{ left, width: Math.max(3, right - left), top: 36 + 26 * lane }}
      data-music-block={item.id}
      onPointerDownCapture={start}
    >
      <div
        className="flex h-full cursor-grab touch-none items-center px-2 text-[11px] text-fog"
        role="slider"
        tabIndex={0}
        aria-label={`Music ${name}`}
        aria-valuenow={Math.round(item.at * 1000) / 1000}
        aria-valuetext={`begins at ${item.at.toFixed(3)} s`}
        title="Drag: moves the music; its beginning, drops and beats come to rest on hits and joins. Alt: rests on nothing."
        onKeyDown={stepKeys(SIDEWAYS, (by) => edit(changeMusic(item.id, { at: item.at + by / line.fps })))}
        {...whole}
      >
        {sound && <Wave item={item} sound={sound} view={view} width={width} from={left} />}
        {right - left > NAMED && <span className="pointer-events-none relative truncate">{name}</span>}
        {moments.map(({ id, t }) => (
          <span
            key={id}
            aria-hidden
            className="pointer-events-none absolute inset-y-0 w-px bg-lamp"
            style={{ left: frameToX(frameAt(musicTime(item, t)!), view, width) - left }}
          />
        ))}
      </div>
      <div
        className="absolute inset-y-0 left-0 w-2 cursor-ew-resize touch-none hover:bg-lamp"
        data-end="in"
        {...begins}
      />
      <div
        className="absolute inset-y-0 right-0 w-2 cursor-ew-resize touch-none hover:bg-lamp"
        data-end="out"
        {...ends}
      />
    </div>
  );
}

/** The music's waveform, as far as it is in sight. */
function Wave({ item, sound, view, width, from }: Lane & { item: MusicItem; sound: SoundSignals; from: number }) {
  const { fps } = useDerived()!.line;
  const canvas = useRef<HTMLCanvasElement>(null);
  const { left, columns } = useMemo(
    () => musicWaveform(item, fps, view, width, sound),
    [item, fps, view, width, sound],
  );
  useEffect(() => {
    const pen = canvas.current?.getContext('2d');
    if (!pen || !columns.length) return;
    pen.clearRect(0, 0, columns.length, LANE);
    pen.fillStyle = 'rgba(88,194,188,0.45)';
    columns.forEach((peak, i) => pen.fillRect(i, (LANE * (1 - peak)) / 2, 1, Math.max(1, LANE * peak)));
  }, [columns]);
  return (
    <canvas
      ref={canvas}
      aria-hidden
      width={Math.max(1, columns.length)}
      height={LANE}
      className="pointer-events-none absolute top-0"
      style={{ left: left - from, height: LANE, width: Math.max(1, columns.length) }}
    />
  );
}
