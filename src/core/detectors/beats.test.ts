import { describe, expect, it } from 'vitest';
import { hash, signed } from '../random/hash.ts';
import { SoundAnalyser } from '../signals/sound.ts';
import type { SoundSignals } from '../signals/types.ts';
import { SIGNALS_VERSION } from '../signals/types.ts';
import { beatGrid, beats, hasBeat } from './beats.ts';

const RATE = 22050;

function analysed(seconds: number, strokes: readonly { t: number; level: number }[]): SoundSignals {
  const samples = new Float32Array(RATE * seconds).map((_, i) => signed(hash(1, i)) * 0.002);
  for (const { t, level } of strokes) for (let i = 0; i < RATE * 0.08; i++) {
    const at = Math.round(t * RATE) + i;
    if (at < samples.length) samples[at]! += signed(hash(2, i)) * Math.exp((-i / RATE) * 70) * level;
  }
  const analyser = new SoundAnalyser(RATE);
  analyser.push(samples);
  return analyser.finish();
}

/** Strokes on the beat, softer ones of level `between` halfway, from `from` on. */
const pattern = (bpm: number, from: number, to: number, between = 0.08): { t: number; level: number }[] =>
  Array.from({ length: Math.floor(((to - from) * bpm) / 30) }, (_, i) => ({ t: from + (i * 30) / bpm, level: i % 2 ? between : i % 4 ? 0.4 : 0.5 }));

/** Share of true beats met within 70 ms, the tolerance of the MIREX beat task. */
const met = (found: readonly number[], truth: readonly number[]): number => truth.filter((t) => found.some((f) => Math.abs(f - t) <= 0.07)).length / truth.length;

describe('beat grid (Ellis 2007)', () => {
  // Far from the usual tempi only plain strokes have one right octave.
  it.each([[60, 0], [72, 0], [96, 0.08], [120, 0.08], [150, 0.08]])('follows %i beats a minute, with strokes of level %f between, in the right octave', (bpm, between) => {
    const { beats: found, tempi } = beatGrid(analysed(20, pattern(bpm, 0.4, 19.5, between)));
    expect(tempi).toHaveLength(1);
    expect(Math.abs(tempi[0]!.bpm / bpm - 1)).toBeLessThan(0.01);
    const truth = pattern(bpm, 0.4, 19.5).filter((_, i) => i % 2 === 0).map((s) => s.t);
    expect(met(found, truth)).toBeGreaterThan(0.95);
    expect(found.length).toBeLessThanOrEqual(truth.length + 1);
  });

  it('takes plain strokes at 200 for a beat of 100, nearer to what listeners tap', () => {
    expect(beatGrid(analysed(20, pattern(200, 0.4, 19.5, 0))).tempi[0]!.bpm).toBeCloseTo(100, 0);
  });

  it('follows a jump of tempo', () => {
    const { beats: found, tempi } = beatGrid(analysed(30, [...pattern(100, 0.4, 15), ...pattern(140, 15.4, 29.5)]));
    expect(tempi.map((s) => Math.round(s.bpm / 2) * 2)).toEqual([100, 140]);
    expect(met(found, pattern(140, 18, 29).filter((_, i) => i % 2 === 0).map((s) => s.t - 18 + 15.4 + Math.ceil((2.6 * 140) / 60) * (60 / 140)).filter((t) => t < 29))).toBeGreaterThan(0.9);
  });

  it('finds no beat in noise or in strokes at random, and none in a very short sound', () => {
    expect(hasBeat(analysed(12, []))).toBe(false);
    // Silence with a rounding error every half second.
    const hush = analysed(12, Array.from({ length: 24 }, (_, i) => ({ t: i / 2, level: 1e-4 })));
    expect(beatGrid({ ...hush, onset: hush.onset.map((v) => v * 1e-3), attacks: new Float64Array(), attackHops: new Uint32Array() }).beats).toEqual([]);
    expect(hasBeat(analysed(20, Array.from({ length: 40 }, (_, i) => ({ t: 0.2 + 19 * ((hash(5, i) >>> 8) / 16777216), level: 0.4 }))))).toBe(false);
    expect(beatGrid(analysed(2, pattern(120, 0, 2))).beats).toEqual([]);
    expect(beats.find({ version: SIGNALS_VERSION, sound: null, track: null, picture: null }, 1)).toEqual([]);
  });
});
