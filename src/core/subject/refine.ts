/**
 * A matte that was made smaller, brought back to the picture's own edges: what lies about an edge is told apart by brightness
 * (K. He, J. Sun and X. Tang, "Guided image filtering", IEEE Trans. PAMI 35 (6), 2013), in means over cells as in K. He and
 * J. Sun, "Fast guided filter", arXiv 1505.00996, 2015.
 */
import type { Frame } from './matte.ts';

/** Variance of brightness, of 1, that is taken for noise. */
const NOISE = 1e-4;
/** How much steeper an edge is made than it was found. */
const STEEP = 3;

/** A value for each cell from those of the nine about it of which something is known. */
function spread(
  values: Float32Array,
  known: Uint8Array,
  cols: number,
  rows: number,
  weights: Float32Array | null,
): Float32Array {
  const out = new Float32Array(values.length);
  for (let r = 0, i = 0; r < rows; r++)
    for (let c = 0; c < cols; c++, i++) {
      if (!known[i]) continue;
      let [sum, all] = [0, 0];
      for (let y = Math.max(0, r - 1); y <= Math.min(rows - 1, r + 1); y++)
        for (let x = Math.max(0, c - 1); x <= Math.min(cols - 1, c + 1); x++) {
          const j = y * cols + x;
          if (!known[j]) continue;
          const weight = weights ? weights[j]! : 1;
          sum += weight * values[j]!;
          all += weight;
        }
      out[i] = sum / all;
    }
  return out;
}

/** Cells in which, or next to which, something differs. */
function unlike(values: ArrayLike<number>, cols: number, rows: number): Uint8Array {
  const out = new Uint8Array(values.length);
  for (let r = 0, i = 0; r < rows; r++)
    for (let c = 0; c < cols; c++, i++) {
      const own = values[i]!;
      let differs = own > 0 && own < 1;
      for (let y = Math.max(0, r - 1); y <= Math.min(rows - 1, r + 1) && !differs; y++)
        for (let x = Math.max(0, c - 1); x <= Math.min(cols - 1, c + 1); x++) differs ||= values[y * cols + x] !== own;
      if (differs) out[i] = 1;
    }
  return out;
}

/**
 * @param mask 0-1, changed in its place about its edges
 * @param cell pixels a side of what means are taken over: half of what one pixel of the small matte has become
 */
export function refined(mask: Float32Array, { width, height, data }: Frame, cell: number): void {
  const [cols, rows] = [Math.ceil(width / cell), Math.ceil(height / cell)];
  const floats = (): Float32Array => new Float32Array(cols * rows);
  const [counts, shares] = [floats(), floats()];
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0, at = Math.floor(y / cell) * cols, left = cell; x < width; x++, i++) {
      shares[at]! += mask[i]!;
      counts[at]!++;
      if (--left === 0) [at, left] = [at + 1, cell];
    }
  for (let i = 0; i < shares.length; i++) shares[i]! /= counts[i]!;
  const near = unlike(shares, cols, rows);
  const band = unlike(near, cols, rows);
  for (let i = 0; i < band.length; i++) if (near[i]) band[i] = 1;
  const [light, squares, both] = [floats(), floats(), floats()];
  for (let r = 0, at = 0; r < rows; r++)
    for (let c = 0; c < cols; c++, at++) {
      if (!band[at]) continue;
      let [sum, square, product] = [0, 0, 0];
      for (let y = r * cell; y < Math.min(height, (r + 1) * cell); y++)
        for (let x = c * cell, i = y * width + x; x < Math.min(width, (c + 1) * cell); x++, i++) {
          const value = data[i]! / 255;
          sum += value;
          square += value * value;
          product += value * mask[i]!;
        }
      const n = counts[at]!;
      [light[at], squares[at], both[at]] = [sum / n, square / n, product / n];
    }
  const mean = (of: Float32Array): Float32Array => spread(of, band, cols, rows, counts);
  const [m, p, ip, ii] = [mean(light), mean(shares), mean(both), mean(squares)];
  const [slope, level] = [floats(), floats()];
  for (let i = 0; i < slope.length; i++) {
    if (!band[i]) continue;
    slope[i] = (ip[i]! - m[i]! * p[i]!) / (ii[i]! - m[i]! * m[i]! + NOISE);
    level[i] = p[i]! - slope[i]! * m[i]!;
  }
  const [a, b] = [spread(slope, band, cols, rows, null), spread(level, band, cols, rows, null)];
  for (let r = 0, at = 0; r < rows; r++)
    for (let c = 0; c < cols; c++, at++) {
      if (!near[at]) continue;
      for (let y = r * cell; y < Math.min(height, (r + 1) * cell); y++) {
        const down = (y + 0.5) / cell - 0.5;
        const top = Math.min(Math.max(0, rows - 2), Math.max(0, Math.floor(down)));
        const fy = Math.min(1, Math.max(0, down - top));
        for (let x = c * cell, i = y * width + x; x < Math.min(width, (c + 1) * cell); x++, i++) {
          const across = (x + 0.5) / cell - 0.5;
          const left = Math.min(Math.max(0, cols - 2), Math.max(0, Math.floor(across)));
          const fx = Math.min(1, Math.max(0, across - left));
          const from = top * cols + left;
          const [right, low] = [cols > 1 ? 1 : 0, rows > 1 ? cols : 0];
          const between = (of: Float32Array): number =>
            (of[from]! * (1 - fx) + of[from + right]! * fx) * (1 - fy) +
            (of[from + low]! * (1 - fx) + of[from + low + right]! * fx) * fy;
          const share = 0.5 + STEEP * ((between(a) * data[i]!) / 255 + between(b) - 0.5);
          mask[i] = share < 0 ? 0 : share > 1 ? 1 : share;
        }
      }
    }
}
