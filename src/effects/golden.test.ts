/**
 * Small pictures of all accents that ship with Akmeon, made once by the CPU reference: what was
 * released keeps its look. `UPDATE_GOLDEN=1 npx vitest run src/effects/golden` writes them anew, to be looked at.
 */
import { readFileSync, writeFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { accentPasses, SINGLE_RUN, type Pass } from '../core/accents/passes.ts';
import { prepare } from '../core/accents/prepare.ts';
import { fromLinear, toLinear } from '../core/base/colour.ts';
import type { Accent } from '../core/document/types.ts';
import { drawReference, lower, type Pixels } from './compose.ts';
import { EFFECTS } from './index.ts';
import { STARTER_ACCENTS } from './starters.ts';

const FILE = new URL('./golden.json', import.meta.url);
const [WIDTH, HEIGHT] = [32, 18];

/** A dusk with a lamp: a ramp, dark posts, a bright disc that moves with the frame. */
function scene(frame: number): Pixels {
  const data = new Float64Array(WIDTH * HEIGHT * 4);
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++) {
      const lamp = Math.hypot(x - 20 - frame * 0.7, y - 9) < 3;
      const post = x % 8 < 2 && y > 6;
      const colour = lamp
        ? [1, 0.85, 0.5]
        : post
          ? [0.1, 0.08, 0.12]
          : [0.25 + (0.4 * y) / HEIGHT, 0.2 + (0.15 * x) / WIDTH, 0.45 - (0.2 * y) / HEIGHT];
      data.set([...colour.map((v) => toLinear(v)), 1], (y * WIDTH + x) * 4);
    }
  return { width: WIDTH, height: HEIGHT, data };
}

function picture(accent: Accent, age: number): number[] {
  const { passes, shift } = accentPasses(
    prepare(accent, { fps: 30, bpm: 120 }),
    age,
    { intensity: 1, seed: accent.seed, fps: 30, mirror: false, run: SINGLE_RUN },
    EFFECTS,
  );
  const others: Pixels[] = [];
  const placed = (list: readonly Pass[]): Pass[] =>
    list.map((pass) =>
      pass.copies
        ? {
            ...pass,
            copies: pass.copies.map((copy) => ({
              ...copy,
              picture: others.push(scene(age + shift + copy.shift)) - 1,
              passes: placed(copy.passes),
            })),
          }
        : pass,
    );
  const drawn = drawReference(lower(placed(passes), { width: WIDTH, height: HEIGHT }), scene(age + shift), others).data;
  const bytes: number[] = [];
  // Every second pixel of every second row: small, and still all over the picture.
  for (let y = 0; y < HEIGHT; y += 2)
    for (let x = 0; x < WIDTH; x += 2)
      for (let c = 0; c < 3; c++)
        bytes.push(Math.round(255 * Math.min(1, Math.max(0, fromLinear(drawn[(y * WIDTH + x) * 4 + c]!)))));
  return bytes;
}

const name = (accent: Accent, age: number): string => `${accent.id} at ${age}`;
const cases = STARTER_ACCENTS.flatMap((accent) => [0, Math.ceil(accent.tail / 3)].map((age) => [accent, age] as const));
if (process.env['UPDATE_GOLDEN']) {
  writeFileSync(
    FILE,
    `${JSON.stringify(Object.fromEntries(cases.map(([accent, age]) => [name(accent, age), Buffer.from(picture(accent, age)).toString('base64')])), null, 1)}\n`,
  );
}
const golden = JSON.parse(readFileSync(FILE, 'utf8')) as Record<string, string>;

it.each(cases.map(([accent, age]) => [name(accent, age), accent, age] as const))(
  '%s looks as it did',
  (key, accent, age) => {
    const before = [...Buffer.from(golden[key]!, 'base64')];
    const now = picture(accent, age);
    expect(now).toHaveLength(before.length);
    const gaps = now.map((v, i) => Math.abs(v - before[i]!));
    // Two steps of 255 for rounding on other machines; borders of cells may fall on the next pixel.
    expect(gaps.filter((gap) => gap > 2).length / gaps.length).toBeLessThan(0.01);
  },
);

it('holds a picture of every accent that ships, and of no other', () => {
  expect(Object.keys(golden).sort()).toEqual(cases.map(([accent, age]) => name(accent, age)).sort());
});
