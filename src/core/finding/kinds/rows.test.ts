import fc from 'fast-check';
import { expect, it } from 'vitest';
import { due } from './rows.ts';

const row = (times: readonly number[], shots: readonly number[]): number[] =>
  Array.from(due(times, shots), (surely) => Math.round(surely * 100) / 100);

it('says where the next of a row is due, the one before it, and the one between', () => {
  expect(row([1, 1.12, 1.24, 1.36], [0.1, 0.8, 0.6, 0.2])).toEqual([0.6, 0, 0, 0.6]);
  expect(row([1, 1.12, 1.24], [0.9, 0.1, 0.7])).toEqual([0, 0.7, 0]);
  // 20 ms beside its place it still is in the row, 30 ms beside it is not.
  expect(row([1, 1.12, 1.26, 1.37], [0.9, 0.9, 0.1, 0.1])).toEqual([0, 0, 0.9, 0]);
});

it('knows no rows that are slower than automatic fire, faster than attacks are told apart, or of what is hardly a shot', () => {
  expect(row([1, 1.3, 1.6, 1.9], [0.9, 0.9, 0.9, 0.1])).toEqual([0, 0, 0, 0]);
  expect(row([1, 1.04, 1.08], [0.9, 0.9, 0.1])).toEqual([0, 0, 0]);
  expect(row([1, 1.12, 1.24], [0.49, 0.49, 0.1])).toEqual([0, 0, 0]);
});

it('finds all evenly spaced threes, as trying every three does', () => {
  const attack = fc.record({ t: fc.integer({ min: 0, max: 600 }), p: fc.constantFrom(0.1, 0.55, 0.75, 0.95) });
  fc.assert(
    fc.property(fc.uniqueArray(attack, { maxLength: 24, selector: ({ t }) => t }), (attacks) => {
      const all = [...attacks].sort((a, b) => a.t - b.t);
      // No multiple of 7 or 3.5 ms lies just on a bound.
      const times = all.map(({ t }) => t * 0.007);
      const brute = times.map((at, i) => {
        let most = 0;
        all.forEach((one, j) =>
          all.forEach((other, k) => {
            if (j >= k || i === j || i === k || Math.min(one.p, other.p) < 0.5) return;
            const gap = times[k]! - times[j]!;
            const places = [
              ...(gap >= 0.05 && gap <= 0.25 ? [times[j]! - gap, times[k]! + gap] : []),
              ...(gap >= 0.1 && gap <= 0.5 ? [times[j]! + gap / 2] : []),
            ];
            if (places.some((place) => Math.abs(place - at) <= 0.02)) most = Math.max(most, Math.min(one.p, other.p));
          }),
        );
        return Math.fround(most);
      });
      expect([
        ...due(
          times,
          all.map(({ p }) => p),
        ),
      ]).toEqual(brute);
    }),
  );
});
