import { expect, it } from 'vitest';
import { threadsFor } from './draw-pool.ts';

it('frames are drawn by as many threads as there are cores, as far as memory goes', () => {
  expect(threadsFor({ width: 1280, height: 720 }, 2)).toBe(2);
  expect(threadsFor({ width: 1280, height: 720 }, 64)).toBe(8);
  expect(threadsFor({ width: 3840, height: 2160 }, 8)).toBe(2);
  expect(threadsFor({ width: 8192, height: 8192 }, 8)).toBe(1);
  expect(threadsFor({ width: 640, height: 360 }, 1)).toBe(1);
});
