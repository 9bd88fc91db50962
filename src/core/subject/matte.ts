/**
 * The matte of a source's frame: how far each pixel belongs to its subject, made of drawn paths, a key of brightness
 * or colour, and what was brushed. Paths are in shares of the upright picture and run evenly from key to key in source time.
 */
import { outline } from '../accents/region.ts';
import { fromLinear, lumaOf, yuvCoefficients, type YuvColour } from '../base/colour.ts';
import { lowerBound } from '../base/search.ts';
import { boxOf, cut, pasted } from './box.ts';
import { matteNear } from './pieces.ts';
import { refined } from './refine.ts';
import type { Point, Source, Subject, SubjectKey, SubjectPath } from '../document/types.ts';

/** A frame as it was decoded: I420 without gaps. */
export interface Frame {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array;
  readonly colour: YuvColour;
}

type Rotation = NonNullable<Source['video']>['rotation'];

/** Points of a path at a source time, shares of the upright picture. */
export function subjectPathAt({ keys }: SubjectPath, t: number): SubjectPath['keys'][number]['points'] {
  const after = lowerBound(keys, t, (key) => key.t);
  const [a, b] = [keys[Math.max(0, after - 1)]!, keys[Math.min(after, keys.length - 1)]!];
  // Between keys of different counts the earlier points stay.
  if (b.t <= a.t || a.points.length !== b.points.length || t <= a.t) return t >= b.t ? b.points : a.points;
  const share = Math.min(1, (t - a.t) / (b.t - a.t));
  return a.points.map((p, i) => ({
    ...p,
    x: p.x + (b.points[i]!.x - p.x) * share,
    y: p.y + (b.points[i]!.y - p.y) * share,
  }));
}

/**
 * Some points of an outline moved, turned and scaled about their middle; one alone is only moved.
 * @param aspect width of the picture by its height: turning keeps shapes
 * @param by shares of the picture, radians clockwise, factor
 */
export function reshaped<T extends Point>(
  points: readonly T[],
  chosen: ReadonlySet<number>,
  aspect: number,
  { x = 0, y = 0, turn = 0, scale = 1 }: { x?: number; y?: number; turn?: number; scale?: number },
): T[] {
  const own = points.filter((_, i) => chosen.has(i));
  const [mx, my] = [
    own.reduce((sum, p) => sum + p.x, 0) / Math.max(1, own.length),
    own.reduce((sum, p) => sum + p.y, 0) / Math.max(1, own.length),
  ];
  const [c, s] = [scale * Math.cos(turn), scale * Math.sin(turn)];
  return points.map((p, i) => {
    if (!chosen.has(i)) return p;
    const [dx, dy] = [(p.x - mx) * aspect, p.y - my];
    return { ...p, x: mx + (c * dx - s * dy) / aspect + x, y: my + s * dx + c * dy + y };
  });
}

/** A place of the upright picture in the stored one, shares of each. */
export function stored({ x, y }: Point, rotation: Rotation): [number, number] {
  if (rotation === 90) return [y, 1 - x];
  if (rotation === 180) return [1 - x, 1 - y];
  return rotation === 270 ? [1 - y, x] : [x, y];
}

/** Fills a closed outline by the even-odd rule, four samples down and exact shares across: 0-1. */
export function filled(points: readonly (readonly [number, number])[], width: number, height: number): Float32Array {
  const mask = new Float32Array(width * height);
  if (points.length < 3) return mask;
  const SUB = 4;
  const crossings: number[] = [];
  const ys = points.map(([, y]) => y);
  const [top, bottom] = [Math.max(0, Math.floor(Math.min(...ys))), Math.min(height, Math.ceil(Math.max(...ys)))];
  for (let row = top; row < bottom; row++)
    for (let s = 0; s < SUB; s++) {
      const y = row + (s + 0.5) / SUB;
      crossings.length = 0;
      for (let i = 0; i < points.length; i++) {
        const [[x1, y1], [x2, y2]] = [points[i]!, points[(i + 1) % points.length]!];
        if (y1 <= y !== y2 <= y) crossings.push(x1 + ((y - y1) / (y2 - y1)) * (x2 - x1));
      }
      crossings.sort((a, b) => a - b);
      for (let k = 0; k + 1 < crossings.length; k += 2) {
        const [from, to] = [Math.max(0, crossings[k]!), Math.min(width, crossings[k + 1]!)];
        if (!(to > from)) continue;
        const [first, last] = [Math.floor(from), Math.min(width - 1, Math.floor(to))];
        const at = row * width;
        // Whole pixels, and what the first and the last of them have too much.
        for (let x = first; x <= last; x++) mask[at + x]! += 1 / SUB;
        mask[at + first]! -= (from - first) / SUB;
        mask[at + last]! -= (last + 1 - to) / SUB;
      }
    }
  return mask;
}

const ramp = (v: number, from: number, to: number): number =>
  to > from ? Math.min(1, Math.max(0, (v - from) / (to - from))) : v >= from ? 1 : 0;

