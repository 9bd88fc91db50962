/** Marks of other programs, read and written in the app. */
import { readFileSync, writeFileSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { montageOf, saved, startBench, station, type Bench } from './harness.ts';

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

  it('of bytes come and go, too: MIDI notes and the cue points of a WAV file', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await station(page, 'Check');
    await page.getByRole('tab', { name: 'Seek' }).click();
    const folder = mkdtempSync(join(tmpdir(), 'akmeon-marks-'));
    for (const [id, ending] of [
      ['midi', 'mid'],
      ['wave-cues', 'wav'],
      ['cmx3600', 'edl'],
    ] as const) {
      const before = (await montageOf(page)).hits;
      const kept = before.filter(({ state }) => state === 'kept' || state === 'made').length;
      const [download] = await Promise.all([
        page.waitForEvent('download'),
        page.getByLabel('Write the kept hits as').selectOption(id),
      ]);
      const path = join(folder, `${id}.${ending}`);
      await download.saveAs(path);
      await page.locator('input[type="file"][accept^=".csv"]').setInputFiles(path);
      await page.getByText(new RegExp(`${kept} hits are set from ${id}.${ending}`)).waitFor();
      await page.keyboard.press('Control+z');
      await expect.poll(async () => (await montageOf(page)).hits.length).toBe(before.length);
    }
    expect(bench.troubles).toEqual([]);
    await page.close();
  });

  it('and rows go out as timelines and tables, and come back; footage that is missing is asked for', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await station(page, 'Export');
    await page.getByText('Pictures, tables and timelines').click();
    const folder = mkdtempSync(join(tmpdir(), 'akmeon-lists-'));
    const saved = async (name: string): Promise<Buffer> => {
      const [download] = await Promise.all([
        page.waitForEvent('download', { timeout: 120_000 }),
        page.getByRole('button', { name, exact: true }).click(),
      ]);
      const path = join(folder, download.suggestedFilename());
      await download.saveAs(path);
      return readFileSync(path);
    };
    const list = (await saved('Row, decision list')).toString();
    expect(list).toContain('* FROM CLIP NAME: rampart-rally.mp4');
    expect(list).toMatch(/001 {2}AX +V +C +00:00:00:00 00:00:12:00 00:00:00:00 00:00:12:00/);
    const placements = (await saved('Placements, CSV')).toString().trim().split('\n');
    expect(placements[0]).toMatch(/^frame,timecode,seconds,accent/);
    expect(placements).toHaveLength(5);
    expect(JSON.parse((await saved('Envelopes, JSON')).toString())).toHaveLength(6);
    for (const name of ['Frame, PNG', 'Contact sheet, PNG']) {
      const png = await saved(name);
      expect(png.subarray(1, 4).toString()).toBe('PNG');
      expect(png.readUInt32BE(16)).toBe(name.startsWith('Frame') ? 960 : 5 * 264 + 8);
    }
    const report = JSON.parse((await saved('Report, JSON')).toString()) as { loudness: unknown; flashes: object };
    expect(report.loudness).not.toBeNull();
    expect(report.flashes).toHaveProperty('general');
    await station(page, 'Bring in');
    const path = join(folder, 'cut.edl');
    writeFileSync(
      path,
      [
        'TITLE: CUT',
        'FCM: NON-DROP FRAME',
        '001  AX  V  C  00:00:02:00 00:00:04:00 01:00:00:00 01:00:02:00',
        '* FROM CLIP NAME: RAMPART-RALLY.MOV',
        '002  AX  V  C  00:00:01:00 00:00:02:15 01:00:02:00 01:00:03:15',
        '* FROM CLIP NAME: lantern-drift.mp4',
        '003  AX  V  C  00:00:01:00 00:00:02:00 01:00:03:15 01:00:04:15',
        '* FROM CLIP NAME: elsewhere.mp4',
      ].join('\n'),
    );
    await page.locator('input[type="file"][accept=".otio,.edl"]').setInputFiles(path);
    await page.getByText(/2 clips are in the row from cut.edl.*bring in elsewhere.mp4, then read it again/).waitFor();
    expect((await montageOf(page)).clips).toMatchObject([
      { source: 'rampart-rally', in: 2, out: 4 },
      { source: 'lantern-drift', in: 1, out: 2.5 },
    ]);
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await montageOf(page)).clips.length).toBe(2);
    expect(bench.troubles).toEqual([]);
    await page.close();
  });

  it('exports wait for their turn, are held, are there after a reload, and then are made', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await station(page, 'Export');
    await page.getByLabel('What is exported').selectOption('hits');
    for (const end of ['before', 'after']) await page.getByLabel(`Seconds ${end} each exported hit`).fill('0.1');
    await page.getByRole('button', { name: 'Export 7 files' }).click();
    // While that goes on, another is put behind it: of the montage as it is now.
    await page.getByLabel('Seconds after each exported hit').fill('0.2');
    await page.getByRole('button', { name: 'Add to the queue' }).click();
    await page.locator('[data-queue="1"]').waitFor();
    await page.getByRole('button', { name: 'Hold' }).click();
    await expect.poll(() => page.locator('[data-export-done="6"]').count(), { timeout: 120_000 }).toBe(7);
    expect(await page.locator('[data-queue="1"]').count()).toBe(1);
    await saved(page);
    await page.reload();
    await page.getByText('Waiting, held').waitFor();
    await page.getByText('7 files of Harbour Nights').waitFor();
    await page.getByRole('button', { name: 'Go on' }).click();
    await expect.poll(() => page.locator('[data-export-done="9"]').count(), { timeout: 120_000 }).toBe(7);
    expect(await page.locator('[data-queue]').count()).toBe(0);
    expect(bench.troubles).toEqual([]);
    await page.close();
  });

  it('and parts are exported: each hit as a file, in another kind, by a way that is kept', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await station(page, 'Export');
    await page.getByLabel('Kind of file').selectOption('webm-vp9');
    await page.getByLabel('Quality').selectOption('small');
    await page.getByLabel('Name for this way of exporting').fill('For the web');
    await page.getByRole('button', { name: 'Keep this way' }).click();
    await page.getByLabel('Size').selectOption('720');
    await page.getByLabel('What is exported').selectOption('hits');
    await page.getByLabel('Seconds before each exported hit').fill('0.2');
    await page.getByLabel('Seconds after each exported hit').fill('0.3');
    await page.getByRole('button', { name: 'Export 7 files' }).click();
    await expect.poll(() => page.locator('[data-export-done="15"]').count(), { timeout: 120_000 }).toBe(7);
    await page
      .getByText(/^harbour-nights-hit-1-\S*\.webm/)
      .first()
      .waitFor();
    await page.getByLabel('Kept way of exporting').selectOption('For the web');
    expect(await page.getByLabel('Size').inputValue()).toBe('own');
    await page.getByLabel('What is exported').selectOption('range');
    await page.getByLabel('Frames a second').selectOption({ label: '24, constant' });
    await page.getByText(/own rate and shape/).waitFor();
    for (const name of ['Export WebM', 'Choose where to write…'])
      expect(await page.getByRole('button', { name }).isDisabled()).toBe(true);
    expect(bench.troubles).toEqual([]);
    await page.close();
  });

  it('and flashes over the limit are softened as little as does it, in one step', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await page.getByText(/frame \d+\/\d+/).waitFor();
    const demo = await montageOf(page);
    const flash = {
      id: 'f',
      effect: 'flash',
      version: 2,
      on: true,
      params: {
        exposure: [
          { at: 0, value: 0, ease: 'linear' },
          { at: 1, value: 2, ease: 'linear' },
          { at: 3, value: 0, ease: 'linear' },
        ],
      },
      repeat: { times: 6, every: 4, length: 1, strength: 1 },
    };
    const accents = demo.accents
      .filter(({ id }) => id === 'lantern-burst')
      .map((accent) => ({ ...accent, tail: 28, effects: [flash], sounds: [], lanes: [] }));
    const path = join(mkdtempSync(join(tmpdir(), 'akmeon-strobe-')), 'strobe.akmeon');
    // Five seconds hold three of its hits.
    const rest = { ...demo, clips: [{ ...demo.clips[0]!, out: 5 }], music: [] };
    writeFileSync(path, JSON.stringify({ ...rest, id: 'strobe', name: 'Strobe', accents, overrides: {} }));
    await page.goto(`${bench.origin}/`);
    await page.locator('input[type="file"]').first().setInputFiles(path);
    await page.getByText(/frame \d+\/\d+/).waitFor();
    await station(page, 'Export');
    await page.getByRole('button', { name: 'Soften flashes' }).click();
    const done = page.getByText(/placements? (is|are) softened, the most to \d+ %/);
    await done.waitFor({ timeout: 120_000 });
    const [, general] = /%: (\d+) general/.exec((await done.textContent())!)!;
    expect(Number(general)).toBeLessThanOrEqual(3);
    const { overrides } = await montageOf(page);
    const set = Object.values(overrides).map(({ intensity }) => intensity!);
    expect(set.length).toBeGreaterThan(0);
    // Softened, but not switched off.
    expect(Math.max(...set)).toBeLessThan(1);
    expect(Math.min(...set)).toBeGreaterThan(0);
    await page.getByRole('button', { name: 'Soften flashes' }).click();
    await page.getByText(/nothing has to be softened/).waitFor({ timeout: 60_000 });
    await page.keyboard.press('Control+z');
    await expect.poll(async () => Object.keys((await montageOf(page)).overrides).length).toBe(0);
    expect(bench.troubles).toEqual([]);
    await page.close();
  });
});
