/** Small pictures that brushed mattes are made on, and what is reckoned on such planes. */
import type { Frame } from './matte.ts';

/** Longer side of a working picture, pixels. */
export const WORKING_SIDE = 320;

/** A frame as stored, made smaller: brightness and two differences of colour, 0-255, a value a pixel. */
export interface Working {
  readonly width: number;
  readonly height: number;
  readonly y: Float32Array;
  readonly u: Float32Array;
  readonly v: Float32Array;
}

/** Size of the working picture of a frame. */
export function workingSize(width: number, height: number): { readonly width: number; readonly height: number } {
  const scale = Math.min(1, WORKING_SIDE / Math.max(width, height));
  return { width: Math.max(1, Math.round(width * scale)), height: Math.max(1, Math.round(height * scale)) };
}

/**
 * A plane of the upright picture as the source stores it.
 * @param width of the upright picture, pixels
 * @param rotation by which the stored picture is turned clockwise to be upright
 */
export function asStored(upright: Uint8Array, width: number, height: number, rotation: 0 | 90 | 180 | 270): Uint8Array {
  if (rotation === 0) return upright;
  const across = rotation === 180;
  const [w, h] = across ? [width, height] : [height, width];
  const out = new Uint8Array(upright.length);
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0; x < w; x++, i++) {
      const [ux, uy] = across
        ? [width - 1 - x, height - 1 - y]
        : rotation === 90
          ? [width - 1 - y, x]
          : [y, height - 1 - x];
      out[i] = upright[uy * width + ux]!;
    }
  return out;
}

function shrunk(plane: Uint8Array, width: number, height: number, w: number, h: number): Float32Array {
  const out = new Float32Array(w * h);
  const columns = Int32Array.from({ length: w + 1 }, (_, x) => Math.floor((x * width) / w));
  for (let y = 0; y < h; y++) {
    const top = Math.floor((y * height) / h);
    const bottom = Math.max(Math.floor(((y + 1) * height) / h), top + 1);
    for (let x = 0; x < w; x++) {
      const left = columns[x]!;
      const right = Math.max(columns[x + 1]!, left + 1);
      let sum = 0;
      for (let j = top; j < bottom; j++) for (let i = left; i < right; i++) sum += plane[j * width + i]!;
      out[y * w + x] = sum / ((bottom - top) * (right - left));
    }
  }
  return out;
}

export function workingOf({ width, height, data }: Frame): Working {
  const { width: w, height: h } = workingSize(width, height);
  const [cw, ch] = [(width + 1) >> 1, (height + 1) >> 1];
  const area = width * height;
  return {
    width: w,
    height: h,
    y: shrunk(data.subarray(0, area), width, height, w, h),
    u: shrunk(data.subarray(area, area + cw * ch), cw, ch, w, h),
    v: shrunk(data.subarray(area + cw * ch), cw, ch, w, h),
  };
}

/**
 * Distance of each pixel from the edge of what is at least a half, in pixels, positive inside: two passes of 3 and 4 a step
 * (G. Borgefors, "Distance transformations in digital images", 1986). As far as `most`.
 */
export function signedDistance(mask: Float32Array, width: number, height: number, most = 1e4): Float32Array {
  const out = new Float32Array(mask.length);
  for (const inside of [true, false]) {
    const far = new Float32Array(mask.length);
    for (let i = 0; i < mask.length; i++) far[i] = mask[i]! >= 0.5 === inside ? most : 0;
    const relax = (i: number, from: number, step: number): void => {
      const value = far[from]! + step;
      if (value < far[i]!) far[i] = value;
    };
    for (let y = 0; y < height; y++)
      for (let x = 0, i = y * width; x < width; x++, i++) {
        if (!far[i]) continue;
        if (x) relax(i, i - 1, 1);
        if (!y) continue;
        relax(i, i - width, 1);
        if (x) relax(i, i - width - 1, 4 / 3);
        if (x < width - 1) relax(i, i - width + 1, 4 / 3);
      }
    for (let y = height - 1; y >= 0; y--)
      for (let x = width - 1, i = y * width + x; x >= 0; x--, i--) {
        if (!far[i]) continue;
        if (x < width - 1) relax(i, i + 1, 1);
        if (y === height - 1) continue;
        relax(i, i + width, 1);
        if (x < width - 1) relax(i, i + width + 1, 4 / 3);
        if (x) relax(i, i + width - 1, 4 / 3);
      }
    for (let i = 0; i < out.length; i++) if (far[i]) out[i] = inside ? far[i]! - 0.5 : 0.5 - far[i]!;
  }
  return out;
}

