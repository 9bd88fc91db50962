import fc from 'fast-check';
import { expect, it } from 'vitest';
import { lowerBound } from './search.ts';

it('finds the first that is no less, among repeated and before, between and after all', () => {
  fc.assert(
    fc.property(fc.array(fc.integer({ min: -5, max: 5 })), fc.integer({ min: -7, max: 7 }), (values, least) => {
      const ordered = values.sort((a, b) => a - b).map((t) => ({ t }));
      const first = ordered.findIndex(({ t }) => t >= least);
      expect(lowerBound(ordered, least, ({ t }) => t)).toBe(first < 0 ? ordered.length : first);
    }),
  );
});
