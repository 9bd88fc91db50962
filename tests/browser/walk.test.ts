/**
 * A random walk of keys over all stations, three hundred of them or as many as AKMEON_WALK says: no error, a montage that
 * can be read, and a way back to the start.
 */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Page } from 'playwright-core';
import { readMontage } from '../../src/core/document/akmeon.ts';
import type { Montage } from '../../src/core/document/types.ts';
import { hash } from '../../src/core/base/hash.ts';
import { findHits, montageOf, saved, startBench, station, type Bench } from './harness.ts';

let bench: Bench;
let page: Page;
beforeAll(async () => {
  bench = await startBench();
  page = await bench.page();
  await page.goto(`${bench.origin}/demo-montage`);
  await findHits(page);
  await page.getByRole('button', { name: /^Keep all \d/ }).click();
  await saved(page);
  // Steps of undo outlive this, and are walked back over as well.
  await page.reload();
  await page.locator('[data-playhead]').waitFor();
  await page.getByRole('tab', { name: 'Hits', exact: true }).waitFor();
});
afterAll(() => bench.close());

const STATIONS = ['Bring in', 'Check', 'Shape', 'Spread', 'Export'];
/** Keys with what they are worth: going about more often than deciding. */
const KEYS = [
  ...['ArrowRight', 'ArrowLeft', 'ArrowDown', 'ArrowUp', 'Shift+ArrowRight', 'Shift+ArrowLeft', 'ArrowDown'],
  ...['k', 'r', 'u', 'h', 'a', 'm', 'g', 'b', 'e', 'c', 'f', 'p', 'p', 'Alt+ArrowRight', 'Alt+ArrowLeft'],
  ...['Shift+b', 'Shift+e', 'Space', 'Space', '1', '2', '4', 'o', 'o', 'Control+z', 'Control+Shift+z'],
];
const WALK = Number(process.env['AKMEON_WALK'] ?? 300);
/** Keys after which the way back is gone: no more edits than undo keeps. */
const STRETCH = 300;

/** What of a montage undo brings back. */
const plain = (montage: Montage): string => JSON.stringify(montage);

describe('a random walk', () => {
  it('breaks nothing, and leads back to where it began', { timeout: 600_000 }, async () => {
    const start = plain(await montageOf(page));
    const undo = page.getByRole('button', { name: 'Undo', exact: true });
    const steps = async (): Promise<number> => Number(await undo.getAttribute('data-steps'));
    const first = await steps();
    for (let i = 0; i < WALK; i++) {
      const roll = hash(20_261_128, i);
      if (roll % 60 === 0) {
        const back = page.getByRole('button', { name: 'Back to everything' });
        if (await back.count()) await back.click();
        await station(page, STATIONS[(roll >>> 8) % STATIONS.length]!);
      } else await page.keyboard.press(KEYS[(roll >>> 8) % KEYS.length]!);
      if ((i + 1) % STRETCH) continue;
      const back = page.getByRole('button', { name: 'Back to everything' });
      if (await back.count()) await back.click();
      const pause = page.getByRole('button', { name: 'Pause', exact: true });
      if (await pause.count()) await pause.click();
      const now = await montageOf(page);
      // What is there can be read again, to the letter.
      expect(plain(readMontage(JSON.stringify(now)))).toBe(plain(now));
      while ((await steps()) > first) await undo.click();
      expect(plain(await montageOf(page)), `after ${i + 1} keys`).toBe(start);
      expect(bench.troubles).toEqual([]);
      // The picture is this montage's: the frame that is shown is one of its own.
      const shown = Number(await page.locator('[data-stage]').getAttribute('data-shown'));
      expect(shown).toBeLessThan(600);
    }
  });
});
