import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { EFFECT_LIST } from '../../src/effects/index.ts';
import { ffmpeg, fixture, HAS_FFMPEG, startParts } from './harness.ts';

let bench: Awaited<ReturnType<typeof startParts>>;
beforeAll(async () => {
  bench = await startParts();
});
afterAll(() => bench.close());

const compare = (stack: [effect: string, params: Record<string, number>, seed?: number, age?: number][]) =>
  bench.page.evaluate((list) => window.parts.compare(list.map(([effect, params, seed, age]) => window.parts.resolve(effect, params, seed, age))), stack);

/** Stated limits: 2/255 in the mean; 99.9 % of all values within these steps (cell borders fall a pixel apart). */
const P999: Record<string, number> = { punch: 6, shake: 6, flash: 3, split: 8, blocks: 8 };

describe('GLSL equals the CPU reference', () => {
  it.each(EFFECT_LIST.flatMap((spec) => [1, 2, 3].map((seed) => [spec.id, seed] as const)))('%s, seed %i', async (id, seed) => {
    const spec = EFFECT_LIST.find((e) => e.id === id)!;
    const { mean, p999 } = await compare([[id, { ...spec.thumbnail }, seed, seed - 1]]);
    expect(mean).toBeLessThan(2);
    expect(p999).toBeLessThanOrEqual(P999[id]!);
  });

  it('also at far values, with choices, and in a stack of all five', async () => {
    for (const stack of [
      [['punch', { zoom: 55, roll: 33, focusX: 40, focusY: -20 }]], [['split', { amount: -8, mode: 0, angle: 130 }]],
      [['split', { amount: 9, mode: 1, invert: 1, centreX: 30 }]], [['flash', { exposure: -3, mix: 40, red: 80, green: 20 }]],
      [['shake', { x: 40, y: 30, depth: 20, roll: 20, mode: 2 }]],
      [['punch', { zoom: 130 }], ['shake', { x: 5 }], ['flash', { exposure: 1 }], ['split', { amount: 2 }], ['blocks', { amountX: 10 }]],
    ] as [string, Record<string, number>][][]) {
      const { mean } = await compare(stack);
      expect(mean, JSON.stringify(stack)).toBeLessThan(2);
    }
  });
});

describe('renderer', () => {
  it('keeps the colours of an untouched frame: mean error at most 1/255, in every matrix and range', async () => {
    for (const matrix of ['bt709', 'bt601', 'bt2020'] as const) for (const fullRange of [false, true]) {
      const { mean, p999 } = await bench.page.evaluate((c) => window.parts.roundTrip(c), { matrix, fullRange });
      expect(mean).toBeLessThan(1);
      expect(p999).toBeLessThan(4);
    }
  });

  it('shows on the canvas what it reads back, pixel by pixel, in half-float precision', async () => {
    const result = await bench.page.evaluate(() => window.parts.screen([window.parts.resolve('punch', { zoom: 130, roll: 5 }), window.parts.resolve('split', { amount: 3 })]));
    expect(result).toMatchObject({ max: 0, precision: 'half-float' });
  });

  it('recovers a lost context by itself', async () => {
    const result = await bench.page.evaluate(() => window.parts.lose([window.parts.resolve('punch', { zoom: 130 })]));
    expect(result).toMatchObject({ restored: 1, max: 0 });
  });

  // ffmpeg turns the picture by itself as the file says, and knows ten bits: an independent reader.
  it.skipIf(!HAS_FFMPEG).each([['rotated.mp4', 180, 320], ['ten-bit.webm', 160, 90]])('shows %s upright and in its colours, as ffmpeg reads it', async (name, width, height) => {
    const mine = await bench.page.evaluate((url) => window.parts.meanColour(url, true), bench.file(fixture(name)));
    expect([mine.width, mine.height]).toEqual([width, height]);
    // Unlabelled footage is BT.709, as the browser plays it; ffmpeg would take BT.601.
    const theirs = ffmpeg('-i', fixture(name), '-frames:v', '1', '-vf', 'scale=in_color_matrix=bt709', '-f', 'rawvideo', '-pix_fmt', 'rgba', '-');
    let sum = 0;
    for (let i = 0; i < theirs.length; i++) if (i % 4 < 3) sum += Math.abs(theirs[i]! - mine.bytes![i]!);
    expect(sum / (theirs.length * 0.75)).toBeLessThan(4);
  });

  it('shows BT.601, BT.709 and full-range material in the same right colour', async () => {
    // The colour coded into all three files by ffmpeg: 0xC83C28.
    for (const name of ['red-709.mp4', 'red-601.mp4', 'red-full.mp4', 'red-rgb.webm']) {
      const { mean } = await bench.page.evaluate((url) => window.parts.meanColour(url), bench.file(new URL(`../fixtures/${name}`, import.meta.url).pathname));
      [0xc8, 0x3c, 0x28].forEach((value, i) => expect(Math.abs(mean[i]! - value), `${name} ${mean.join()}`).toBeLessThan(4));
    }
  });
});