/** How a key sees a picture where it is not told. */
export const AS_IT_IS = { contrast: 1, gamma: 1, saturation: 1, blur: 0 };

/** How far each pixel is of the keyed brightness or colour, as displayed, and as the key sees it. */
function keyed({ width, height, data, colour }: Frame, key: SubjectKey): Float32Array {
  const mask = new Float32Array(width * height);
  const k = yuvCoefficients(colour);
  const [half, low] = [(width + 1) >> 1, (height + 1) >> 1];
  const area = width * height;
  const { contrast, gamma, saturation, blur } = key.sees ?? AS_IT_IS;
  const toned = (luma: number): number => Math.min(1, Math.max(0, 0.5 + (luma - 0.5) * contrast)) ** (1 / gamma);
  const plain = contrast === 1 && gamma === 1;
  const lumas = new Float32Array(area);
  for (let i = 0; i < area; i++) lumas[i] = (data[i]! / 255 - k.yOffset) * k.yScale;
  blurred(lumas, width, height, blur * height);
  // A key of brightness asks for no colours.
  const [us, vs] = [area, area + half * low].map((from) => {
    const plane = new Float32Array(key.by === 'colour' ? half * low : 0);
    for (let i = 0; i < plane.length; i++) plane[i] = ((data[from + i]! - 128) / 255) * k.cScale * saturation;
    if (plane.length) blurred(plane, half, low, blur * low);
    return plane;
  }) as [Float32Array, Float32Array];
  // The colour that is looked for is seen in the same way.
  const of = lumaOf(k, key.red, key.green, key.blue);
  const seen = (part: number): number => (plain ? of : toned(of)) + (part - of) * saturation;
  const [red, green, blue] = [seen(key.red), seen(key.green), seen(key.blue)];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const luma = plain ? lumas[i]! : toned(lumas[i]!);
      let near: number;
      if (key.by === 'brightness')
        near = ramp(luma, key.low - key.soft, key.low) * (1 - ramp(luma, key.high, key.high + key.soft));
      else {
        const c = (y >> 1) * half + (x >> 1);
        const [u, v] = [us[c]!, vs[c]!];
        const r = luma + k.rv * v - red;
        const g = luma - k.gu * u - k.gv * v - green;
        const b = luma + k.bu * u - blue;
        // A colour in the shade is that colour still: brightness counts half of what hue does.
        const grey = (r + g + b) / 3;
        const away = Math.sqrt((r - grey) ** 2 + (g - grey) ** 2 + (b - grey) ** 2 + (grey / 2) ** 2);
        near = 1 - ramp(away, key.near, key.near + key.soft);
      }
      mask[i] = key.invert ? 1 - near : near;
    }
  return mask;
}

/** Three means of one width after each other: close to a Gaussian of so many pixels. */
function blurred(plane: Float32Array, width: number, height: number, sigma: number): void {
  // Their variances add up: each has (4 r r + 4 r) / 12 of it.
  const reach = Math.round(sigma - 0.5);
  if (reach < 1) return;
  for (let n = 0; n < 3; n++) smoothed(plane, width, height, reach);
}

/** Mean over 2 * reach + 1 pixels across and down; borders are continued. */
function smoothed(plane: Float32Array, width: number, height: number, reach: number): void {
  const whole = 2 * reach + 1;
  const line = new Float32Array(width + 2 * reach + 1);
  for (let from = 0; from < plane.length; from += width) {
    line.fill(plane[from]!, 0, reach);
    line.set(plane.subarray(from, from + width), reach);
    line.fill(plane[from + width - 1]!, reach + width);
    let sum = 0;
    for (let i = 0; i < whole; i++) sum += line[i]!;
    for (let x = 0; x < width; x++) {
      plane[from + x] = sum / whole;
      sum += line[x + whole]! - line[x]!;
    }
  }
  // Rows are added up and taken off again as they lie in memory.
  const before = plane.slice();
  const sums = new Float64Array(width);
  const rowOf = (y: number): number => Math.min(height - 1, Math.max(0, y)) * width;
  for (let y = -reach; y <= reach; y++) for (let x = 0, at = rowOf(y); x < width; x++, at++) sums[x]! += before[at]!;
  for (let y = 0, i = 0; y < height; y++) {
    let [coming, going] = [rowOf(y + reach + 1), rowOf(y - reach)];
    for (let x = 0; x < width; x++, i++, coming++, going++) {
      plane[i] = sums[x]! / whole;
      sums[x]! += before[coming]! - before[going]!;
    }
  }
}

/**
 * Moves a matte's edge outwards and makes it so wide: a mean about each pixel falls evenly across an edge, so that it says
 * how far away the edge is.
 * @param grow pixels outwards, negative inwards
 * @param soft pixels that the edge is wide
 */
