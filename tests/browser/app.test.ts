import { AxeBuilder } from '@axe-core/playwright';
import { mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import {
  bring,
  at,
  ffmpeg,
  fixture,
  HAS_FFMPEG,
  montageOf,
  saved,
  startBench,
  startParts,
  station,
  trouble,
  type Bench,
} from './harness.ts';

let bench: Bench;
let parts: Awaited<ReturnType<typeof startParts>>;
let folder: string;
beforeAll(async () => {
  bench = await startBench();
  parts = await startParts();
  folder = await mkdtemp(join(tmpdir(), 'akmeon-test-'));
});
afterAll(async () => {
  await bench.close();
  await parts.close();
});

const main = (page: Page) => page.locator('[data-main]');
const rows = (page: Page) => page.locator('[data-hit]');

async function newMontage(): Promise<Page> {
  const page = await bench.page();
  await page.goto(`${bench.origin}/`);
  await page.getByRole('button', { name: 'New montage', exact: true }).click();
  await page.getByText('Drop footage, pictures and music here').waitFor();
  return page;
}

async function exported(page: Page, name: string): Promise<string> {
  await main(page).click();
  await page.locator('[data-export-done]').waitFor({ timeout: 110_000 });
  const [download] = await Promise.all([page.waitForEvent('download'), main(page).click()]);
  const path = join(folder, name);
  await download.saveAs(path);
  return path;
}

describe('from a file to an exported accent, through the interface', () => {
  let page: Page;
  beforeAll(async () => {
    page = await newMontage();
  });

  it('brings in a file, copying it where no lasting hold is to be had, and says so', async () => {
    await bring(page, fixture('hits.mp4'));
    await page.getByText(/hits\.mp4 is in\..*Copied/).waitFor();
    expect(await page.getByText('320×180 · 30 · avc').count()).toBe(1);
  });

  it('finds the hits and goes on to checking them', async () => {
    await main(page).click();
    await page.getByRole('button', { name: /Keep all 6/ }).waitFor({ timeout: 60_000 });
    await page.getByRole('tab', { name: 'Hits', exact: true }).click();
    expect(await rows(page).count()).toBe(6);
  });

  it('sensitivity acts at once on kept signals, one kind at a time', async () => {
    await page.getByRole('tab', { name: 'Finding' }).click();
    await page.getByLabel('Sensitivity of flash').fill('0');
    await page.getByLabel('Sensitivity of flash').fill('0.5');
    await page.getByLabel('Sensitivity of impact').fill('1');
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByRole('button', { name: 'Undo' }).click();
    await page.getByRole('tab', { name: 'Hits' }).click();
    expect(await rows(page).count()).toBe(6);
  });

  it('goes through hits by keyboard: keep, reject, nudge, add, step', async () => {
    await page.locator('body').click({ position: { x: 400, y: 20 } });
    await page.keyboard.press('ArrowDown');
    expect(await page.locator('[data-playhead]').getAttribute('data-playhead')).toBe('15');
    await page.keyboard.press('k');
    expect(await page.locator('[data-playhead]').getAttribute('data-playhead')).toBe('45');
    await page.keyboard.press('r');
    await page.keyboard.press('Alt+ArrowRight');
    expect(await page.locator('[data-playhead]').getAttribute('data-playhead')).toBe('76');
    await page.keyboard.press('Shift+ArrowRight');
    expect(await page.locator('[data-playhead]').getAttribute('data-playhead')).toBe('86');
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('h');
    expect(await rows(page).evaluateAll((list) => list.map((row) => row.getAttribute('data-state')))).toEqual([
      'kept',
      'rejected',
      'kept',
      'made',
      'found',
      'found',
      'found',
    ]);
  });

  it('shows true decoded frames around the hit, its own frame marked', async () => {
    await rows(page).first().locator('button').first().click();
    const strip = page.getByRole('region', { name: 'Frames around the hit' });
    await expect.poll(() => strip.getByRole('button', { name: 'Frame 15, the hit' }).count()).toBe(1);
    // The flash is on frames 15 and 16 and not on 14 nor 17.
    const light = async (frame: number): Promise<number> =>
      strip.locator(`canvas[data-frame="${frame}"]`).evaluate((canvas: HTMLCanvasElement) => {
        const { data } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
        return data.reduce((sum, v, i) => (i % 4 < 3 ? sum + v : sum), 0) / (data.length * 0.75);
      });
    await expect.poll(() => light(15)).toBeGreaterThan(230);
    await expect.poll(() => light(22)).toBeGreaterThan(20);
    expect(await light(16)).toBeGreaterThan(230);
    expect(await light(14)).toBeLessThan(150);
    expect(await light(17)).toBeLessThan(150);
  });

  it('comes back after a reload with hits, decisions and pictures', async () => {
    await saved(page);
    await page.reload();
    await rows(page).first().waitFor();
    expect(await rows(page).evaluateAll((list) => list.map((row) => row.getAttribute('data-state')))).toEqual([
      'kept',
      'rejected',
      'kept',
      'made',
      'found',
      'found',
      'found',
    ]);
  });

  it('shapes an accent in the frame ladder: type, see it in the document, undo, redo', async () => {
    await station(page, 'Shape');
    await page.getByRole('button', { name: /Harbour knock/ }).click();
    const cell = page.getByRole('gridcell', { name: /^Punch Zoom at 0:/ });
    expect(await cell.getAttribute('aria-label')).toBe('Punch Zoom at 0: 124, key, fast out');
    await cell.focus();
    await page.keyboard.type('150');
    await page.keyboard.press('Enter');
    expect(await cell.getAttribute('aria-label')).toContain(': 150');
    await page.getByRole('gridcell', { name: /^Punch Zoom at 3:/ }).focus();
    await page.keyboard.type('90000');
    await page.keyboard.press('Enter');
    expect(await page.getByRole('gridcell', { name: /^Punch Zoom at 3:/ }).getAttribute('aria-label')).toContain(
      ': 400',
    );
    await page.getByRole('button', { name: 'Undo' }).click();
    expect(await page.getByRole('gridcell', { name: /^Punch Zoom at 3:/ }).getAttribute('aria-label')).not.toContain(
      'key',
    );
    await page.getByRole('button', { name: 'Redo' }).click();
    await page.getByRole('button', { name: 'Undo' }).click();
    await cell.dragTo(cell, { sourcePosition: { x: 20, y: 20 }, targetPosition: { x: 20, y: 4 } });
    expect(await cell.getAttribute('aria-label')).not.toContain(': 150');
  });

  it('spreads it by rule, and changes a single placement', async () => {
    await main(page).click();
    await expect.poll(() => page.locator('[data-rule]').count()).toBe(1);
    await page.getByRole('button', { name: /flash at frame 15/ }).click();
    await page.getByRole('button', { name: 'Accent one frame later' }).click();
    const doc = await montageOf(page);
    expect(doc.rules).toHaveLength(1);
    expect(Object.values(doc.overrides)).toEqual([{ nudge: 1 }]);
    await page.getByRole('button', { name: 'Back to the rule' }).click();
    // Only kept and hand-made hits of the rule's kinds carry it: 15, 76 and the mark at 87.
    expect(await main(page).textContent()).toBe('Export with 3 accents');
  });

  it('exports: accent frames differ as planned, untouched ones equal the source, sound in sync', async () => {
    await main(page).click();
    // The accent's own knock would be heard beside the recording's clicks.
    await station(page, 'Bring in');
    await page.getByRole('slider', { name: 'Volume of the accents' }).fill('0');
    await station(page, 'Export');
    const path = await exported(page, 'out.mp4');
    const [mine, source] = [parts.file(path), parts.file(fixture('hits.mp4'))];
    const read = await parts.page.evaluate((url) => window.parts.read(url), mine);
    expect(read.frames).toHaveLength(180);
    // One kind of frame throughout: limited-range BT.709.
    expect(new Set(read.frames.map((f) => `${f.format} ${f.range} ${f.matrix}`))).toEqual(
      new Set(['I420 false bt709']),
    );
    read.frames.forEach((frame, i) => expect(frame.t).toBeCloseTo(i / 30, 3));
    const gaps = await parts.page.evaluate(([a, b]) => window.parts.lumaGaps(a, b), [mine, source] as const);
    const touched = (f: number): boolean => [15, 76, 87].some((hit) => f >= hit - 2 && f <= hit + 10);
    for (const [f, gap] of gaps.entries()) if (!touched(f)) expect(gap, `frame ${f}`).toBeLessThan(2.5);
    // Frames 75 and 76 are white all over: a zoom leaves them so.
    for (const f of [77, 78, 79, 87, 88]) expect(gaps[f], `frame ${f}`).toBeGreaterThan(4);
    // Sound: 10 ms, by the app's reader and by ffmpeg's.
    expect(read.clicks).toHaveLength(6);
    read.clicks.forEach((t, i) => expect(Math.abs(t - (0.5 + i))).toBeLessThan(0.01));
    if (HAS_FFMPEG) {
      const pcm = ffmpeg('-i', path, '-f', 'f32le', '-ac', '1', '-ar', '48000', '-');
      const samples = new Float32Array(pcm.buffer, pcm.byteOffset, pcm.length >> 2);
      for (let i = 0; i < 6; i++) {
        const from = Math.round((0.25 + i) * 48000);
        const first = samples.subarray(from, from + 24000).findIndex((v) => Math.abs(v) > 0.1);
        expect(Math.abs((from + first) / 48000 - (0.5 + i)), `click ${i}`).toBeLessThan(0.01);
      }
    }
  });

  it('exports at another rate and size, with Opus', async () => {
    await page.getByLabel('Size').selectOption('720');
    await page.getByLabel('Frames a second').selectOption({ label: '24, constant' });
    await page.getByLabel('Sound').selectOption('opus');
    const results = (): Promise<number> =>
      page.evaluate(async () => {
        const root = await navigator.storage.getDirectory();
        let count = 0;
        for await (const _ of (await root.getDirectoryHandle('results')).keys()) count++;
        return count;
      });
    expect(await results()).toBe(1);
    await page.getByRole('button', { name: 'Export again' }).click();
    await page.getByText('Exporting…').waitFor();
    // A cancelled export leaves no file, and the finished one of before can still be saved.
    await page.getByRole('button', { name: 'Cancel the export' }).click();
    await page.getByText('No partial file was left').waitFor();
    expect(await results()).toBe(1);
    await page.getByRole('link', { name: /^Save / }).waitFor();
    // After an edit it is an older file: the main button makes a new one.
    await page.getByLabel('Name of the montage').fill('Changed since');
    await page.getByRole('button', { name: 'Export MP4' }).waitFor();
    await page.getByRole('link', { name: 'Save the older file' }).waitFor();
    await page.close();
  });

  it('nothing went wrong on the way', () => expect(bench.troubles).toEqual([]));
});

/** Windows that all views are laid out for. */
const SIZES = [
  [1024, 700],
  [1280, 800],
  [1920, 1080],
  [2560, 1440],
] as const;

/** In the page: what reaches out of the window or of its own part of it, and does not scroll there. */
function cutOff(): string[] {
  const root = document.documentElement;
  const out = root.scrollWidth > innerWidth || root.scrollHeight > innerHeight ? ['the page scrolls'] : [];
  const parts = ['header', 'section[aria-label="Picture"]', 'main nav', 'main > div > section'];
  for (const part of document.querySelectorAll(parts.join(','))) {
    const { left, right } = part.getBoundingClientRect();
    for (const element of part.querySelectorAll<HTMLElement>('button, a, input, select, label, p, h2, h3, span')) {
      const box = element.getBoundingClientRect();
      if (box.width < 2 || (box.right <= right + 1 && box.left >= left - 1)) continue;
      let inside: Element | null = element;
      while (inside && inside !== part && getComputedStyle(inside).overflowX === 'visible')
        inside = inside.parentElement;
      if (inside === part) out.push(element.outerHTML.slice(0, 120));
    }
  }
  return out;
}

describe('the demo', () => {
  it(
    'goes from opening to an exported file by the most prominent button alone, in at most eight presses',
    { timeout: 300_000 },
    async () => {
      const page = await bench.page();
      // Small, as it was chosen once before.
      await page.addInitScript(() =>
        localStorage.setItem(
          'akmeon-preferences',
          JSON.stringify({
            state: { exportAs: { kind: 'mp4-h264', lines: 360, sound: 'aac', quality: 'usual', megabits: null } },
            version: 0,
          }),
        ),
      );
      await page.goto(`${bench.origin}/demo-montage`);
      let presses = 0;
      let file: string | null = null;
      page.on('download', (download) => void download.path().then((path) => (file = path)));
      while (!file && presses < 8) {
        const before = await page.locator('[data-main]').textContent();
        await page.locator('[data-main]:not([disabled])').click({ timeout: 200_000 });
        presses++;
        // What comes next is another button, or the file.
        await expect
          .poll(async () => file !== null || (await page.locator('[data-main]').allTextContents())[0] !== before)
          .toBe(true);
      }
      await expect.poll(() => file).not.toBeNull();
      const read = await parts.page.evaluate((url) => window.parts.read(url), parts.file(file!));
      expect(read.frames).toHaveLength(600);
      await page.close();
    },
  );

  it.each(['bring-in', 'check', 'shape', 'spread', 'export'])(
    'has no serious accessibility violation at %s, and nothing is cut off',
    async (name) => {
      const page = await bench.page();
      await page.goto(`${bench.origin}/demo-montage`);
      await main(page).waitFor();
      await page.goto(`${bench.origin}/montage/harbour-nights/${name}`);
      await main(page).waitFor();
      await page.evaluate(() => document.fonts.ready);
      const { violations } = await new AxeBuilder({ page }).analyze();
      expect(
        violations
          .filter((v) => v.impact === 'serious' || v.impact === 'critical')
          .map((v) => `${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(' | ')}`),
      ).toEqual([]);
      for (const [width, height] of SIZES) {
        await page.setViewportSize({ width, height });
        await expect.poll(() => page.evaluate(cutOff), { message: `${width}x${height}` }).toEqual([]);
        // The picture fills its place: its full width or its full height.
        const fills = await page.evaluate(() => {
          const picture = document.querySelector('[data-stage]')!.getBoundingClientRect();
          const place = document.querySelector('[data-stage]')!.parentElement!.getBoundingClientRect();
          return Math.min(place.width - picture.width, place.height - picture.height);
        });
        expect(fills).toBeLessThan(32);
      }
      await page.setViewportSize({ width: 1280, height: 800 });
      // The sheet scrolls only where it is as high as it may be.
      if (name === 'spread')
        expect(
          await page
            .getByRole('region', { name: 'Sheet of hits and rules' })
            .evaluate((sheet) => sheet.scrollHeight <= sheet.clientHeight || sheet.clientHeight > 200),
        ).toBe(true);
      await page.close();
    },
  );
});

describe('bad input, each with a sentence and nothing lost', () => {
  let page: Page;
  beforeAll(async () => {
    page = await newMontage();
    await bring(page, fixture('silent.mp4'));
    await page.getByText(/silent\.mp4 is in/).waitFor();
    await writeFile(join(folder, 'empty.mp4'), '');
  });

  it.each([
    ['package.json', () => at('package.json'), 'is not a video or sound file'],
    ['empty.mp4', () => join(folder, 'empty.mp4'), 'is empty'],
    ['no-moov.mp4', () => fixture('no-moov.mp4'), 'is cut short'],
    ['old-codec.mp4', () => fixture('old-codec.mp4'), 'cannot decode'],
    ['hdr.webm', () => fixture('hdr.webm'), 'is HDR footage'],
  ])('%s', async (_, path, words) => {
    await bring(page, path());
    await expect.poll(() => trouble(page)).toContain(words);
    expect((await montageOf(page)).sources).toHaveLength(1);
  });

  it.skipIf(!HAS_FFMPEG)(
    'what the browser cannot decode is offered as a copy for editing, HDR toned down',
    async () => {
      // Both were refused above.
      for (const name of ['old-codec.mp4', 'hdr.webm']) {
        const card = page.locator('[data-refused]').filter({ hasText: name });
        await card.getByRole('button', { name: 'Make a copy' }).click();
        await page.getByText(`${name.split('.')[0]} (copy).mp4 is in`).waitFor({ timeout: 60_000 });
        await expect.poll(() => card.count()).toBe(0);
      }
      const { sources } = await montageOf(page);
      expect(sources.slice(1).map(({ video }) => video!.codec)).toEqual(['avc', 'avc']);
      for (let i = 0; i < 2; i++) await page.keyboard.press('Control+z');
      await expect.poll(async () => (await montageOf(page)).sources.length).toBe(1);
    },
  );

  it.each([
    'truncated.mp4',
    'odd.webm',
    'rotated.mp4',
    'ntsc.mp4',
    'variable.mp4',
    'one-frame.mp4',
    'late-sound.mp4',
    'sound-only.m4a',
    'ten-bit.webm',
    'two-tracks.mkv',
    'three-hours.mkv',
  ])('%s is taken in with what is odd about it said', async (name) => {
    const before = (await montageOf(page)).sources.length;
    await bring(page, fixture(name));
    await page.getByText(`${name} is in.`).waitFor({ timeout: 30_000 });
    expect((await montageOf(page)).sources).toHaveLength(before + 1);
  });

  it('chooses which of several sound tracks is listened to', async () => {
    await page.getByLabel('Listen to').selectOption({ label: 'Track 2, Game (opus, 1 ch)' });
    expect((await montageOf(page)).sources.find((s) => s.name === 'two-tracks.mkv')!.listen).toBe(1);
  });

  it('opens a project file, and refuses broken ones with a sentence', async () => {
    const doc = await montageOf(page);
    const cases: [string, string][] = [
      ['{', 'not JSON'],
      [JSON.stringify({ ...doc, version: 99 }), 'newer Akmeon'],
      [JSON.stringify({ ...doc, settings: { ...doc.settings, width: -4 } }), 'cannot be read'],
    ];
    const home = await bench.page();
    await home.goto(`${bench.origin}/`);
    for (const [text, words] of cases) {
      await writeFile(join(folder, 'broken.akmeon'), text);
      await home.locator('input[type="file"]').setInputFiles(join(folder, 'broken.akmeon'));
      await expect.poll(() => trouble(home)).toContain(words);
    }
    // A project whose media are nowhere: opened, and the file asked for.
    await writeFile(
      join(folder, 'lost.akmeon'),
      JSON.stringify({
        ...doc,
        id: 'lost',
        name: 'Lost',
        clips: [],
        hits: [],
        music: [],
        sources: [{ ...doc.sources[0]!, fingerprint: 'b'.repeat(64) }],
      }),
    );
    await home.locator('input[type="file"]').setInputFiles(join(folder, 'lost.akmeon'));
    await home.getByText('Missing: silent.mp4').waitFor();
    await bring(home, fixture('silent.mp4'));
    await expect.poll(() => trouble(home)).toContain('other content');
    await home.close();
  });

  it('a second tab with the same montage says so and does not write', async () => {
    const second = await bench.page();
    await second.goto(page.url());
    await second.getByText('open in another tab').waitFor();
    await second.getByLabel('Name of the montage').fill('Overwritten');
    expect((await montageOf(page)).name).toBe('New montage');
    await second.close();
  });

  it('media that vanished are asked for, recognised by content, and nothing else is lost', async () => {
    const doc = await montageOf(page);
    await page.evaluate(async () => (await navigator.storage.getDirectory()).removeEntry('media', { recursive: true }));
    await page.reload();
    await page.getByText(/Missing: .*silent\.mp4/).waitFor();
    await bring(page, fixture('silent.mp4'));
    await page.getByText('silent.mp4 was found again.').waitFor();
    expect((await montageOf(page)).sources).toHaveLength(doc.sources.length);
    await page.close();
  });

  it('storage refused: says so, and the montage stays usable', async () => {
    const refused = await bench.page();
    await refused.goto(`${bench.origin}/montage/harbour-nights/check`);
    await main(refused).waitFor();
    await refused.evaluate(() => {
      IDBObjectStore.prototype.put = () => {
        throw new DOMException('The quota has been exceeded.', 'QuotaExceededError');
      };
    });
    await refused.getByLabel('Name of the montage').fill('Still here');
    await refused.getByText('browser storage is full').waitFor();
    expect(await refused.getByRole('button', { name: 'Save to a file' }).count()).toBe(1);
    await refused.close();
  });
});

describe('a browser that stores nothing', () => {
  it('says so, and still opens, brings in and finds for this visit', async () => {
    const page = await bench.page();
    await page.addInitScript(() => {
      IDBFactory.prototype.open = () => {
        throw new DOMException('refused', 'SecurityError');
      };
    });
    await page.goto(`${bench.origin}/`);
    await page.getByRole('button', { name: 'New montage', exact: true }).click();
    await page.getByText('Drop footage, pictures and music here').waitFor();
    await page.getByText('refuses to store anything').first().waitFor();
    await bring(page, fixture('hits.mp4'));
    await page.getByText(/used for this visit only/).waitFor();
    await main(page).click();
    await page.getByRole('button', { name: /Keep all 6/ }).waitFor({ timeout: 60_000 });
    await page.close();
  });
});

describe('playing', () => {
  it('follows the clock, loops around the hit at quarter speed, and compares while a key is held', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await station(page, 'Check');
    const playhead = async (): Promise<number> =>
      Number(await page.locator('[data-playhead]').getAttribute('data-playhead'));
    await page.keyboard.press('Space');
    await expect.poll(playhead).toBeGreaterThan(20);
    await page.keyboard.press('Space');
    const stopped = await playhead();
    // Two pictures later it still stands.
    await page.evaluate(() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done))));
    expect(await playhead()).toBe(stopped);
    await page.getByRole('button', { name: 'Next hit' }).click();
    const hit = await playhead();
    await page.keyboard.press('o');
    await page.keyboard.press('4');
    await page.keyboard.press('Space');
    await expect.poll(playhead).not.toBe(hit);
    const [low, high] = [await playhead(), hit + 24];
    expect(low).toBeGreaterThanOrEqual(hit - 12);
    expect(low).toBeLessThanOrEqual(high);
    await page.keyboard.press('Space');
    await page.keyboard.down('w');
    await page.getByText('Without accents').waitFor();
    await page.keyboard.up('w');
    await expect.poll(() => page.getByText('Without accents').count()).toBe(0);
    await page.keyboard.press('Control+j');
    await page.getByLabel('Name of the command').fill('quarter');
    await expect.poll(() => page.locator('[role="listbox"] [role="option"]').count()).toBe(1);
    await page.close();
  });

  it('nothing went wrong on any page', async () => {
    // The refused storage is meant; all else is not.
    expect(bench.troubles.filter((t) => !/404|Quota/.test(t))).toEqual([]);
  });
});
