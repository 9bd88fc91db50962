/** Formats, focus, stills and trays, from brought-in files to exported frames. */
import { mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { crc32, deflateSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Page } from 'playwright-core';
import { writeMontage } from '../../src/core/document/akmeon.ts';
import { musicTime } from '../../src/core/timeline/music.ts';
import {
  bring,
  at,
  ffmpeg,
  findHits,
  fixture,
  HAS_FFMPEG,
  montageOf,
  startBench,
  startParts,
  station,
  trouble,
  type Bench,
} from './harness.ts';
import { hourLong } from '../bench/screen.ts';

let bench: Bench;
let parts: Awaited<ReturnType<typeof startParts>>;
let folder: string;
beforeAll(async () => {
  bench = await startBench();
  parts = await startParts();
  folder = await mkdtemp(join(tmpdir(), 'akmeon-formats-'));
});
afterAll(async () => {
  await bench.close();
  await parts.close();
});

async function newMontage(...files: string[]): Promise<Page> {
  const page = await bench.page();
  await page.goto(bench.origin);
  await page.getByRole('button', { name: 'New montage', exact: true }).click();
  await page.getByText('Drop footage, pictures and music here').waitFor();
  await bring(page, ...files);
  await page.locator('[data-clip]').first().waitFor();
  return page;
}

/** All files of an export, in their order. */
async function exportAll(page: Page): Promise<string[]> {
  await station(page, 'Export');
  await page.locator('[data-main]').click();
  const done = page.locator('[data-export-done]');
  await done.first().waitFor({ timeout: 110_000 });
  const links = (await done.count()) > 1 ? done.getByRole('link') : page.locator('a[data-main]');
  const paths: string[] = [];
  for (let i = 0; i < (await links.count()); i++) {
    const [download] = await Promise.all([page.waitForEvent('download'), links.nth(i).click()]);
    paths.push(join(folder, `${paths.length}-${download.suggestedFilename()}`));
    await download.saveAs(paths.at(-1)!);
  }
  return paths;
}

/** A grey PNG of one value (PNG specification, third edition, sections 5 and 11). */
function png(width: number, height: number, grey: number): Buffer {
  const chunk = (type: string, data: Buffer): Buffer => {
    const body = Buffer.concat([Buffer.from(type), data]);
    const [length, sum] = [Buffer.alloc(4), Buffer.alloc(4)];
    length.writeUInt32BE(data.length);
    sum.writeUInt32BE(crc32(body));
    return Buffer.concat([length, body, sum]);
  };
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head.set([8, 0, 0, 0, 0], 8);
  const rows = Buffer.alloc((width + 1) * height, grey);
  for (let y = 0; y < height; y++) rows[y * (width + 1)] = 0;
  return Buffer.concat([
    Buffer.from([137, 80, 78, 71, 13, 10, 26, 10]),
    chunk('IHDR', head),
    chunk('IDAT', deflateSync(rows, { level: 1 })),
    chunk('IEND', Buffer.alloc(0)),
  ]);
}

describe.runIf(HAS_FFMPEG)('formats and focus', () => {
  let page: Page;
  /** A spark right of the middle with a knock, twice, elsewhere. */
  const sparks = [
    { frame: 45, x: 0.72, y: 0.4 },
    { frame: 120, x: 0.3, y: 0.62 },
  ];
  beforeAll(async () => {
    const path = join(folder, 'sparks.mp4');
    const boxes = sparks
      .map(
        ({ frame, x, y }) =>
          `drawbox=x=${Math.round(640 * x) - 14}:y=${Math.round(360 * y) - 14}:w=28:h=28:c=white:t=fill` +
          `:enable='between(n,${frame},${frame + 3})'`,
      )
      .join(',');
    ffmpeg(
      ...['-f', 'lavfi', '-i', `testsrc2=s=640x360:r=30:d=6,eq=brightness=-0.35:contrast=0.4,${boxes}`],
      ...['-f', 'lavfi', '-i', `aevalsrc='0.7*sin(2*PI*900*t)*(between(t,1.5,1.52)+between(t,4,4.02))':s=48000:d=6`],
      ...['-c:v', 'libx264', '-preset', 'veryfast', '-pix_fmt', 'yuv420p', '-c:a', 'aac', path],
    );
    page = await newMontage(path);
    await page.getByRole('slider', { name: 'Playhead' }).focus();
    for (const { frame } of sparks) {
      await page.evaluate('document.activeElement?.blur()');
      await page.locator('[aria-label^="Skim sparks"]').waitFor();
      // By hand: what is tested here is where they are, not whether they are found.
      const land = (await page.getByRole('slider', { name: 'Playhead' }).boundingBox())!;
      await page.mouse.click(land.x + ((frame + 0.5) / 180) * land.width, land.y + 40);
      await page.keyboard.press('h');
    }
  });

  it('proposes the focus of hits from the picture, cuts another shape around it, and exports all in one go', async () => {
    await page.getByLabel('Add the format 9:16').click();
    await page.getByRole('button', { name: 'Propose' }).click();
    await page.getByText(/A focus was found for all 2 hits/).waitFor();
    const m = await montageOf(page);
    expect(m.formats).toMatchObject([{ name: '9:16', width: 720, height: 1280, fit: 'focus' }]);
    const marks = m.hits.filter(({ state }) => state === 'made');
    marks.forEach(({ focus }, i) => {
      expect(Math.abs(focus!.x - sparks[i]!.x)).toBeLessThan(0.03);
      expect(Math.abs(focus!.y - sparks[i]!.y)).toBeLessThan(0.04);
    });
    const [own, tall] = await exportAll(page);
    const sizes = await Promise.all(
      [own!, tall!].map((path) => parts.page.evaluate((url) => window.parts.describe(url), parts.file(path))),
    );
    expect(sizes.map((one) => one.ok && [one.about.video!.width, one.about.video!.height])).toEqual([
      [640, 360],
      [720, 1280],
    ]);
    // Where the spark is in the tall picture, in columns of a fortieth of its width: within 5 % of its middle.
    const columns = Array.from({ length: 40 }, (_, i) => ({ x: i / 40, y: 0, w: 1 / 40, h: 1 }));
    const lumas = await parts.page.evaluate(([url, frames, boxes]) => window.parts.boxLuma(url, frames, boxes), [
      parts.file(tall!),
      sparks.flatMap(({ frame }) => [frame - 1, frame + 1]),
      columns,
    ] as const);
    sparks.forEach((_, i) => {
      const rise = lumas[2 * i + 1]!.map((luma, k) => Math.max(0, luma - lumas[2 * i]![k]! - 3));
      const sum = rise.reduce((a, b) => a + b, 0);
      const middle = rise.reduce((all, value, k) => all + value * ((k + 0.5) / 40), 0) / sum;
      expect(sum).toBeGreaterThan(10);
      expect(Math.abs(middle - 0.5), `spark ${i + 1}`).toBeLessThan(0.05);
    });
  });

  it('leaves no file of any format when an export is cancelled in the middle', async () => {
    await page.getByRole('button', { name: /^Export again/ }).click();
    await page.getByText('Exporting…').waitFor();
    await page.getByRole('button', { name: 'Cancel the export' }).click();
    await page.getByText('Export cancelled. No partial file was left.').waitFor();
    // The two of before wait in the browser's storage, and nothing else.
    const files = (): Promise<number> =>
      page.evaluate(async () => {
        let count = 0;
        for await (const _ of (await (await navigator.storage.getDirectory()).getDirectoryHandle('results')).keys())
          count++;
        return count;
      });
    await expect.poll(files).toBe(2);
  });

  it('sets a focus by a click and by keys, follows it, and takes all of it back', async () => {
    await station(page, 'Check');
    await page.getByRole('tab', { name: 'Hits', exact: true }).click();
    await page.locator('[data-hit]').first().click();
    await page.keyboard.press('f');
    const picture = (await page.locator('[data-stage]').boundingBox())!;
    await page.mouse.click(picture.x + picture.width * 0.25, picture.y + picture.height * 0.5);
    await page.locator('[data-focus-mark]').waitFor();
    const mark = page.getByRole('slider', { name: 'Focus of the chosen hit' });
    await mark.focus();
    await page.keyboard.press('ArrowUp');
    const focus = async () => (await montageOf(page)).hits.find(({ state }) => state === 'made')!.focus!;
    // The tall format is looked at: a quarter of its width is little of the picture's.
    expect(Math.abs((await focus()).y - 0.49)).toBeLessThan(0.01);
    await page.getByRole('button', { name: 'Follow' }).click();
    await page.getByText(/The focus was followed from/).waitFor();
    expect((await montageOf(page)).hits.find(({ state }) => state === 'made')!.track!.length).toBeGreaterThan(0);
    await page.getByRole('button', { name: 'Clear' }).click();
    expect((await montageOf(page)).hits.find(({ state }) => state === 'made')!.focus).toBeUndefined();
    for (let i = 0; i < 4; i++) await page.getByRole('button', { name: 'Undo', exact: true }).click();
    expect((await focus()).x).toBeGreaterThan(0.6);
  });

  it('lets a zoom go by the focus: what is enlarged stays where it happens', async () => {
    await station(page, 'Bring in');
    await page.getByLabel('Remove format 1').click();
    await station(page, 'Shape');
    await page.getByRole('button', { name: 'Harbour knock' }).first().waitFor();
    const m = await montageOf(page);
    const punch = m.accents.flatMap(({ effects }) => effects).find(({ effect }) => effect === 'punch')!;
    expect(punch.focus).toBe(true);
    await page.close();
  });
});

describe('sizes', () => {
  it(
    'shows footage of a few lines more without bars, and hands its frames on as they are',
    { timeout: 180_000 },
    async () => {
      const page = await newMontage(fixture('numbered.mp4'));
      const source = (await montageOf(page)).sources[0]!.video!;
      const height = page.getByLabel('Height of the montage');
      await height.fill(String(source.height - 4));
      await height.press('Enter');
      expect((await montageOf(page)).settings).toMatchObject({ width: source.width, height: source.height - 4 });
      await station(page, 'Export');
      await page.locator('[data-main]').click();
      await page.locator('[data-export-done]').waitFor({ timeout: 110_000 });
      expect(await page.locator('[data-export-done]').textContent()).toMatch(/240 frames; 0 drawn, 240 passed through/);
      // A rate that the source does not divide shows each frame as often as it is on the screen.
      await station(page, 'Bring in');
      await page.getByLabel('Frames a second of the montage').selectOption({ label: '24' });
      await page.getByText('/191', { exact: false }).first().waitFor();
      await page.close();
    },
  );
});

describe('still pictures', () => {
  it('are not searched for hits, and do not keep the others from being searched again', async () => {
    const grey = join(folder, 'still.png');
    await writeFile(grey, png(64, 48, 120));
    const page = await newMontage(grey);
    await page.getByText('still.png is in', { exact: false }).waitFor();
    await bring(page, fixture('hits.mp4'));
    await page.getByText('hits.mp4 is in', { exact: false }).waitFor();
    await findHits(page);
    await station(page, 'Bring in');
    await page.getByRole('button', { name: 'Find again from the start' }).click();
    await page.locator('[data-job-share]').first().waitFor();
    await page.locator('[data-job-share]').first().waitFor({ state: 'detached', timeout: 60_000 });
    expect(await page.locator('[data-tone="error"]').count()).toBe(0);
    await page.close();
  });

  it(
    'are shown for as long as their clip, beside footage, in the export, and after a reload',
    { timeout: 180_000 },
    async () => {
      const grey = join(folder, 'grey.png');
      await writeFile(grey, png(400, 300, 200));
      const page = await newMontage(fixture('numbered.mp4'));
      const out = page.getByRole('textbox', { name: 'out of clip 1' });
      await out.fill('30');
      await out.press('Enter');
      await bring(page, grey);
      await page.getByText(/A still picture: trim its clip/).waitFor();
      await page.getByRole('textbox', { name: 'out of clip 2' }).fill('0.5 s');
      await page.getByRole('textbox', { name: 'out of clip 2' }).press('Enter');
      const m = await montageOf(page);
      expect(m.sources[1]).toMatchObject({ name: 'grey.png', still: true, video: { width: 400, height: 300 } });
      expect(m.clips.map((clip) => clip.out - clip.in)).toEqual([expect.closeTo(1, 6), expect.closeTo(0.5, 6)]);
      await page.reload();
      await page.locator('[data-clip]').nth(1).waitFor();
      const [path] = await exportAll(page);
      const [lumas] = await Promise.all([
        parts.page.evaluate(
          (url) =>
            window.parts.boxLuma(
              url,
              [29, 30, 44],
              [
                { x: 0.4, y: 0.4, w: 0.2, h: 0.2 },
                { x: 0, y: 0.4, w: 0.05, h: 0.2 },
              ],
            ),
          parts.file(path!),
        ),
      ]);
      expect(lumas).toHaveLength(3);
      // Grey of 200 in limited range: 16 + 200 * 219 / 255; bars beside it, since it is 4:3.
      for (const [middle, side] of lumas.slice(1)) {
        expect(middle).toBeGreaterThan(183);
        expect(middle).toBeLessThan(193);
        expect(side).toBeLessThan(20);
      }
      await page.close();
    },
  );

  it(
    'of a hundred megapixels are worked on smaller, and what is no picture is refused',
    { timeout: 180_000 },
    async () => {
      const [huge, none] = [join(folder, 'huge.png'), join(folder, 'none.png')];
      await writeFile(huge, png(10_000, 10_000, 90));
      await writeFile(none, 'no picture at all');
      const page = await newMontage(huge);
      await page.getByText(/10000x10000 pixels are worked on at 4096 a side/).waitFor();
      const m = await montageOf(page);
      expect(m.settings).toMatchObject({ width: 1080, height: 1080 });
      expect(m.clips).toHaveLength(1);
      await bring(page, none);
      await expect.poll(() => trouble(page)).toMatch(/none.png is no picture that this browser can read/);
      expect((await montageOf(page)).sources).toHaveLength(1);
      await page.close();
    },
  );
});

describe('a tray', () => {
  it('is skimmed, marked and added from by mouse and by keys; a trimmed clip begins and ends on its frames', async () => {
    const page = await newMontage(fixture('numbered.mp4'));
    await page.getByLabel('Remove clip 1').click();
    const strip = page.locator('[data-strip]');
    await strip.focus();
    for (let i = 0; i < 10; i++) await page.keyboard.press('ArrowRight');
    await page.keyboard.press('b');
    await page.keyboard.press('PageDown');
    await page.keyboard.press('e');
    await page.keyboard.press('Enter');
    // From frame 10 to frame 40, both shown.
    const clip = (await montageOf(page)).clips[0]!;
    expect([clip.in * 30, clip.out * 30]).toEqual([expect.closeTo(10, 4), expect.closeTo(41, 4)]);
    // Trimmed by eye, in two keys: begins at its fifth frame, ends at its twentieth.
    await page.getByRole('slider', { name: 'Playhead' }).focus();
    for (let i = 0; i < 4; i++) await page.keyboard.press('ArrowRight');
    await page.evaluate('document.activeElement?.blur()');
    await page.keyboard.press('b');
    await page.getByRole('slider', { name: 'Playhead' }).focus();
    for (let i = 0; i < 15; i++) await page.keyboard.press('ArrowRight');
    await page.evaluate('document.activeElement?.blur()');
    await page.keyboard.press('e');
    const [path] = await exportAll(page);
    const { got } = await parts.page.evaluate(([url]) => window.parts.frames(url, [0, 15]), [
      parts.file(path!),
    ] as const);
    expect(got.map(({ number }) => number)).toEqual([14, 29]);
    // The mouse marks a stretch, too.
    await station(page, 'Bring in');
    const box = (await strip.boundingBox())!;
    await page.mouse.move(box.x + box.width * 0.25, box.y + 10);
    await page.mouse.down();
    await page.mouse.move(box.x + box.width * 0.75, box.y + 10, { steps: 4 });
    await page.mouse.up();
    await page.getByRole('button', { name: /^marked \d/ }).click();
    const added = (await montageOf(page)).clips.at(-1)!;
    expect(added.in).toBeGreaterThan(1.8);
    expect(added.out - added.in).toBeGreaterThan(3.5);
    await page.close();
  });
});

describe.runIf(HAS_FFMPEG)('a drop laid on a hit', () => {
  it('is heard there in the export, within ten milliseconds', { timeout: 240_000 }, async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await findHits(page);
    await station(page, 'Bring in');
    await page.getByRole('slider', { name: 'Volume of the clips' }).fill('0');
    await page.getByRole('slider', { name: 'Playhead' }).focus();
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('ArrowDown');
    await page.getByRole('button', { name: 'Lay on the hit' }).click();
    await page.getByText(/The music was moved by/).waitFor();
    const m = await montageOf(page);
    const [item] = m.music;
    const head = Number(await page.locator('[data-playhead]').getAttribute('data-playhead')) / 30;
    const [path] = await exportAll(page);
    const pcm = (file: string): Float32Array => {
      const bytes = ffmpeg('-i', file, '-f', 'f32le', '-ac', '1', '-ar', '48000', '-');
      return new Float32Array(bytes.buffer, bytes.byteOffset, bytes.length >> 2);
    };
    const [mix, music] = [pcm(path!), pcm(at('demo/low-tide-signal.ogg'))];
    // A tenth of a second of the music about what was laid there, sought in the export.
    const t = item!.in + head - item!.at;
    expect(musicTime(item!, t)).toBeCloseTo(head, 9);
    const [from, length, reach] = [Math.round((t - 0.03) * 48000), 9600, 1440];
    const here = Math.round((head - 0.03) * 48000);
    let best = { at: 0, sum: -Infinity };
    for (let shift = -reach; shift <= reach; shift++) {
      let sum = 0;
      for (let i = 0; i < length; i += 2) sum += music[from + i]! * (mix[here + shift + i] ?? 0);
      if (sum > best.sum) best = { at: shift, sum };
    }
    expect(best.sum).toBeGreaterThan(0);
    expect(Math.abs(best.at / 48)).toBeLessThan(10);
    await page.close();
  });
});

