/**
 * Beat grid: tempo over time from the autocorrelation of the onset function, then beats by dynamic
 * programming. Source: D. P. W. Ellis, "Beat tracking by dynamic programming", J. New Music
 * Research 36(1), 2007 (tempo window, equations 5-8; tightness 680 at 40 frames a second scaled to
 * a share of the score). Tempo changes: the best path through the autocorrelations of windows.
 */
import type { SoundSignals } from '../signals/types.ts';
import { lowerBound } from '../units/search.ts';
import { barsOf } from './bars.ts';

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

/** The onset function at 100 values a second, its local mean taken off, scaled to deviation 1. */
function prepared({ onset, rate }: SoundSignals): Float64Array {
  const per = rate / RATE;
  const n = Math.floor(onset.length / per);
  const raw = new Float64Array(n);
  for (let i = 0; i < n; i++) {
    for (let k = Math.floor(i * per); k < Math.floor((i + 1) * per); k++) raw[i] = Math.max(raw[i]!, onset[k]!);
  }
  const sums = new Float64Array(n + 1);
  for (let i = 0; i < n; i++) sums[i + 1] = sums[i]! + raw[i]!;
  const out = new Float64Array(n);
  const half = RATE / 2;
  let square = 0;
  for (let i = 0; i < n; i++) {
    const from = Math.max(0, i - half);
    const to = Math.min(n, i + half);
    // Square root: one loud stroke must not outweigh a bar of soft ones.
    out[i] = Math.sqrt(Math.max(0, raw[i]! - (sums[to]! - sums[from]!) / (to - from)));
    square += out[i]! ** 2;
  }
  const deviation = Math.sqrt(square / Math.max(1, n)) || 1;
  for (let i = 0; i < n; i++) out[i]! /= deviation;
  return out;
}

const lags = (): { least: number; most: number } => ({ least: Math.floor((60 / FASTEST) * RATE), most: Math.ceil((60 / SLOWEST) * RATE) });

/** Autocorrelation 0-1 of a window at lags up to four of the longest beat. */
function correlate(signal: Float64Array, from: number, to: number, most: number): Float64Array {
  const out = new Float64Array(most + 1);
  let power = 1e-9;
  for (let i = from; i < to; i++) power += signal[i]! ** 2;
  for (let lag = 1; lag <= most; lag++) {
    let sum = 0;
    for (let i = from + lag; i < to; i++) sum += signal[i]! * signal[i - lag]!;
    out[lag] = (sum / power) * ((to - from) / Math.max(1, to - from - lag));
  }
  return out;
}

