/** The station where hits are checked: why they are there, what else is sought, and what is kept for the next recording. */
import { mkdtemp, readFile, writeFile } from 'node:fs/promises';
import { readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { at, ffmpeg, fixture, HAS_FFMPEG, saved, startBench, type Bench, findHits } from './harness.ts';

let bench: Bench;
beforeAll(async () => {
  bench = await startBench();
});
afterAll(() => bench.close());

const rows = (page: Page) => page.locator('[data-hit]');
const tab = (page: Page, name: string) => page.getByRole('tab', { name, exact: true }).click();
const classified = (page: Page, text: RegExp) => page.getByText(text).last().waitFor();

/** Only hits of these kinds are shown. */
async function onlyKinds(page: Page, ...kinds: string[]): Promise<void> {
  const chips = page.getByRole('group', { name: 'Kinds shown' }).getByRole('button');
  for (const chip of await chips.all()) {
    const wanted = kinds.includes((await chip.textContent())!.replace(/ \d+$/, ''));
    if (wanted !== ((await chip.getAttribute('aria-pressed')) === 'true')) await chip.click();
  }
}

const events = JSON.parse(readFileSync(at('demo/events.json'), 'utf8')) as Record<
  string,
  { frame: number; kind: string }[]
>;
const frameOf = async (page: Page): Promise<number[]> =>
  rows(page).evaluateAll((list) =>
    list.map((row) =>
      Number(/frame (\d+)/.exec(row.querySelector('[aria-label^="Keep"]')!.getAttribute('aria-label')!)![1]),
    ),
  );

describe('checking the demo', () => {
  let page: Page;
  beforeAll(async () => {
    page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await findHits(page);
  });

  it('finds the bolts of the game at their frames, by default', async () => {
    await onlyKinds(page, 'shot', 'flash');
    const found = await frameOf(page);
    const bolts = events['lantern-drift.mp4']!.filter((e) => e.kind === 'shot').map((e) => e.frame);
    for (const frame of bolts)
      expect(
        found.some((f) => Math.abs(f - frame) <= 1),
        `bolt at ${frame}`,
      ).toBe(true);
    // Seen and named after that, but shots all the same.
    await onlyKinds(page, 'shot');
    const shots = await frameOf(page);
    for (const frame of bolts)
      expect(
        shots.some((f) => Math.abs(f - frame) <= 1),
        `bolt at ${frame} as a shot`,
      ).toBe(true);
    await onlyKinds(page, 'impact');
    const impacts = await frameOf(page);
    for (const frame of bolts)
      expect(
        impacts.some((f) => Math.abs(f - frame) <= 1),
        `bolt at ${frame} as an impact`,
      ).toBe(false);
    await onlyKinds(page, 'shot', 'flash');
  });

  it('says why a hit is there, with the signal and the line it crossed, and what it may be', async () => {
    const undecided = page.locator('[data-hit][data-state="found"]').filter({ hasText: 'flash' }).first();
    await undecided.locator('button').first().click();
    const panel = page.locator('[data-decision]');
    expect(await panel.textContent()).toMatch(/Flashes \d+/);
    expect(Number(await panel.locator('[data-threshold]').getAttribute('data-threshold'))).toBeGreaterThan(0);
    expect(await panel.getByLabel('What it may be').textContent()).toMatch(/\d+ %/);
  });

  it('corrects a wrong kind with one key', async () => {
    const kind = page.getByLabel('Kind of the chosen hit');
    const before = await kind.inputValue();
    await page.locator('header').click({ position: { x: 300, y: 10 } });
    await page.keyboard.press('g');
    expect(await kind.inputValue()).not.toBe(before);
    await page.getByRole('button', { name: 'Undo' }).click();
    expect(await kind.inputValue()).toBe(before);
  });

  it('finds all sounds alike from a hit, with the example named, and lets them go again', async () => {
    await page.keyboard.press('l');
    const example = page.locator('[data-example]');
    await example.waitFor();
    const count = async (): Promise<number> => Number(await example.locator('[data-count]').textContent());
    const bolts = events['lantern-drift.mp4']!.filter((e) => e.kind === 'shot').length;
    expect(await count()).toBeGreaterThanOrEqual(bolts - 2);
    const few = await count();
    await page.getByLabel(/Least likeness/).fill('0.95');
    expect(await count()).toBeLessThanOrEqual(few);
    await page.getByLabel('Name of the example').fill('bolt');
    await tab(page, 'Hits');
    await onlyKinds(page, 'match');
    const alike = await rows(page).count();
    expect(alike).toBeGreaterThan(0);
    expect(await rows(page).filter({ hasText: 'like bolt' }).count()).toBe(alike);
    // What is found again is the hit that was there: there are no two on one frame.
    await onlyKinds(page, 'shot', 'flash', 'match');
    const all = await frameOf(page);
    expect(all.filter((frame, i) => all.some((other, k) => k > i && Math.abs(other - frame) <= 1))).toEqual([]);
  });

  it('takes a stretch that is dragged in the landscape as an example, too', async () => {
    const shore = (await page.locator('[aria-label="Playhead"]').boundingBox())!;
    const bolt = events['lantern-drift.mp4']!.find((e) => e.kind === 'shot')!.frame;
    const x = (frame: number): number => shore.x + (frame / 600) * shore.width;
    await page.keyboard.down('Shift');
    await page.mouse.move(x(bolt - 1), shore.y + 60);
    await page.mouse.down();
    await page.mouse.move(x(bolt + 6), shore.y + 60, { steps: 3 });
    await page.mouse.up();
    await page.keyboard.up('Shift');
    await page.locator('[data-example]').nth(1).waitFor();
    expect(await page.getByLabel('Name of the example').nth(1).inputValue()).toBe(
      `stretch at ${((bolt - 1) / 30).toFixed(1)} s`,
    );
    await page.getByRole('button', { name: 'Undo' }).click();
    expect(await page.locator('[data-example]').count()).toBe(1);
    await tab(page, 'Hits');
  });

  it('watches a rectangle drawn on the picture: each appearance becomes a hit, at its frame', async () => {
    await onlyKinds(page, 'shot', 'flash', 'popup');
    await rows(page).filter({ hasText: '00:00:02:1' }).first().locator('button').first().click();
    await page.keyboard.press('Shift+ArrowRight');
    await tab(page, 'Seek');
    await page.getByRole('button', { name: 'Watch for what shows here' }).click();
    await page.locator('[data-drawing="appears"]').waitFor();
    const box = (await page.locator('[data-stage]').boundingBox())!;
    const point = (x: number, y: number): [number, number] => [
      box.x + (x / 960) * box.width,
      box.y + (y / 540) * box.height,
    ];
    await page.mouse.move(...point(720, 28));
    await page.mouse.down();
    await page.mouse.move(...point(835, 61), { steps: 3 });
    await page.mouse.up();
    const watch = page.locator('[data-watch]');
    await watch.waitFor();
    const tags = events['lantern-drift.mp4']!.filter((e) => e.kind === 'popup').map((e) => e.frame);
    await expect
      .poll(async () => Number(await watch.locator('[data-count]').textContent()), { timeout: 60_000 })
      .toBe(tags.length);
    await tab(page, 'Hits');
    await onlyKinds(page, 'popup');
    expect(await frameOf(page)).toEqual(tags);
  });

  it('shows and sets the delay of the sound, and the beats of the music', async () => {
    await tab(page, 'Finding');
    const counted = async (kind: string): Promise<number> =>
      Number(await page.locator(`[data-found=${kind}]`).textContent());
    const shots = events['lantern-drift.mp4']!.filter((e) => e.kind === 'shot').length;
    // Each was seen as well, and is named after that.
    expect(await counted('shot')).toBeGreaterThanOrEqual(shots - 1);
    expect(await counted('flash')).toBeGreaterThanOrEqual(shots - 1);
    expect(await page.locator('[data-delay]').first().textContent()).toMatch(/The sound is \d+ ms late/);
    await page.getByLabel('Delay of the sound of lantern-drift.mp4 in milliseconds').fill('40');
    const beats = page.getByRole('group', { name: /Beats of low-tide/ });
    const tempo = async (): Promise<number> =>
      Number((await beats.locator('[data-tempo]').getAttribute('data-tempo'))!.split(' ')[0]);
    const plain = await tempo();
    await beats.getByRole('button', { name: 'Double tempo' }).click();
    expect(await tempo()).toBeCloseTo(plain * 2, 0);
    await beats.getByRole('button', { name: 'Double tempo' }).click();
    await beats.getByRole('button', { name: 'Half tempo' }).click();
    expect(await tempo()).toBeCloseTo(plain / 2, 0);
    await beats.getByLabel(/Shift of the beats/).fill('35');
    await beats.getByRole('button', { name: 'Back to what was tracked' }).click();
    expect(await tempo()).toBeCloseTo(plain, 6);
  });

  it('keeps a profile, writes it to a file, and applies it to another montage', async () => {
    await tab(page, 'Seek');
    await page.getByLabel('Name of the profile').fill('Lantern Drift');
    await page.getByRole('button', { name: 'Keep', exact: true }).click();
    const kept = page.locator('[data-profile="Lantern Drift"]');
    await kept.waitFor();
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      kept.getByRole('button', { name: 'To a file' }).click(),
    ]);
    expect(download.suggestedFilename()).toBe('Lantern Drift.akmeon-profile');
    const text = await readFile((await download.path())!, 'utf8');
    expect(JSON.parse(text)).toMatchObject({
      format: 'akmeon-profile',
      name: 'Lantern Drift',
      delay: 0.04,
      examples: [{ name: 'bolt' }],
    });

    const folder = await mkdtemp(join(tmpdir(), 'akmeon-profile-'));
    await writeFile(
      join(folder, 'other.akmeon-profile'),
      text.replace('"name": "Lantern Drift"', '"name": "From a file"'),
    );
    await writeFile(join(folder, 'broken.akmeon-profile'), '{"format":"akmeon-profile","version":1}');
    const field = page.locator('input[accept^=".akmeon-profile"]');
    await field.setInputFiles(join(folder, 'broken.akmeon-profile'));
    await classified(page, /broken\.akmeon-profile: This profile cannot be read/);
    await field.setInputFiles(join(folder, 'other.akmeon-profile'));
    await page.locator('[data-profile="From a file"]').waitFor();

    await page.goto(`${bench.origin}/`);
    await page.getByRole('button', { name: 'New montage', exact: true }).click();
    await page
      .locator('section[aria-label="Bring in"] input[type="file"][multiple]')
      .setInputFiles(at('demo/lantern-drift.mp4'));
    await classified(page, /lantern-drift\.mp4 is in/);
    await page.locator('[data-main]').click();
    await page.getByRole('button', { name: /^Keep all \d/ }).waitFor({ timeout: 120_000 });
    await tab(page, 'Seek');
    await page.locator('[data-profile="From a file"]').getByRole('button', { name: 'Apply' }).click();
    // Kept of the same recording and rectangle: nothing is read again.
    await expect
      .poll(async () => Number(await page.locator('[data-watch] [data-count]').textContent()), { timeout: 60_000 })
      .toBeGreaterThan(1);
    expect(await page.getByLabel('Name of the example').inputValue()).toBe('bolt');
    await page.getByRole('button', { name: 'Undo' }).click();
    expect(await page.locator('[data-watch]').count()).toBe(0);
  });

  it('ranks the undecided after decisions, and forgets them when told to', async () => {
    await tab(page, 'Hits');
    const undecided = page.locator('[data-hit][data-state="found"]');
    const first = (await undecided.first().getAttribute('data-hit'))!;
    const all = await undecided.count();
    expect(all).toBeGreaterThan(6);
    for (let i = 0; i < 3; i++) await undecided.first().getByLabel(/^Keep/).click();
    for (let i = 0; i < 3; i++)
      await undecided
        .last()
        .getByLabel(/^Reject/)
        .click();
    await page.getByText('Your 6 decisions rank the rest.').waitFor();
    await page.getByRole('button', { name: 'Likely first' }).click();
    expect(await rows(page).first().getAttribute('data-hit')).not.toBe(first);
    await page.getByRole('button', { name: 'Forget them' }).click();
    expect(await page.getByText(/decisions rank the rest/).count()).toBe(0);
    await page.getByRole('button', { name: 'Likely first' }).click();
  });
});

