import { describe, expect, it } from 'vitest';
import type { Content } from '../../document/types.ts';
import { beatGrid, hasBeat } from '../beats/track.ts';
import { BARK_BANDS, SOUND_CLASSES, type SoundClass, type SoundSignals } from '../signals/types.ts';
import { classified, type Said } from '../../testkit/signals.ts';
import { adapted, holdsMusic } from './adapt.ts';
import trainedFrequencies from './generated/frequencies.js';

/** Attacks at uneven times, each with what the model says of it and how far it stands out. */
const recording = (attacks: readonly (Said & { readonly over?: number; readonly at?: number })[]): SoundSignals =>
  classified(
    attacks.map(({ at, over = 20, ...said }, i) => ({
      t: at ?? 0.5 + 0.61 * i + 0.17 * Math.sin(5 * i),
      said,
      height: over,
    })),
  );

/** What the model says of an attack that is a shot or an impact with the same odds, once the frequencies it was trained with are taken off. */
const even = (): Said => {
  const [shot, impact] = ['shot', 'impact'].map(
    (name) => trainedFrequencies[SOUND_CLASSES.indexOf(name as SoundClass)]!,
  ) as [number, number];
  return { shot: shot / (shot + impact), impact: impact / (shot + impact) };
};

const of = (sound: SoundSignals, attack: number, name: SoundClass, said = false): number =>
  adapted(sound, said)[attack * SOUND_CLASSES.length + SOUND_CLASSES.indexOf(name)]!;
const repeated = (count: number, said: Said & { over?: number }): (Said & { over?: number })[] =>
  Array.from({ length: count }, () => said);

describe('what a recording holds', () => {
  it.each([1, 2, 5, 20])('decides what may be a shot or an impact, after %i clear shots', (count) => {
    // After n of one sort Jeffreys' prior gives (n + 1/2) / (n + 1) for the next (R. E. Krichevsky and V. K. Trofimov, IEEE Trans. IT 27(2), 1981).
    // The even one counts itself for neither, since its odds are the same at every share.
    const sound = recording([...repeated(count, { shot: 1 }), even()]);
    expect(of(sound, count, 'shot')).toBeCloseTo((count + 0.5) / (count + 1), 1);
    expect(of(sound, count, 'shot') + of(sound, count, 'impact')).toBeCloseTo(1, 1);
  });

  it('works the same way for impacts', () => {
    const sound = recording([...repeated(10, { impact: 1 }), even()]);
    expect(of(sound, 10, 'impact')).toBeGreaterThan(0.85);
  });

  it('begins with what a person says is in it, and is moved by what is heard', () => {
    const alone = recording([even()]);
    const p = (sound: SoundSignals, attack: number, content: Content): number =>
      adapted(sound, false, content)[attack * SOUND_CLASSES.length + SOUND_CLASSES.indexOf('shot')]!;
    // As after twelve: (12 + 0) / (12 + 1/2) of Beta(12, 1/2).
    expect(p(alone, 0, 'firearms')).toBeGreaterThan(0.9);
    for (const content of ['blows', 'ball'] as const) expect(p(alone, 0, content)).toBeLessThan(0.1);
    for (const content of ['unsaid', 'mixed'] as const) expect(p(alone, 0, content)).toBeCloseTo(0.5, 1);
    const blows = recording([...repeated(40, { impact: 1 }), even()]);
    expect(p(blows, 40, 'firearms')).toBeLessThan(0.4);
    // Drums are music: nothing in them is a shot.
    expect(p(recording([...repeated(4, { kick: 0.6, shot: 0.4 })]), 0, 'drums')).toBe(0);
  });

  it('leaves even odds where shots and impacts are as many', () => {
    const sound = recording([...repeated(6, { shot: 1 }), ...repeated(6, { impact: 1 }), even()]);
    expect(of(sound, 12, 'shot')).toBeCloseTo(0.5, 1);
    expect(of(sound, 0, 'shot')).toBeGreaterThan(0.95);
    expect(of(sound, 6, 'impact')).toBeGreaterThan(0.95);
  });

  it('is not asked of what is faint, nor of what is more likely no hit', () => {
    for (const unclear of [
      { shot: 1, over: 1 },
      { shot: 0.3, other: 0.7 },
    ]) {
      const sound = recording([...repeated(20, unclear), even()]);
      expect(of(sound, 20, 'shot')).toBeCloseTo(0.5, 1);
    }
  });

  it('does not make a hit of what is none', () => {
    const sound = recording([...repeated(20, { shot: 1 }), { shot: 0.05, other: 0.95 }]);
    expect(of(sound, 20, 'other')).toBeGreaterThan(0.8);
  });
});

