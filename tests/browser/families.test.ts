/** What a recording repeats, answered once: from the demo to accents on a family's hits, and on to another recording. */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Page } from 'playwright-core';
import { at, ffmpeg, HAS_FFMPEG, montageOf, saved, startBench, station, type Bench } from './harness.ts';

let bench: Bench;
let page: Page;
beforeAll(async () => {
  bench = await startBench();
  page = await bench.page();
  await page.goto(`${bench.origin}/demo-montage`);
  await page.getByRole('button', { name: 'Find hits' }).click();
  await page.locator('[data-family]').first().waitFor({ timeout: 120_000 });
});
const folder = mkdtempSync(join(tmpdir(), 'akmeon-families-'));
afterAll(async () => {
  await bench.close();
  rmSync(folder, { recursive: true });
});

const events = JSON.parse(readFileSync(at('demo/events.json'), 'utf8')) as Record<
  string,
  { frame: number; kind: string }[]
>;
const bolts = events['lantern-drift.mp4']!.filter(({ kind }) => kind === 'shot');
const isBolt = (frame: number): boolean => bolts.some((bolt) => Math.abs(bolt.frame - frame) <= 1);

const counts = async (): Promise<{ families: number; asked: number }> => {
  const line = page.locator('[data-families]');
  return {
    families: Number(await line.getAttribute('data-families')),
    asked: Number(await line.getAttribute('data-asked')),
  };
};
const first = () => page.locator('[data-family]').first();
const undo = (): Promise<void> => page.getByRole('button', { name: 'Undo', exact: true }).click();
const stateOf = async (card = first()): Promise<number[]> =>
  (await card.getAttribute('data-state'))!.split('/').map(Number);

/** The card of the family that holds the bolts, made the current one. */
async function boltsCard() {
  const show = page.getByRole('button', { name: /^Show all/ });
  if (await show.count()) await show.click();
  for (; ; await page.waitForTimeout(100))
    for (const card of await page.locator('[data-family]').all()) {
      const frames = await card
        .locator('[data-frame]')
        .evaluateAll((list) => list.map((one) => Number((one as HTMLElement).dataset['frame'])));
      if (frames.length >= 3 && frames.every(isBolt)) {
        await card.locator('[data-frame]').first().click();
        return card;
      }
    }
  throw new Error('no family of bolts');
}

