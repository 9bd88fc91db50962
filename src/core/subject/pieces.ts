/**
 * Brushed mattes as they are kept: a second of frames in one text, each frame as runs of nothing and of all with the values
 * of edges between them. A minute at 30 frames a second takes one to three million letters.
 */
import { fromByteArray, toByteArray } from 'base64-js';
import type { Brushed } from '../document/types.ts';
import { WORKING_SIDE } from './working.ts';

export type Piece = Brushed['pieces'][number];

/** The matte of a frame: 0-255, one a pixel of the working picture as stored. */
export interface KeptMatte {
  /** Source seconds of the frame. */
  readonly t: number;
  readonly values: Uint8Array;
}
interface Unpacked {
  readonly width: number;
  readonly height: number;
  readonly frames: readonly KeptMatte[];
}

/** Most frames of a piece. */
const FRAMES = 32;
/** What is within so many seconds is of one frame. */
export const SAME = 0.004;
/** A moment between two frames takes the nearer one, as far as this. */
const NEAR = 0.06;

export const toBytes = (mask: Float32Array): Uint8Array => Uint8Array.from(mask, (value) => Math.round(value * 255));

function written(values: Uint8Array, out: number[]): void {
  const count = (value: number): void => {
    for (let left = value; ; left >>>= 7) {
      out.push(left > 127 ? (left & 127) | 128 : left);
      if (left < 128) return;
    }
  };
  for (let i = 0; i < values.length;) {
    const run = (value: number): number => {
      const from = i;
      while (i < values.length && values[i] === value) i++;
      return i - from;
    };
    count(run(0));
    count(run(255));
    const edge = i;
    while (i < values.length && values[i] !== 0 && values[i] !== 255) i++;
    count(i - edge);
    for (let k = edge; k < i; k++) out.push(values[k]!);
  }
}

function packed(width: number, height: number, frames: readonly KeptMatte[]): Piece {
  const bytes: number[] = [width & 255, width >> 8, height & 255, height >> 8, frames.length];
  for (const { t, values } of frames) {
    bytes.push(...new Uint8Array(new Float64Array([t]).buffer));
    written(values, bytes);
  }
  return { from: frames[0]!.t, to: frames.at(-1)!.t, frames: fromByteArray(Uint8Array.from(bytes)) };
}

/** Reads a piece; null where it is none. */
export function unpacked(piece: Piece): Unpacked | null {
  let bytes: Uint8Array;
  try {
    bytes = toByteArray(piece.frames);
  } catch {
    return null;
  }
  let at = 5;
  const width = bytes[0]! | (bytes[1]! << 8);
  const height = bytes[2]! | (bytes[3]! << 8);
  const area = width * height;
  if (bytes.length < 5 || !area || width > WORKING_SIDE || height > WORKING_SIDE || bytes[4]! > FRAMES) return null;
  const count = (): number => {
    let value = 0;
    for (let shift = 0; shift < 28; shift += 7) {
      const byte = bytes[at++] ?? 0;
      value |= (byte & 127) << shift;
      if (byte < 128) break;
    }
    return value;
  };
  const frames: KeptMatte[] = [];
  for (let n = 0; n < bytes[4]!; n++) {
    if (at + 8 > bytes.length) return null;
    const t = new DataView(bytes.buffer, bytes.byteOffset + at, 8).getFloat64(0, true);
    at += 8;
    const values = new Uint8Array(area);
    for (let i = 0; i < area;) {
      const [none, all] = [count(), count()];
      const edge = count();
      const next = i + none + all + edge;
      if (next <= i || next > area || at + edge > bytes.length) return null;
      values.fill(255, i + none, i + none + all);
      values.set(bytes.subarray(at, at + edge), i + none + all);
      at += edge;
      i = next;
    }
    frames.push({ t, values });
  }
  return { width, height, frames };
}

/** Pieces read last: a playing preview asks for the same one again and again. */
const read = new Map<string, Unpacked | null>();
const MOST_READ = 4;
function known(piece: Piece): Unpacked | null {
  let one = read.get(piece.frames);
  if (one === undefined) {
    read.set(piece.frames, (one = unpacked(piece)));
    const [oldest] = read.keys();
    if (read.size > MOST_READ) read.delete(oldest!);
  }
  return one;
}

/** All mattes of a subject that are kept, in their order. */
export const keptMattes = (pieces: readonly Piece[]): KeptMatte[] =>
  pieces.flatMap((piece) => unpacked(piece)?.frames ?? []);

/** Pieces with these frames' mattes put in, or in place of those of the same frames. */
export function withMattes(
  pieces: readonly Piece[],
  frames: readonly KeptMatte[],
  size: { readonly width: number; readonly height: number },
): Piece[] {
  if (!frames.length) return [...pieces];
  const [from, to] = [frames[0]!.t, frames.at(-1)!.t];
  const before = pieces.filter((piece) => piece.to < from - SAME);
  const after = pieces.filter((piece) => piece.from > to + SAME);
  // Only what these frames lie in is written anew; another size is another picture.
  const met = pieces
    .filter((piece) => piece.to >= from - SAME && piece.from <= to + SAME)
    .flatMap((piece) => {
      const one = unpacked(piece);
      return one && one.width === size.width && one.height === size.height ? one.frames : [];
    })
    .filter(({ t }) => !frames.some((one) => Math.abs(one.t - t) <= SAME));
  const all = [...met, ...frames].sort((a, b) => a.t - b.t);
  const between: Piece[] = [];
  for (let i = 0; i < all.length; i += FRAMES) between.push(packed(size.width, size.height, all.slice(i, i + FRAMES)));
  return [...before, ...between, ...after];
}

/** The matte kept for a moment of its source, and its size; null where there is none. */
export function matteNear(
  pieces: readonly Piece[],
  t: number,
): { readonly width: number; readonly height: number; readonly values: Uint8Array; readonly t: number } | null {
  let best: ReturnType<typeof matteNear> = null;
  for (const piece of pieces) {
    if (t < piece.from - NEAR || t > piece.to + NEAR) continue;
    const one = known(piece);
    for (const frame of one?.frames ?? [])
      if (Math.abs(frame.t - t) <= Math.min(NEAR, best ? Math.abs(best.t - t) : NEAR))
        best = { width: one!.width, height: one!.height, ...frame };
  }
  return best;
}
