/** A browser that gives no graphics at all: everything is drawn all the same. */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { at, montageOf, startBench, station, type Bench } from './harness.ts';

const NO_GRAPHICS = '--disable-3d-apis';
let bench: Bench;
beforeAll(async () => {
  bench = await startBench(new Map(), [NO_GRAPHICS]);
});
const folder = mkdtempSync(join(tmpdir(), 'akmeon-processor-'));
afterAll(async () => {
  await bench.close();
  rmSync(folder, { recursive: true });
});

describe('without any graphics', () => {
  it('the app shows accents on the picture, and says what draws them', async () => {
    const page = await bench.page();
    expect(await page.evaluate(() => document.createElement('canvas').getContext('webgl2'))).toBeNull();
    await page.goto(`${bench.origin}/demo-montage`);
    await station(page, 'Shape');
    const stage = page.locator('[data-stage]');
    await expect.poll(() => stage.getAttribute('data-shown'), { timeout: 30_000 }).not.toBeNull();
    const colours = (): Promise<number> =>
      page.evaluate(async () => {
        const picture = document.querySelector<HTMLCanvasElement>('[data-stage]')!;
        const bitmap = await createImageBitmap(picture);
        const pen = new OffscreenCanvas(64, 36).getContext('2d')!;
        pen.drawImage(bitmap, 0, 0, 64, 36);
        return new Set(new Uint32Array(pen.getImageData(0, 0, 64, 36).data.buffer)).size;
      });
    await expect.poll(colours, { timeout: 20_000 }).toBeGreaterThan(100);
    expect((await montageOf(page)).accents.length).toBeGreaterThan(0);
    await station(page, 'Export');
    await expect.poll(() => page.locator('[data-drawn-by]').getAttribute('data-drawn-by')).toBe('cpu');
    expect(bench.troubles).toEqual([]);
    await page.close();
  });

  it('the command line renders the demo, and says so', () => {
    const out = join(folder, 'demo.mp4');
    const { status, stdout, stderr } = spawnSync(
      process.execPath,
      [
        'scripts/akmeon.mjs',
        'render',
        'demo/harbour-nights.akmeon',
        '--media',
        'demo',
        '--out',
        out,
        '--width',
        '320',
        '--height',
        '180',
      ],
      { cwd: at('.'), encoding: 'utf8', env: { ...process.env, AKMEON_CHROMIUM_FLAGS: NO_GRAPHICS } },
    );
    expect(stderr).toBe('');
    expect(status).toBe(0);
    expect(JSON.parse(stdout)).toMatchObject({ frames: 600, drawnBy: 'cpu' });
  });
});