/** What is written over a pixel: it belongs to the subject, it does not, or nothing was said. */
export type Seeds = Int8Array;

/**
 * Spreads what is believed of single pixels along likeness: each settles between its own belief and its neighbours', the
 * more alike the more (L. Grady, "Multilabel random walks with prior models", CVPR 2005), by successive over-relaxation.
 * @param belief 0-1, and how much it holds a pixel: `hold` times, nothing at 0
 * @param within pixels that may change; the others stay at their belief
 */
export function settled(
  { width, height, y, u, v }: Working,
  belief: Float32Array,
  hold: Float32Array,
  within: Uint8Array,
  rounds: number,
): Float32Array {
  const area = width * height;
  // Rows of nothing before and after, so that no neighbour has to be asked for.
  const pad = width;
  const padded = (): Float32Array => new Float32Array(area + 2 * pad);
  const [right, down, out, pull, all] = [padded(), padded(), padded(), padded(), padded()];
  const alike = (i: number, j: number): number => {
    const dy = y[i]! - y[j]!;
    const du = u[i]! - u[j]!;
    const dv = v[i]! - v[j]!;
    return Math.exp(-(dy * dy + 2 * (du * du + dv * dv)) / 160) + 0.004;
  };
  const open: number[] = [];
  for (let r = 0, i = 0; r < height; r++)
    for (let x = 0; x < width; x++, i++) {
      const free = within[i];
      const at = i + pad;
      if (free) open.push(at);
      if (x < width - 1 && (free || within[i + 1])) right[at] = alike(i, i + 1);
      if (r < height - 1 && (free || within[i + width])) down[at] = alike(i, i + width);
    }
  out.set(belief, pad);
  for (const at of open) {
    pull[at] = hold[at - pad]! * belief[at - pad]!;
    all[at] = hold[at - pad]! + right[at]! + right[at - 1]! + down[at]! + down[at - width]!;
  }
  for (let round = 0; round < rounds; round++)
    for (let k = 0; k < open.length; k++) {
      const at = open[k]!;
      const sum =
        pull[at]! +
        right[at]! * out[at + 1]! +
        right[at - 1]! * out[at - 1]! +
        down[at]! * out[at + width]! +
        down[at - width]! * out[at - width]!;
      const value = out[at]! + 1.6 * (sum / all[at]! - out[at]!);
      out[at] = value < 0 ? 0 : value > 1 ? 1 : value;
    }
  return out.slice(pad, pad + area);
}

/** Drops what is at least a half and in parts that none of `keep` touches or that are a small share of all. */
export function withoutScraps(
  mask: Float32Array,
  width: number,
  keep: (pixel: number) => boolean,
  least: number,
): void {
  const part = new Int32Array(mask.length);
  const parts: { count: number; kept: number }[] = [{ count: 0, kept: 0 }];
  const stack: number[] = [];
  let all = 0;
  for (let start = 0; start < mask.length; start++) {
    if (part[start] || mask[start]! < 0.5) continue;
    const id = parts.length;
    const one = { count: 0, kept: 0 };
    parts.push(one);
    part[start] = id;
    stack.push(start);
    while (stack.length) {
      const i = stack.pop()!;
      one.count++;
      if (keep(i)) one.kept++;
      const x = i % width;
      for (const j of [x ? i - 1 : -1, x < width - 1 ? i + 1 : -1, i - width, i + width])
        if (j >= 0 && j < mask.length && !part[j] && mask[j]! >= 0.5) {
          part[j] = id;
          stack.push(j);
        }
    }
    all += one.count;
  }
  for (let i = 0; i < mask.length; i++) {
    const one = parts[part[i]!]!;
    if (part[i] && (!one.kept || one.count < least * all)) mask[i] = 0;
  }
}

/**
 * Share of what either of two mattes holds that both hold: 0-1, 1 where neither holds anything.
 * @param half from which on a value is held
 */
export function overlap(one: ArrayLike<number>, other: ArrayLike<number>, half = 0.5): number {
  let both = 0;
  let either = 0;
  for (let i = 0; i < one.length; i++) {
    const a = one[i]! >= half;
    const b = other[i]! >= half;
    if (a || b) either++;
    if (a && b) both++;
  }
  return either ? both / either : 1;
}

/** Makes the edge about a pixel wide. */
export function sharpened(mask: Float32Array): void {
  for (let i = 0; i < mask.length; i++) mask[i] = Math.min(1, Math.max(0, 0.5 + 2.5 * (mask[i]! - 0.5)));
}
