/** How quickly the screen answers: on the demo while it plays, and on a montage of an hour with 2,000 hits. */
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { writeMontage } from '../../src/core/document/akmeon.ts';
import type { Montage } from '../../src/core/document/types.ts';
import { footage, hit, punchAccent, shotRule, twoClips } from '../../src/core/testkit/montages.ts';
import { startBench, station } from '../browser/harness.ts';

type Row = [what: string, figure: string, reference: string];

const STATIONS = ['Bring in', 'Check', 'Shape', 'Spread', 'Export'];

/** 60 clips of a minute, 2,000 kept hits, three rules that lie on all of them; its file is not at hand. */
export function hourLong(): Montage {
  const source = footage('s', 3600 * 30);
  return {
    ...twoClips(),
    name: 'An hour',
    sources: [source],
    clips: Array.from({ length: 60 }, (_, i) => ({
      id: `c${i}`,
      source: 's',
      in: i * 60,
      out: (i + 1) * 60,
      fit: 'fit' as const,
    })),
    hits: Array.from({ length: 2000 }, (_, i) => hit(`s:shot:${i}`, 's', 0.5 + i * 1.79, { strength: (i % 10) / 10 })),
    accents: [punchAccent()],
    rules: ['r1', 'r2', 'r3'].map((id) => ({ ...shotRule(), id })),
    beds: [],
    overrides: {},
  };
}

const quantile = (values: readonly number[], q: number): number =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * q))]!;

/** Updates of the screen and of the playhead a second over four seconds. */
const updates = (page: Page): Promise<{ frames: number; heads: number }> =>
  page.evaluate(`new Promise((done) => {
    const from = performance.now();
    let [frames, heads, last] = [0, 0, ''];
    const next = () => {
      frames++;
      const head = document.querySelector('[data-playhead]').getAttribute('data-playhead');
      if (head !== last) heads++;
      last = head;
      if (performance.now() - from < 4000) requestAnimationFrame(next);
      else done({ frames: frames / 4, heads: heads / 4 });
    };
    requestAnimationFrame(next);
  })`);

/** Milliseconds of scripting, style and layout that something costs, until the screen was drawn after it. */
async function costOf(page: Page, work: (i: number) => Promise<unknown>, times: number): Promise<number[]> {
  const session = await page.context().newCDPSession(page);
  await session.send('Performance.enable');
  const spent = async (): Promise<number> => {
    const { metrics } = await session.send('Performance.getMetrics');
    const of = (name: string): number => metrics.find((metric) => metric.name === name)?.value ?? 0;
    return 1000 * (of('ScriptDuration') + of('LayoutDuration') + of('RecalcStyleDuration'));
  };
  const costs: number[] = [];
  for (let i = 0; i < times; i++) {
    const before = await spent();
    await work(i);
    await page.evaluate('new Promise((done) => requestAnimationFrame(() => setTimeout(done)))');
    costs.push((await spent()) - before);
  }
  await session.detach();
  return costs;
}

/** Milliseconds until the picture of the playhead is on the screen. */
async function untilShown(page: Page, key: string): Promise<number> {
  const code = key.length === 1 ? `Key${key.toUpperCase()}` : key;
  return page.evaluate(
    `new Promise((done) => {
      const head = () => document.querySelector('[data-playhead]').getAttribute('data-playhead');
      const from = performance.now();
      const before = head();
      const press = { key: '${key}', code: '${code}', bubbles: true };
      document.body.dispatchEvent(new KeyboardEvent('keydown', press));
      const look = () => {
        const now = head();
        if ((now !== before && document.querySelector('[data-stage]').dataset.shown === now) || performance.now() - from > 3000)
          requestAnimationFrame(() => done(performance.now() - from));
        else requestAnimationFrame(look);
      };
      requestAnimationFrame(look);
    })`,
  );
}

