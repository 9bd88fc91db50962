import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EASING_NAMES, eased, evaluate, scaleEnvelope, withKey, withoutKey, type Key } from './envelope.ts';

const key = (at: number, value: number, ease: Key['ease'] = 'linear'): Key => ({ at, value, ease });

describe('easing, CSS Easing Functions Level 1', () => {
  it('follows cubic-bezier(x1, y1, x2, y2) as the curve is defined there', () => {
    // The curve itself at a parameter s: x(s) and y(s) from the control points.
    const curve = { ease: [0.25, 0.1, 0.25, 1], 'slow out': [0.42, 0, 1, 1], 'both slow': [0.42, 0, 0.58, 1], 'fast out': [0.05, 0.7, 0.1, 1] } as const;
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

  it('stays between its least and greatest key for every easing without overshoot', () => {
    const keys = fc.uniqueArray(fc.record({ at: fc.integer({ min: -60, max: 60 }), value: fc.double({ min: -50, max: 50, noNaN: true }), ease: fc.constantFrom(...EASING_NAMES) }), { selector: (k) => k.at, minLength: 1, maxLength: 8 });
    fc.assert(fc.property(keys, fc.double({ min: -80, max: 80, noNaN: true }), (list, at) => {
      const sorted = [...list].sort((a, b) => a.at - b.at);
      const value = evaluate(sorted, at);
      expect(value).toBeGreaterThanOrEqual(Math.min(...sorted.map((k) => k.value)) - 1e-6);
      expect(value).toBeLessThanOrEqual(Math.max(...sorted.map((k) => k.value)) + 1e-6);
    }));
  });

  it('scales frame counts to another rate, to at least one frame', () => {
    expect(scaleEnvelope(punch, 2)).toEqual([key(-4, 100), key(0, 130), key(12, 100)]);
    expect(scaleEnvelope([key(-1, 0), key(0, 1), key(1, 0)], 0.5)).toEqual([key(-1, 0), key(0, 1), key(1, 0)]);
    // Two keys never share a frame: the later one stays.
    expect(scaleEnvelope([key(0, 1), key(1, 2), key(2, 3)], 0.5)).toEqual([key(0, 1), key(1, 3)]);
  });

  it('sets and removes keys', () => {
    expect(withKey(1, 3, 2)).toEqual([key(3, 2)]);
    expect(withKey(punch, 0, 140)[1]).toEqual(key(0, 140));
    expect(withKey([key(0, 1, 'hold'), key(5, 2)], 2, 9)[1]).toEqual(key(2, 9, 'hold'));
    expect(withoutKey(punch, 0)).toEqual([punch[0], punch[2]]);
    expect(withoutKey([key(4, 7)], 4)).toBe(7);
  });
});
