/**
 * Beat grid: tempo over time from the autocorrelation of what rises in four groups of bands, so that a hat between two
 * bass drums is none (E. D. Scheirer, "Tempo and beat analysis of acoustic musical signals", J. Acoust. Soc. Am. 103(1),
 * 1998), then beats by dynamic programming over the onset function. Source: D. P. W. Ellis, "Beat tracking by dynamic
 * programming", J. New Music Research 36(1), 2007 (tempo window, equations 5-8; tightness 680 at 40 frames a second
 * scaled to a share of the score). Tempo changes: the best path through the autocorrelations of windows.
 */
import { BARK_BANDS, type SoundSignals } from '../signals/types.ts';
import { localProminence } from '../signals/local-prominence.ts';
import { softOnsets } from '../signals/soft-onsets.ts';
import { Arena } from '../../base/simd/kernels.ts';
import { lowerBound } from '../../base/search.ts';
import { barsOf } from './bars.ts';
import { evened } from './even.ts';
import { levelOf, onBeat } from './level.ts';

export interface BeatGrid {
  /** Source seconds, ascending. Empty where the sound has no beat. */
  readonly beats: readonly number[];
  /** Those of the beats that begin a bar. */
  readonly downbeats: readonly number[];
  /** Stretches of steady tempo: from when (source seconds), in beats a minute. One where it never changes. */
  readonly tempi: readonly { readonly t: number; readonly bpm: number }[];
  /** 0-1: how much of the onset function's energy repeats with the beat. */
  readonly confidence: number;
}

const RATE = 100;
const SLOWEST = 40;
const FASTEST = 240;
/** Attacks a second below which nothing is a beat: the slowest bar of music has more. */
const LEAST_ATTACKS = 0.25;
/** Seconds of one tempo window, and from one to the next. */
const WINDOW = 8;
const STEP = 1;
/** Beats a minute that listeners tend to, and the width of that leaning in octaves (Ellis 2007). */
const LEAN = 120;
const LEAN_WIDTH = 0.9;
/** A tapped tempo is meant: within a few beats a minute. */
const TAPPED_WIDTH = 0.08;
/** How dear a beat off its period is, against a mean onset of 1. */
const TIGHTNESS = 100;
/** How dear a change of tempo is between windows: an octave costs this much autocorrelation. */
const CHANGE = 0.8;

/** Values a second without their mean of a second around, by their square root: one loud stroke must not outweigh a bar of soft ones. */
function flattened(raw: Float64Array): Float64Array {
  const n = raw.length;
  const sums = new Float64Array(n + 1);
  for (let i = 0; i < n; i++) sums[i + 1] = sums[i]! + raw[i]!;
  const half = RATE / 2;
  return raw.map((value, i) => {
    const from = Math.max(0, i - half);
    const to = Math.min(n, i + half);
    return Math.sqrt(Math.max(0, value - (sums[to]! - sums[from]!) / (to - from)));
  });
}

/** New partials of a soft onset that counts, and flux over its mean of an edge that does. */
const SOFT = 1;
const EDGE = 3;

/** Whether more notes begin without an edge than with one: then these say where the beat is. */
function isSoft(sound: SoundSignals): boolean {
  const over = localProminence(sound.onset);
  const edges = sound.attackHops.reduce((sum, hop) => sum + (over[hop]! >= EDGE ? 1 : 0), 0);
  return softOnsets(sound.soft, SOFT).length > edges;
}

/** The onset function at {@link RATE}, flattened, scaled to deviation 1. */
function prepared(sound: SoundSignals): Float64Array {
  const { rate } = sound;
  const onset = isSoft(sound) ? sound.soft : sound.onset;
  const per = rate / RATE;
  const raw = new Float64Array(Math.floor(onset.length / per));
  for (let i = 0; i < raw.length; i++) {
    for (let k = Math.floor(i * per); k < Math.floor((i + 1) * per); k++) raw[i] = Math.max(raw[i]!, onset[k]!);
  }
  const out = flattened(raw);
  const deviation = Math.sqrt(out.reduce((sum, value) => sum + value * value, 0) / Math.max(1, out.length)) || 1;
  return out.map((value) => value / deviation);
}

/** Kept bands of the bass drum, of what lies above it, of voices and of hats, from and to. */
const GROUPS = [
  [0, 3],
  [3, 9],
  [9, 17],
  [17, BARK_BANDS],
] as const;
/** Level under which nothing rises, as kept, and the most decibels that a rise counts. */
const QUIET = 30;
const MOST_RISE = 30;
/** Hops over which a rise is measured. */
const RISE = 2;

