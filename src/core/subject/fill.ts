/**
 * What is behind a subject, filled in from around it: means of what is known, from fine to coarse and back (S. J. Gortler
 * et al., "The Lumigraph", SIGGRAPH 1996, pull-push).
 */
import type { Frame } from './matte.ts';

/** Share of the matte above which a pixel says nothing of what is behind the subject. */
const KNOWN = 0.02;

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
function pushed(fine: Level, coarse: Level): void {
  const { width, height, values, weights } = fine;
  const at = (x: number, y: number): number =>
    coarse.values[
      Math.min(coarse.height - 1, Math.max(0, y)) * coarse.width + Math.min(coarse.width - 1, Math.max(0, x))
    ]!;
  for (let y = 0; y < height; y++) {
    const [top, fy] = [(y - 1) >> 1, y & 1 ? 0.25 : 0.75];
    for (let x = 0, i = y * width; x < width; x++, i++) {
      const missing = 1 - weights[i]!;
      if (missing <= 0) continue;
      const [left, fx] = [(x - 1) >> 1, x & 1 ? 0.25 : 0.75];
      const value =
        (at(left, top) * (1 - fx) + at(left + 1, top) * fx) * (1 - fy) +
        (at(left, top + 1) * (1 - fx) + at(left + 1, top + 1) * fx) * fy;
      values[i] = values[i]! * weights[i]! + value * missing;
    }
  }
}

/** @param unknown 1 where a pixel is to be filled, one a pixel of the plane */
function fillPlane(plane: Uint8Array, unknown: Uint8Array, width: number, height: number): void {
  const levels: Level[] = [
    {
      width,
      height,
      values: Float32Array.from(plane),
      weights: Float32Array.from(unknown, (one) => (one ? 0 : 1)),
    },
  ];
  for (let level = levels[0]!; level.width > 1 || level.height > 1;) levels.push((level = pulled(level)));
  for (let n = levels.length - 2; n >= 0; n--) pushed(levels[n]!, levels[n + 1]!);
  const { values } = levels[0]!;
  for (let i = 0; i < plane.length; i++) if (unknown[i]) plane[i] = values[i]! + 0.5;
}

/** The frame without its subject. A frame that is all subject stays as it is. */
export function withoutSubject<T extends Frame>(frame: T, mask: Float32Array): T {
  const { width, height } = frame;
  const [w, h] = [(width + 1) >> 1, (height + 1) >> 1];
  const area = width * height;
  const unknown = Uint8Array.from(mask, (share) => (share > KNOWN ? 1 : 0));
  const half = new Uint8Array(w * h);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) if (unknown[y * width + x]) half[(y >> 1) * w + (x >> 1)] = 1;
  if (!unknown.includes(1) || !half.includes(0)) return frame;
  const data = frame.data.slice();
  fillPlane(data.subarray(0, area), unknown, width, height);
  for (const from of [area, area + w * h]) fillPlane(data.subarray(from, from + w * h), half, w, h);
  return { ...frame, data };
}
