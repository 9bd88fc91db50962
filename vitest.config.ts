import { defineConfig } from 'vitest/config';

/** Browser tests in which nobody waits for the screen: they come last, beside each other. */
const SCREENLESS = [
  'cli-analyse',
  'cli-render',
  'frames',
  'media',
  'mix',
  'practice',
  'processor',
  'queue',
  'render',
  'speed-made',
  'stamps',
].map((name) => `tests/browser/${name}.test.ts`);

/** What the screen is asked for may wait for a worker: the second given by default is short of a busy machine's. */
const PATIENT = { timeout: 20_000, interval: 50 };

export default defineConfig({
  test: {
    reporters: ['default', './tests/closing-line.ts'],
    projects: [
      {
        test: {
          name: 'unit',
          include: ['src/**/*.test.ts', 'tests/*.test.ts'],
          environment: 'node',
          testTimeout: 60_000,
          maxWorkers: 2,
        },
      },
      {
        test: {
          name: 'browser',
          include: ['tests/browser/**/*.test.ts'],
          exclude: SCREENLESS,
          environment: 'node',
          testTimeout: 240_000,
          hookTimeout: 120_000,
          maxWorkers: 2,
          sequence: { groupOrder: 1 },
          expect: { poll: PATIENT },
        },
      },
      {
        test: {
          name: 'screenless',
          include: SCREENLESS,
          environment: 'node',
          testTimeout: 240_000,
          hookTimeout: 240_000,
          maxWorkers: 2,
          sequence: { groupOrder: 2 },
          expect: { poll: PATIENT },
        },
      },
    ],
  },
});
