/**
 * How a layer of a picture moves to another one: sought as a whole at a quarter of the size, then six numbers and a change
 * of light by least squares that doubt what does not fit (S. Baker and I. Matthews, "Lucas-Kanade 20 years on", IJCV 56,
 * 2004).
 */
import { Arena, type Kernels } from '../base/simd/kernels.ts';

/** Pixels at a quarter of the size that a layer is sought over, first and where that was not enough. */
const [SEARCH_NEAR, SEARCH] = [4, 16];

/** Pixels of a layer that its movement is fitted to, at the most. */
const ASKED = 2500;

/** Takes a place of one frame into the next: x' = a + b x + c y, y' = d + e x + f y. */
export type Affine = readonly [a: number, b: number, c: number, d: number, e: number, f: number];

function halved(plane: Float32Array, width: number, height: number): { plane: Float32Array; w: number; h: number } {
  const [w, h] = [width >> 1, height >> 1];
  const out = new Float32Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = 2 * y * width + 2 * x;
      out[y * w + x] = (plane[i]! + plane[i + 1]! + plane[i + width]! + plane[i + width + 1]!) / 4;
    }
  return { plane: out, w, h };
}

interface Level {
  readonly w: number;
  readonly h: number;
  readonly one: Float32Array;
  readonly other: Float32Array;
  /** How far each pixel of the first frame belongs to the layer. */
  readonly weight: Float32Array;
}

/** Brightness at full, half and quarter size. */
export type Pyramid = readonly Float32Array[];
export function pyramid(plane: Float32Array, width: number, height: number): Pyramid {
  const half = halved(plane, width, height);
  return [plane, half.plane, halved(half.plane, half.w, half.h).plane];
}

/** The shift, in pixels of the level, that a layer fits best with; the expected one where nothing is better. */
function shifted({ w, h, one, other, weight }: Level, expected: readonly [number, number]): [number, number] {
  const xs: number[] = [];
  const ys: number[] = [];
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      if (weight[y * w + x]! > 0.6) {
        xs.push(x);
        ys.push(y);
      }
  const every = Math.max(1, Math.floor(xs.length / 400));
  const best = { cost: Infinity, dx: 0, dy: 0 };
  const ex = Math.round(expected[0]);
  const ey = Math.round(expected[1]);
  const seek = (reach: number): void => {
    for (let dy = ey - reach; dy <= ey + reach; dy++)
      for (let dx = ex - reach; dx <= ex + reach; dx++) {
        let sum = 0;
        let count = 0;
        let all = 0;
        for (let k = 0; k < xs.length; k += every) {
          const x = xs[k]! + dx;
          const y = ys[k]! + dy;
          all++;
          if (x < 0 || y < 0 || x >= w || y >= h) continue;
          sum += Math.min(40, Math.abs(one[(y - dy) * w + x - dx]! - other[y * w + x]!));
          count++;
        }
        if (count < 0.4 * all || !count) continue;
        const cost = sum / count + 0.04 * Math.hypot(dx - expected[0], dy - expected[1]);
        if (cost < best.cost) [best.cost, best.dx, best.dy] = [cost, dx, dy];
      }
  };
  seek(SEARCH_NEAR);
  // What goes on as before is found at once; what does not is sought farther off.
  if (best.cost > 8 || Math.max(Math.abs(best.dx - ex), Math.abs(best.dy - ey)) === SEARCH_NEAR) seek(SEARCH);
  return [best.dx, best.dy];
}

/** Solves a small symmetric system; null where it says nothing. */
function solved(matrix: Float64Array, right: Float64Array, n: number): Float64Array | null {
  const a = matrix.slice();
  const x = right.slice();
  for (let i = 0; i < n; i++) {
    let p = i;
    for (let r = i + 1; r < n; r++) if (Math.abs(a[r * n + i]!) > Math.abs(a[p * n + i]!)) p = r;
    if (Math.abs(a[p * n + i]!) < 1e-9) return null;
    if (p !== i) {
      for (let c = 0; c < n; c++) [a[i * n + c], a[p * n + c]] = [a[p * n + c]!, a[i * n + c]!];
      [x[i], x[p]] = [x[p]!, x[i]!];
    }
    for (let r = i + 1; r < n; r++) {
      const k = a[r * n + i]! / a[i * n + i]!;
      if (!k) continue;
      for (let c = i; c < n; c++) a[r * n + c]! -= k * a[i * n + c]!;
      x[r]! -= k * x[i]!;
    }
  }
  for (let i = n - 1; i >= 0; i--) {
    for (let c = i + 1; c < n; c++) x[i]! -= a[i * n + c]! * x[c]!;
    x[i]! /= a[i * n + i]!;
  }
  return x;
}

/** Numbers that are fitted: those of the movement, and a change of light. */
const N = 7;

const finer = (p: Affine): Affine => [
  2 * p[0] + 0.5 * (1 - p[1] - p[2]),
  p[1],
  p[2],
  2 * p[3] + 0.5 * (1 - p[4] - p[5]),
  p[4],
  p[5],
];