describe('analysis that is cut off', () => {
  it.skipIf(!HAS_FFMPEG)(
    'shows the first hits meanwhile, goes on after a reload, and a second opening searches nothing again',
    async () => {
      const long = join(await mkdtemp(join(tmpdir(), 'akmeon-long-')), 'long.mp4');
      ffmpeg('-stream_loop', '29', '-i', at('demo/lantern-drift.mp4'), '-c', 'copy', long);
      const page = await bench.page();
      await page.goto(`${bench.origin}/`);
      await page.getByRole('button', { name: 'New montage', exact: true }).click();
      await page.locator('section[aria-label="Bring in"] input[type="file"][multiple]').setInputFiles(long);
      await classified(page, /long\.mp4 is in/);
      await saved(page);
      await page.locator('[data-main]').click();
      // A share is known, and can be looked at, while the rest is being searched.
      await page.getByRole('link', { name: 'Check', exact: true }).click();
      await expect.poll(async () => rows(page).count(), { timeout: 60_000 }).toBeGreaterThan(0);
      const kept = () =>
        page.evaluate(
          () =>
            new Promise<number>((resolve) => {
              const open = indexedDB.open('akmeon');
              open.onsuccess = () => {
                const all = open.result.transaction('checkpoints').objectStore('checkpoints').getAll();
                all.onsuccess = () => {
                  resolve(Math.max(0, ...(all.result as { packed: Uint8Array }[]).map((one) => one.packed.length)));
                  open.result.close();
                };
              };
            }),
        );
      await expect.poll(kept, { timeout: 60_000 }).toBeGreaterThan(0);
      await page.reload();
      // It goes on by itself, and where it was, not at nothing.
      const share = page.locator('[data-job-share]').first();
      await expect
        .poll(async () => Number(await share.getAttribute('data-job-share')), { timeout: 20_000 })
        .toBeGreaterThan(0.005);
      await page
        .getByRole('button', { name: /Cancel/ })
        .first()
        .click();
    },
  );

  it("lets a sound without a picture be a game's", async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/`);
    await page.getByRole('button', { name: 'New montage', exact: true }).click();
    await page
      .locator('section[aria-label="Bring in"] input[type="file"][multiple]')
      .setInputFiles(at('demo/low-tide-signal.ogg'));
    await classified(page, /low-tide-signal\.ogg is in/);
    const holds = page.getByLabel('What sound track 1 of low-tide-signal.ogg holds');
    expect(await holds.inputValue()).toBe('music');
    await holds.selectOption('game');
    await page.getByText('Saved', { exact: true }).waitFor();
    await page.reload();
    await holds.waitFor();
    expect(await holds.inputValue()).toBe('game');
  });

  it('analyses a track that is taken in later, and none that holds a voice', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/`);
    await page.getByRole('button', { name: 'New montage', exact: true }).click();
    await page
      .locator('section[aria-label="Bring in"] input[type="file"][multiple]')
      .setInputFiles(fixture('two-tracks.mkv'));
    await classified(page, /two-tracks\.mkv is in/);
    const second = page.getByLabel('What sound track 2 of two-tracks.mkv holds');
    await second.selectOption('voice');
    await page.locator('[data-main]').click();
    await page.locator('[data-counts]').waitFor({ timeout: 60_000 });
    const without = await page.locator('[data-counts]').getAttribute('data-counts');
    await page.getByRole('link', { name: 'Bring in', exact: true }).click();
    // Nothing is missing while it is left out; taken in, it is searched by itself.
    await page.getByRole('button', { name: 'Check the hits' }).waitFor();
    await second.selectOption('game');
    await page.getByRole('button', { name: 'Find hits' }).click();
    await page.getByRole('tab', { name: 'Hits', exact: true }).click({ timeout: 60_000 });
    await page.locator('[data-counts]').waitFor({ timeout: 60_000 });
    await second.count();
    expect(without).not.toBeNull();
  });

  it('nothing went wrong on any page', () => expect(bench.troubles).toEqual([]));
});
