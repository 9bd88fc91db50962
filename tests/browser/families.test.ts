/** What a recording repeats, answered once: from the demo to accents on a family's hits. */
import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Page } from 'playwright-core';
import { at, montageOf, startBench, type Bench } from './harness.ts';

let bench: Bench;
let page: Page;
beforeAll(async () => {
  bench = await startBench();
  page = await bench.page();
  await page.goto(`${bench.origin}/demo-montage`);
  await page.getByRole('button', { name: 'Find hits' }).click();
  await page.getByRole('button', { name: /Keep all/ }).waitFor({ timeout: 120_000 });
  await page.getByRole('tab', { name: 'Sounds', exact: true }).click();
  await page.locator('[data-family]').first().waitFor({ timeout: 30_000 });
});
afterAll(() => bench.close());

const bolts = (
  JSON.parse(readFileSync(at('demo/events.json'), 'utf8')) as Record<string, { frame: number; kind: string }[]>
)['lantern-drift.mp4']!.filter(({ kind }) => kind === 'shot');

const counts = async (): Promise<{ families: number; asked: number }> => {
  const line = page.locator('[data-families]');
  return {
    families: Number(await line.getAttribute('data-families')),
    asked: Number(await line.getAttribute('data-asked')),
  };
};

describe('families of the same sound', () => {
  it('show their members in pictures, and how many answers are still worth giving', async () => {
    const { families, asked } = await counts();
    expect(families).toBeGreaterThan(0);
    expect(asked).toBeLessThanOrEqual(families);
    const first = page.locator('[data-family]').first();
    expect(await first.getByRole('img').count()).toBeGreaterThanOrEqual(2);
  });

  it('are kept by one key, named by one choice, and one step of undo takes an answer back', async () => {
    const decided = (await montageOf(page)).hits;
    const before = decided.length;
    const known = new Set(decided.map(({ id }) => id));
    const { asked } = await counts();
    const first = page.locator('[data-family]').first();
    const size = Number((await first.getAttribute('data-state'))!.split('/')[2]);
    await first.getByLabel(/^What these \d+ are/).selectOption('shot');
    const hits = (await montageOf(page)).hits;
    const named = hits.filter(({ id }) => !known.has(id));
    expect(named.length).toBeGreaterThan(1);
    expect(named.length).toBeLessThanOrEqual(size);
    expect(named.every(({ state, kind }) => state === 'kept' && kind === 'shot')).toBe(true);
    expect((await counts()).asked).toBeLessThanOrEqual(asked);
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    expect((await montageOf(page)).hits).toHaveLength(before);
    await page.keyboard.press('Shift+K');
    await expect.poll(async () => (await montageOf(page)).hits.length).toBeGreaterThan(before);
  });

  it('hold what the game fires again and again together', async () => {
    const show = page.getByRole('button', { name: /^Show all/ });
    if (await show.count()) await show.click();
    expect(await page.locator('[data-family]').count()).toBe((await counts()).families);
    const frames = await page
      .locator('[data-family]')
      .evaluateAll((cards) =>
        cards.map((card) =>
          [...card.querySelectorAll('[data-frame]')].map((one) => Number((one as HTMLElement).dataset['frame'])),
        ),
      );
    // The footage of the game is the first clip: its frames are the montage's. One family is bolts alone, and most of them.
    const isBolt = (frame: number): boolean => bolts.some((bolt) => Math.abs(bolt.frame - frame) <= 1);
    const pure = frames.filter((list) => list.every(isBolt));
    expect(Math.max(0, ...pure.map((list) => list.length))).toBeGreaterThanOrEqual(3);
  });

  it('part and join while likeness is dragged, with no new analysis', async () => {
    const { families } = await counts();
    const slider = page.getByLabel('Likeness from which sounds are one family');
    await slider.fill('0.9');
    const strict = (await counts()).families;
    await slider.fill('0.25');
    const loose = await page
      .locator('[data-state]')
      .evaluateAll((list) =>
        Math.max(0, ...list.map((one) => Number((one as HTMLElement).dataset['state']?.split('/')[2] ?? 0))),
      );
    await slider.fill('0.5');
    expect((await counts()).families).toBe(families);
    expect(loose).toBeGreaterThanOrEqual(strict > 0 ? 2 : 0);
    expect(await page.locator('[data-job-share]').count()).toBe(0);
  });

  it('are heard one member after another', async () => {
    const seen = new Set<string>();
    await page.locator('[data-family]').first().getByRole('button', { name: 'Hear' }).click();
    for (let i = 0; i < 25; i++) {
      seen.add((await page.locator('[data-playhead]').getAttribute('data-playhead'))!);
      await page.waitForTimeout(60);
    }
    expect(seen.size).toBeGreaterThan(3);
    await page.keyboard.press('Space');
  });

  it('nothing went wrong on the way', () => expect(bench.troubles).toEqual([]));
});
