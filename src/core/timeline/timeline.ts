/** The montage's frames: which time each has and which source frame it shows. */
import type { FrameTimes } from './frame-times.ts';
import { regularTimes } from './frame-times.ts';
import type { Clip, Montage, Source } from '../document/types.ts';
import { lowerBound } from '../base/search.ts';
import { timeMap, type PlacedRamp, type TimeMap } from './speed.ts';
import { frameToSeconds, fps, secondsToFrame, type Rate } from '../base/time.ts';

/** Frame times of each source with a picture, by source id. */
export type MediaIndex = ReadonlyMap<string, FrameTimes>;

/**
 * Frame times as the document knows them. A variable source has them only in its list from the engine: without it it is
 * left out, and shows nothing rather than wrong frames.
 */
export function mediaIndex(sources: readonly Source[], listed: MediaIndex = new Map()): MediaIndex {
  const index = new Map<string, FrameTimes>();
  for (const source of sources) {
    const known = listed.get(source.id);
    if (known) index.set(source.id, known);
    else if (source.video && !source.video.variable)
      index.set(source.id, regularTimes(source.video.rate, source.video.count, source.video.first));
  }
  return index;
}

export interface ClipSpan {
  readonly clip: Clip;
  readonly index: number;
  /** Montage frames; first inclusive, end exclusive. */
  readonly first: number;
  readonly end: number;
  /** Montage seconds at which the clip begins. */
  readonly start: number;
  /** How it runs; null where it runs as it was recorded. */
  readonly map: TimeMap | null;
}

/** Another frame that a source frame is mixed with. */
export interface Mixed {
  readonly frame: number;
  /** Where it is of another source. */
  readonly source?: string;
  /** Of the other frame, 0-1. */
  readonly share: number;
  /** Made by the movement between both, where that is to be found. */
  readonly moved?: true;
}

/** Ramps in a clip, and source seconds of it that stay where they are while time is paid back. */
export interface ClipRamps {
  readonly ramps: readonly PlacedRamp[];
  readonly marks: readonly number[];
}
/** By the ids of clips. */
export type Ramps = ReadonlyMap<string, ClipRamps>;
const NO_RAMPS: Ramps = new Map();

export interface Timeline {
  readonly count: number;
  readonly rate: Rate;
  readonly fps: number;
  /** Montage seconds, end of the last frame. */
  readonly duration: number;
  readonly spans: readonly ClipSpan[];
  /** Montage seconds at which a frame begins. */
  timeOf(frame: number): number;
  /** The frame on screen at a montage time, clamped. */
  frameAt(seconds: number): number;
  spanAt(frame: number): ClipSpan | null;
  /** Whether the frames of a source are known. */
  listed(source: string): boolean;
  /** Source seconds that a clip's first montage frame begins with: what is heard begins there, too. */
  sourceStart(span: ClipSpan): number;
  /** Source seconds at a montage time within a clip, and back: all montage times at which it shows a source time. */
  sourceTime(span: ClipSpan, seconds: number): number;
  momentsOf(span: ClipSpan, t: number): readonly number[];
  /** Index of the source frame that a montage frame shows; past the ends of the clip what would come there, as far as its source goes. */
  sourceFrame(span: ClipSpan, frame: number): number;
  /** The source frame after it, and how much of that is mixed in; null where it is shown by itself. */
  mixedWith(span: ClipSpan, frame: number): Mixed | null;
  /** First montage frame of the clip that shows source time `t`, or null when trimmed out. */
  frameOf(span: ClipSpan, t: number): number | null;
}

/** Slack for float noise, seconds. */
const EPSILON = 1e-6;

function findSpan(spans: readonly ClipSpan[], frame: number): ClipSpan | null {
  const span = spans[lowerBound(spans, frame + 1, ({ end }) => end)];
  return span && span.first <= frame ? span : null;
}

/** The parts of a montage that decide its frames. */
export type Row = Pick<Montage, 'clips' | 'settings'>;

/** The last timeline of each index of media: a montage that is edited elsewhere keeps its own. */
const latest = new WeakMap<MediaIndex, Row & { readonly line: Timeline }>();

/** @param ramps of accents (accents/ramps.ts); without them the row runs as its clips say */
export function timeline({ clips, settings }: Row, media: MediaIndex, ramps = NO_RAMPS): Timeline {
  const known = ramps === NO_RAMPS ? latest.get(media) : undefined;
  if (known?.clips === clips && known.settings === settings) return known.line;
  const line =
    settings.timing.mode === 'source'
      ? sourceTimeline({ clips, settings }, media, ramps)
      : constantTimeline({ clips, settings }, media, settings.timing.rate, ramps);
  if (ramps === NO_RAMPS) latest.set(media, { clips, settings, line });
  return line;
}