/** What rises in each of the {@link GROUPS} at {@link RATE}, flattened. */
function rises({ bands, rate }: SoundSignals, length: number): Float64Array[] {
  const row = (i: number): number => Math.floor((i * rate) / RATE) * BARK_BANDS;
  return GROUPS.map(([from, to]) => {
    const raw = new Float64Array(length);
    for (let i = RISE; i < length; i++) {
      const [now, before] = [row(i), row(i - RISE)];
      for (let b = from; b < to; b++)
        raw[i]! +=
          Math.max(0, Math.min(MOST_RISE, bands[now + b]! - Math.max(bands[before + b]!, QUIET))) / (to - from);
    }
    return flattened(raw);
  });
}

const lags = (): { least: number; most: number } => ({
  least: Math.floor((60 / FASTEST) * RATE),
  most: Math.ceil((60 / SLOWEST) * RATE),
});

/** Sum over signals of a stretch times what came `lag` before it. */
type Products = (lag: number, from: number, to: number) => number;

function productsOf(signals: readonly Float64Array[]): Products {
  const arena = new Arena(signals.reduce((sum, { length }) => sum + 4 * length + 16, 0));
  const kept = signals.map((signal) => {
    const floats = arena.floats(signal.length);
    floats.set(signal);
    return floats.byteOffset;
  });
  return (lag, from, to) => {
    const first = Math.max(lag, from);
    return first < to
      ? kept.reduce((sum, at) => sum + arena.kernels.products(at + 4 * first, at + 4 * (first - lag), to - first), 0)
      : 0;
  };
}

type Window = readonly [from: number, to: number];

/** Autocorrelation 0-1 of a window at one lag. */
const correlation = (products: Products, [from, to]: Window, lag: number): number =>
  from + lag < to
    ? (products(lag, from + lag, to) / (products(0, from, to) + 1e-9)) * ((to - from) / (to - from - lag))
    : 0;

/** Autocorrelation 0-1 of each window, summed over signals, at all lags up to `most`. Windows begin every {@link STEP}. */
function correlations(signals: readonly Float64Array[], windows: readonly Window[], most: number): Float64Array[] {
  const n = signals[0]!.length;
  const products = productsOf(
    signals.map((signal) => {
      const mean = signal.reduce((a, b) => a + b, 0) / n;
      return signal.map((value) => value - mean);
    }),
  );
  const block = STEP * RATE;
  // Windows overlap: what their steps hold, with all before, is worked out once.
  const row = most + 1;
  const sums = new Float64Array((Math.ceil(n / block) + 1) * row);
  for (let at = 0, to = row; at < n; at += block)
    for (let lag = 0; lag <= most; lag++, to++) sums[to] = sums[to - row]! + products(lag, at, Math.min(n, at + block));
  const before = (at: number, lag: number): number => sums[Math.ceil(at / block) * row + lag]!;
  return windows.map(([from, to]) => {
    const power = before(to, 0) - before(from, 0) + 1e-9;
    return Float64Array.from({ length: row }, (_, lag) => {
      const first = from + lag;
      if (!lag || first >= to) return 0;
      const edge = Math.min(to, Math.ceil(first / block) * block);
      return (
        ((products(lag, first, edge) + (edge < to ? before(to, lag) - before(edge, lag) : 0)) / power) *
        ((to - from) / (to - first))
      );
    });
  });
}

/** Half the beat, the beat, and two and four of it repeat, too: how much each counts. */
const COMB = [
  [0.5, 0.4],
  [1, 1.4],
  [2, 0.6],
  [4, 0.6],
] as const;
const COMB_SUM = COMB.reduce((sum, [, weight]) => sum + weight, 0);