describe('a row of five hundred clips and an hour', () => {
  it('is shown as a map with a window, crowds of hits with their number, and the cards in sight alone', async () => {
    const page = await bench.page();
    const hour = hourLong();
    const clips = Array.from({ length: 500 }, (_, i) => ({
      ...hour.clips[0]!,
      id: `c${i}`,
      in: i * 7,
      out: i * 7 + 7,
    }));
    const path = join(folder, 'hour.akmeon');
    await writeFile(path, writeMontage({ ...hour, clips }));
    await page.goto(bench.origin);
    await page.locator('input[type="file"]').setInputFiles(path);
    await station(page, 'Bring in');
    await page.getByRole('list', { name: 'Clips' }).waitFor();
    expect(await page.getByRole('list', { name: 'Clips' }).getByRole('listitem').count()).toBeLessThan(15);
    const land = page.getByRole('slider', { name: 'Playhead' });
    const box = (await land.boundingBox())!;
    const sight = async (): Promise<number[]> =>
      /frames (\d+) to (\d+)/
        .exec(
          (await page.getByRole('slider', { name: 'Part of the montage in sight' }).getAttribute('aria-valuetext'))!,
        )!
        .slice(1)
        .map(Number);
    expect(await sight()).toEqual([0, 105_000]);
    // A crowd is given room where it is pressed.
    await page.mouse.click(box.x + 400, box.y + 70);
    await expect.poll(async () => (await sight())[1]! - (await sight())[0]!).toBeLessThan(20_000);
    const [from] = await sight();
    await page.getByRole('slider', { name: 'Part of the montage in sight' }).focus();
    await page.keyboard.press('PageDown');
    expect((await sight())[0]!).toBeGreaterThan(from!);
    // A pinch comes as a wheel with the control key, and must not enlarge the page.
    const before = (await sight())[1]! - (await sight())[0]!;
    await page.mouse.move(box.x + 300, box.y + 40);
    await page.keyboard.down('Control');
    await page.mouse.wheel(0, -60);
    await page.keyboard.up('Control');
    expect((await sight())[1]! - (await sight())[0]!).toBeLessThan(before);
    expect(await page.evaluate('visualViewport.scale')).toBe(1);
    // Taller by keys, and so after a reload.
    await page.getByRole('slider', { name: 'Height of the landscape' }).focus();
    await page.keyboard.press('ArrowUp');
    await page.reload();
    await page.getByRole('slider', { name: 'Height of the landscape' }).waitFor();
    expect(await page.getByRole('slider', { name: 'Height of the landscape' }).getAttribute('aria-valuenow')).toBe(
      '136',
    );
    await page.close();
  });
});

describe('all of it', () => {
  it('nothing went wrong on the way', () => expect(bench.troubles).toEqual([]));
});
