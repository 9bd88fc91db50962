/** The app kept by the browser: without its server, and beside a newer version. */
import { cp, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { at, startBench, type Bench } from './harness.ts';

let bench: Bench;
let dist: string;
beforeAll(async () => {
  dist = join(await mkdtemp(join(tmpdir(), 'akmeon-dist-')), 'dist');
  await cp(at('dist'), dist, { recursive: true });
  bench = await startBench(new Map(), [], { offline: true, dist });
});
afterAll(async () => {
  await bench.close();
  await rm(join(dist, '..'), { recursive: true, force: true });
});

/** Until the browser has kept all of it. */
const kept = (page: Page): Promise<unknown> => page.evaluate(() => navigator.serviceWorker.ready);

describe('the app in the browser', () => {
  it('takes a newer version when it is told to, and not while another tab is open', async () => {
    const page = await bench.page();
    await page.goto(bench.origin);
    await kept(page);
    await page.reload();
    await page.waitForFunction(() => navigator.serviceWorker.controller);
    const sw = join(dist, 'sw.js');
    await writeFile(sw, `${await readFile(sw, 'utf8')}\n// Another version.\n`);
    const other = await bench.page();
    await other.goto(bench.origin);
    await other.getByText('A newer version of Akmeon is there.').waitFor({ timeout: 30_000 });
    await other.getByRole('button', { name: 'Take it' }).click();
    await other.getByText(/Close the other tabs/).waitFor();
    // Under open work it is only told of.
    await other.getByRole('button', { name: 'New montage', exact: true }).click();
    await other.getByText('A newer version is on the shelf').click();
    await other.getByText('A newer version of Akmeon is there.').waitFor();
    await page.close();
    const loaded = other.waitForEvent('load');
    await other.getByRole('button', { name: 'Take it' }).click();
    await loaded;
    await other.getByRole('button', { name: 'New montage', exact: true }).waitFor();
    expect(await other.getByText('A newer version of Akmeon is there.').count()).toBe(0);
    await other.close();
  });

  it('starts without its server, with the montages that were made', async () => {
    const page = await bench.page();
    await page.goto(bench.origin);
    await page.getByRole('button', { name: 'New montage', exact: true }).click();
    await page.getByLabel('Name of the montage').fill('Night ferry');
    await page.getByText('Saved', { exact: true }).waitFor();
    const address = page.url();
    bench.stopServer();
    await page.goto(bench.origin);
    await page.getByText('Night ferry').waitFor();
    await page.goto(address);
    await page.getByText('Drop footage, pictures and music here').waitFor();
    await page.getByRole('link', { name: 'Shape' }).click();
    await page.getByRole('link', { name: 'Export' }).click();
    await page.locator('[data-main]').waitFor();
    expect(bench.troubles).toEqual([]);
    await page.close();
  });
});