/** Period in frames for each window, as one path that pays for changes, and how surely there is one. */
function periods(
  sound: SoundSignals,
  signal: Float64Array,
  lean: number,
  width: number,
): { path: number[]; strength: number } {
  const { least, most } = lags();
  const count = Math.max(1, Math.floor((signal.length / RATE - WINDOW) / STEP) + 1);
  const windows = Array.from(
    { length: count },
    (_, w) => [w * STEP * RATE, Math.min(signal.length, (w * STEP + WINDOW) * RATE)] as const,
  );
  const furthest = Math.min(most * 4, WINDOW * RATE - 1);
  const leaning = Float64Array.from({ length: most + 1 }, (_, lag) =>
    Math.exp(-0.5 * (Math.log2((60 * RATE) / lag / lean) / width) ** 2),
  );
  const scores = correlations(rises(sound, signal.length), windows, furthest).map((acf) => {
    const near = (at: number): number => Math.max(acf[at - 1] ?? 0, acf[at] ?? 0, acf[at + 1] ?? 0);
    const score = new Float64Array(most + 1);
    for (let lag = least; lag <= most; lag++) {
      let comb = 0;
      for (const [times, weight] of COMB) comb += weight * near(Math.round(lag * times));
      score[lag] = (comb / COMB_SUM) * leaning[lag]!;
    }
    return score;
  });
  // Viterbi over windows; the change is counted in octaves, the same for all windows.
  const span = most + 1;
  const price = new Float64Array(span * span);
  for (let lag = least; lag <= most; lag++)
    for (let old = least; old <= most; old++)
      price[lag * span + old] = CHANGE * Math.min(0.35, Math.abs(Math.log2(lag / old)));
  let best = scores[0]!.slice();
  const back: Int32Array[] = [];
  for (let w = 1; w < count; w++) {
    const next = new Float64Array(most + 1).fill(-Infinity);
    const from = new Int32Array(most + 1);
    let highest = least;
    for (let old = least; old <= most; old++) if (best[old]! > best[highest]!) highest = old;
    for (let lag = least; lag <= most; lag++) {
      // Past a third of an octave every change costs the same: of those only the best can win.
      next[lag] = best[highest]! - price[lag * span + highest]!;
      from[lag] = highest;
      for (let old = Math.max(least, Math.floor(lag * 0.78)); old <= Math.min(most, lag * 1.28); old++) {
        const value = best[old]! - price[lag * span + old]!;
        if (value > next[lag]!) {
          next[lag] = value;
          from[lag] = old;
        }
      }
      next[lag]! += scores[w]![lag]!;
    }
    back.push(from);
    best = next;
  }
  let lag = least;
  for (let k = least; k <= most; k++) if (best[k]! > best[lag]!) lag = k;
  const path = [lag];
  for (let w = count - 2; w >= 0; w--) path.unshift((lag = back[w]![lag]!));
  const products = productsOf([signal]);
  const strength =
    path.reduce((sum, period, w) => {
      const [one, two, four] = [1, 2, 4].map((times) => correlation(products, windows[w]!, times * period)) as [
        number,
        number,
        number,
      ];
      // A bare beat repeats after one beat less than after a bar.
      return sum + Math.max(one, (one + two + four) / 3);
    }, 0) / count;
  return { path, strength };
}

/** What a person knows better than the tracker. */
export interface Hints {
  /** Tapped beats a minute: the tempo is looked for near it. */
  readonly bpm?: number | undefined;
  /** Source seconds at which there is a beat. */
  readonly pin?: number | undefined;
}

const grids = new WeakMap<SoundSignals, Map<string, BeatGrid>>();

/** Computed once for each sound and hint. */
export function beatGrid(sound: SoundSignals, hints: Hints = {}): BeatGrid {
  const kept = grids.get(sound) ?? new Map<string, BeatGrid>();
  grids.set(sound, kept);
  const key = `${hints.bpm ?? ''}|${hints.pin ?? ''}`;
  let grid = kept.get(key);
  if (!grid) kept.set(key, (grid = track(sound, hints)));
  return grid;
}

/** What a bass drum or snare adds to the onset function, whose deviation is 1: beats fall on them rather than on hats, which rise in more bands. */
const ON_BEAT = 2;
/** Score of a pinned beat: more than any onset gives. */
const PINNED = 50;

function track(sound: SoundSignals, { bpm, pin }: Hints): BeatGrid {
  const none: BeatGrid = { beats: [], downbeats: [], tempi: [], confidence: 0 };
  const signal = prepared(sound);
  // The signal is scaled to its own size: without this, the rounding of silence would have a beat.
  if (signal.length < RATE * 4 || sound.attacks.length < (signal.length / RATE) * LEAST_ATTACKS) return none;
  const { path, strength } = periods(sound, signal, bpm ?? LEAN, bpm ? TAPPED_WIDTH : LEAN_WIDTH);
  const confidence = Math.max(0, Math.min(1, strength));
  sound.attackHops.forEach((hop, i) => {
    const at = Math.round((hop * RATE) / sound.rate);
    const more = ON_BEAT * onBeat(sound, i);
    for (const [beside, share] of [
      [-1, 0.5],
      [0, 1],
      [1, 0.5],
    ] as const)
      if (signal[at + beside] !== undefined) signal[at + beside]! += share * more;
  });
  if (pin !== undefined) {
    const at = Math.round((pin - sound.start) * RATE);
    if (at >= 0 && at < signal.length) signal[at] = PINNED;
  }
  let beats = along(sound, signal, path);
  if (bpm === undefined) {
    const levels = steady(path, beats, sound.start).map(({ first, end, inside }) => ({
      first,
      end,
      level: levelOf(sound, inside),
    }));
    for (const { first, end, level } of levels) for (let w = first; w < end; w++) path[w]! *= level;
    if (levels.some(({ level }) => level !== 1)) beats = along(sound, signal, path);
  }
  beats = evened(beats, sound);
  const tempi = stretches(path, beats, sound.start);
  return {
    beats,
    downbeats: barsOf(
      sound,
      beats,
      tempi.map((s) => s.t),
    ),
    tempi,
    confidence,
  };
}

