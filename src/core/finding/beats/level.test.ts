import { describe, expect, it } from 'vitest';
import { hash, signed } from '../../base/hash.ts';
import type { SoundSignals } from '../signals/types.ts';
import { add, analyseSound, hat, kick, noise, classified } from '../../testkit/signals.ts';
import { levelOf } from './level.ts';
import { beatGrid, hasBeat } from './track.ts';

/** Strokes of a bar in sixteenths. */
interface Bar {
  readonly kick: readonly number[];
  readonly snare: readonly number[];
  readonly hat: readonly number[];
}

const eighths = [0, 2, 4, 6, 8, 10, 12, 14];
const ROCK: Bar = { kick: [0, 8], snare: [4, 12], hat: eighths };
const BREAK: Bar = { kick: [0, 2, 10], snare: [4, 12], hat: eighths };
const FOUR: Bar = { kick: [0, 4, 8, 12], snare: [], hat: [2, 6, 10, 14] };
const HALF: Bar = { kick: [0, 6], snare: [8], hat: eighths };
const BARE: Bar = { kick: [0, 10], snare: [4, 12], hat: [] };
const WALTZ: Bar = { kick: [0], snare: [4, 8], hat: [0, 2, 4, 6, 8, 10] };

/** Eight bars of strokes, in seconds. */
const strokes = (bar: Bar, bpm: number, sixteenths = 16): { t: number; kind: 'kick' | 'snare' | 'hat' }[] =>
  (['kick', 'snare', 'hat'] as const)
    .flatMap((kind) =>
      Array.from({ length: 8 }, (_, n) =>
        bar[kind].map((at) => ({ t: 0.4 + ((n * sixteenths + at) * 15) / bpm, kind })),
      ).flat(),
    )
    .sort((a, b) => a.t - b.t);

const played = (bar: Bar, bpm: number, sixteenths?: number): SoundSignals =>
  classified(strokes(bar, bpm, sixteenths).map(({ t, kind }) => ({ t, said: { [kind]: 1 } })));

/** Times each so many beats apart, over eight bars. */
const every = (beats: number, bpm: number, perBar = 4, from = 0): number[] =>
  Array.from({ length: Math.floor((8 * perBar - from) / beats) }, (_, i) => 0.4 + ((from + i * beats) * 60) / bpm);

describe('the level of beats', () => {
  it.each([
    ['rock', ROCK, 174],
    ['a break', BREAK, 160],
    ['four on the floor', FOUR, 176],
    ['a break without hats', BARE, 150],
  ] as const)('is twice as fast where every second beat of %s was taken', (_, bar, bpm) => {
    expect(levelOf(played(bar, bpm), every(2, bpm))).toBe(0.5);
    expect(levelOf(played(bar, bpm), every(2, bpm, 4, 1))).toBe(0.5);
    expect(levelOf(played(bar, bpm), every(1, bpm))).toBe(1);
  });

  it.each([
    ['rock', ROCK, 84],
    ['a break', BREAK, 76],
    ['four on the floor', FOUR, 90],
    ['half time', HALF, 74],
  ] as const)('is kept where the beat of slow %s was taken', (_, bar, bpm) => {
    expect(levelOf(played(bar, bpm), every(1, bpm))).toBe(1);
  });

  it('is kept in bars of three, and where nothing is a drum', () => {
    expect(levelOf(played(WALTZ, 90, 12), every(1, 90, 3))).toBe(1);
    const sound = played(ROCK, 174);
    expect(levelOf({ ...sound, attackKinds: new Uint8Array(sound.attackKinds.length) }, every(2, 174))).toBe(1);
    expect(levelOf(sound, every(2, 174).slice(0, 7))).toBe(1);
  });

  it('is kept where snares alone fall on every beat', () => {
    expect(levelOf(played({ kick: [], snare: [0, 4, 8, 12], hat: [] }, 80), every(1, 80))).toBe(1);
  });

  it('is half as fast where eighths were taken for beats', () => {
    expect(levelOf(played(HALF, 74), every(0.5, 74))).toBe(2);
    expect(levelOf(played(BREAK, 76), every(0.5, 76))).toBe(2);
  });

  it('leaves beats where people tap them: neither under 62 nor over 190 a minute', () => {
    expect(levelOf(played(HALF, 60), every(0.5, 60))).toBe(1);
    expect(levelOf(played(ROCK, 196), every(2, 196))).toBe(1);
  });
});

const snare = (t: number, i: number): number =>
  (0.3 * signed(hash(7, i)) + 0.25 * Math.sin(2 * Math.PI * 190 * t)) * Math.exp(-t * 22);
const SOUNDS = {
  kick: { seconds: 0.3, value: kick },
  snare: { seconds: 0.25, value: snare },
  hat: { seconds: 0.1, value: hat },
} as const;

describe('drums', () => {
  // 160 and 174 were heard as 107, 80 and 87 by the onset function alone, and bare ones had no beat.
  it.each([
    ['four on the floor', FOUR, 160],
    ['four on the floor', FOUR, 84],
    ['rock', ROCK, 174],
    ['a break', BREAK, 128],
    ['a break without hats', BARE, 100],
  ] as const)('of %s are followed in the right octave, on the beat', (_, bar, bpm) => {
    const all = strokes(bar, bpm);
    const samples = noise(Math.ceil(all.at(-1)!.t + 1), 0.001);
    for (const { t, kind } of all) add(samples, t, SOUNDS[kind].seconds, SOUNDS[kind].value);
    const sound = analyseSound(samples);
    expect(hasBeat(sound)).toBe(true);
    const { beats, tempi } = beatGrid(sound);
    expect(Math.abs(tempi[0]!.bpm / bpm - 1)).toBeLessThan(0.01);
    const truth = every(1, bpm).filter((t) => t <= all.at(-1)!.t);
    expect(truth.filter((t) => beats.some((b) => Math.abs(b - t) <= 0.07)).length / truth.length).toBeGreaterThan(0.95);
  });
});