export async function screen(rows: { push(row: Row): void }, scratch: string): Promise<void> {
  const bench = await startBench();
  try {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await page.getByRole('button', { name: 'Find hits' }).click();
    await page.getByRole('tab', { name: 'Hits', exact: true }).click({ timeout: 120_000 });
    await page.getByRole('button', { name: /^Keep all \d/ }).waitFor();
    for (const name of STATIONS) {
      await station(page, name);
      await page.waitForTimeout(2500);
      await page.getByRole('button', { name: 'Play', exact: true }).click();
      await page.waitForTimeout(600);
      const { frames, heads } = await updates(page);
      const pause = page.getByRole('button', { name: 'Pause', exact: true });
      if (await pause.count()) await pause.click();
      rows.push([
        `playing at ${name}`,
        `${frames.toFixed(0)} screen updates a second, ${heads.toFixed(0)} of them another frame`,
        'at least 30',
      ]);
    }
    await station(page, 'Check');
    // Once through: its frames are kept then.
    const round = async (key: string, times: number): Promise<number[]> => {
      const took: number[] = [];
      for (let i = 0; i < times; i++) {
        took.push(await untilShown(page, key));
        await page.waitForTimeout(250);
      }
      return took;
    };
    for (let i = 0; i < 17; i++) await untilShown(page, 'ArrowUp');
    await round('ArrowDown', 16);
    for (let i = 0; i < 17; i++) await untilShown(page, 'ArrowUp');
    const figure = (took: readonly number[]): string =>
      `${quantile(took, 0.5).toFixed(0)} ms in the median, ${quantile(took, 0.95).toFixed(0)} ms at the 95th percentile`;
    rows.push(['next hit: picture and panel, from kept frames', figure(await round('ArrowDown', 16)), '100 ms']);
    rows.push(['one frame on', figure(await round('ArrowRight', 12)), '100 ms']);
    for (let i = 0; i < 17; i++) await untilShown(page, 'ArrowUp');
    rows.push(['keep, and go on to the next', figure(await round('k', 9)), '100 ms']);
    await page.close();

    const file = join(scratch, 'hour.akmeon');
    await writeFile(file, writeMontage(hourLong()));
    const long = await bench.page();
    await long.goto(bench.origin);
    await long.locator('input[type="file"]').setInputFiles(file);
    await long.getByRole('link', { name: 'Bring in', exact: true }).click();
    await long.locator('[data-clip]').first().waitFor();
    const land = (await long.getByRole('slider', { name: 'Playhead' }).boundingBox())!;
    const [x, y] = [land.x + land.width / 2, land.y + 60];
    await long.mouse.move(x, y);
    const said = (costs: readonly number[]): string =>
      `${quantile(costs, 0.5).toFixed(1)} ms in the median, ${quantile(costs, 0.95).toFixed(1)} ms at the 95th percentile`;
    const wanted = '16 ms and 33 ms of scripting and layout a frame';
    rows.push([
      'landscape of an hour zoomed by the wheel',
      said(await costOf(long, (i) => long.mouse.wheel(0, i % 30 < 15 ? -100 : 100), 60)),
      wanted,
    ]);
    for (let i = 0; i < 6; i++) await long.mouse.wheel(0, -100);
    rows.push([
      'landscape of an hour scrolled',
      said(await costOf(long, (i) => long.mouse.wheel(i % 40 < 20 ? 80 : -80, 0), 80)),
      wanted,
    ]);
    const end = (await long.locator('[aria-label^="End of clip"]').first().boundingBox())!;
    await long.mouse.move(end.x + end.width / 2, end.y + end.height / 2);
    await long.mouse.down();
    const from = end.x + end.width / 2;
    rows.push([
      'an end of a clip dragged in an hour',
      said(await costOf(long, (i) => long.mouse.move(from - 2 * (i % 30), end.y + 10), 40)),
      wanted,
    ]);
    await long.mouse.up();

    await station(long, 'Check');
    const tab = long.getByRole('tab', { name: 'Hits', exact: true });
    await tab.click();
    await long.locator('[data-hit]').first().waitFor();
    await long.getByRole('list', { name: 'Hits' }).hover();
    rows.push([
      'list of 2,000 hits scrolled',
      said(await costOf(long, (i) => long.mouse.wheel(0, i % 40 < 20 ? 300 : -300), 60)),
      wanted,
    ]);
    await station(long, 'Spread');
    const sheet = long.getByRole('region', { name: 'Sheet of hits and rules' });
    await sheet.hover();
    await long.waitForTimeout(1500);
    rows.push([
      'sheet of an hour scrolled',
      said(await costOf(long, (i) => long.mouse.wheel(i % 40 < 20 ? 200 : -200, 0), 60)),
      wanted,
    ]);
    const rule = long.locator('[data-rule]').first();
    const slider = (await rule.getByRole('slider').first().boundingBox())!;
    const along = (i: number): number => slider.x + slider.width * (0.1 + (0.8 * (i % 30)) / 30);
    await long.mouse.move(along(0), slider.y + slider.height / 2);
    await long.mouse.down();
    rows.push([
      'a rule’s slider dragged in an hour of 6,000 placements',
      said(await costOf(long, (i) => long.mouse.move(along(i), slider.y + slider.height / 2), 40)),
      wanted,
    ]);
    await long.mouse.up();
    const cells = sheet.getByRole('button', { name: /^(Mute|Unmute) on the hit/ });
    rows.push([
      'a cell of the sheet muted in an hour',
      said(await costOf(long, (i) => cells.nth(i % 5).click(), 15)),
      wanted,
    ]);
    await long.keyboard.press('Control+j');
    const field = long.getByLabel('Name of the command');
    await field.waitFor();
    rows.push([
      'a letter typed in the finder of commands',
      said(await costOf(long, (i) => field.press('chromatic zoom'[i]!), 14)),
      '50 ms',
    ]);
    await long.keyboard.press('Escape');
    await station(long, 'Shape');
    await long.getByRole('button', { name: 'Add an effect' }).click();
    const shelf = long.getByLabel('Find an effect');
    rows.push([
      'a letter typed in the search of effects',
      said(await costOf(long, (i) => shelf.press('handheld old tape'[i]!), 17)),
      '50 ms',
    ]);
  } finally {
    await bench.close();
  }
}
