import { describe, expect, it } from 'vitest';
import { adapted, holdsMusic } from '../kinds/adapt.ts';
import type { HitKind } from '../../document/types.ts';
import { localProminence } from '../signals/local-prominence.ts';
import { LEAST_OVER } from '../signals/types.ts';
import { SOUND_CLASSES, type SoundSignals } from '../signals/types.ts';
import { analyseSound, bursts, classified, ofSound, type Said } from '../../testkit/signals.ts';
import { findHits } from './index.ts';
import type { Find } from './detector.ts';
import { onsets, onsetThreshold, withoutSecondStrokes } from './onsets.ts';

const blow = (t: number, strength = 0.5, kind: HitKind = 'impact', change: Partial<Find> = {}): Find => ({
  t,
  kind,
  strength,
  confidence: 0.8,
  ...change,
});
const times = (finds: readonly Find[]): number[] => withoutSecondStrokes(finds).map((find) => find.t);

describe('how loud an attack is heard', () => {
  it('is told in decibels: half the samples are six less (20 log10 2, ISO 80000-8), whatever the kind', () => {
    const loud = (level: number): (number | undefined)[] => {
      const { hits, faint } = findHits(
        { id: 's', role: 'footage', tracks: ['game'], delay: null },
        ofSound(analyseSound(bursts(4, [1, 2, 3]).map((v) => v * level))),
      );
      return [1, 2, 3].map((t) => [...hits, ...faint].find((hit) => Math.abs(hit.t - t) < 0.03)?.loud);
    };
    const half = loud(0.5);
    loud(1).forEach((level, i) => expect(level! - half[i]!).toBeCloseTo(6.02, 0));
  });
});

describe('second strokes', () => {
  it('belong to the blow before them', () => {
    expect(times([blow(1), blow(1.053), blow(2)])).toEqual([1, 2]);
    expect(times([blow(1, 0.5, 'shot'), blow(1.06, 0.6, 'impact')])).toEqual([1]);
  });

  it('are the blow when they are much stronger', () => {
    expect(times([blow(1, 0.2), blow(1.05, 0.5), blow(2)])).toEqual([1.05, 2]);
  });

  it('are the blow when they are clearly likelier hits, and not when they are stronger but less likely', () => {
    expect(
      times([blow(1, 0.9, 'shot', { confidence: 0.5 }), blow(1.05, 0.2, 'shot', { confidence: 0.8 }), blow(2)]),
    ).toEqual([1.05, 2]);
    expect(
      times([blow(1, 0.9, 'shot', { confidence: 0.5 }), blow(1.05, 0.2, 'shot', { confidence: 0.6 }), blow(2)]),
    ).toEqual([1, 2]);
    expect(
      times([blow(1, 0.2, 'shot', { confidence: 0.8 }), blow(1.05, 0.9, 'shot', { confidence: 0.6 }), blow(2)]),
    ).toEqual([1, 2]);
  });

  it('stay where they go on evenly, as a burst does', () => {
    const burst = [1, 1.06, 1.12, 1.18];
    expect(times(burst.map((t) => blow(t, 0.5, 'shot')))).toEqual(burst);
    expect(times([blow(1), blow(1.05), blow(1.15)])).toEqual([1, 1.15]);
    // Nothing fires every 35 ms: one shot and what it is mixed with.
    expect(times([1, 1.035, 1.07].map((t) => blow(t, 0.5, 'shot')))).toEqual([1]);
  });

  it('leave drums, notes and what is no hit by itself alone', () => {
    expect(times([blow(1, 0.5, 'kick'), blow(1.05, 0.5, 'hat')])).toEqual([1, 1.05]);
    expect(times([blow(1), blow(1.05, 0.5, 'shot', { faint: true }), blow(1.09)])).toEqual([1, 1.05, 1.09]);
  });
});

it('shows at no sensitivity what was not told apart', () => {
  for (const kind of ['shot', 'impact', 'hat', 'note'] as const)
    for (const hit of [0, 0.5, 1]) expect(onsetThreshold(1, kind, hit)).toBeGreaterThanOrEqual(LEAST_OVER);
});

it('lets fainter ones through the likelier they are shots or impacts, but for drums and notes', () => {
  expect(onsetThreshold(0.5, 'kick', 1)).toBe(3);
  expect(onsetThreshold(0.5, 'kick', 0.1)).toBe(3);
  expect(onsetThreshold(0.5, 'shot', 0.5)).toBeCloseTo(1.2, 6);
  expect(onsetThreshold(0.5, 'impact', 0.9)).toBeCloseTo(0.66, 6);
  expect(onsetThreshold(0, 'shot', 0.9)).toBeGreaterThan(onsetThreshold(0.5, 'shot', 0.9));
});

it('finds no shots in what a person calls music, however much it sounds like them', () => {
  const at = [1, 2.3, 3.1, 5.2, 6.9, 8.4];
  const sound = classified(
    at.map((t) => ({ t, said: { shot: 1 }, height: 30 })),
    10,
  );
  const kinds = (music: boolean): string[] => onsets.find({ sound, music }, () => 0.5).map(({ kind }) => kind);
  expect(kinds(false)).toEqual(at.map(() => 'shot'));
  expect(kinds(true).filter((kind) => kind === 'shot' || kind === 'impact')).toEqual([]);
});

/** A bass drum on every beat, and at 10.2 s, between two of them, an attack with this onset function and these probabilities. */
const overMusic = (height: number, said: Said): SoundSignals =>
  classified(
    [
      ...Array.from({ length: 40 }, (_, i) => ({ t: 0.5 + 0.5 * i, said: { kick: 1 } })),
      { t: 10.2, said, height },
    ].sort((a, b) => a.t - b.t),
    21,
  );

const kindBetween = (sound: SoundSignals): string | undefined =>
  onsets.find({ sound, music: false }, () => 0.5).find(({ t }) => t === 10.2)?.kind;

it('lets faint shots over music through only where they are hardly drums or notes instead', () => {
  const found = (said: Said): boolean => {
    const sound = overMusic(1, said);
    const over = localProminence(sound.onset)[1020]!;
    expect(over).toBeGreaterThan(onsetThreshold(0.5, 'shot', 1));
    expect(over).toBeLessThan(onsetThreshold(0.5, 'shot', 0));
    expect(holdsMusic(sound)).toBe(true);
    return kindBetween(sound) === 'shot';
  };
  expect(found({ shot: 0.9, other: 0.1 })).toBe(true);
  expect(found({ shot: 0.28, hat: 0.25, note: 0.24, snare: 0.2, other: 0.03 })).toBe(false);
});

it('calls no stroke in music a shot that hardly may be one, though each kind of stroke may be it less', () => {
  const sound = overMusic(15, { shot: 0.07, hat: 0.03, note: 0.03, snare: 0.03, kick: 0.03, other: 0.81 });
  const row = adapted(sound).subarray([...sound.attacks].indexOf(10.2) * SOUND_CLASSES.length);
  expect(Math.max(...row.subarray(2, 6))).toBeLessThan(row[0]!);
  expect(kindBetween(sound)).not.toBe('shot');
  expect(kindBetween(overMusic(15, { shot: 0.3, hat: 0.1, note: 0.1, snare: 0.1, kick: 0.1, other: 0.3 }))).toBe(
    'shot',
  );
});
