/** Many recordings in one go: searched, gathered and exported, each by itself or all as one. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { fixture, montageOf, startBench, type Bench } from './harness.ts';

describe('many recordings', () => {
  let bench: Bench;
  beforeAll(async () => {
    bench = await startBench();
  });
  afterAll(() => bench.close());

  it('become a montage and a film each, and what is broken is said; then one montage of all', async () => {
    const page = await bench.page();
    // Its window cannot be driven here: films wait in the browser's storage.
    await page.addInitScript(() => Reflect.deleteProperty(window, 'showDirectoryPicker'));
    await page.goto(`${bench.origin}/`);
    await page.getByRole('button', { name: 'Many recordings' }).click();
    // The shelf has a field for files, too.
    await page.getByRole('heading', { name: 'Many recordings' }).waitFor();
    const broken = { name: 'broken.mp4', mimeType: 'video/mp4', buffer: Buffer.from('no film') };
    await page.locator('input[type=file]').setInputFiles(broken);
    await page.getByText('broken.mp4').waitFor();
    await page.getByRole('button', { name: 'Make the montage' }).click();
    await page.locator('[data-many="failed"]').waitFor();
    expect(await page.locator('[data-many="failed"]').textContent()).toMatch(/broken\.mp4.*failed.+/);
    await page.locator('input[type=file]').setInputFiles([fixture('hits.mp4'), fixture('silent.mp4')]);
    await page.getByLabel('Seconds before a hit').fill('0.3');
    await page.getByLabel('after it').fill('0.4');
    await page.getByLabel('at most in all (0: no limit)').fill('3');
    await page.getByRole('button', { name: 'Make 2 montages' }).click();
    const row = (name: string) => page.locator('[data-many]').filter({ hasText: name });
    await row('hits.mp4').getByRole('link', { name: 'Save hits.mp4' }).waitFor({ timeout: 90_000 });
    await page.getByRole('button', { name: 'Make 2 montages' }).waitFor({ timeout: 60_000 });
    // Nothing is heard in silence: there is nothing to show, and that is said.
    expect(await row('silent.mp4').getAttribute('data-many')).toMatch(/done|failed/);
    await page.getByLabel('one montage of all').check();
    await page.getByLabel('Name of the montage of all').fill('Evening');
    await page.getByLabel('films, too').uncheck();
    await page.getByRole('button', { name: 'Make the montage' }).click();
    await row('Evening').getByRole('link', { name: 'its montage' }).click({ timeout: 90_000 });
    await page.getByRole('button', { name: 'Save to a project file' }).waitFor();
    const montage = await montageOf(page);
    expect([montage.name, montage.sources.map(({ name }) => name)]).toEqual(['Evening', ['hits.mp4', 'silent.mp4']]);
    expect(montage.clips.length).toBeGreaterThan(0);
    expect(montage.rules).toHaveLength(1);
    expect(montage.hits.every(({ state }) => state === 'kept')).toBe(true);
    // Its files are at hand, and it need not be searched again.
    await page.locator('[data-stage]').first().waitFor();
    expect(await page.getByText(/^Missing:/).count()).toBe(0);
    expect(bench.troubles).toEqual([]);
    await page.close();
  });
});
