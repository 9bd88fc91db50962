import { replaced } from '../document/params.ts';
import { EASING_NAMES, type Easing, type Key } from '../document/types.ts';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { eased, reversed } from './easing.ts';
import {
  endedIn,
  evaluate,
  integral,
  mirrored,
  scaledValues,
  scaleFrames,
  shifted,
  GRAIN,
  stretched,
  withKey,
} from './envelope.ts';

const key = (at: number, value: number, ease: Key['ease'] = 'linear'): Key => ({ at, value, ease });

describe('shorter and longer', () => {
  const keys = (...at: number[]) => at.map((t) => ({ at: t, value: t, ease: 'linear' as const }));
  const times = (envelope: ReturnType<typeof stretched>) =>
    typeof envelope === 'number' ? [] : envelope.map(({ at }) => at);

  it('keep the keys of accents that count in beats, and come back', () => {
    const beats = keys(0, 0.25, 0.5, 1);
    expect(times(stretched(beats, 2, GRAIN.beats))).toEqual([0, 0.5, 1, 2]);
    expect(times(stretched(stretched(beats, 2, GRAIN.beats), 0.5, GRAIN.beats))).toEqual([0, 0.25, 0.5, 1]);
    expect(times(stretched(keys(-4, 0, 6), 0.5, GRAIN.frames))).toEqual([-2, 0, 3]);
  });
});

describe('easing, CSS Easing Functions Level 1', () => {
  it('follows cubic-bezier(x1, y1, x2, y2) as the curve is defined there', () => {
    // The curve itself at a parameter s: x(s) and y(s) from the control points.
    const curve = {
      ease: [0.25, 0.1, 0.25, 1],
      'slow out': [0.42, 0, 1, 1],
      'both slow': [0.42, 0, 0.58, 1],
      'fast out': [0.05, 0.7, 0.1, 1],
    } as const;
    for (const [name, [x1, y1, x2, y2]] of Object.entries(curve)) {
      for (const s of [0.1, 0.3, 0.5, 0.7, 0.9]) {
        const point = (a: number, b: number): number => 3 * (1 - s) ** 2 * s * a + 3 * (1 - s) * s * s * b + s ** 3;
        expect(eased(name as Key['ease'], point(x1, x2))).toBeCloseTo(point(y1, y2), 4);
      }
    }
  });

  it('starts at 0, ends at 1 and holds its first value for `hold`', () => {
    for (const name of EASING_NAMES) {
      expect(eased(name, 0)).toBe(0);
      expect(eased(name, 1)).toBe(1);
    }
    expect(eased('hold', 0.999)).toBe(0);
  });
});

describe('envelope', () => {
  const punch = [key(-2, 100), key(0, 130), key(6, 100)];

  it('meets its keys and runs between them', () => {
    expect([-9, -2, -1, 0, 3, 6, 60].map((at) => evaluate(punch, at))).toEqual([100, 100, 115, 130, 115, 100, 100]);
    expect(evaluate(5, 3)).toBe(5);
  });

  it('stays between its least and greatest key for every easing that does not overshoot', () => {
    const keys = fc.uniqueArray(
      fc.record({
        at: fc.integer({ min: -60, max: 60 }),
        value: fc.double({ min: -50, max: 50, noNaN: true }),
        ease: fc.constantFrom(...EASING_NAMES.filter((name) => name !== 'overshoot')),
      }),
      { selector: (k) => k.at, minLength: 1, maxLength: 8 },
    );
    fc.assert(
      fc.property(keys, fc.double({ min: -80, max: 80, noNaN: true }), (list, at) => {
        const sorted = [...list].sort((a, b) => a.at - b.at);
        const value = evaluate(sorted, at);
        expect(value).toBeGreaterThanOrEqual(Math.min(...sorted.map((k) => k.value)) - 1e-6);
        expect(value).toBeLessThanOrEqual(Math.max(...sorted.map((k) => k.value)) + 1e-6);
      }),
    );
  });

  it('scales frame counts to another rate, to at least one frame', () => {
    expect([1, -1, 0, 7, -7].map((n) => scaleFrames(n, 0.5))).toEqual([1, -1, 0, 4, -4]);
    // Two keys never share a frame: the later one stays.
    expect(replaced([key(0, 1), key(1, 2), key(2, 3)], (k) => scaleFrames(k.at, 0.5))).toEqual([key(0, 1), key(1, 3)]);
  });

  it('sets keys', () => {
    expect(withKey(1, 3, 2)).toEqual([key(3, 2)]);
    expect(withKey(punch, 0, 140)[1]).toEqual(key(0, 140));
    expect(withKey([key(0, 1, 'hold'), key(5, 2)], 2, 9)[1]).toEqual(key(2, 9, 'hold'));
  });

  it('moves, stretches, mirrors and scales as a whole', () => {
    expect(shifted(punch, 3)).toEqual([key(1, 100), key(3, 130), key(9, 100)]);
    expect(stretched(punch, 2)).toEqual([key(-4, 100), key(0, 130), key(12, 100)]);
    expect(stretched(punch, 0.01)).toEqual([key(-1, 100), key(0, 130), key(1, 100)]);
    expect(mirrored([key(-2, 100, 'slow out'), key(0, 130, 'hold'), key(6, 100)])).toEqual([
      key(-6, 100, 'hold'),
      key(0, 130, reversed('slow out')),
      key(2, 100, 'slow out'),
    ]);
    expect(scaledValues(punch, 0.5, 100)).toEqual([key(-2, 100), key(0, 115), key(6, 100)]);
    for (const same of [shifted, stretched, mirrored]) expect(same(7, 1)).toBe(7);
  });

  it('mends ends that do not stand at the identity', () => {
    expect(endedIn([key(0, 130)], 100, -2, 6)).toEqual([key(-2, 100), key(0, 130), key(6, 100)]);
    expect(endedIn(punch, 100, -2, 6)).toEqual(punch);
    expect(evaluate(endedIn(5, 0, 0, 4), 4)).toBe(0);
  });
});

describe('running the other way', () => {
  it('eases back along the same points', () => {
    const easings: Easing[] = [
      'linear',
      'ease',
      'fast out',
      'slow out',
      'both slow',
      'overshoot',
      [0.2, -0.4, 0.7, 1.3],
    ];
    for (const ease of easings)
      for (const t of [0.1, 0.4, 0.8]) expect(eased(reversed(ease), 1 - t)).toBeCloseTo(1 - eased(ease, t), 3);
  });
});

describe('integral', () => {
  it('is the area under straight lines, exactly', () => {
    expect(integral([key(0, 0), key(10, 20)], 0, 10)).toBeCloseTo(100, 9);
    expect(integral([key(0, 4), key(5, 4)], -3, 12)).toBeCloseTo(60, 9);
    expect(integral(3, -2, 4)).toBe(18);
  });

  it('adds up over pieces and never depends on what was asked before', () => {
    const keys = [key(0, 2, 'fast out'), key(7, 30, 'both slow'), key(20, 1)];
    const fresh = (): Key[] => keys.map((k) => ({ ...k }));
    fc.assert(
      fc.property(fc.double({ min: 0, max: 60, noNaN: true }), fc.double({ min: 0, max: 60, noNaN: true }), (a, b) => {
        const one = fresh();
        integral(one, 0, b);
        expect(integral(one, 0, a)).toBe(integral(fresh(), 0, a));
        // More time under a positive rate is never less phase: nothing runs back.
        if (a <= b) expect(integral(one, 0, a)).toBeLessThanOrEqual(integral(one, 0, b) + 1e-9);
      }),
    );
  });
});