describe('families of the same sound', () => {
  it('are what the station opens on, in pictures, with how many answers are still worth giving', async () => {
    expect(await page.getByRole('tab', { selected: true }).textContent()).toBe('Families');
    const { families } = await counts();
    expect(families).toBeGreaterThan(0);
    await expect.poll(async () => (await counts()).asked).toBeGreaterThan(1);
    expect((await counts()).asked).toBeLessThanOrEqual((await counts()).families);
    expect(await first().getByRole('img').count()).toBeGreaterThanOrEqual(3);
  });

  it('are kept by one key and rejected by another; one step of undo takes an answer back', async () => {
    const before = (await montageOf(page)).hits.length;
    const { asked } = await counts();
    await page.locator('[data-family] [data-frame]').first().click();
    await page.keyboard.press('Shift+K');
    await expect.poll(async () => (await montageOf(page)).hits.length).toBeGreaterThan(before);
    expect((await counts()).asked).toBe(asked - 1);
    await undo();
    expect((await montageOf(page)).hits).toHaveLength(before);
    await page.keyboard.press('Shift+R');
    await expect
      .poll(async () => (await montageOf(page)).hits.filter(({ state }) => state === 'rejected').length)
      .toBeGreaterThan(0);
    await undo();
    expect((await montageOf(page)).families).toEqual([]);
  });

  it('hold what the game fires again and again together', async () => {
    const card = await boltsCard();
    expect((await stateOf(card))[2]).toBeGreaterThanOrEqual(bolts.length - 2);
  });

  it('are named in words of the person, which lists, filters and rules take as they take kinds', async () => {
    const card = await boltsCard();
    const size = (await stateOf(card))[2]!;
    await page.keyboard.press('Shift+N');
    await page.keyboard.type('lantern bolt');
    await page.getByRole('option', { name: /call it/ }).click();
    const { families, hits } = await montageOf(page);
    expect(families).toMatchObject([{ name: 'lantern bolt', kind: 'shot', state: 'kept' }]);
    expect(families[0]!.members).toHaveLength(size);
    expect(families[0]!.examples.length).toBeGreaterThan(1);
    const members = new Set(families[0]!.members);
    expect(
      hits.filter(({ id }) => members.has(id)).every(({ state, kind }) => state === 'kept' && kind === 'shot'),
    ).toBe(true);
    await page.getByRole('tab', { name: 'Hits', exact: true }).click();
    const chip = page.getByRole('button', { name: `lantern bolt ${size}` });
    await chip.click();
    expect(await page.locator('[data-hit]').filter({ hasText: 'lantern bolt' }).count()).toBe(0);
    await chip.click();
    expect(await page.locator('[data-hit]').filter({ hasText: 'lantern bolt' }).count()).toBeGreaterThan(0);
    // A rule of the family alone lies on its hits and on no others.
    await station(page, 'Spread');
    const rule = page.locator('[data-rule]').first();
    await rule.getByRole('button', { name: 'shot', exact: true }).click();
    await rule.getByRole('button', { name: 'lantern bolt' }).click();
    expect((await montageOf(page)).rules[0]).toMatchObject({ kinds: [], families: [families[0]!.id] });
    await expect.poll(async () => Number.parseInt((await rule.locator('[data-change]').textContent())!)).toBe(size);
    await station(page, 'Check');
    await page.getByRole('tab', { name: 'Families', exact: true }).click();
  });

  it('are parted by loudness with the numbers on each side shown, joined again, and lose no hit', async () => {
    const card = await boltsCard();
    const before = (await montageOf(page)).families[0]!;
    const slider = page.getByLabel('Loudness that splits it');
    const [over, under] = (await page.locator('[data-sides]').getAttribute('data-sides'))!.split('/').map(Number);
    expect(over! + under!).toBe((await stateOf(card))[2]);
    await slider.focus();
    await page.getByRole('button', { name: 'Split', exact: true }).click();
    const [own, others] = (await montageOf(page)).families;
    expect([own!.members.length, others!.members.length]).toEqual([over, under]);
    expect(own!.loud!.from).toBe(others!.loud!.to);
    expect([...own!.members, ...others!.members].sort()).toEqual([...before.members].sort());
    await undo();
    expect((await montageOf(page)).families).toEqual([before]);
  });

  it('give a member away and take it in', async () => {
    const card = await boltsCard();
    const size = (await stateOf(card))[2]!;
    await page.getByLabel('Family of the chosen member').selectOption('');
    const families = (await montageOf(page)).families;
    expect(families.map(({ members }) => members.length)).toEqual([size - 1, 1]);
    await undo();
    expect((await montageOf(page)).families[0]!.members).toHaveLength(size);
  });

  it('seek more of themselves below the sensitivity; what is a hit already joins that hit', async () => {
    const size = (await stateOf(await boltsCard()))[2]!;
    await page.keyboard.press('Shift+M');
    await expect.poll(async () => (await montageOf(page)).families[0]!.more).toBeGreaterThan(0.3);
    await page.getByLabel('Likeness from which more of it is found').waitFor();
    await expect.poll(() => page.locator('[data-job-share]').count()).toBe(0);
    const frames = await page
      .getByRole('tab', { name: 'Hits', exact: true })
      .click()
      .then(() =>
        page.locator('[data-hit]').evaluateAll((list) => list.map((one) => (one as HTMLElement).dataset['hit']!)),
      );
    // Never two hits for one moment.
    expect(new Set(frames).size).toBe(frames.length);
    const sought = frames.filter((id) => id.includes(':family:')).map((id) => Number(id.split(':').at(-1)) / 1000);
    for (const t of sought) expect(bolts.some(({ frame }) => Math.abs(frame / 30 - t) < 0.05)).toBe(false);
    await page.getByRole('tab', { name: 'Families', exact: true }).click();
    expect((await stateOf(await boltsCard()))[2]).toBeGreaterThanOrEqual(size);
    await undo();
  });

  it('part and join while likeness is dragged, with no new analysis', async () => {
    const { families } = await counts();
    const slider = page.getByLabel('Likeness from which sounds are one family');
    await slider.fill('0.9');
    await slider.fill('0.25');
    await slider.fill('0.5');
    expect((await counts()).families).toBe(families);
    expect(await page.locator('[data-job-share]').count()).toBe(0);
  });

  it('are heard one member after another', async () => {
    const seen = new Set<string>();
    await first().getByRole('button', { name: 'Hear', exact: true }).click();
    const heard = async (): Promise<number> =>
      seen.add((await page.locator('[data-playhead]').getAttribute('data-playhead'))!).size;
    await expect.poll(heard, { interval: 30 }).toBeGreaterThan(3);
    await page.keyboard.press('Space');
  });

  it('are known again in another recording by a profile, with no question', async () => {
    if (!HAS_FFMPEG) return;
    const again = join(folder, 'again.mp4');
    ffmpeg(
      '-ss',
      '2.5',
      '-i',
      at('demo/lantern-drift.mp4'),
      '-c:v',
      'libx264',
      '-preset',
      'ultrafast',
      '-c:a',
      'aac',
      again,
    );
    // The same game again: the profile is kept, the montage is left, and the recording is brought into a new one.
    await page.getByRole('tab', { name: 'Seek', exact: true }).click();
    await page.getByLabel('Name of the profile').fill('Lantern Drift');
    await page.getByLabel('Name of the profile').press('Enter');
    await page.locator('[data-profile="Lantern Drift"]').waitFor();
    await saved(page);
    const later = bolts.filter(({ frame }) => frame > 76);
    await page.goto(bench.origin);
    await page.getByRole('button', { name: 'New montage', exact: true }).click();
    await page.locator('section[aria-label="Bring in"] input[type="file"][multiple]').setInputFiles(again);
    await page.getByLabel('Profile for again.mp4').selectOption({ label: 'Lantern Drift' });
    await page.getByRole('button', { name: 'Find hits' }).click();
    await page.locator('[data-family]').first().waitFor({ timeout: 120_000 });
    await expect
      .poll(async () => (await montageOf(page)).hits.filter(({ state }) => state === 'kept').length, {
        timeout: 30_000,
      })
      .toBeGreaterThanOrEqual(later.length - 1);
    const { families, hits } = await montageOf(page);
    const named = families.find(({ name }) => name === 'lantern bolt')!;
    expect(named.members.length).toBeGreaterThanOrEqual(later.length - 1);
    expect(hits.every(({ t }) => isBolt(Math.round((t + 2.5) * 30)))).toBe(true);
  });

  it('nothing went wrong on the way', () => expect(bench.troubles).toEqual([]));
});
