/**
 * Grows strokes to the edge of what they are on, in one frame: what is reached from a stroke over small changes of colour
 * belongs to it (X. Bai and G. Sapiro, "Geodesic matting", IJCV 82, 2009), weighed with the colours of both sides, learned
 * anew from what was found.
 */
import type { Brushed } from '../document/types.ts';
import { movesWith } from './carry.ts';
import { stored } from './matte.ts';
import { settled, sharpened, signedDistance, withoutScraps, type Seeds, type Working } from './working.ts';

/** Shares of brightness and of the two differences of colour in a histogram. */
const [BINS_Y, BINS_C] = [32, 24];
const BINS = BINS_Y * BINS_C * BINS_C;
const ROUNDS = 4;
/** Pixels about new strokes within which a former matte is open again. */
const OPEN = 10;

function bins({ y, u, v }: Working): Uint16Array {
  const most = (value: number, count: number): number => Math.min(count - 1, Math.max(0, Math.floor(value)));
  // Differences of colour are small in pictures: they are told apart twice as finely.
  return Uint16Array.from(y, (value, i) => {
    const a = most((value / 256) * BINS_Y, BINS_Y);
    const b = most(((u[i]! - 64) / 128) * BINS_C, BINS_C);
    const c = most(((v[i]! - 64) / 128) * BINS_C, BINS_C);
    return (a * BINS_C + b) * BINS_C + c;
  });
}

/** Blurs a histogram along one of its directions, by 1 4 6 4 1. */
function blurred(values: Float32Array, step: number, count: number): Float32Array {
  const out = new Float32Array(values.length);
  for (let i = 0; i < values.length; i++) {
    const at = Math.floor(i / step) % count;
    const of = (by: number): number => (at + by < 0 || at + by >= count ? 0 : values[i + by * step]!);
    out[i] = (6 * of(0) + 4 * (of(-1) + of(1)) + of(-2) + of(2)) / 16;
  }
  return out;
}

/** How much likelier each colour is on the subject than off it: 0-1 by the bins of a picture. */
function colourChance(of: Uint16Array, on: (pixel: number) => number, off: (pixel: number) => number): Float32Array {
  let fore: Float32Array = new Float32Array(BINS);
  let back: Float32Array = new Float32Array(BINS);
  let [foreSum, backSum] = [0, 0];
  for (let i = 0; i < of.length; i++) {
    const [a, b] = [on(i), off(i)];
    fore[of[i]!]! += a;
    back[of[i]!]! += b;
    foreSum += a;
    backSum += b;
  }
  for (const [step, count] of [
    [1, BINS_C],
    [BINS_C, BINS_C],
    [BINS_C * BINS_C, BINS_Y],
  ] as const)
    [fore, back] = [blurred(fore, step, count), blurred(back, step, count)];
  return Float32Array.from(of, (bin) => {
    const [a, b] = [fore[bin]! / Math.max(1, foreSum) + 2e-6, back[bin]! / Math.max(1, backSum) + 2e-6];
    return a / (a + b);
  });
}

/** Cost of the cheapest way from any pixel of one side, by sweeps to and fro until nothing changes much. */
function ways(
  { width, height, y, u, v }: Working,
  chance: Float32Array,
  from: (pixel: number) => boolean,
): Float32Array {
  const far = new Float32Array(width * height).fill(1e6);
  for (let i = 0; i < far.length; i++) if (from(i)) far[i] = 0;
  const step = (i: number, j: number, length: number): void => {
    const colour = Math.abs(y[i]! - y[j]!) + 1.5 * (Math.abs(u[i]! - u[j]!) + Math.abs(v[i]! - v[j]!));
    const cost = far[j]! + length * (0.02 + colour / 24 + 2.5 * Math.abs(chance[i]! - chance[j]!));
    if (cost < far[i]!) far[i] = cost;
  };
  for (let sweep = 0; sweep < 3; sweep++) {
    for (let r = 0; r < height; r++)
      for (let x = 0, i = r * width; x < width; x++, i++) {
        if (x) step(i, i - 1, 1);
        if (!r) continue;
        step(i, i - width, 1);
        if (x) step(i, i - width - 1, Math.SQRT2);
        if (x < width - 1) step(i, i - width + 1, Math.SQRT2);
      }
    for (let r = height - 1; r >= 0; r--)
      for (let x = width - 1, i = r * width + x; x >= 0; x--, i--) {
        if (x < width - 1) step(i, i + 1, 1);
        if (r === height - 1) continue;
        step(i, i + width, 1);
        if (x < width - 1) step(i, i + width + 1, Math.SQRT2);
        if (x) step(i, i + width - 1, Math.SQRT2);
      }
  }
  return far;
}

/**
 * Strokes as seeds on a working picture; the later ones lie over the earlier.
 * @param rotation clockwise turn from stored to upright, degrees
 */
