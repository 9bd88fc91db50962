/** The landscape's geometry: plain numbers, without a screen. */
import type { MusicItem } from '../../core/document/types.ts';
import { musicEnd, musicRuns } from '../../core/timeline/music.ts';
import type { Timeline } from '../../core/timeline/timeline.ts';
import type { SoundSignals } from '../../core/finding/signals/types.ts';

export type View = readonly [number, number];

/** Fewest frames the landscape shows across. */
const CLOSEST = 12;

export const wholeView = (count: number): View => [0, Math.max(CLOSEST, count)];

/** Keeps a view inside the montage and no closer than a few frames. */
export function boundView([from, to]: View, count: number): View {
  const [, most] = wholeView(count);
  const span = Math.min(most, Math.max(CLOSEST, to - from));
  const start = Math.min(Math.max(0, (from + to - span) / 2), most - span);
  return [start, start + span];
}

/** Zooms by a factor (below 1: closer), keeping `anchor` (a frame) in its place. */
export const zoomView = ([from, to]: View, factor: number, anchor: number, count: number): View =>
  boundView([anchor - (anchor - from) * factor, anchor + (to - anchor) * factor], count);

export const frameToX = (frame: number, [from, to]: View, width: number): number =>
  ((frame - from) / (to - from)) * width;
export const xToFrame = (x: number, [from, to]: View, width: number): number => from + (x / width) * (to - from);

/** The place, rounded to a multiple of `unit` unless that is 0, or what it may rest on if that is within `reach`. */
export function snapped(place: number, rests: readonly number[], reach: number, unit = 1): number {
  const near = rests.reduce((best, rest) => (Math.abs(rest - place) < Math.abs(best - place) ? rest : best), Infinity);
  if (Math.abs(near - place) <= reach) return near;
  return unit ? Math.round(place / unit) * unit : place;
}

/** Pixels within which pins stand on one another. */
const CROWD = 14;
/** Pins that are too many for their room, and become one mark. */
const CROWDED = 4;

/** Pins in order of their place, those that would stand on one another together: lists of one, or of four and more. */
export function crowds<T>(pins: readonly T[], x: (pin: T) => number): T[][] {
  const result: T[][] = [];
  for (let from = 0; from < pins.length;) {
    let to = from + 1;
    while (to < pins.length && x(pins[to]!) - x(pins[from]!) < CROWD) to++;
    const near = pins.slice(from, to);
    if (near.length >= CROWDED) result.push(near);
    else result.push(...near.map((pin) => [pin]));
    from = to;
  }
  return result;
}

/** Frames between ruler marks so that they stand at least `least` pixels apart. */
export function rulerStep(view: View, width: number, fps: number, least = 90): number {
  const perPixel = (view[1] - view[0]) / width;
  const steps = [
    1,
    2,
    5,
    10,
    Math.round(fps),
    Math.round(fps * 2),
    Math.round(fps * 5),
    Math.round(fps * 10),
    Math.round(fps * 30),
    Math.round(fps * 60),
    Math.round(fps * 300),
    Math.round(fps * 600),
  ];
  return steps.find((step) => step / perPixel >= least) ?? Math.round(fps * 1800);
}

/** Loudest sample 0-1 between two times, in seconds from where the sound begins. */
function loudest({ peaks, rate }: SoundSignals, begin: number, end: number): number {
  const from = Math.max(0, Math.floor(begin * rate));
  const to = Math.min(peaks.length, Math.max(from + 1, Math.ceil(end * rate)));
  let peak = 0;
  for (let h = from; h < to; h++) peak = Math.max(peak, peaks[h]!);
  return peak / 255;
}

/** Loudest sample 0-1 of each pixel column that a piece of music covers, from the column `left` on. */
export function musicWaveform(
  item: MusicItem,
  fps: number,
  view: View,
  width: number,
  sound: SoundSignals,
): { left: number; columns: Float32Array } {
  const x = (seconds: number): number => frameToX(seconds * fps, view, width);
  const left = Math.max(0, Math.floor(x(item.at)));
  const right = Math.min(width, Math.ceil(x(musicEnd(item))));
  const at = (column: number): number => musicRuns(item, xToFrame(column, view, width) / fps) - sound.start;
  const columns = new Float32Array(Math.max(0, right - left));
  for (let i = 0; i < columns.length; i++) columns[i] = loudest(sound, at(left + i), at(left + i + 1));
  return { left, columns };
}

/** Loudest sample 0-1 of each pixel column, from every clip that shows it. */
export function waveform(
  line: Timeline,
  view: View,
  width: number,
  sounds: ReadonlyMap<string, SoundSignals>,
): Float32Array {
  const columns = new Float32Array(width);
  for (const span of line.spans) {
    const sound = sounds.get(span.clip.source);
    if (!sound) continue;
    const left = Math.max(0, Math.floor(frameToX(span.first, view, width)));
    const right = Math.min(width, Math.ceil(frameToX(span.end, view, width)));
    const secondsAt = (x: number): number => {
      const frame = Math.min(span.end, Math.max(span.first, xToFrame(x, view, width)));
      const whole = Math.floor(frame);
      const t = line.timeOf(whole) + (frame - whole) * (line.timeOf(whole + 1) - line.timeOf(whole));
      return line.sourceTime(span, t) - sound.start;
    };
    for (let x = left; x < right; x++) columns[x] = loudest(sound, secondsAt(x), secondsAt(x + 1));
  }
  return columns;
}