/** One movement after another. */
export const after = ([a, b, c, d, e, f]: Affine, [a2, b2, c2, d2, e2, f2]: Affine): Affine => [
  a2 + b2 * a + c2 * d,
  b2 * b + c2 * e,
  b2 * c + c2 * f,
  d2 + e2 * a + f2 * d,
  e2 * b + f2 * e,
  e2 * c + f2 * f,
];

export function inverse([a, b, c, d, e, f]: Affine): Affine {
  const det = b * f - c * e || 1e-9;
  const [ib, ic, ie, iff] = [f / det, -c / det, -e / det, b / det];
  return [-(ib * a + ic * d), ib, ic, -(ie * a + iff * d), ie, iff];
}

/** Finds how layers move, with memory for what is fitted. */
export class Mover {
  private readonly kernels: Kernels;
  private readonly planes: Readonly<Record<'one' | 'other' | 'weight', Float32Array>>;
  private readonly places: Int32Array;
  /** Seven rows of eight, what is off in all, and how many places counted. */
  private readonly sums: Float32Array;

  /** @param area pixels of the pictures at full size, the most */
  constructor(area: number) {
    const arena = new Arena(4 * (3 * area + ASKED + 64) + 1024);
    this.kernels = arena.kernels;
    this.planes = { one: arena.floats(area), other: arena.floats(area), weight: arena.floats(area) };
    this.places = arena.whole(ASKED);
    this.sums = arena.floats(64);
  }

  /**
   * How a layer of one frame moves to the next.
   * @param every at half the size one pixel in so many, both ways, is asked
   */
  movement(
    one: Pyramid,
    other: Pyramid,
    weight: Float32Array,
    width: number,
    height: number,
    last: Affine | null,
    every: number,
  ): Affine {
    const weights = pyramid(weight, width, height);
    const level = (n: number): Level => ({
      w: width >> n,
      h: height >> n,
      one: one[n]!,
      other: other[n]!,
      weight: weights[n]!,
    });
    const [mx, my] = [width / 2, height / 2];
    const expected: [number, number] = last
      ? [(last[0] + last[1] * mx + last[2] * my - mx) / 4, (last[3] + last[4] * mx + last[5] * my - my) / 4]
      : [0, 0];
    const [dx, dy] = shifted(level(2), expected);
    let p: Affine = [dx, 1, 0, dy, 0, 1];
    p = this.fitted(level(2), p, 5, every);
    p = this.fitted(level(1), finer(p), 6, every);
    return this.fitted(level(0), finer(p), 4, 2 * every);
  }

  /** Betters a layer's movement at one size: six numbers and a change of light. */
  private fitted({ w, h, one, other, weight }: Level, start: Affine, rounds: number, every: number): Affine {
    const { planes, places, sums } = this;
    const ofLayer: number[] = [];
    for (let y = 1; y < h - 1; y += every)
      for (let x = 1; x < w - 1; x += every) if (weight[y * w + x]! > 0.3) ofLayer.push(y * w + x);
    if (ofLayer.length < 24) return start;
    const step = Math.ceil(ofLayer.length / ASKED);
    const count = Math.ceil(ofLayer.length / step);
    for (let k = 0; k < count; k++) places[k] = ofLayer[k * step]!;
    planes.one.set(one);
    planes.other.set(other);
    planes.weight.set(weight);
    let p = start;
    let light = 0;
    let doubt = 20;
    const [matrix, right] = [new Float64Array(N * N), new Float64Array(N)];
    // Numbers of like size are solved for: places run from -1 to 1.
    const [mx, my, scale] = [w / 2, h / 2, w / 2];
    for (let round = 0; round < rounds; round++) {
      this.kernels.fitSums(
        planes.one.byteOffset,
        planes.other.byteOffset,
        planes.weight.byteOffset,
        w,
        h,
        places.byteOffset,
        count,
        ...p,
        light,
        doubt,
        sums.byteOffset,
      );
      const counted = sums[8 * N + 1]!;
      if (!counted) return p;
      doubt = Math.max(5, (1.8 * sums[8 * N]!) / counted);
      for (let r = 0; r < N; r++) {
        for (let c = 0; c < N; c++) matrix[r * N + c] = sums[8 * Math.min(r, c) + Math.max(r, c)]!;
        right[r] = sums[8 * r + N]!;
        // Small layers without much in them move without turning or growing.
        matrix[r * N + r]! += r === 0 || r === 3 || r === 6 ? 1e-3 : 4 + 0.002 * matrix[r * N + r]!;
      }
      const by = solved(matrix, right, N);
      if (!by || by.some((value) => !Number.isFinite(value))) return p;
      const [a, b, c, d, e, f, l] = by as unknown as [number, number, number, number, number, number, number];
      p = [
        p[0] + a - (b * mx + c * my) / scale,
        p[1] + b / scale,
        p[2] + c / scale,
        p[3] + d - (e * mx + f * my) / scale,
        p[4] + e / scale,
        p[5] + f / scale,
      ];
      light += l;
      if (Math.hypot(a, d) + Math.hypot(b, c, e, f) < 0.01) break;
    }
    return p;
  }
}

export const STILL: Affine = [0, 1, 0, 0, 0, 1];
