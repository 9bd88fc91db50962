import { describe, expect, it } from 'vitest';
import { hash, signed } from '../../base/hash.ts';
import { SoundAnalyser } from '../signals/sound.ts';
import type { SoundSignals } from '../signals/types.ts';
import { add, analyseSound, kick, noise } from '../../testkit/signals.ts';
import { beats } from '../detectors/beats.ts';
import { DEFAULT_GRID } from '../../document/types.ts';
import { editedGrid, tappedTempo, tapOffset } from './edit.ts';
import { beatGrid, hasBeat } from './track.ts';

const RATE = 22050;

function analysed(seconds: number, strokes: readonly { t: number; level: number }[]): SoundSignals {
  const samples = new Float32Array(RATE * seconds).map((_, i) => signed(hash(1, i)) * 0.002);
  for (const { t, level } of strokes)
    for (let i = 0; i < RATE * 0.08; i++) {
      const at = Math.round(t * RATE) + i;
      if (at < samples.length) samples[at]! += signed(hash(2, i)) * Math.exp((-i / RATE) * 70) * level;
    }
  const analyser = new SoundAnalyser(RATE);
  analyser.push(samples);
  return analyser.finish();
}

/** Strokes on the beat, softer ones of level `between` halfway, from `from` on. */
const pattern = (bpm: number, from: number, to: number, between = 0.08): { t: number; level: number }[] =>
  Array.from({ length: Math.floor(((to - from) * bpm) / 30) }, (_, i) => ({
    t: from + (i * 30) / bpm,
    level: i % 2 ? between : i % 4 ? 0.4 : 0.5,
  }));

/** Share of true beats met within 70 ms, the tolerance of the MIREX beat task. */
const met = (found: readonly number[], truth: readonly number[]): number =>
  truth.filter((t) => found.some((f) => Math.abs(f - t) <= 0.07)).length / truth.length;

describe('beat grid (Ellis 2007)', () => {
  // Far from the usual tempi only plain strokes have one right octave.
  it.each([
    [60, 0],
    [72, 0],
    [96, 0.08],
    [120, 0.08],
    [150, 0.08],
  ])('follows %i beats a minute, with strokes of level %f between, in the right octave', (bpm, between) => {
    const { beats: found, tempi } = beatGrid(analysed(20, pattern(bpm, 0.4, 19.5, between)));
    expect(tempi).toHaveLength(1);
    expect(Math.abs(tempi[0]!.bpm / bpm - 1)).toBeLessThan(0.01);
    const truth = pattern(bpm, 0.4, 19.5)
      .filter((_, i) => i % 2 === 0)
      .map((s) => s.t);
    expect(met(found, truth)).toBeGreaterThan(0.95);
    expect(found.length).toBeLessThanOrEqual(truth.length + 1);
  });

  it('takes plain strokes at 200 for a beat of 100, nearer to what listeners tap', () => {
    expect(beatGrid(analysed(20, pattern(200, 0.4, 19.5, 0))).tempi[0]!.bpm).toBeCloseTo(100, 0);
  });

  it('follows a jump of tempo', () => {
    const { beats: found, tempi } = beatGrid(analysed(30, [...pattern(100, 0.4, 15), ...pattern(140, 15.4, 29.5)]));
    expect(tempi.map((s) => Math.round(s.bpm / 2) * 2)).toEqual([100, 140]);
    expect(
      met(
        found,
        pattern(140, 18, 29)
          .filter((_, i) => i % 2 === 0)
          .map((s) => s.t - 18 + 15.4 + Math.ceil((2.6 * 140) / 60) * (60 / 140))
          .filter((t) => t < 29),
      ),
    ).toBeGreaterThan(0.9);
  });

  it('has beats on the tempo through bars without drums, where it is the same on both sides', () => {
    const period = 60 / 128;
    const samples = noise(40, 0.001);
    const truth = Array.from({ length: 80 }, (_, i) => 0.5 + i * period);
    // A build-up for eight beats: soft strokes off the beat, no drum.
    const quiet = (i: number): boolean => i >= 32 && i < 40;
    for (const [i, t] of truth.entries()) {
      if (!quiet(i)) add(samples, t, 0.4, kick);
      else add(samples, t + 0.031 + 0.012 * (i % 3), 0.05, (at, k) => 0.1 * signed(hash(5, k)) * Math.exp(-at * 60));
    }
    const { beats: found } = beatGrid(analyseSound(samples));
    const off = truth.filter((_, i) => quiet(i)).map((t) => Math.min(...found.map((f) => Math.abs(f - t))));
    expect(Math.max(...off)).toBeLessThan(0.01);
  });

  it('finds no beat in noise or in strokes at random, and none in a very short sound', () => {
    expect(hasBeat(analysed(12, []))).toBe(false);
    // Silence with a rounding error every half second.
    const hush = analysed(
      12,
      Array.from({ length: 24 }, (_, i) => ({ t: i / 2, level: 1e-4 })),
    );
    expect(
      beatGrid({
        ...hush,
        onset: hush.onset.map((v) => v * 1e-3),
        attacks: new Float64Array(),
        attackHops: new Uint32Array(),
      }).beats,
    ).toEqual([]);
    expect(
      hasBeat(
        analysed(
          20,
          Array.from({ length: 40 }, (_, i) => ({ t: 0.2 + 19 * ((hash(5, i) >>> 8) / 16777216), level: 0.4 })),
        ),
      ),
    ).toBe(false);
    expect(beatGrid(analysed(2, pattern(120, 0, 2))).beats).toEqual([]);
    expect(beats.find({}, () => 1)).toEqual([]);
  });
});

