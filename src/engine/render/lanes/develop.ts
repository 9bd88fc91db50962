/**
 * Decoded planes to linear light at the output's size, as `DEVELOP` does it on the graphics unit: since a picture is only
 * shrunk, cut and turned by right angles, its columns and its rows are weighed on their own, once for all rows and columns.
 */
import { toByteArray } from 'base64-js';
import { yuvCoefficients } from '../../../core/base/colour.ts';
import type { View } from '../../../core/accents/effect-spec.ts';
import { detailOf, seenOf, type Seen } from '../shaders.ts';
import type { Picture } from '../frame-renderer.ts';
import compiled from './generated/kernels.js';

/** What kernels.as.ts exports; addresses in bytes. */
export interface Kernels {
  blend(taps: number, count: number, width: number, out: number): void;
  take(row: number, table: number, taps: number, count: number, out: number): void;
  pick(row: number, table: number, taps: number, count: number, out: number): void;
  colours(
    y: number,
    u: number,
    v: number,
    shown: number,
    level: number,
    count: number,
    numbers: number,
    out: number,
  ): void;
  planes(rgba: number, stride: number, width: number, height: number, weights: number, out: number): void;
}

let made: WebAssembly.Module | null = null;
export function kernelsIn(memory: WebAssembly.Memory): Kernels {
  made ??= new WebAssembly.Module(Uint8Array.from(toByteArray(compiled)));
  return new WebAssembly.Instance(made, { env: { memory } }).exports as unknown as Kernels;
}

/** What an output pixel is of a line of stored ones: `taps` places with their weights, and how much of it is there. */
interface Line {
  readonly taps: number;
  readonly places: Int32Array;
  readonly weights: Float32Array;
  readonly shown: Float32Array;
  /** True where each pixel is the stored one of the same place. */
  readonly same: boolean;
}

interface Axis {
  /** Output pixels. */
  readonly count: number;
  /** Share of the picture seen across the output, and what is in its middle, from the picture's own. */
  readonly cover: number;
  readonly centre: number;
  /** -1 where the picture lies the other way round. */
  readonly sign: number;
  /** Samples an output pixel. */
  readonly detail: number;
}

/** @param at the stored place, in samples, of a share of the picture; @param stored samples along the line */
function lineOf({ count, cover, centre, sign, detail }: Axis, stored: number, at: (share: number) => number): Line {
  const taps = 2 * detail;
  const [places, weights] = [new Int32Array(count * taps), new Float32Array(count * taps)];
  const shown = new Float32Array(count);
  const most = stored - 1;
  let single = detail === 1;
  for (let i = 0; i < count; i++) {
    const of = (part: number): number =>
      ((i + 0.5 + (part + 0.5 - detail / 2) / detail) / count - 0.5) * cover + centre;
    const inside = (q: number): boolean => Math.abs(q) <= 0.5;
    let seen = 0;
    for (let part = 0; part < detail; part++) if (detail === 1 || inside(of(part))) seen++;
    shown[i] = inside(((i + 0.5) / count - 0.5) * cover + centre) ? seen / detail : 0;
    for (let part = 0; part < detail; part++) {
      const q = of(part);
      const place = Math.min(most, Math.max(0, at(sign * q + 0.5) - 0.5));
      const low = Math.floor(place);
      // Shares in 256ths, as graphics units take them.
      const share = Math.floor((place - low) * 256 + 0.5) / 256;
      const k = i * taps + 2 * part;
      places[k] = low;
      places[k + 1] = Math.min(most, low + 1);
      // What lies outside counts for nothing, but has its neighbours' place: lines stay lines.
      if (detail > 1 && !inside(q)) continue;
      weights[k] = (1 - share) / seen;
      weights[k + 1] = share / seen;
      if (share > 0) single = false;
    }
  }
  if (!single) return { taps, places, weights, shown, same: false };
  const firsts = places.filter((_, k) => k % 2 === 0);
  return {
    taps: 1,
    places: firsts,
    weights: weights.filter((_, k) => k % 2 === 0),
    shown,
    same: count === stored && firsts.every((place, i) => place === i),
  };
}

const fours = (count: number): number => (count + 3) & ~3;

/** A line as kernels read it: for each four pixels and each tap the places and weights, `near` where places are neighbours. */
interface Table {
  readonly words: Int32Array<ArrayBuffer>;
  readonly taps: number;
  readonly near: boolean;
}

function tableOf({ taps, places, weights }: Line): Table {
  const count = places.length / taps;
  const groups = fours(count) / 4;
  let near = true;
  for (let i = 3 * taps; near && i < places.length; i++) near = Math.abs(places[i]! - places[i - 3 * taps]!) < 4;
  const size = near ? 12 : 8;
  const words = new Int32Array(groups * taps * size);
  const floats = new Float32Array(words.buffer);
  for (let g = 0, k = 0; g < groups; g++)
    for (let t = 0; t < taps; t++, k += size) {
      const pixel = (l: number): number => Math.min(count - 1, 4 * g + l) * taps + t;
      const first = near ? Math.min(places[pixel(0)]!, places[pixel(3)]!) : 0;
      if (near) words[k] = 4 * first;
      for (let l = 0; l < 4; l++) {
        const byte = 4 * (places[pixel(l)]! - first);
        words[k + (near ? 4 : 0) + l] = near ? 0x03020100 + 0x01010101 * byte : byte;
        floats[k + (near ? 8 : 4) + l] = weights[pixel(l)]!;
      }
    }
  return { words, taps, near };
}

