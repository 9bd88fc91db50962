import { defineConfig } from 'vitest/config';

/** Browser tests in which nobody waits for the screen: two of them go on beside each other. */
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
          testTimeout: 30_000,
        },
      },
      {
        test: {
          name: 'browser',
          include: ['tests/browser/**/*.test.ts'],
          exclude: SCREENLESS,
          environment: 'node',
          testTimeout: 120_000,
          hookTimeout: 120_000,
          fileParallelism: false,
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
          expect: { poll: PATIENT },
          sequence: { groupOrder: 1 },
        },
      },
    ],
  },
});