export function seedsOf(
  strokes: readonly Pick<Brushed['strokes'][number], 'on' | 'width' | 'points'>[],
  rotation: Parameters<typeof stored>[1],
  width: number,
  height: number,
): Seeds {
  const seeds = new Int8Array(width * height);
  const tall = rotation === 90 || rotation === 270 ? width : height;
  for (const { on, width: wide, points } of strokes) {
    const radius = Math.max(0.6, (wide * tall) / 2);
    const dot = (cx: number, cy: number): void => {
      for (let y = Math.max(0, Math.ceil(cy - radius)); y <= Math.min(height - 1, cy + radius); y++)
        for (let x = Math.max(0, Math.ceil(cx - radius)); x <= Math.min(width - 1, cx + radius); x++)
          if (Math.hypot(x - cx, y - cy) <= radius) seeds[y * width + x] = on ? 1 : -1;
    };
    let last: readonly [number, number] | null = null;
    for (const point of points) {
      const [sx, sy] = stored(point, rotation);
      const [x, y] = [sx * width - 0.5, sy * height - 0.5];
      // A line across the picture has no more dots than the picture has pixels.
      const steps = last ? Math.min(2 * (width + height), Math.ceil(Math.hypot(x - last[0], y - last[1]))) : 1;
      const [fx, fy] = last ?? [x, y];
      for (let n = 1; n <= Math.max(1, steps); n++) {
        const share = n / Math.max(1, steps);
        dot(fx + (x - fx) * share, fy + (y - fy) * share);
      }
      last = [x, y];
    }
  }
  return seeds;
}

/**
 * A frame's matte by strokes over it.
 * @param seeds 1 on the subject, -1 off it, 0 nothing said; one a pixel
 * @param before the matte that stood there before, which strokes open again about themselves; null: there was none
 * @param others frames some time before or after: what moves along with the subject belongs to it
 * @returns 0-1, one a pixel; all nothing where no stroke is on the subject and nothing stood there
 */
export function grown(
  picture: Working,
  seeds: Seeds,
  before: Float32Array | null,
  others: readonly Working[] = [],
): Float32Array {
  const { width, height } = picture;
  const area = width * height;
  if (!before && !seeds.includes(1)) return new Float32Array(area);
  const of = bins(picture);
  const reach = Float32Array.from(seeds, (seed) => (seed ? 1 : 0));
  const fromStrokes = before ? signedDistance(reach, width, height) : null;
  const open = (i: number): number => (fromStrokes ? Math.exp(-((Math.max(0, -fromStrokes[i]!) / OPEN) ** 2)) : 1);
  let mask = before;
  const moved = new Float32Array(area);
  const within = new Uint8Array(area).fill(1);
  for (let i = 0; i < area; i++) if (seeds[i]) within[i] = 0;
  // Where nothing was said of the ground, the picture's border is taken for it.
  const ground = seeds.includes(-1) || before !== null;
  const border = (i: number): boolean => {
    const x = i % width;
    return x < 2 || x >= width - 2 || i < 2 * width || i >= area - 2 * width;
  };
  const isOn = (i: number): boolean =>
    seeds[i] === 1 || (before !== null && !seeds[i] && before[i]! > 0.9 && open(i) < 0.3);
  const isOff = (i: number): boolean =>
    seeds[i] === -1 ||
    (!ground && !seeds[i] && border(i)) ||
    (before !== null && !seeds[i] && before[i]! < 0.1 && open(i) < 0.3);
  for (let round = 0; round < ROUNDS; round++) {
    const known = mask;
    // Movement is asked once something is known of both.
    const moves = known && round === 1 ? others.map((other) => movesWith(picture, other, known)) : [];
    moves.forEach((one) => one.forEach((value, i) => (moved[i]! += value / moves.length)));
    // What was only found counts less than what was said.
    const found = known ? 0.25 : 0;
    const chance = colourChance(
      of,
      (i) => (isOn(i) ? 1 : seeds[i] ? 0 : found * Math.max(0, (known?.[i] ?? 0) - 0.5)),
      (i) => (isOff(i) ? 1 : seeds[i] ? 0 : found * Math.max(0, 0.5 - (known?.[i] ?? 1))),
    );
    const [on, off] = [ways(picture, chance, isOn), ways(picture, chance, isOff)];
    const belief = new Float32Array(area);
    const hold = new Float32Array(area);
    for (let i = 0; i < area; i++) {
      if (seeds[i]) {
        belief[i] = seeds[i]! > 0 ? 1 : 0;
        continue;
      }
      const nearer = off[i]! / Math.max(1e-6, on[i]! + off[i]!);
      const logit =
        3.2 * (2 * nearer - 1) +
        0.9 * Math.log(Math.max(1e-3, chance[i]!) / Math.max(1e-3, 1 - chance[i]!)) +
        1.3 * moved[i]! -
        0.3;
      belief[i] = 1 / (1 + Math.exp(-1.5 * logit));
      hold[i] = 0.12;
      if (before) {
        const share = open(i);
        belief[i] = share * belief[i]! + (1 - share) * before[i]!;
        hold[i] = 0.12 + 0.6 * (1 - share);
      }
    }
    mask = settled(picture, belief, hold, within, 40);
  }
  const out = mask!;
  withoutScraps(out, width, (i) => seeds[i] === 1 || (before !== null && before[i]! > 0.5 && open(i) < 0.5), 0);
  sharpened(out);
  return out;
}