/** Lines and tables of the framings seen last: most frames are framed as the one before. */
const LINES = 16;
const known = new Map<string, { readonly line: Line; readonly table: Table }>();
function lined(axis: Axis, stored: number, colour: boolean, sited: boolean): { line: Line; table: Table } {
  const key = JSON.stringify([axis, stored, colour, sited]);
  let one = known.get(key);
  if (!one) {
    // Colour sits on the left luma column and between the rows (ITU-T H.264 annex E, type 0), as it is stored.
    const line = colour
      ? lineOf({ ...axis, detail: 1 }, (stored + 1) >> 1, (share) => (share * stored) / 2 + (sited ? 0.25 : 0))
      : lineOf(axis, stored, (share) => share * stored);
    known.set(key, (one = { line, table: tableOf(line) }));
    const [oldest] = known.keys();
    if (known.size > LINES) known.delete(oldest!);
  }
  return one;
}

/** A plane in memory. */
interface Plane {
  readonly at: number;
  readonly width: number;
  readonly height: number;
}

/** Luma and both planes of colour as a picture stores them, lying on their side where it is turned by a quarter. */
function stored(bytes: Uint8Array, at: number, { yuv, rotation }: Picture): [Plane, Plane, Plane] {
  const [cw, ch] = [(yuv.width + 1) >> 1, (yuv.height + 1) >> 1];
  let from = 0;
  const plane = (width: number, height: number): Plane => {
    const one = { at: at + from, ...(rotation % 180 ? { width: height, height: width } : { width, height }) };
    if (rotation % 180)
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) bytes[one.at + x * height + y] = yuv.data[from + y * width + x]!;
    from += width * height;
    return one;
  };
  const planes: [Plane, Plane, Plane] = [plane(yuv.width, yuv.height), plane(cw, ch), plane(cw, ch)];
  if (rotation % 180 === 0) bytes.set(yuv.data.subarray(0, from), at);
  return planes;
}

/**
 * @param take sets bytes of the memory aside until the frame is drawn
 * @param into address of the first pixel, and pixels from row to row
 */
export function develop(
  kernels: Kernels,
  memory: WebAssembly.Memory,
  take: (bytes: number) => number,
  picture: Picture,
  view: View,
  into: { readonly at: number; readonly stride: number },
): void {
  const { yuv, rotation } = picture;
  const seen = seenOf(picture, view);
  const detail = detailOf(picture, view);
  // Rows and columns are read up to fifteen bytes beyond their end.
  const planesAt = take(yuv.data.length + 16);
  const across = axisOf('x', seen, rotation, detail, view.width);
  const down = axisOf('y', seen, rotation, detail, view.height);
  const [wide, high] = rotation % 180 ? [yuv.height, yuv.width] : [yuv.width, yuv.height];
  const turned = rotation % 180 !== 0;
  const columns = lined(across, wide, false, false);
  const rows = lined(down, high, false, false).line;
  const colourColumns = lined(across, wide, true, !turned);
  const colourRows = lined(down, high, true, turned).line;

  const [lumaAt, colourAt] = [columns, colourColumns].map(({ table }) => take(table.words.byteLength));
  const width = fours(view.width);
  const shownAt = take(4 * width);
  const longest = 4 * Math.max(width, fours(wide));
  const [mixed, ys, us, vs] = [take(longest + 16), take(longest), take(longest), take(longest)];
  const [tapsAt, numbers] = [take(8 * Math.max(rows.taps, colourRows.taps)), take(32)];
  const floats = new Float32Array(memory.buffer);
  const whole = new Int32Array(memory.buffer);
  floats.set(columns.line.shown, shownAt >>> 2);
  whole.set(columns.table.words, lumaAt! >>> 2);
  whole.set(colourColumns.table.words, colourAt! >>> 2);
  const k = yuvCoefficients(yuv.colour);
  floats.set([k.yOffset, k.yScale, k.cScale, k.rv, k.gu, k.gv, k.bu], numbers >>> 2);
  const [planeY, planeU, planeV] = stored(new Uint8Array(memory.buffer), planesAt, picture);

  const row = (
    plane: Plane,
    of: Line,
    y: number,
    { line: own, table }: typeof columns,
    at: number,
    out: number,
  ): void => {
    let count = 0;
    for (let t = 0; t < of.taps; t++) {
      const weight = of.weights[y * of.taps + t]!;
      if (weight === 0) continue;
      whole[(tapsAt >>> 2) + 2 * count] = plane.at + of.places[y * of.taps + t]! * plane.width;
      floats[(tapsAt >>> 2) + 2 * count + 1] = weight / 255;
      count++;
    }
    kernels.blend(tapsAt, count, plane.width, own.same ? out : mixed);
    if (!own.same) (table.near ? kernels.pick : kernels.take)(mixed, at, table.taps, view.width, out);
  };
  for (let y = 0; y < view.height; y++) {
    row(planeY, rows, y, columns, lumaAt!, ys);
    row(planeU, colourRows, y, colourColumns, colourAt!, us);
    row(planeV, colourRows, y, colourColumns, colourAt!, vs);
    kernels.colours(ys, us, vs, shownAt, rows.shown[y]!, view.width, numbers, into.at + y * into.stride * 16);
  }
}

/** Which way an upright axis runs along the stored picture, turned by so much clockwise to stand upright. */
function axisOf(axis: 'x' | 'y', seen: Seen, rotation: Picture['rotation'], detail: number, count: number): Axis {
  const sign = rotation === 180 || rotation === (axis === 'x' ? 90 : 270) ? -1 : 1;
  return { count, cover: seen.cover[axis], centre: seen.centre[axis], sign, detail };
}
