/** The montage's frames: which time each has and which source frame it shows. */
import type { FrameTimes } from './frame-times.ts';
import { regularTimes } from './frame-times.ts';
import type { Clip, Montage, Source } from '../document/types.ts';
import { lowerBound } from '../base/search.ts';
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
}

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
  /** Index of the source frame that a montage frame shows. */
  sourceFrame(span: ClipSpan, frame: number): number;
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

export function timeline({ clips, settings }: Row, media: MediaIndex): Timeline {
  const known = latest.get(media);
  if (known?.clips === clips && known.settings === settings) return known.line;
  const line =
    settings.timing.mode === 'source'
      ? sourceTimeline({ clips, settings }, media)
      : constantTimeline({ clips, settings }, media, settings.timing.rate);
  latest.set(media, { clips, settings, line });
  return line;
}

/** Source time runs as montage time does. */
function straight(
  begins: (span: ClipSpan) => number,
  end: (span: ClipSpan) => number,
): Pick<Timeline, 'sourceTime' | 'momentsOf'> {
  return {
    sourceTime: (span, seconds) => begins(span) + seconds - span.start,
    momentsOf(span, t) {
      const at = span.start + t - begins(span);
      return at >= span.start - EPSILON && at < end(span) - EPSILON ? [at] : [];
    },
  };
}

/** Frames of a clip: rounded once, so that its frames always start on its first source frame. */
export const clipFrames = (clip: Pick<Clip, 'in' | 'out'>, rate: Rate): number =>
  Math.max(1, Math.round(((clip.out - clip.in) * rate.num) / rate.den));

function constantTimeline(montage: Row, media: MediaIndex, rate: Rate): Timeline {
  const spans: ClipSpan[] = [];
  let first = 0;
  montage.clips.forEach((clip, index) => {
    const length = clipFrames(clip, rate);
    spans.push({ clip, index, first, end: first + length, start: frameToSeconds(first, rate) });
    first += length;
  });
  const count = first;
  const shown = (span: ClipSpan, frame: number): number => {
    const times = media.get(span.clip.source);
    return times ? times.indexAt(span.clip.in + frameToSeconds(frame - span.first, rate)) : 0;
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
    ...straight(
      (span) => span.clip.in,
      (span) => frameToSeconds(span.end, rate),
    ),
    sourceFrame: shown,
    frameOf(span, t) {
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

function sourceTimeline(montage: Row, media: MediaIndex): Timeline {
  const spans: ClipSpan[] = [];
  const offsets: number[] = [];
  let first = 0;
  let start = 0;
  let rate: Rate | null = null;
  montage.clips.forEach((clip, index) => {
    const times = media.get(clip.source);
    if (!times) return;
    rate ??= times.rate;
    const from = times.indexAt(clip.in);
    const to = clip.out >= times.end - 1e-6 ? times.count : Math.max(from + 1, times.indexAt(clip.out - 1e-5) + 1);
    spans.push({ clip, index, first, end: first + to - from, start });
    offsets.push(from);
    start += Math.min(clip.out, times.end) - times.timeOf(from);
    first += to - from;
  });
  const count = first;
  const duration = start;
  const shown = (span: ClipSpan, frame: number): number => frame - span.first + (offsets[spans.indexOf(span)] ?? 0);
  const timeOf = (frame: number): number => {
    const span = findSpan(spans, frame) ?? spans.at(-1);
    if (!span || frame >= count) return duration;
    const times = media.get(span.clip.source)!;
    return span.start + times.timeOf(shown(span, frame)) - times.timeOf(shown(span, span.first));
  };
  const begins = (span: ClipSpan): number => media.get(span.clip.source)!.timeOf(shown(span, span.first));
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
      const times = media.get(span.clip.source)!;
      const begin = times.timeOf(shown(span, span.first));
      const frame = span.first + times.indexAt(begin + seconds - span.start) - shown(span, span.first);
      return Math.min(Math.max(span.first, frame), span.end - 1);
    },
    spanAt: (frame) => findSpan(spans, frame),
    listed: (source) => media.has(source),
    // A trim within a frame shows all of it, and its sound begins with it.
    sourceStart: begins,
    ...straight(begins, (span) => timeOf(span.end)),
    sourceFrame: shown,
    frameOf(span, t) {
      const times = media.get(span.clip.source)!;
      const frame = span.first + times.indexAt(t) - shown(span, span.first);
      return t >= span.clip.in - 1e-6 && frame >= span.first && frame < span.end ? frame : null;
    },
  };
}