describe('bars', () => {
  /** Bass drum on 1 and 3, snare on 2 and 4, a chord that changes with each bar; begins with the beat `first` of a bar. */
  function song(first: number): { sound: SoundSignals; downbeats: number[] } {
    const rate = 44100;
    const out = noise(24, 0.001, rate);
    const beat = 0.5;
    const downbeats: number[] = [];
    for (let i = 0; 0.4 + i * beat < 23; i++) {
      const t = 0.4 + i * beat;
      const position = (i + first) % 4;
      if (position === 0) downbeats.push(t);
      if (position % 2 === 0) add(out, t, 0.3, kick, rate);
      else add(out, t, 0.2, (s, k) => 0.4 * signed(hash(11, k)) * Math.exp(-s * 25), rate);
      const root = 220 * 2 ** ([0, 5, 7, 3][Math.floor((i + first) / 4) % 4]! / 12);
      add(
        out,
        t,
        beat,
        (s) => 0.08 * (Math.sin(2 * Math.PI * root * s) + Math.sin(2 * Math.PI * root * 1.5 * s)),
        rate,
      );
    }
    return { sound: analyseSound(out, 4096, rate), downbeats };
  }

  it.each([0, 1, 2, 3])('finds the first beat of the bar, beginning with beat %i', (first) => {
    const { sound, downbeats } = song(first);
    const { downbeats: found } = beatGrid(sound);
    expect(met(found, downbeats)).toBeGreaterThan(0.8);
    expect(found.length).toBeLessThanOrEqual(downbeats.length + 1);
  });

  it('halves, doubles, shifts, turns the bar and goes back', () => {
    const { sound } = song(0);
    const plain = editedGrid(sound, DEFAULT_GRID);
    const double = editedGrid(sound, { ...DEFAULT_GRID, times: 2 });
    expect(double.beats).toHaveLength(plain.beats.length * 2 - 1);
    expect(Math.abs(double.tempi[0]!.bpm / 240 - 1)).toBeLessThan(0.01);
    const half = editedGrid(sound, { ...DEFAULT_GRID, times: 0.5 });
    expect(half.beats.length).toBe(Math.ceil(plain.beats.length / 2));
    expect(half.beats).toContain(plain.downbeats[0]);
    const late = editedGrid(sound, { ...DEFAULT_GRID, shift: 0.02 });
    expect(late.beats[3]! - plain.beats[3]!).toBeCloseTo(0.02, 9);
    const turned = editedGrid(sound, { ...DEFAULT_GRID, bar: 1 });
    expect(turned.downbeats[0]).toBe(plain.beats[plain.beats.indexOf(plain.downbeats[0]!) + 1]);
  });

  it('follows a tapped tempo and a pinned beat', () => {
    // Strokes on every eighth alike: 75 and 150 are as right, and the person says which.
    const sound = analysed(
      20,
      Array.from({ length: 48 }, (_, i) => ({ t: 0.4 + i * 0.4, level: 0.5 })),
    );
    expect(editedGrid(sound, { ...DEFAULT_GRID, bpm: 75 }).tempi[0]!.bpm).toBeCloseTo(75, 0);
    expect(editedGrid(sound, { ...DEFAULT_GRID, bpm: 150 }).tempi[0]!.bpm).toBeCloseTo(150, 0);
    const slow = editedGrid(sound, { ...DEFAULT_GRID, bpm: 75 });
    const other = sound.attacks.find((t) => t > 5 && slow.beats.every((b) => Math.abs(b - t) > 0.1))!;
    const pinned = editedGrid(sound, { ...DEFAULT_GRID, bpm: 75, pin: other });
    expect(Math.min(...pinned.beats.map((b) => Math.abs(b - other)))).toBeLessThan(0.02);
  });

  it('reads a tempo off at least four taps', () => {
    expect(tappedTempo([0, 0.5, 1.01, 1.5, 2])).toBeCloseTo(120, 0);
    expect(tappedTempo([0, 0.5, 1])).toBeNull();
    expect(tappedTempo([0, 9, 18, 27])).toBeNull();
  });

  it('gives the middle of the distances of taps from their beats, a missed one among them', () => {
    expect(tapOffset([10.08, 10.7, 11.27, 11.9, 12.46], 10, 0.6)).toBeCloseTo(0.08, 2);
    // Early taps count as early, and one wild tap does not matter.
    expect(tapOffset([9.97, 10.57, 11.18, 11.77, 12.65], 10, 0.6)).toBeCloseTo(-0.03, 2);
    expect(tapOffset([10, 10.6, 11.2], 10, 0.6)).toBeNull();
  });
});
