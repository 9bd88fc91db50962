/**
 * Movement between two frames, as blocks of the one are found again in the other: from coarse to fine, each block trying
 * what its neighbours and the coarser level found. Luma is taken minus its local mean, so that flashes change nothing.
 * Sources: M. Bierling, "Displacement estimation by hierarchical blockmatching", SPIE 1001, 1988; G. de Haan et al.,
 * "True-motion estimation with 3-D recursive search block matching", IEEE Trans. CSVT 3 (5), 1993.
 */

import { Arena, type Kernels } from '../base/simd/kernels.ts';

/** Luma in bytes, rows without gaps. */
export interface Luma {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array;
}

/** A vector for each cell of `CELL` pixels: where what is in its middle lies in the other frame, pixels. */
export interface Field {
  /** Pixels a side of a cell. */
  readonly cell: number;
  readonly columns: number;
  readonly rows: number;
  readonly x: Float32Array;
  readonly y: Float32Array;
}

/** Pixels a side of a cell, and of one on coarser levels, where things are small; blocks are twice that, over its middle. */
export const CELL = 8;
const COARSE_CELL = 4;
/** Pixels a side of the box that the local mean is taken over. */
const MEAN = 15;
/** Smallest side of the coarsest level, and how far all of it is searched. */
const COARSEST = 16;
const SEARCH = 8;
/** What a pixel's distance from its neighbours' vectors costs, in levels summed over a block, of large and of small ones. */
const SMOOTH = { fine: 160, coarse: 40 } as const;

/** The nearest pixel of a line of so many. */
export const held = (v: number, size: number): number => (v < 0 ? 0 : v >= size ? size - 1 : v);

/** A level in the memory of the kernels that compare blocks of it. */
export interface Level extends Luma {
  readonly kernels: Kernels;
}

/** Half the size, each pixel the mean of four. */
function halved({ width, height, data }: Luma): Luma {
  const [w, h] = [width >> 1, height >> 1];
  const out = new Uint8Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0, i = 2 * y * width; x < w; x++, i += 2)
      out[y * w + x] = (data[i]! + data[i + 1]! + data[i + width]! + data[i + width + 1]! + 2) >> 2;
  return { width: w, height: h, data: out };
}

/** Luma minus its mean in a box around each pixel, halved and about 128: bytes. */
function flattened({ width, height, data }: Luma): Luma {
  const reach = MEAN >> 1;
  const across = new Uint16Array(width * height);
  for (let y = 0; y < height; y++) {
    const row = y * width;
    let sum = 0;
    for (let x = -reach; x <= reach; x++) sum += data[row + Math.min(width - 1, Math.max(0, x))]!;
    for (let x = 0; x < width; x++) {
      across[row + x] = sum;
      sum += data[row + Math.min(width - 1, x + reach + 1)]! - data[row + Math.max(0, x - reach)]!;
    }
  }
  const out = new Uint8Array(width * height);
  const sums = new Int32Array(width);
  const scale = 1 / (MEAN * MEAN);
  for (let y = -reach; y <= reach; y++) {
    const row = Math.min(height - 1, Math.max(0, y)) * width;
    for (let x = 0; x < width; x++) sums[x]! += across[row + x]!;
  }
  for (let y = 0; y < height; y++) {
    const row = y * width;
    const [enters, leaves] = [Math.min(height - 1, y + reach + 1) * width, Math.max(0, y - reach) * width];
    for (let x = 0; x < width; x++) {
      out[row + x] = Math.min(255, Math.max(0, 128 + (data[row + x]! - sums[x]! * scale) / 1.5));
      sums[x]! += across[enters + x]! - across[leaves + x]!;
    }
  }
  return { width, height, data: out };
}

/** From the frames themselves to the coarsest level, in one memory. */
export function levelsOf(one: Luma, other: Luma): [Level[], Level[]] {
  // Each level is a quarter of the one before; lanes begin in sixteens.
  const arena = new Arena(Math.ceil((8 / 3) * one.data.length) + 1024);
  return [one, other].map((luma) => {
    const levels: Level[] = [];
    for (let level = luma; ; level = halved(level)) {
      const data = arena.bytes(level.data.length);
      data.set(flattened(level).data);
      levels.push({ ...level, data, kernels: arena.kernels });
      if (Math.min(level.width, level.height) < 2 * COARSEST) return levels;
    }
  }) as [Level[], Level[]];
}

/** @returns whether a block lies inside of a picture */
export const holds = ({ width, height }: Luma, block: number, x: number, y: number): boolean =>
  x >= 0 && y >= 0 && x + block <= width && y + block <= height;

/** Sum of differences of a block at (x, y) of one and, whole pixels away, of the other; what lies outside is the border. */
function mismatch(one: Level, other: Level, block: number, x: number, y: number, dx: number, dy: number): number {
  const { width, height, data: a } = one;
  const { data: b } = other;
  if (holds(one, block, x, y) && holds(other, block, x + dx, y + dy))
    return one.kernels.blockGap(a.byteOffset + y * width + x, b.byteOffset + (y + dy) * width + x + dx, width, block);
  let sum = 0;
  for (let j = 0; j < block; j++) {
    const row = held(y + j, height) * width;
    const otherRow = held(y + j + dy, height) * width;
    for (let n = 0; n < block; n++) {
      const gap = a[row + held(x + n, width)]! - b[otherRow + held(x + n + dx, width)]!;
      sum += gap < 0 ? -gap : gap;
    }
  }
  return sum;
}

