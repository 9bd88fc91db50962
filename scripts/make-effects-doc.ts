/** Writes docs/effects.md and a picture of each effect on a frame of the demo: `npm run docs:effects`. */
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { chromium } from 'playwright-core';
import { CHROMIUM_FLAGS, findChromium } from '../src/cli/browser.ts';
import { accentPasses, SINGLE_RUN, type Pass } from '../src/core/accents/passes.ts';
import { prepare } from '../src/core/accents/prepare.ts';
import { readCube } from '../src/core/document/colour-table.ts';
import { fromLinear, toLinear } from '../src/core/base/colour.ts';
import { DEFAULT_ACCENT, type Accent, type EffectUse } from '../src/core/document/types.ts';
import { drawReference, lower, type Pixels } from '../src/effects/compose.ts';
import { describeEffects } from '../src/effects/describe.ts';
import { EFFECTS, EFFECT_LIST } from '../src/effects/index.ts';

const [WIDTH, HEIGHT, RATE] = [240, 135, 30];
/** A bolt of the demo's game. */
const HIT = 33;
const AGE = 1;

const docs = new URL('../docs/', import.meta.url);
await mkdir(new URL('effects/', docs), { recursive: true });
const browser = await chromium.launch({ executablePath: findChromium()!, args: CHROMIUM_FLAGS });
const page = await browser.newPage();
const film = `data:video/mp4;base64,${(await readFile(new URL('../demo/lantern-drift.mp4', import.meta.url))).toString('base64')}`;
await page.evaluate(async (src) => {
  const video = document.createElement('video');
  Object.assign(video, { src, muted: true, id: 'film' });
  document.body.append(video);
  await new Promise((resolve) => video.addEventListener('canplaythrough', resolve, { once: true }));
}, film);

const frames = new Map<number, Pixels>();
async function frame(at: number): Promise<Pixels> {
  let pixels = frames.get(at);
  if (pixels) return pixels;
  const bytes = await page.evaluate(
    async ([seconds, width, height]) => {
      const video = document.querySelector<HTMLVideoElement>('#film')!;
      await new Promise((resolve) => {
        video.addEventListener('seeked', resolve, { once: true });
        video.currentTime = seconds;
      });
      const pen = new OffscreenCanvas(width, height).getContext('2d')!;
      pen.imageSmoothingQuality = 'high';
      pen.drawImage(video, 0, 0, width, height);
      return [...pen.getImageData(0, 0, width, height).data];
    },
    [(at + 0.5) / RATE, WIDTH, HEIGHT] as const,
  );
  pixels = {
    width: WIDTH,
    height: HEIGHT,
    data: Float64Array.from(bytes, (v, i) => (i % 4 === 3 ? 1 : toLinear(v / 255))),
  };
  frames.set(at, pixels);
  return pixels;
}

/** Warm shadows, cold lights. */
const table = readCube(
  `LUT_3D_SIZE 2\n${[0, 1].flatMap((b) => [0, 1].flatMap((g) => [0, 1].map((r) => `${0.15 + 0.7 * r} ${0.05 + 0.85 * g} ${0.1 + 0.4 * r + 0.5 * b}`))).join('\n')}`,
  'warm.cube',
);
const use = (effect: string, params: EffectUse['params']): EffectUse => ({
  id: effect,
  effect,
  version: 1,
  on: true,
  params,
  ...(effect === 'lut' && { table }),
});

for (const spec of EFFECT_LIST) {
  const below = spec.id === 'shutter' ? [use('shake', { x: 10, y: 4, rateX: 9, rateY: 7 })] : [];
  const accent: Accent = {
    ...DEFAULT_ACCENT,
    id: spec.id,
    name: spec.name,
    rate: { num: RATE, den: 1 },
    lead: 2,
    tail: 8,
    seed: 9,
    effects: [...below, { ...use(spec.id, { ...spec.thumbnail }), ...(spec.source && { source: 'itself' }) }],
  };
  const { passes, shift } = accentPasses(
    prepare(accent, { fps: RATE, bpm: 120 }),
    AGE,
    { intensity: 1, seed: accent.seed, fps: RATE, mirror: false, run: SINGLE_RUN },
    EFFECTS,
  );
  const others: Pixels[] = [];
  const placed: Pass[] = [];
  for (const pass of passes) {
    const copies = [];
    for (const copy of pass.copies ?? [])
      copies.push({ ...copy, picture: others.push(await frame(HIT + AGE + copy.shift)) - 1 });
    placed.push(pass.copies ? { ...pass, copies } : pass);
  }
  const shown = await frame(Math.round(HIT + AGE + shift));
  const drawn = drawReference(lower(placed, shown), shown, others).data;
  const bytes = [...drawn].map((v, i) =>
    i % 4 === 3 ? 255 : Math.round(255 * Math.min(1, Math.max(0, fromLinear(v)))),
  );
  const jpeg = await page.evaluate(
    ([data, width, height]) => {
      const canvas = document.createElement('canvas');
      Object.assign(canvas, { width, height });
      canvas.getContext('2d')!.putImageData(new ImageData(Uint8ClampedArray.from(data), width, height), 0, 0);
      return canvas.toDataURL('image/jpeg', 0.82);
    },
    [bytes, WIDTH, HEIGHT] as const,
  );
  await writeFile(new URL(`effects/${spec.id}.jpg`, docs), Buffer.from(jpeg.split(',')[1]!, 'base64'));
}
await browser.close();
await writeFile(new URL('effects.md', docs), describeEffects());