/** Beats that fit the onset function and the periods best, by dynamic programming. */
function along(sound: SoundSignals, signal: Float64Array, path: readonly number[]): number[] {
  const periodAt = (i: number): number =>
    path[Math.min(path.length - 1, Math.max(0, Math.round((i / RATE - WINDOW / 2) / STEP)))]!;
  const n = signal.length;
  const score = new Float64Array(n);
  const before = new Int32Array(n).fill(-1);
  // What each distance costs, once for each period.
  const costs = new Map<number, Float64Array>();
  const costOf = (period: number): Float64Array => {
    const known =
      costs.get(period) ??
      Float64Array.from({ length: Math.round(period * 2) + 1 }, (_, gap) => TIGHTNESS * Math.log(gap / period) ** 2);
    costs.set(period, known);
    return known;
  };
  for (let i = 0; i < n; i++) {
    const period = periodAt(i);
    const cost = costOf(period);
    let best = 0;
    let at = -1;
    for (let k = Math.max(0, i - Math.round(period * 2)); k <= i - Math.round(period / 2); k++) {
      const value = score[k]! - cost[i - k]!;
      if (at < 0 || value > best) {
        best = value;
        at = k;
      }
    }
    score[i] = signal[i]! + (at >= 0 && best > 0 ? best : 0);
    before[i] = at >= 0 && best > 0 ? at : -1;
  }
  // Ends at the best score of the last beat's length.
  let last = n - 1;
  for (let i = Math.max(0, n - Math.round(periodAt(n))); i < n; i++) if (score[i]! > score[last]!) last = i;
  const frames: number[] = [];
  for (let i = last; i >= 0; i = before[i]!) frames.unshift(i);
  return trimmed(frames, signal).map((frame) => snapped(sound, frame));
}

/** Periods that differ by more than this share are two tempi. */
const STEADY = 0.04;

interface Steady {
  /** Its windows, from the first to before `end`. */
  readonly first: number;
  readonly end: number;
  /** Its beats. */
  readonly inside: readonly number[];
}

/** Stretches of windows with one period. */
function steady(path: readonly number[], beats: readonly number[], start: number): Steady[] {
  const found: Steady[] = [];
  for (let first = 0; first < path.length;) {
    let end = first + 1;
    while (end < path.length && Math.abs(path[end]! / path[first]! - 1) <= STEADY) end++;
    // A window speaks for its middle.
    const from = first === 0 ? -Infinity : start + first * STEP + WINDOW / 2;
    const to = end === path.length ? Infinity : start + end * STEP + WINDOW / 2;
    found.push({ first, end, inside: beats.filter((t) => t >= from && t < to) });
    first = end;
  }
  return found;
}

/** The tempo of a stretch is that of its median beat. */
function stretches(path: readonly number[], beats: readonly number[], start: number): BeatGrid['tempi'] {
  return steady(path, beats, start).flatMap(({ inside }) => {
    const gaps = inside
      .slice(1)
      .map((t, i) => t - inside[i]!)
      .sort((x, y) => x - y);
    return gaps.length >= 3 ? [{ t: inside[0]!, bpm: 60 / gaps[gaps.length >> 1]! }] : [];
  });
}

/** Without the beats before the music begins and after it ends: weaker than half the mean square (as Ellis's own program does). */
function trimmed(frames: readonly number[], signal: Float64Array): number[] {
  const strength = frames.map((frame) => {
    let most = 0;
    for (let i = frame - 3; i <= frame + 3; i++) most = Math.max(most, signal[i] ?? 0);
    return most;
  });
  const floor = 0.5 * Math.sqrt(strength.reduce((sum, s) => sum + s * s, 0) / Math.max(1, strength.length));
  const first = strength.findIndex((s) => s > floor);
  const last = strength.findLastIndex((s) => s > floor);
  return first < 0 ? [] : frames.slice(first, last + 1);
}

/** Least confidence that counts as having a beat, at sensitivity 0, 0.5 and 1: 0.8, 0.52 and 0.34. */
const leastConfidence = (sensitivity: number): number => 0.8 * 0.425 ** sensitivity;

export const hasBeat = (sound: SoundSignals, sensitivity = 0.5): boolean =>
  beatGrid(sound).confidence >= leastConfidence(sensitivity);

/** Onto the refined attack nearest by, within 35 ms; else where the grid says. */
function snapped({ attacks, attackHops, onset, start }: SoundSignals, frame: number): number {
  const t = start + frame / RATE;
  let best = t;
  let strongest = 0;
  for (
    let i = lowerBound(attacks, t - 0.035, (attack) => attack);
    i < attacks.length && attacks[i]! <= t + 0.035;
    i++
  ) {
    if (onset[attackHops[i]!]! > strongest) {
      strongest = onset[attackHops[i]!]!;
      best = attacks[i]!;
    }
  }
  return best;
}