/** How a clip runs at so many output frames a second; null where it runs as it was recorded. */
function mapOf(clip: Clip, ramps: Ramps, rate: Rate): TimeMap | null {
  const own = ramps.get(clip.id);
  return own || clip.pins || clip.speeds || (clip.speed ?? 1) !== 1
    ? timeMap(clip, own?.ramps ?? [], own?.marks ?? [], fps(rate))
    : null;
}

/** Less than any frame lasts, more than timestamps are off: backwards a frame is shown until the moment it begins. */
const BEFORE = 7e-4;
/** Shares of the neighbour that nobody sees. */
const UNSEEN = 1 / 64;

/** What a clip that does not run as recorded shows: all of it follows from its map. */
function mapped(times: FrameTimes, { clip, first, end }: ClipSpan, map: TimeMap) {
  const back = (clip.speed ?? 1) < 0;
  /** Source seconds at a frame; past its ends it runs on as it does there. */
  const runs = (frame: number): number => {
    const at = frame - first;
    const past = at < 0 ? at : Math.max(0, at - map.frames);
    return past === 0 ? map.at(at) : map.at(at) + (past * map.speedAt(at - past)) / map.fps;
  };
  const shown = (frame: number): number => {
    const t = runs(frame);
    return back ? times.indexAt(frame < end ? Math.max(clip.in, t - BEFORE) : t - BEFORE) : times.indexAt(t);
  };
  return {
    shown,
    mixed(frame: number): Mixed | null {
      const between = map.rampAt(frame - first)?.between ?? clip.between ?? 'nearest';
      if (between === 'nearest') return null;
      if (Math.abs(map.speedAt(frame - first)) > 1 - UNSEEN) return null;
      const index = shown(frame);
      const [from, to] = [times.timeOf(index), times.timeOf(index + 1)];
      // The one after the clip's end belongs to nothing that is shown.
      if (to <= from || to >= clip.out - EPSILON) return null;
      const share = Math.min(1, Math.max(0, (map.at(frame - first) - from) / (to - from)));
      if (share <= UNSEEN) return null;
      return { frame: index + 1, share, ...(between === 'moved' && { moved: true as const }) };
    },
    frameOf(t: number): number | null {
      if (t < clip.in - EPSILON || t >= clip.out - EPSILON) return null;
      const place = map.frameOf(t);
      if (place === null) return null;
      // The first output frame that shows the contact frame, or the first after it.
      const contact = times.indexAt(t);
      const reached = (frame: number): boolean => (back ? shown(frame) <= contact : shown(frame) >= contact);
      let frame = Math.min(end - 1, first + Math.floor(place));
      while (frame > first && reached(frame - 1)) frame--;
      while (frame < end && !reached(frame)) frame++;
      return frame < end ? frame : null;
    },
  };
}

/** Source time runs as montage time does, or as the clip's map says. */
function running(
  begins: (span: ClipSpan) => number,
  end: (span: ClipSpan) => number,
  rateOf: (span: ClipSpan) => number,
): Pick<Timeline, 'sourceTime' | 'momentsOf'> {
  return {
    sourceTime: (span, seconds) =>
      span.map ? span.map.at((seconds - span.start) * rateOf(span)) : begins(span) + seconds - span.start,
    momentsOf(span, t) {
      const frame = span.map?.frameOf(t);
      const at = span.map
        ? frame === null || frame === undefined
          ? Infinity
          : span.start + frame / rateOf(span)
        : span.start + t - begins(span);
      return at >= span.start - EPSILON && at < end(span) - EPSILON ? [at] : [];
    },
  };
}

/** Frames of a clip: rounded once, so that its frames always start on its first source frame. */
export const clipFrames = (clip: Pick<Clip, 'in' | 'out'>, rate: Rate): number =>
  Math.max(1, Math.round(((clip.out - clip.in) * rate.num) / rate.den));

