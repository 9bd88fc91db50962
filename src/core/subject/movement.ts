/**
 * How a layer of a picture moves to another one: sought as a whole at a quarter of the size, then six numbers and a change
 * of light by least squares that doubt what does not fit (S. Baker and I. Matthews, "Lucas-Kanade 20 years on", IJCV 56,
 * 2004).
 */

/** Pixels at a quarter of the size that a layer is sought over, first and where that was not enough. */
const [SEARCH_NEAR, SEARCH] = [4, 16];

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

/** Betters a layer's movement at one size: six numbers and a change of light. */
function fitted({ w, h, one, other, weight }: Level, start: Affine, rounds: number, every: number): Affine {
  const N = 7;
  let p: Affine = start;
  let light = 0;
  // Numbers of like size are solved for: places run from -1 to 1.
  const [mx, my, scale] = [w / 2, h / 2, w / 2];
  const places: number[] = [];
  for (let y = 1; y < h - 1; y += every)
    for (let x = 1; x < w - 1; x += every) if (weight[y * w + x]! > 0.3) places.push(y * w + x);
  if (places.length < 24) return p;
  let doubt = 20;
  const [matrix, right, row] = [new Float64Array(N * N), new Float64Array(N), new Float64Array(N)];
  for (let round = 0; round < rounds; round++) {
    matrix.fill(0);
    right.fill(0);
    let offSum = 0;
    let offCount = 0;
    for (const i of places) {
      const x = i % w;
      const y = (i - x) / w;
      const tx = p[0] + p[1] * x + p[2] * y;
      const ty = p[3] + p[4] * x + p[5] * y;
      const x0 = Math.floor(tx);
      const y0 = Math.floor(ty);
      if (x0 < 1 || y0 < 1 || x0 >= w - 2 || y0 >= h - 2) continue;
      const fx = tx - x0;
      const fy = ty - y0;
      const j = y0 * w + x0;
      const q00 = other[j]!;
      const q10 = other[j + 1]!;
      const q01 = other[j + w]!;
      const q11 = other[j + w + 1]!;
      const value = (q00 * (1 - fx) + q10 * fx) * (1 - fy) + (q01 * (1 - fx) + q11 * fx) * fy;
      const gx = ((one[i + 1]! - one[i - 1]!) / 2 + (q10 - q00) * (1 - fy) + (q11 - q01) * fy) / 2;
      const gy = ((one[i + w]! - one[i - w]!) / 2 + (q01 - q00) * (1 - fx) + (q11 - q10) * fx) / 2;
      const off = one[i]! + light - value;
      offSum += Math.min(60, Math.abs(off));
      offCount++;
      const trust = weight[i]! / (1 + (off / doubt) ** 2) ** 2;
      const u = (x - mx) / scale;
      const v = (y - my) / scale;
      row[0] = gx;
      row[1] = gx * u;
      row[2] = gx * v;
      row[3] = gy;
      row[4] = gy * u;
      row[5] = gy * v;
      row[6] = -1;
      for (let r = 0; r < N; r++) {
        const a = trust * row[r]!;
        right[r]! += a * off;
        for (let c = r; c < N; c++) matrix[r * N + c]! += a * row[c]!;
      }
    }
    if (!offCount) return p;
    doubt = Math.max(5, (1.8 * offSum) / offCount);
    for (let r = 0; r < N; r++) {
      for (let c = 0; c < r; c++) matrix[r * N + c] = matrix[c * N + r]!;
      // Small layers without much in them move without turning or growing.
      matrix[r * N + r]! += r === 0 || r === 3 || r === 6 ? 1e-3 : 4 + 0.002 * matrix[r * N + r]!;
    }
    const step = solved(matrix, right, N);
    if (!step || step.some((value) => !Number.isFinite(value))) return p;
    const [a, b, c, d, e, f, l] = step as unknown as [number, number, number, number, number, number, number];
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

/**
 * How a layer of one frame moves to the next.
 * @param every at half the size one pixel in so many, both ways, is asked
 */
export function movement(
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
  p = fitted(level(2), p, 5, every);
  p = fitted(level(1), finer(p), 6, every);
  return fitted(level(0), finer(p), 4, 2 * every);
}

export const STILL: Affine = [0, 1, 0, 0, 0, 1];
