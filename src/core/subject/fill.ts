/**
 * What is behind a subject, filled in from around it: means of what is known, from fine to coarse and back (S. J. Gortler
 * et al., "The Lumigraph", SIGGRAPH 1996, pull-push).
 */
import { boxOf, type Box } from './box.ts';
import type { Frame } from './matte.ts';

/** Share of the matte above which a pixel says nothing of what is behind the subject. */
const KNOWN = 0.02;
/** Pixels about a subject that it is filled from. */
const AROUND = 32;

interface Level {
  readonly width: number;
  readonly height: number;
  readonly values: Float32Array;
  /** 0-1: how much of it is known. */
  readonly weights: Float32Array;
}

function pulled({ width, height, values, weights }: Level): Level {
  const [w, h] = [(width + 1) >> 1, (height + 1) >> 1];
  const [less, known] = [new Float32Array(w * h), new Float32Array(w * h)];
  for (let y = 0; y < height; y++)
    for (let x = 0, i = y * width; x < width; x++, i++) {
      const weight = weights[i]!;
      if (!weight) continue;
      const at = (y >> 1) * w + (x >> 1);
      less[at]! += weight * values[i]!;
      known[at]! += weight;
    }
  for (let i = 0; i < less.length; i++) {
    if (!known[i]) continue;
    less[i]! /= known[i]!;
    known[i] = Math.min(1, known[i]!);
  }
  return { width: w, height: h, values: less, weights: known };
}

/** Fills what is not known of a level from a coarser one that is known everywhere, between its pixels evenly. */
function pushed({ width, height, values, weights }: Level, { values: from, width: w, height: h }: Level): void {
  for (let y = 0, i = 0; y < height; y++) {
    const upper = (y - 1) >> 1;
    const [top, low, fy] = [Math.max(0, upper) * w, Math.min(h - 1, upper + 1) * w, y & 1 ? 0.25 : 0.75];
    for (let x = 0; x < width; x++, i++) {
      const missing = 1 - weights[i]!;
      if (missing <= 0) continue;
      const before = (x - 1) >> 1;
      const left = before < 0 ? 0 : before;
      const right = before + 1 < w ? before + 1 : w - 1;
      const fx = x & 1 ? 0.25 : 0.75;
      const value =
        (from[top + left]! * (1 - fx) + from[top + right]! * fx) * (1 - fy) +
        (from[low + left]! * (1 - fx) + from[low + right]! * fx) * fy;
      values[i] = values[i]! * weights[i]! + value * missing;
    }
  }
}

/** Fills a part of a plane. @param unknown 1 where a pixel is to be filled, one a pixel of the plane */
function fillPlane(plane: Uint8Array, unknown: Uint8Array, width: number, { left, top, w, h }: Box): void {
  const [values, weights] = [new Float32Array(w * h), new Float32Array(w * h)];
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0, at = (top + y) * width + left; x < w; x++, i++, at++)
      if (!unknown[at]) {
        values[i] = plane[at]!;
        weights[i] = 1;
      }
  const levels: Level[] = [{ width: w, height: h, values, weights }];
  for (let level = levels[0]!; level.width > 1 || level.height > 1;) levels.push((level = pulled(level)));
  for (let n = levels.length - 2; n >= 0; n--) pushed(levels[n]!, levels[n + 1]!);
  for (let y = 0, i = 0; y < h; y++)
    for (let x = 0, at = (top + y) * width + left; x < w; x++, i++, at++) if (unknown[at]) plane[at] = values[i]! + 0.5;
}

/** The frame without its subject. A frame that is all subject stays as it is. */
export function withoutSubject<T extends Frame>(frame: T, mask: Float32Array): T {
  const { width, height } = frame;
  const [w, h] = [(width + 1) >> 1, (height + 1) >> 1];
  const area = width * height;
  const unknown = new Uint8Array(area);
  const half = new Uint8Array(w * h);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++)
      if (mask[i]! > KNOWN) {
        unknown[i] = 1;
        half[(y >> 1) * w + (x >> 1)] = 1;
      }
  // What lies far off says nothing of it.
  const [box, smaller] = [boxOf(unknown, width, height, 0, AROUND), boxOf(half, w, h, 0, AROUND >> 1)];
  if (!box || !smaller || !half.includes(0)) return frame;
  const data = frame.data.slice();
  fillPlane(data.subarray(0, area), unknown, width, box);
  for (const from of [area, area + w * h]) fillPlane(data.subarray(from, from + w * h), half, w, smaller);
  return { ...frame, data };
}