export function edged(mask: Float32Array, width: number, height: number, grow: number, soft: number): void {
  const reach = Math.ceil(Math.abs(grow) + soft / 2);
  if (reach < 1) return;
  // What is the same all about, nothing or all, stays so.
  const even = mask[0] === 0 || mask[0] === 1;
  const box = even ? boxOf(mask, width, height, mask[0]!, reach + 1) : { left: 0, top: 0, w: width, h: height };
  if (!box) return;
  const part = cut(mask, width, box);
  smoothed(part, box.w, box.h, reach);
  const wide = Math.max(1, soft);
  for (let i = 0; i < part.length; i++) {
    const share = 0.5 + ((part[i]! - 0.5) * (2 * reach + 1) + grow) / wide;
    part[i] = share < 0 ? 0 : share > 1 ? 1 : share;
  }
  pasted(mask, width, part, box);
}

/** Times larger from which on an edge is looked for in the frame itself. */
const REFINED = 1.5;

/**
 * A kept matte at a frame's size: between its pixels evenly, its edge about as wide as before in the frame's pixels, and
 * there where the frame has one.
 */
export function enlarged(
  of: { readonly width: number; readonly height: number; readonly values: Uint8Array },
  frame: Frame,
): Float32Array {
  const { width, height } = frame;
  const mask = new Float32Array(width * height);
  const [kx, ky] = [of.width / width, of.height / height];
  const steep = Math.max(1, 1 / Math.max(kx, ky));
  const line = new Int32Array(width);
  const share = new Float32Array(width);
  for (let x = 0; x < width; x++) {
    const at = Math.min(of.width - 1, Math.max(0, (x + 0.5) * kx - 0.5));
    line[x] = Math.min(of.width - 2, Math.floor(at));
    share[x] = at - line[x]!;
  }
  for (let y = 0, i = 0; y < height; y++) {
    const at = Math.min(of.height - 1, Math.max(0, (y + 0.5) * ky - 0.5));
    const top = Math.max(0, Math.min(of.height - 2, Math.floor(at)));
    const low = at - top;
    for (let x = 0; x < width; x++, i++) {
      const from = top * of.width + Math.max(0, line[x]!);
      const [a, b] = [of.values[from]!, of.values[from + 1]!];
      const [c, d] = [of.values[from + of.width] ?? a, of.values[from + of.width + 1] ?? b];
      const f = share[x]!;
      const value = ((a + (b - a) * f) * (1 - low) + (c + (d - c) * f) * low) / 255;
      mask[i] = Math.min(1, Math.max(0, 0.5 + steep * (value - 0.5)));
    }
  }
  if (steep >= REFINED) refined(mask, frame, Math.max(2, Math.round(steep / 2)));
  return mask;
}

/**
 * How far each stored pixel belongs to the subject, 0-1.
 * @param t source seconds of the frame
 */
export function matteOf(subject: Subject, frame: Frame, t: number, rotation: Rotation): Float32Array {
  const { width, height } = frame;
  const mask = subject.key ? keyed(frame, subject.key) : new Float32Array(width * height);
  const kept = subject.brushed && matteNear(subject.brushed.pieces, t);
  if (kept) {
    const brushed = enlarged(kept, frame);
    for (let i = 0; i < mask.length; i++) mask[i] = Math.max(mask[i]!, brushed[i]!);
  }
  for (const path of subject.paths) {
    const points = subjectPathAt(path, t).map((p) => {
      const [x, y] = stored(p, rotation);
      return { x: x * width * 100, y: y * height * 100, smooth: p.smooth };
    });
    const flat = outline(points);
    const shape = filled(
      Array.from({ length: flat.length / 2 }, (_, i) => [flat[2 * i]!, flat[2 * i + 1]!] as const),
      width,
      height,
    );
    if (path.does === 'adds') for (let i = 0; i < mask.length; i++) mask[i] = Math.max(mask[i]!, shape[i]!);
    else if (path.does === 'takes') for (let i = 0; i < mask.length; i++) mask[i] = Math.min(mask[i]!, 1 - shape[i]!);
    else for (let i = 0; i < mask.length; i++) mask[i] = Math.min(mask[i]!, shape[i]!);
  }
  const tall = rotation === 90 || rotation === 270 ? width : height;
  edged(mask, width, height, subject.grow * tall, subject.soft * tall);
  return mask;
}

/** A matte as a grey picture: shares are kept as light, as renderers read them. */
export function mattePicture(
  mask: Float32Array,
  { width, height }: Frame,
): Frame & { readonly data: Uint8Array<ArrayBuffer> } {
  const area = width * height;
  const data = new Uint8Array(area + 2 * ((width + 1) >> 1) * ((height + 1) >> 1)).fill(128, area);
  for (let i = 0; i < area; i++) data[i] = ENCODED[Math.round(mask[i]! * 1024)]!;
  return { width, height, data, colour: { matrix: 'bt709', fullRange: true } };
}
const ENCODED = Uint8Array.from({ length: 1025 }, (_, i) => Math.round(255 * fromLinear(i / 1024)));