describe('music whose beat is hidden', () => {
  const shots = repeated(27, { shot: 0.9, other: 0.1 });
  /** Strokes twice a second, fainter than the shots between them. */
  const strokes = (said: Said & { over?: number }, count = 36): (Said & { at: number })[] =>
    Array.from({ length: count }, (_, i) => ({ over: 9, ...said, at: 0.7 + i / 2 }));
  const drums = { kick: 0.5, note: 0.4, shot: 0.1 };

  it('is heard by strokes and notes that are surely nothing else, and keeps them', () => {
    const sound = recording([...shots, ...strokes(drums)]);
    expect(hasBeat(sound)).toBe(false);
    expect(beatGrid(sound).confidence).toBeGreaterThan(0.2);
    expect(holdsMusic(sound)).toBe(true);
    expect(of(sound, 30, 'kick')).toBeGreaterThan(0.3);
    expect(of(sound, 0, 'shot')).toBeGreaterThan(0.8);
  });

  it('is not, by few, faint or less certain ones, nor by what comes at no beat at all', () => {
    expect(holdsMusic(recording([...shots, ...strokes({ ...drums, over: 1 })]))).toBe(false);
    expect(holdsMusic(recording([...shots, ...strokes({ kick: 0.7, shot: 0.3 })]))).toBe(false);
    expect(holdsMusic(recording([...shots, ...strokes({ shot: 1 }, 33), ...strokes(drums, 36).slice(33)]))).toBe(false);
    expect(holdsMusic(recording([...shots, ...repeated(20, drums)]))).toBe(false);
    expect(holdsMusic(recording(shots))).toBe(false);
  });
});

it('takes what recurs with the beat for played, unless it sounds otherwise there', () => {
  const clap = { shot: 0.7, snare: 0.3, over: 12 };
  const claps = Array.from({ length: 9 }, (_, i) => ({ ...clap, at: 0.95 + 2 * i }));
  const alone = { ...clap, at: 8.33 };
  const all = [...claps, alone, ...Array.from({ length: 37 }, (_, i) => ({ kick: 1, over: 20, at: 0.7 + i / 2 }))].sort(
    (a, b) => a.at - b.at,
  );
  const sound = recording(all);
  expect(hasBeat(sound)).toBe(true);
  const shot = (attack: (typeof all)[number], heard = sound): number => of(heard, all.indexOf(attack), 'shot');
  for (const played of claps) expect(shot(played)).toBeLessThan(0.1);
  expect(shot(alone)).toBeGreaterThan(0.5);
  // The same times, but one is 10 dB louder in all bands.
  const louder = { ...sound, bands: sound.bands.slice() };
  const hop = Math.round(claps[4]!.at * 100);
  for (let i = (hop - 1) * BARK_BANDS; i < (hop + 22) * BARK_BANDS; i++) louder.bands[i]! += 10;
  expect(shot(claps[4]!, louder)).toBeGreaterThan(0.5);
  expect(shot(claps[3]!, louder)).toBeLessThan(0.1);
});

it('expects shots at any time, and strokes of the music where such strokes come', () => {
  const drums = Array.from({ length: 37 }, (_, i) => ({ kick: 1, over: 20, at: 0.7 + i / 2 }));
  const unclear = { shot: 0.5, snare: 0.5, over: 12 };
  const [between, on] = [
    { ...unclear, at: 8.33 },
    { ...unclear, at: 12.73 },
  ];
  const all = [...drums, between, on].sort((a, b) => a.at - b.at);
  const sound = recording(all);
  // Each of its own loudness, so that none is heard again.
  all.forEach(({ at }, i) =>
    sound.bands.fill(10 * (i % 7) + i, Math.round(at * 100) * BARK_BANDS, Math.round(at * 100 + 20) * BARK_BANDS),
  );
  const shot = (attack: (typeof all)[number]): number => of(sound, all.indexOf(attack), 'shot');
  expect(shot(between)).toBeGreaterThan(0.75);
  expect(shot(on)).toBeLessThan(0.5);
});

it('takes what goes on evenly from shots for one more', () => {
  const fired = [3, 3.12, 3.24].map((at) => ({ shot: 0.9, other: 0.1, at }));
  const unclear = { shot: 0.3, other: 0.7 };
  const [next, alone] = [
    { ...unclear, at: 3.36 },
    { ...unclear, at: 9.41 },
  ];
  const all = [...fired, next, alone];
  const sound = recording(all);
  const shot = (attack: (typeof all)[number]): number => of(sound, all.indexOf(attack), 'shot');
  expect(shot(next)).toBeGreaterThan(0.5);
  expect(shot(alone)).toBeLessThan(0.45);
});

it('gives probabilities, no drums without a beat, nothing to what was not told apart, and no shots to music', () => {
  const sound = recording([{ kick: 0.6, shot: 0.4 }, {}, { shot: 0.5, snare: 0.5 }, { note: 0.9, other: 0.1 }]);
  const rows = (said: boolean): number[][] =>
    Array.from({ length: 4 }, (_, i) => SOUND_CLASSES.map((name) => of(sound, i, name, said)));
  for (const said of [false, true]) {
    rows(said).forEach((row, i) => {
      expect(Math.min(...row)).toBeGreaterThanOrEqual(0);
      expect(row.reduce((a, b) => a + b)).toBeCloseTo(i === 1 ? 0 : 1, 4);
    });
  }
  for (const name of ['kick', 'snare', 'hat', 'note'] as const)
    expect(rows(false).every((row) => row[SOUND_CLASSES.indexOf(name)] === 0)).toBe(true);
  for (const name of ['shot', 'impact'] as const)
    expect(rows(true).every((row) => row[SOUND_CLASSES.indexOf(name)] === 0)).toBe(true);
  expect(of(sound, 0, 'kick', true)).toBeGreaterThan(0.9);
});