const median3 = (a: number, b: number, c: number): number => Math.max(Math.min(a, b), Math.min(Math.max(a, b), c));

/** What the neighbours that are known speak for, -1 for those that are not: the median of three, else the one there is. */
export const spokenFor = (known: Float32Array, left: number, up: number, corner: number, otherwise: number): number => {
  if (left >= 0 && up >= 0 && corner >= 0) return median3(known[left]!, known[up]!, known[corner]!);
  return left >= 0 ? known[left]! : up >= 0 ? known[up]! : otherwise;
};

/** Where a parabola through three values has its least, -0.5 to 0.5 from the middle one. */
const vertex = (before: number, middle: number, after: number): number => {
  const bend = before - 2 * middle + after;
  return bend > 0 ? Math.max(-0.5, Math.min(0.5, (0.5 * (before - after)) / bend)) : 0;
};

/** One level: whole vectors from those of the coarser one, if any. */
function matched(one: Level, other: Level, coarse: Field | null, fine: boolean): Field {
  const cell = fine ? CELL : COARSE_CELL;
  const [columns, rows] = [Math.ceil(one.width / cell), Math.ceil(one.height / cell)];
  const [vx, vy] = [new Float32Array(columns * rows), new Float32Array(columns * rows)];
  const from = (column: number, row: number): number =>
    Math.min(coarse!.rows - 1, Math.max(0, row)) * coarse!.columns + Math.min(coarse!.columns - 1, Math.max(0, column));
  const smooth = fine ? SMOOTH.fine : SMOOTH.coarse;
  const tried: number[] = [];
  const seen = new Float32Array(64);
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      const here = row * columns + column;
      const [x, y] = [column * cell - cell / 2, row * cell - cell / 2];
      tried.length = 0;
      const left = column > 0 ? here - 1 : -1;
      const up = row > 0 ? here - columns : -1;
      const corner = row > 0 && column < columns - 1 ? here - columns + 1 : -1;
      tried.push(0, 0);
      for (const near of [left, up, corner]) if (near >= 0) tried.push(vx[near]!, vy[near]!);
      if (coarse) {
        // The four coarse cells around the middle of this one.
        const [c, r] = [column, row].map((n) => Math.floor(((n + 0.5) * cell) / (2 * coarse.cell) - 0.5)) as [
          number,
          number,
        ];
        for (let k = 0; k < 4; k++) {
          const at = from(c + (k & 1), r + (k >> 1));
          tried.push(Math.round(2 * coarse.x[at]!), Math.round(2 * coarse.y[at]!));
        }
      }
      const mx = spokenFor(vx, left, up, corner, 0);
      const my = spokenFor(vy, left, up, corner, 0);
      let bx = 0;
      let by = 0;
      let best = Infinity;
      let count = 0;
      const attempt = (dx: number, dy: number): void => {
        const cost = smooth * Math.min(8, Math.abs(dx - mx) + Math.abs(dy - my));
        if (cost >= best) return;
        // Neighbours mostly say the same: what was compared is not compared again.
        for (let k = 0; k < count; k += 2) if (seen[k] === dx && seen[k + 1] === dy) return;
        if (count < seen.length) {
          seen[count++] = dx;
          seen[count++] = dy;
        }
        const all = cost + mismatch(one, other, 2 * cell, x, y, dx, dy);
        if (all < best) {
          bx = dx;
          by = dy;
          best = all;
        }
      };
      for (let t = 0; t < tried.length; t += 2) attempt(tried[t]!, tried[t + 1]!);
      if (!coarse) {
        for (let dy = -SEARCH; dy <= SEARCH; dy++) for (let dx = -SEARCH; dx <= SEARCH; dx++) attempt(dx, dy);
      } else {
        for (let round = 0; round < (fine ? 2 : 3); round++) {
          const [cx, cy] = [bx, by];
          attempt(cx - 1, cy);
          attempt(cx + 1, cy);
          attempt(cx, cy - 1);
          attempt(cx, cy + 1);
          if (cx === bx && cy === by) break;
        }
      }
      vx[here] = bx;
      vy[here] = by;
    }
  if (!fine) return { cell, columns, rows, x: vx, y: vy };
  // Between pixels only at the end, for vectors of neighbours are tried as whole ones.
  const [sx, sy] = [new Float32Array(vx), new Float32Array(vy)];
  for (let n = 0; n < sx.length; n++) {
    const [x, y] = [(n % columns) * cell - cell / 2, Math.floor(n / columns) * cell - cell / 2];
    const at = (dx: number, dy: number): number => mismatch(one, other, 2 * cell, x, y, vx[n]! + dx, vy[n]! + dy);
    const middle = at(0, 0);
    if (middle === 0) continue;
    sx[n]! += vertex(at(-1, 0), middle, at(1, 0));
    sy[n]! += vertex(at(0, -1), middle, at(0, 1));
  }
  return { cell, columns, rows, x: sx, y: sy };
}

/** Movement from one frame to the other, by their levels. */
export function fieldBetween(one: readonly Level[], other: readonly Level[]): Field {
  let field: Field | null = null;
  for (let level = one.length - 1; level >= 0; level--) field = matched(one[level]!, other[level]!, field, level === 0);
  return field!;
}
