/** Sounds of accents in the app: chosen by ear, measured, brought to a loudness, written as WAV; sounds of one's own. */
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { spawnSync } from 'node:child_process';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { findHits, fixture, HAS_FFMPEG, montageOf, saved, startBench, station, type Bench } from './harness.ts';

describe('in the app', () => {
  let bench: Bench;
  beforeAll(async () => {
    bench = await startBench();
  });
  afterAll(() => bench.close());

  it('a sound is chosen by ear, laid on nine hits by the rule, heard in the levels, brought to a target and switched off', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await findHits(page);
    await page.getByRole('button', { name: /^Keep all \d/ }).click();
    await station(page, 'Shape');
    await page.getByRole('button', { name: 'Lantern burst' }).first().click();
    await page.getByRole('tab', { name: 'Sound', exact: true }).click();
    await page.getByRole('button', { name: 'Add a sound' }).click();
    // By keyboard: space plays it on the hit, Enter takes it.
    const boom = page.locator('[data-shelf-sound="boom"]');
    await page.getByLabel('Seek a sound').fill('boom');
    await page.locator('[data-shelf-sound="snap"]').waitFor({ state: 'detached' });
    await boom.focus();
    await page.keyboard.press(' ');
    await expect.poll(() => page.getByRole('button', { name: 'Pause' }).count()).toBeGreaterThan(0);
    await page.keyboard.press('Enter');
    const card = page.getByRole('region', { name: 'Low boom', exact: true });
    await card.getByLabel('Gain of Low boom, decibels', { exact: true }).fill('-3');
    await page.getByRole('button', { name: 'Lower the music' }).click();
    await saved(page);
    const accent = (await montageOf(page)).accents.find(({ id }) => id === 'lantern-burst')!;
    expect(accent.sounds!.slice(-1)).toMatchObject([
      { choices: [{ made: 'boom' }], moment: 'peak', place: 'hit', gain: -3 },
    ]);
    expect(accent.lanes).toMatchObject([{ lane: 'music', change: 'lower', amount: 9 }]);
    await page.reload();
    await station(page, 'Export');
    const levels = page.getByRole('region', { name: 'Levels' });
    await levels.getByRole('button', { name: 'Measure' }).click();
    const row = (lane: string) => levels.locator(`[data-lane="${lane}"] td`);
    await row('accents').first().waitFor({ timeout: 60_000 });
    await levels.getByRole('button', { name: '-16' }).click();
    await levels.getByRole('button', { name: 'Do it' }).click();
    await page.getByText(/The mix is at -16 LUFS/).waitFor({ timeout: 60_000 });
    await expect.poll(() => row('mix').first().textContent(), { timeout: 60_000 }).toMatch(/^-(15\.[89]|16\.[012])$/);
    expect(Number(await row('mix').last().textContent())).toBeLessThanOrEqual(-0.9);
    // One slider switches all of them off.
    await station(page, 'Bring in');
    await page.getByRole('slider', { name: 'Volume of the accents' }).fill('0');
    await station(page, 'Export');
    await levels.getByRole('button', { name: 'Measure' }).click();
    await expect.poll(() => row('accents').count(), { timeout: 60_000 }).toBe(0);
    await page.keyboard.press('Control+z');
    expect(bench.troubles).toEqual([]);
    await page.close();
  });

  it.runIf(HAS_FFMPEG)(
    'a WAV of the mix is as loud as ffmpeg says it is, and one lane of it is that lane',
    async () => {
      const page = await bench.page();
      await page.goto(`${bench.origin}/demo-montage`);
      await station(page, 'Export');
      const levels = page.getByRole('region', { name: 'Levels' });
      await levels.getByRole('button', { name: 'Measure' }).click();
      const mix = levels.locator('[data-lane="mix"] td');
      await mix.first().waitFor({ timeout: 60_000 });
      const [own, peak] = [Number(await mix.first().textContent()), Number(await mix.last().textContent())];
      const folder = mkdtempSync(join(tmpdir(), 'akmeon-wav-'));
      const save = async (what: string, bits: string, rate: string): Promise<string> => {
        await levels.getByLabel('What the WAV holds').selectOption(what);
        await levels.getByLabel('Bits of the WAV').selectOption(bits);
        await levels.getByLabel('Rate of the WAV').selectOption(rate);
        const [download] = await Promise.all([
          page.waitForEvent('download', { timeout: 60_000 }),
          levels.getByRole('button', { name: 'Save WAV' }).click(),
        ]);
        const path = join(folder, `${what}-${bits}.wav`);
        await download.saveAs(path);
        return path;
      };
      const whole = await save('the mix', '24 bits', '48 kHz');
      // Of another author: the filter ebur128 of FFmpeg, after EBU R 128.
      const { stderr } = spawnSync('ffmpeg', [
        '-nostats',
        '-i',
        whole,
        '-filter_complex',
        'ebur128=peak=true',
        '-f',
        'null',
        '-',
      ]);
      const summary = stderr.toString().split('Summary:').at(-1)!;
      expect(Math.abs(Number(/I:\s+(-?[\d.]+) LUFS/.exec(summary)![1]) - own)).toBeLessThanOrEqual(0.11);
      expect(Math.abs(Number(/Peak:\s+(-?[\d.]+) dBFS/.exec(summary)![1]) - peak)).toBeLessThan(0.5);
      const header = readFileSync(await save('the music', '16 bits', '44.1 kHz'));
      expect([header.readUInt16LE(22), header.readUInt32LE(24), header.readUInt16LE(34)]).toEqual([2, 44100, 16]);
      expect(Math.abs((header.length - 44) / (4 * 44100) - 20)).toBeLessThan(0.1);
      expect(bench.troubles).toEqual([]);
      await page.close();
    },
  );

  it('a sound file of one’s own is kept for other montages; what is none is refused with a reason', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await station(page, 'Shape');
    await page.getByRole('tab', { name: 'Sound', exact: true }).click();
    await page.getByRole('button', { name: 'Add a sound' }).click();
    const choose = async (name: string): Promise<void> => {
      await page
        .getByRole('region', { name: 'Sounds to choose from' })
        .locator('input[type="file"]')
        .setInputFiles(fixture(name));
    };
    await choose('clicks.wav');
    await page.getByRole('region', { name: 'clicks.wav' }).waitFor({ timeout: 20_000 });
    await saved(page);
    const montage = await montageOf(page);
    const [asset] = montage.accents[0]!.sounds!.at(-1)!.choices;
    // The clicks lie at 0.5 and 1.5 s.
    expect(asset).toMatchObject({ name: 'clicks.wav' });
    expect(Math.abs((asset as { peak: number }).peak - 0.5)).toBeLessThan(0.01);
    expect(montage.sources.at(-1)).toMatchObject({ role: 'sound', name: 'clicks.wav' });
    // It is neither searched for hits nor listed with the footage.
    await station(page, 'Bring in');
    await page.getByRole('button', { name: /^Remove low-tide/ }).waitFor();
    await expect.poll(() => page.getByRole('button', { name: 'Remove clicks.wav' }).count()).toBe(0);
    await station(page, 'Shape');
    await page.getByRole('button', { name: 'Remove clicks.wav' }).click();
    await page.getByRole('button', { name: 'Add a sound' }).click();
    await page.getByRole('button', { name: 'Hear clicks.wav on the hit' }).waitFor();
    // A file without sound is refused with a sentence, and nothing changes.
    await choose('no-moov.mp4');
    await page.locator('[data-tone="error"]').waitFor({ timeout: 20_000 });
    expect((await montageOf(page)).sources.filter(({ role }) => role === 'sound')).toHaveLength(1);
    expect(bench.troubles).toEqual([]);
    await page.close();
  });
});
