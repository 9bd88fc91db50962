import { describe, expect, it } from 'vitest';
import { hash, unit } from '../base/hash.ts';
import { Mover, pyramid, type Affine } from './movement.ts';
import { Patches, type Part } from './patches.ts';
import type { Working } from './working.ts';

const [width, height] = [23, 17];
const area = width * height;
const noise = (seed: number, most: number): Float32Array =>
  Float32Array.from({ length: area }, (_, i) => unit(hash(seed, i)) * most);
const picture = (seed: number): Working => ({
  width,
  height,
  y: noise(seed, 40),
  u: noise(seed + 1, 10),
  v: noise(seed + 2, 10),
});

/** The same said plainly. */
function plainly(
  one: Working,
  other: Working,
  a: Float32Array,
  b: Float32Array,
  part: Part,
  px: number,
  py: number,
  i: number,
) {
  const of = (value: number): number => (part === 'layer' ? value : part === 'rest' ? 1 - value : 1);
  const [x, y] = [i % width, Math.floor(i / width)];
  const answers = [60];
  for (let dy = -1; dy <= 1; dy++)
    for (let dx = -1; dx <= 1; dx++) {
      const [sx, sy] = [Math.round(px) + dx, Math.round(py) + dy];
      if (sx < 1 || sy < 1 || sx >= width - 1 || sy >= height - 1) continue;
      let [sum, count] = [0, 0];
      for (let v = -1; v <= 1; v++)
        for (let u = -1; u <= 1; u++) {
          if (x + u < 0 || y + v < 0 || x + u >= width || y + v >= height) continue;
          const [p, q] = [(y + v) * width + x + u, (sy + v) * width + sx + u];
          const w = u || v ? of(b[p]!) * of(a[q]!) : 1;
          for (const plane of ['y', 'u', 'v'] as const) sum += w * Math.abs(other[plane][p]! - one[plane][q]!);
          count += w;
        }
      answers.push(14 * (1 - of(a[sy * width + sx]!)) + sum / count);
    }
  return Math.min(...answers);
}

describe('patches of two pictures', () => {
  const patches = new Patches(area);
  const [one, other] = [picture(1), picture(11)];
  const [a, b] = [noise(21, 1), noise(31, 1)];
  patches.lay('one', one, a);
  patches.lay('other', other, b);

  it.each(['layer', 'rest', 'all'] as const)('are as far apart as they are, of %s', (part) => {
    const places = { x: noise(41, width), y: noise(42, height) };
    const wanted = Uint8Array.from({ length: area }, (_, i) => (i % 3 ? 1 : 0));
    const found = patches.off('one', part, places, wanted);
    for (let i = 0; i < area; i++)
      // Noise is nowhere alike: all nine neighbours are asked.
      if (wanted[i]) expect(found[i]).toBeCloseTo(plainly(one, other, a, b, part, places.x[i]!, places.y[i]!, i), 3);
  });

  it('move by cells, beside the movement of the whole', () => {
    const [dx, dy] = [3, -2];
    const shifted = (plane: Float32Array): Float32Array =>
      plane.map((_, i) => plane[((Math.floor(i / width) + dy + height) % height) * width + ((i % width) + dx)] ?? 0);
    const moved = { ...one, y: shifted(one.y), u: shifted(one.u), v: shifted(one.v) };
    patches.lay('other', moved, b);
    const cell = { x0: 6, y0: 5, x1: 14, y1: 13 };
    const whole: Affine = [1, 1, 0, 0, 0, 1];
    expect([...patches.cell('all', cell, whole, 4)].slice(0, 2)).toEqual([dx - 1, dy]);
    // Where nothing of the layer is, nothing is found.
    patches.lay('one', one, new Float32Array(area));
    expect(patches.cell('layer', cell, whole, 4)[2]).toBe(0);
  });
});

it('finds how a layer moves, turns and grows, whatever the light does and the ground', () => {
  const [w, h] = [160, 90];
  const truth: Affine = [4.3, 1.03, -0.04, -2.1, 0.04, 1.03];
  const shape = (x: number, y: number): number =>
    120 + 40 * Math.sin(x / 5) + 30 * Math.cos(y / 4 + x / 17) + 20 * Math.sin((x + y) / 9);
  const plane = (at: (x: number, y: number) => number): Float32Array =>
    Float32Array.from({ length: w * h }, (_, i) => at(i % w, Math.floor(i / w)));
  const [a, b, c, d, e, f] = truth;
  const det = b * f - c * e;
  const on = (x: number, y: number): boolean => Math.hypot(x - 75, y - 45) < 30;
  const first = plane((x, y) => (on(x, y) ? shape(x, y) : 90 + 50 * Math.sin(y / 3)));
  const next = plane((x, y) => {
    const [u, v] = [(f * (x - a) - c * (y - d)) / det, (b * (y - d) - e * (x - a)) / det];
    return (on(u, v) ? shape(u, v) : 90 + 50 * Math.sin(y / 3)) + 12;
  });
  const layer = plane((x, y) => (on(x, y) ? 1 : 0));
  const found = new Mover(w * h).movement(pyramid(first, w, h), pyramid(next, w, h), layer, w, h, null, 1);
  for (const [x, y] of [
    [60, 30],
    [90, 30],
    [75, 60],
  ] as const) {
    expect(found[0] + found[1] * x + found[2] * y).toBeCloseTo(a + b * x + c * y, 0);
    expect(Math.abs(found[3] + found[4] * x + found[5] * y - (d + e * x + f * y))).toBeLessThan(0.3);
  }
});
