/**
 * Where in the picture a hit happens: the largest change between the frame before and the hit's own, the camera's
 * movement and the whole picture's brightness taken off. A muzzle flash, a spark, a blow that lands are such changes.
 */
import type { Point, Region } from '../../document/types.ts';
import type { Grey } from './grey.ts';

/** Longer side of the pictures that are compared, pixels. */
export const PROPOSE_SIDE = 160;
/** Pixels that the camera may have moved by. */
const REACH = 10;
/** Pixels about a place over which change is summed, and about the strongest over which its middle is found. */
const SPREAD = 5;
const AROUND = 14;
/** How far the strongest change must stand out over the mean one, and how many levels it must have. */
const STANDS_OUT = 3;
const LEVELS = 6;

/** Shift of one picture against the other, whole pixels, by the least sum of differences about each one's mean. */
function cameraShift(before: Grey, at: Grey, offset: number): readonly [number, number] {
  const { width, height } = at;
  let best = Infinity;
  let shift: readonly [number, number] = [0, 0];
  for (let dy = -REACH; dy <= REACH; dy++)
    for (let dx = -REACH; dx <= REACH; dx++) {
      let sum = 0;
      let n = 0;
      for (let y = Math.max(0, dy); y < Math.min(height, height + dy); y += 3)
        for (let x = Math.max(0, dx); x < Math.min(width, width + dx); x += 3, n++)
          // Large differences are what is sought: they do not decide how the camera moved.
          sum += Math.min(40, Math.abs(at.data[y * width + x]! - before.data[(y - dy) * width + x - dx]! - offset));
      // Of equal ones the least movement.
      const cost = sum / n + 0.02 * Math.hypot(dx, dy);
      if (cost < best) [best, shift] = [cost, [dx, dy]];
    }
  return shift;
}

const mean = (values: ArrayLike<number>): number => {
  let sum = 0;
  for (let i = 0; i < values.length; i++) sum += values[i]!;
  return sum / Math.max(1, values.length);
};

/** Sums over squares of `2 * SPREAD + 1`, clipped at the borders. */
function summed(data: Float32Array, width: number, height: number): Float32Array {
  const rows = new Float32Array(data.length);
  const out = new Float32Array(data.length);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let sum = 0;
      for (let i = Math.max(0, x - SPREAD); i <= Math.min(width - 1, x + SPREAD); i++) sum += data[y * width + i]!;
      rows[y * width + x] = sum;
    }
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let sum = 0;
      for (let j = Math.max(0, y - SPREAD); j <= Math.min(height - 1, y + SPREAD); j++) sum += rows[j * width + x]!;
      out[y * width + x] = sum / (2 * SPREAD + 1) ** 2;
    }
  return out;
}

/** What changed from one picture to the next beside the camera's movement and the light of all of it, 0-255, one a pixel. */
function changeOf(before: Grey, at: Grey): Float32Array {
  const { width, height } = at;
  // A median would do as well: the whole picture's brightness, which a flash raises.
  const offset = mean(at.data) - mean(before.data);
  const [dx, dy] = cameraShift(before, at, offset);
  const change = new Float32Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const [u, v] = [x - dx, y - dy];
      if (u < 0 || v < 0 || u >= width || v >= height) continue;
      const i = y * width + x;
      // A pixel that a neighbour explains moved by less than a pixel.
      let least = Infinity;
      for (let j = Math.max(0, v - 1); j <= Math.min(height - 1, v + 1); j++)
        for (let k = Math.max(0, u - 1); k <= Math.min(width - 1, u + 1); k++)
          least = Math.min(least, Math.abs(at.data[i]! - before.data[j * width + k]! - offset));
      change[i] = least;
    }
  return change;
}

/** A hit's focus from the frame before it and its own; null where nothing stands out, or all of it changed at once. */
export function proposeFocus(before: Grey, at: Grey): Point | null {
  const { width, height } = at;
  if (before.width !== width || before.height !== height) return null;
  const change = changeOf(before, at);
  const areas = summed(change, width, height);
  let top = 0;
  for (let i = 1; i < areas.length; i++) if (areas[i]! > areas[top]!) top = i;
  if (areas[top]! < LEVELS || areas[top]! < STANDS_OUT * mean(areas)) return null;
  const [cx, cy] = [top % width, Math.floor(top / width)];
  let [sum, sx, sy] = [0, 0, 0];
  for (let y = Math.max(0, cy - AROUND); y <= Math.min(height - 1, cy + AROUND); y++)
    for (let x = Math.max(0, cx - AROUND); x <= Math.min(width - 1, cx + AROUND); x++) {
      const weight = change[y * width + x]! ** 2;
      sum += weight;
      sx += weight * (x + 0.5);
      sy += weight * (y + 0.5);
    }
  return { x: sx / sum / width, y: sy / sum / height };
}

/** Share of the strongest change from which a place belongs to what moves, and of the picture that is more than a foreground. */
const BELONGS = 0.2;
const MOST_OF_IT = 0.5;

/**
 * The foreground that moves about a hit: the box of all places that change from frame to frame beside the camera's movement,
 * shares of the picture; null where none does, or most of the picture.
 * @param frames in order of time, at least two, of one size
 */
export function movingForeground(frames: readonly Grey[]): Region | null {
  const [{ width, height }] = frames as [Grey];
  const moving = new Float32Array(width * height);
  for (let i = 1; i < frames.length; i++) {
    const areas = summed(changeOf(frames[i - 1]!, frames[i]!), width, height);
    for (let k = 0; k < moving.length; k++) moving[k] = Math.max(moving[k]!, areas[k]!);
  }
  const most = moving.reduce((top, value) => Math.max(top, value), 0);
  if (most < LEVELS || most < STANDS_OUT * mean(moving)) return null;
  const least = Math.max(LEVELS / 2, BELONGS * most);
  let [left, top, right, bottom, count] = [width, height, -1, -1, 0];
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      if (moving[i]! < least) continue;
      count++;
      [left, right] = [Math.min(left, x), Math.max(right, x)];
      [top, bottom] = [Math.min(top, y), Math.max(bottom, y)];
    }
  if (count > MOST_OF_IT * width * height) return null;
  // Sums over squares reach beyond what changes.
  const [x, y] = [Math.min(right, left + SPREAD), Math.min(bottom, top + SPREAD)];
  const [w, h] = [Math.max(1, right - SPREAD - x + 1), Math.max(1, bottom - SPREAD - y + 1)];
  return { x: x / width, y: y / height, w: w / width, h: h / height };
}

/** The box of all of these; null where there is none. */
export function boxAround(boxes: readonly (Region | null)[]): Region | null {
  const all = boxes.flatMap((box) => box ?? []);
  if (!all.length) return null;
  const [x, y] = [Math.min(...all.map((box) => box.x)), Math.min(...all.map((box) => box.y))];
  const [right, bottom] = [Math.max(...all.map((box) => box.x + box.w)), Math.max(...all.map((box) => box.y + box.h))];
  return { x, y, w: right - x, h: bottom - y };
}
