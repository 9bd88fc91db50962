import { describe, expect, it } from 'vitest';
import type { HitKind } from '../montage/types.ts';
import { LEAST_OVER } from '../signals/sound.ts';
import { BARK_BANDS, CHROMA_RATE, SOUND_CLASSES, type SoundSignals } from '../signals/types.ts';
import type { Find } from './detector.ts';
import { onsets, onsetThreshold, withoutSecondStrokes } from './onsets.ts';

const blow = (t: number, strength = 0.5, kind: HitKind = 'impact', change: Partial<Find> = {}): Find => ({ t, kind, strength, confidence: 0.8, ...change });
const times = (finds: readonly Find[]): number[] => withoutSecondStrokes(finds).map((find) => find.t);

describe('second strokes', () => {
  it('belong to the blow before them', () => {
    expect(times([blow(1), blow(1.053), blow(2)])).toEqual([1, 2]);
    expect(times([blow(1, 0.5, 'shot'), blow(1.06, 0.6, 'impact')])).toEqual([1]);
  });

  it('are the blow when they are much stronger', () => {
    expect(times([blow(1, 0.2), blow(1.05, 0.5), blow(2)])).toEqual([1.05, 2]);
  });

  it('are the blow when they are clearly likelier hits, and not when they are stronger but less likely', () => {
    expect(times([blow(1, 0.9, 'shot', { confidence: 0.5 }), blow(1.05, 0.2, 'shot', { confidence: 0.8 }), blow(2)])).toEqual([1.05, 2]);
    expect(times([blow(1, 0.9, 'shot', { confidence: 0.5 }), blow(1.05, 0.2, 'shot', { confidence: 0.6 }), blow(2)])).toEqual([1, 2]);
    expect(times([blow(1, 0.2, 'shot', { confidence: 0.8 }), blow(1.05, 0.9, 'shot', { confidence: 0.6 }), blow(2)])).toEqual([1, 2]);
  });

  it('stay where they go on evenly, as a burst does', () => {
    const burst = [1, 1.06, 1.12, 1.18];
    expect(times(burst.map((t) => blow(t, 0.5, 'shot')))).toEqual(burst);
    expect(times([blow(1), blow(1.05), blow(1.15)])).toEqual([1, 1.15]);
  });

  it('leave drums, notes and what is no hit by itself alone', () => {
    expect(times([blow(1, 0.5, 'kick'), blow(1.05, 0.5, 'hat')])).toEqual([1, 1.05]);
    expect(times([blow(1), blow(1.05, 0.5, 'shot', { faint: true }), blow(1.09)])).toEqual([1, 1.05, 1.09]);
  });
});

it('shows at no sensitivity what was not told apart', () => {
  for (const kind of ['shot', 'impact', 'hat', 'note'] as const) for (const hit of [0, 0.5, 1]) expect(onsetThreshold(1, kind, hit)).toBeGreaterThanOrEqual(LEAST_OVER);
});

it('lets fainter ones through the likelier they are hits, but for drums and notes', () => {
  expect(onsetThreshold(0.5, 'kick', 1)).toBe(3);
  expect(onsetThreshold(0.5, 'kick', 0.1)).toBe(3);
  expect(onsetThreshold(0.5, 'shot', 0.5)).toBeCloseTo(1.2, 6);
  expect(onsetThreshold(0.5, 'impact', 0.9)).toBeCloseTo(0.66, 6);
  expect(onsetThreshold(0, 'shot', 0.9)).toBeGreaterThan(onsetThreshold(0.5, 'shot', 0.9));
});

it('finds no shots in what a person calls music, however much it sounds like them', () => {
  const at = [1, 2.3, 3.1, 5.2, 6.9, 8.4];
  const onset = new Float32Array(1000);
  for (const t of at) onset[Math.round(t * 100)] = 30;
  const sound: SoundSignals = {
    rate: 100, start: 0, onset, peaks: new Uint8Array(1000), bands: new Uint8Array(1000 * BARK_BANDS), chroma: new Uint8Array(1000 / CHROMA_RATE * 12),
    attacks: Float64Array.from(at), attackHops: Uint32Array.from(at, (t) => Math.round(t * 100)),
    attackKinds: Uint8Array.from(at.flatMap(() => SOUND_CLASSES.map((name) => (name === 'shot' ? 255 : 0)))),
  };
  const kinds = (music: boolean): string[] => onsets.find({ sound, music }, () => 0.5).map(({ kind }) => kind);
  expect(kinds(false)).toEqual(at.map(() => 'shot'));
  expect(kinds(true).filter((kind) => kind === 'shot' || kind === 'impact')).toEqual([]);
});