/** Period in frames for each window, as one path that pays for changes. */
function periods(signal: Float64Array, lean: number, width: number): { path: number[]; strength: number } {
  const { least, most } = lags();
  const count = Math.max(1, Math.floor((signal.length / RATE - WINDOW) / STEP) + 1);
  const scores: Float64Array[] = [];
  const plain: Float64Array[] = [];
  for (let w = 0; w < count; w++) {
    const from = Math.round(w * STEP * RATE);
    const acf = correlate(signal, from, Math.min(signal.length, from + WINDOW * RATE), Math.min(most * 4, WINDOW * RATE - 1));
    const score = new Float64Array(most + 1);
    for (let lag = least; lag <= most; lag++) {
      // The beat's multiples repeat as well: a comb over them tells it from its fractions.
      const near = (at: number): number => Math.max(acf[at - 1] ?? 0, acf[at] ?? 0, acf[at + 1] ?? 0);
      const comb = (1.4 * near(lag) + 0.6 * near(lag * 2) + 0.4 * near(lag * 4)) / 2.4;
      const octaves = Math.log2((60 * RATE) / lag / lean) / width;
      score[lag] = comb * Math.exp(-0.5 * octaves * octaves);
    }
    scores.push(score);
    plain.push(acf);
  }
  // Viterbi over windows; the change is counted in octaves, the same for all windows.
  const span = most + 1;
  const price = new Float64Array(span * span);
  for (let lag = least; lag <= most; lag++) for (let old = least; old <= most; old++) price[lag * span + old] = CHANGE * Math.min(0.35, Math.abs(Math.log2(lag / old)));
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
  const strength = path.reduce((sum, p, w) => sum + (plain[w]![p] ?? 0), 0) / count;
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

/** Score of a pinned beat: more than any onset gives. */
const PINNED = 50;

function track(sound: SoundSignals, { bpm, pin }: Hints): BeatGrid {
  const none: BeatGrid = { beats: [], downbeats: [], tempi: [], confidence: 0 };
  const signal = prepared(sound);
  // The signal is scaled to its own size: without this, the rounding of silence would have a beat.
  if (signal.length < RATE * 4 || sound.attacks.length < (signal.length / RATE) * LEAST_ATTACKS) return none;
  const { path, strength } = periods(signal, bpm ?? LEAN, bpm ? TAPPED_WIDTH : LEAN_WIDTH);
  const confidence = Math.max(0, Math.min(1, strength));
  const periodAt = (i: number): number => path[Math.min(path.length - 1, Math.max(0, Math.round((i / RATE - WINDOW / 2) / STEP)))]!;
  const n = signal.length;
  if (pin !== undefined) {
    const at = Math.round((pin - sound.start) * RATE);
    if (at >= 0 && at < n) signal[at] = PINNED;
  }
  const score = new Float64Array(n);
  const before = new Int32Array(n).fill(-1);
  for (let i = 0; i < n; i++) {
    const period = periodAt(i);
    let best = 0;
    let at = -1;
    for (let k = Math.max(0, i - Math.round(period * 2)); k <= i - Math.round(period / 2); k++) {
      const off = Math.log((i - k) / period);
      const value = score[k]! - TIGHTNESS * off * off;
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
  const beats = trimmed(frames, signal).map((frame) => snapped(sound, frame));
  const tempi = stretches(path, beats, sound.start);
  return { beats, downbeats: barsOf(sound, beats, tempi.map((s) => s.t)), tempi, confidence };
}

/** Periods that differ by more than this share are two tempi. */
const STEADY = 0.04;

/** Joins windows of one period; the tempo of a stretch is that of its median beat. */
function stretches(path: readonly number[], beats: readonly number[], start: number): BeatGrid['tempi'] {
  const found: { t: number; bpm: number }[] = [];
  for (let w = 0; w < path.length;) {
    let next = w + 1;
    while (next < path.length && Math.abs(path[next]! / path[w]! - 1) <= STEADY) next++;
    // A window speaks for its middle.
    const from = w === 0 ? -Infinity : start + w * STEP + WINDOW / 2;
    const to = next === path.length ? Infinity : start + next * STEP + WINDOW / 2;
    const inside = beats.filter((t) => t >= from && t < to);
    const gaps = inside.slice(1).map((t, i) => t - inside[i]!).sort((x, y) => x - y);
    if (gaps.length >= 3) found.push({ t: inside[0]!, bpm: 60 / gaps[gaps.length >> 1]! });
    w = next;
  }
  return found;
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

export const hasBeat = (sound: SoundSignals, sensitivity = 0.5): boolean => beatGrid(sound).confidence >= leastConfidence(sensitivity);

/** Onto the refined attack nearest by, within 35 ms; else where the grid says. */
function snapped({ attacks, attackHops, onset, start }: SoundSignals, frame: number): number {
  const t = start + frame / RATE;
  let best = t;
  let strongest = 0;
  for (let i = lowerBound(attacks, t - 0.035, (attack) => attack); i < attacks.length && attacks[i]! <= t + 0.035; i++) {
    if (onset[attackHops[i]!]! > strongest) {
      strongest = onset[attackHops[i]!]!;
      best = attacks[i]!;
    }
  }
  return best;
}
