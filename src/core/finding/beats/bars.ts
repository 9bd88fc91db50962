/**
 * Which beats begin a bar. Common practice, after the cues named by M. Goto, "An audio-based real-time
 * beat tracking system for music with or without drum-sounds", J. New Music Research 30(2), 2001:
 * harmony changes at bars, bass drums fall on their first beat, snare drums on the second and fourth.
 */
import { BARK_BANDS, CHROMA_RATE, type SoundSignals } from '../signals/types.ts';

/** Bark bands of the bass drum (20-150 Hz) and of the snare's rattle (1.3-8 kHz). */
const BASS = [0, 3] as const;
const RATTLE = [12, 23] as const;
/** Beats before and after one that are compared for a change of section. */
const SECTION = 4;
const METRES = [4, 3] as const;
/** A bar of three must fit this much better than one of four, and where a bar is expected counts a little. */
const USUAL = { 4: 0, 3: -0.35 };
const BEGINNING = 0.4;

interface Cues {
  readonly bass: number[];
  readonly rattle: number[];
  readonly harmony: number[];
  readonly section: number[];
}

/** Scaled to mean 0 and deviation 1. */
function normal(values: number[]): number[] {
  const mean = values.reduce((s, v) => s + v, 0) / Math.max(1, values.length);
  const deviation = Math.sqrt(values.reduce((s, v) => s + (v - mean) ** 2, 0) / Math.max(1, values.length));
  return values.map((v) => (deviation > 1e-9 ? (v - mean) / deviation : 0));
}

function cuesOf({ bands, chroma, rate, start, onset }: SoundSignals, beats: readonly number[]): Cues {
  const hop = (t: number): number => Math.max(0, Math.min(onset.length - 1, Math.round((t - start) * rate)));
  const level = (from: number, to: number, [low, high]: readonly [number, number]): number => {
    let most = 0;
    for (let h = hop(from); h <= hop(to); h++) {
      let sum = 0;
      for (let b = low; b < high; b++) sum += bands[h * BARK_BANDS + b]!;
      most = Math.max(most, sum / (high - low));
    }
    return most;
  };
  const end = (i: number): number => beats[i + 1] ?? beats[i]! + (beats[i]! - (beats[i - 1] ?? beats[i]! - 0.5));
  const spectrum = (from: number, to: number): Float64Array => {
    const sum = new Float64Array(BARK_BANDS);
    let n = 0;
    for (let h = hop(from); h < hop(to); h += 2, n++)
      for (let b = 0; b < BARK_BANDS; b++) sum[b]! += bands[h * BARK_BANDS + b]!;
    return sum.map((v) => v / Math.max(1, n));
  };
  const pitches = (from: number, to: number): Float64Array => {
    const sum = new Float64Array(12);
    for (
      let r = Math.max(0, Math.round((from - start) * CHROMA_RATE));
      r < (to - start) * CHROMA_RATE && (r + 1) * 12 <= chroma.length;
      r++
    ) {
      for (let p = 0; p < 12; p++) sum[p]! += chroma[r * 12 + p]!;
    }
    return sum;
  };
  const unlike = (a: Float64Array, b: Float64Array): number => {
    let [ab, aa, bb] = [0, 1e-9, 1e-9];
    a.forEach((v, i) => {
      ab += v * b[i]!;
      aa += v * v;
      bb += b[i]! * b[i]!;
    });
    return 1 - ab / Math.sqrt(aa * bb);
  };
  const far = (a: Float64Array, b: Float64Array): number =>
    a.reduce((s, v, i) => s + Math.abs(v - b[i]!), 0) / BARK_BANDS;
  return {
    bass: normal(beats.map((t) => level(t, t + 0.08, BASS))),
    rattle: normal(beats.map((t) => level(t, t + 0.08, RATTLE))),
    harmony: normal(beats.map((t, i) => (i ? unlike(pitches(t, end(i)), pitches(beats[i - 1]!, t)) : 0))),
    section: normal(
      beats.map((t, i) => {
        const [before, after] = [beats[Math.max(0, i - SECTION)]!, beats[Math.min(beats.length - 1, i + SECTION)]!];
        return before < t && after > t ? far(spectrum(t, after), spectrum(before, t)) : 0;
      }),
    ),
  };
}

/**
 * Downbeats among `beats` (source seconds). The phase is chosen anew where the tempo changes.
 * @param changes source seconds at which stretches of steady tempo begin
 */
export function barsOf(sound: SoundSignals, beats: readonly number[], changes: readonly number[]): number[] {
  if (beats.length < 6) return beats.slice(0, 1);
  const cues = cuesOf(sound, beats);
  const starts = changes.map((t) => beats.findIndex((b) => b >= t - 1e-6)).filter((i) => i > 0);
  const edges = [0, ...starts, beats.length];
  const found: number[] = [];
  // The first beat begins a bar, and bars go on through a change of tempo, unless the cues say otherwise.
  let last = 0;
  for (let e = 0; e + 1 < edges.length; e++) {
    const [from, to] = [edges[e]!, edges[e + 1]!];
    let best = { score: -Infinity, metre: 4, phase: 0 };
    for (const metre of METRES) {
      for (let phase = 0; phase < metre; phase++) {
        /** Mean of a cue at a position of the bar, what chance alone gives taken off. */
        const at = (cue: readonly number[], position: number): number => {
          let sum = 0;
          let n = 0;
          for (let i = from + ((phase + position) % metre); i < to; i += metre, n++) sum += cue[i]!;
          const mean = sum / Math.max(1, n);
          return Math.sign(mean) * Math.max(0, Math.abs(mean) - 1 / Math.sqrt(Math.max(1, n)));
        };
        const { bass, rattle, harmony, section } = cues;
        const first = 0.7 * at(bass, 0) + 0.9 * at(harmony, 0) + 0.7 * at(section, 0) - 0.7 * at(rattle, 0);
        const back =
          metre === 4
            ? [1, 3].reduce((sum, position) => sum + 0.15 * at(rattle, position) - 0.1 * at(bass, position), 0)
            : 0;
        const score =
          first + back + USUAL[metre] + (phase === (((last - from) % metre) + metre) % metre ? BEGINNING : 0);
        if (score > best.score) best = { score, metre, phase };
      }
    }
    for (let i = from + best.phase; i < to; i += best.metre) {
      found.push(beats[i]!);
      last = i;
    }
  }
  return found;
}
