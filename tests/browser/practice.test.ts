/**
 * The practice set, where it was found again, through the command line at default settings: floors are what
 * the detectors must reach. Its cases have exact truth; see docs/detection.md.
 */
import { existsSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { casesIn, measure, reached } from '../bench/cases.ts';
import { at } from './harness.ts';

const PRACTICE = at('../shared/practice');
const here = existsSync(PRACTICE);
if (!here) console.warn('The practice set is not at hand: the figures of the detectors are not checked.');

describe.skipIf(!here)('practice set', () => {
  it.each(here ? casesIn(PRACTICE).map(({ file, truth }) => [file, truth] as const) : [])(
    'reaches its figures on %s',
    async (file, truth) => {
      const rows = await measure(PRACTICE, file, truth);
      expect(rows.length).toBeGreaterThan(0);
      const missed = rows.filter((row) => !reached(row));
      expect(
        missed.map(({ what, value, floor, detail }) => `${what}: ${value.toFixed(3)}, wanted ${floor} (${detail})`),
      ).toEqual([]);
    },
  );
});