function constantTimeline(montage: Row, media: MediaIndex, rate: Rate, ramps: Ramps): Timeline {
  const spans: ClipSpan[] = [];
  let first = 0;
  montage.clips.forEach((clip, index) => {
    const map = mapOf(clip, ramps, rate);
    const length = map ? Math.max(1, Math.round(map.frames)) : clipFrames(clip, rate);
    spans.push({ clip, index, first, end: first + length, start: frameToSeconds(first, rate), map });
    first += length;
  });
  const count = first;
  const shown = (span: ClipSpan, frame: number): number => {
    const times = media.get(span.clip.source);
    if (!times) return 0;
    return span.map
      ? mapped(times, span, span.map).shown(frame)
      : times.indexAt(span.clip.in + frameToSeconds(frame - span.first, rate));
  };
  return {
    count,
    rate,
    fps: fps(rate),
    spans,
    duration: frameToSeconds(count, rate),
    timeOf: (frame) => frameToSeconds(frame, rate),
    frameAt: (seconds) => Math.min(Math.max(0, secondsToFrame(seconds, rate)), Math.max(0, count - 1)),
    spanAt: (frame) => findSpan(spans, frame),
    listed: (source) => media.has(source),
    sourceStart: (span) => span.clip.in,
    ...running(
      (span) => span.clip.in,
      (span) => frameToSeconds(span.end, rate),
      () => fps(rate),
    ),
    sourceFrame: shown,
    mixedWith(span, frame) {
      const times = media.get(span.clip.source);
      return times && span.map ? mapped(times, span, span.map).mixed(frame) : null;
    },
    frameOf(span, t) {
      const known = media.get(span.clip.source);
      if (known && span.map) return mapped(known, span, span.map).frameOf(t);
      if (t < span.clip.in - 1e-6 || t >= span.clip.out - 1e-6) return null;
      const times = media.get(span.clip.source);
      let frame = span.first + Math.max(0, secondsToFrame(t - span.clip.in, rate));
      if (times) {
        // The first output frame whose source frame is the contact frame, or the first after it.
        const contact = times.indexAt(t);
        while (frame > span.first && shown(span, frame - 1) >= contact) frame--;
        while (frame < span.end && shown(span, frame) < contact) frame++;
      }
      return frame < span.end ? frame : null;
    },
  };
}

function sourceTimeline(montage: Row, media: MediaIndex, ramps: Ramps): Timeline {
  const spans: ClipSpan[] = [];
  const offsets: number[] = [];
  let first = 0;
  let start = 0;
  let rate: Rate | null = null;
  montage.clips.forEach((clip, index) => {
    const times = media.get(clip.source);
    if (!times) return;
    rate ??= times.rate;
    // What is slower or faster has no frames of its source's: it has as many a second as that has on the whole.
    const map = mapOf(clip, ramps, times.rate);
    if (map) {
      const length = Math.max(1, Math.round(map.frames));
      spans.push({ clip, index, first, end: first + length, start, map });
      offsets.push(0);
      start += length / fps(times.rate);
      first += length;
      return;
    }
    const from = times.indexAt(clip.in);
    const to = clip.out >= times.end - 1e-6 ? times.count : Math.max(from + 1, times.indexAt(clip.out - 1e-5) + 1);
    spans.push({ clip, index, first, end: first + to - from, start, map });
    offsets.push(from);
    start += Math.min(clip.out, times.end) - times.timeOf(from);
    first += to - from;
  });
  const count = first;
  const duration = start;
  const timesOf = (span: ClipSpan): FrameTimes => media.get(span.clip.source)!;
  const rateOf = (span: ClipSpan): number => fps(timesOf(span).rate);
  const shown = (span: ClipSpan, frame: number): number =>
    span.map
      ? mapped(timesOf(span), span, span.map).shown(frame)
      : Math.min(timesOf(span).count - 1, Math.max(0, frame - span.first + (offsets[spans.indexOf(span)] ?? 0)));
  const timeOf = (frame: number): number => {
    const span = findSpan(spans, frame) ?? spans.at(-1);
    if (!span || frame >= count) return duration;
    if (span.map) return span.start + (frame - span.first) / rateOf(span);
    const times = timesOf(span);
    return span.start + times.timeOf(shown(span, frame)) - times.timeOf(shown(span, span.first));
  };
  const begins = (span: ClipSpan): number => timesOf(span).timeOf(shown(span, span.first));
  const average = rate ?? { num: 30, den: 1 };
  return {
    count,
    rate: average,
    fps: fps(average),
    duration,
    spans,
    timeOf,
    frameAt(seconds) {
      const span = spans.findLast((s) => s.start <= seconds + 1e-6) ?? spans[0];
      if (!span) return 0;
      const held = (frame: number): number => Math.min(Math.max(span.first, frame), span.end - 1);
      if (span.map) return held(span.first + Math.floor((seconds - span.start) * rateOf(span) + 1e-4));
      const times = timesOf(span);
      const begin = times.timeOf(shown(span, span.first));
      const frame = span.first + times.indexAt(begin + seconds - span.start) - shown(span, span.first);
      return held(frame);
    },
    spanAt: (frame) => findSpan(spans, frame),
    listed: (source) => media.has(source),
    // A trim within a frame shows all of it, and its sound begins with it.
    sourceStart: begins,
    ...running(begins, (span) => timeOf(span.end), rateOf),
    sourceFrame: shown,
    mixedWith: (span, frame) => (span.map ? mapped(timesOf(span), span, span.map).mixed(frame) : null),
    frameOf(span, t) {
      const times = timesOf(span);
      if (span.map) return mapped(times, span, span.map).frameOf(t);
      const frame = span.first + times.indexAt(t) - shown(span, span.first);
      return t >= span.clip.in - 1e-6 && frame >= span.first && frame < span.end ? frame : null;
    },
  };
}
