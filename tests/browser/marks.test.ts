/** Marks of other programs, read and written in the app. */
import { readFileSync, writeFileSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { montageOf, startBench, station, type Bench } from './harness.ts';

describe('marks', () => {
  let bench: Bench;
  beforeAll(async () => {
    bench = await startBench();
  });
  afterAll(() => bench.close());

  it('of a file become hits where the row shows them; what cannot be taken over is said; kept hits are written again', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await station(page, 'Check');
    await page.getByRole('tab', { name: 'Seek' }).click();
    const folder = mkdtempSync(join(tmpdir(), 'akmeon-marks-'));
    const path = join(folder, 'marks.csv');
    writeFileSync(
      path,
      '\uFEFFtimecode;kind;strength\n00:00:05:10;kick;0,5\nnever;shot;1\n00:00:14:00;shot;1\n9:00:00;shot;1\n',
    );
    const before = (await montageOf(page)).hits.length;
    const input = page.locator('input[type="file"][accept^=".csv"]');
    await input.setInputFiles(path);
    await page
      .getByText(/2 hits are set from marks.csv\. Not taken over: 1 lie past the end of the row; line 3:/)
      .waitFor();
    const { hits } = await montageOf(page);
    expect(hits.length).toBe(before + 2);
    expect(hits.find(({ kind }) => kind === 'kick')).toMatchObject({
      source: 'lantern-drift',
      strength: 0.5,
      state: 'made',
      t: expect.closeTo(5 + 10 / 30, 6) as number,
    });
    // The second clip begins at 12 s.
    expect(hits.find(({ source, state }) => source === 'rampart-rally' && state === 'made')!.t).toBeCloseTo(2, 6);
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByLabel('Write the kept hits as').selectOption('webvtt'),
    ]);
    const written = join(folder, 'out.vtt');
    await download.saveAs(written);
    const text = readFileSync(written, 'utf8');
    expect(text).toMatch(/^WEBVTT\n\n/);
    expect(text).toContain('00:00:05.333 -->');
    expect(text.match(/-->/g)).toHaveLength(before + 2);
    // What is none is told, and changes nothing.
    writeFileSync(path, 'colour\nred\n');
    await input.setInputFiles(path);
    await page.getByText(/marks.csv: No column is called/).waitFor();
    expect((await montageOf(page)).hits.length).toBe(before + 2);
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await montageOf(page)).hits.length).toBe(before);
    await page.close();
  });
});
