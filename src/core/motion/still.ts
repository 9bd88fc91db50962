/**
 * What lies over a moving picture and stands still (a score, a feed, a crosshair): found pixel by pixel where nothing has
 * changed for several frames while most of the picture has, kept in its place, and never carried along with what moves.
 */
import { CELL, held, type Field, type Luma } from './field.ts';

/** Levels by which what stands still may differ from frame to frame: what a codec does to it. */
const SAME = 3;
/** Share of the picture from which on the camera itself stands still, and so says nothing of what lies over it. */
const MOST = 0.5;
/** Of nine pixels, how many must stand still for the middle one to: single ones are chance. */
const SUPPORT = 5;
/** Share of a cell's pixels from which on its vector is that of what lies over the picture. */
const TAKEN = 0.2;

/**
 * 1 where a pixel stands still through all of the frames, 0 elsewhere.
 * @param frames of one size, in their order, at least three: fewer would take chance for stillness
 * @returns null where nothing lies over a moving picture
 */
export function stillIn(frames: readonly Luma[]): Uint8Array | null {
  const [{ width, height, data }] = frames as [Luma];
  if (frames.length < 3 || frames.some((frame) => frame.width !== width || frame.height !== height)) return null;
  const same = new Uint8Array(width * height);
  let count = 0;
  for (let i = 0; i < same.length; i++) {
    let low = data[i]!;
    let high = low;
    for (let k = 1; k < frames.length; k++) {
      const v = frames[k]!.data[i]!;
      if (v < low) low = v;
      else if (v > high) high = v;
    }
    if (high - low <= SAME) {
      same[i] = 1;
      count++;
    }
  }
  if (count === 0 || count > MOST * same.length) return null;
  const near = (of: Uint8Array, i: number): number => {
    let sum = 0;
    for (let at = i - width; at <= i + width; at += width) sum += of[at - 1]! + of[at]! + of[at + 1]!;
    return sum;
  };
  const inner = (visit: (i: number) => void): void => {
    for (let y = 1; y < height - 1; y++)
      for (let i = y * width + 1; i < (y + 1) * width - 1; i++) if (same[i]) visit(i);
  };
  const core = new Uint8Array(same.length);
  inner((i) => (core[i] = near(same, i) >= SUPPORT ? 1 : 0));
  // Corners have few neighbours, but one of them has enough.
  const still = new Uint8Array(same.length);
  let any = false;
  inner((i) => {
    if (!near(core, i)) return;
    still[i] = 1;
    any = true;
  });
  return any ? still : null;
}

/** Pixels around one that stands still, to each side, whose mean it is taken for. */
const AROUND = 7;

/** The picture with what stands still filled in from around it, so that it hides no movement. */
export function filledIn({ width, height, data }: Luma, still: Uint8Array): Luma {
  const filled = data.slice();
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      if (!still[y * width + x]) continue;
      let sum = 0;
      let count = 0;
      for (let j = Math.max(0, y - AROUND); j <= Math.min(height - 1, y + AROUND); j++)
        for (let i = Math.max(0, x - AROUND); i <= Math.min(width - 1, x + AROUND); i++)
          if (!still[j * width + i]) {
            sum += data[j * width + i]!;
            count++;
          }
      if (count) filled[y * width + x] = sum / count;
    }
  return { width, height, data: filled };
}

/** Cells that hold what stands still move as what is around them: the nearest that hold nothing of it. */
export function moveAround(field: Field, still: Uint8Array, width: number): void {
  const { columns, rows, x, y } = field;
  const height = still.length / width;
  const taken = new Uint8Array(columns * rows);
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      let count = 0;
      const [right, bottom] = [Math.min(width, (column + 1) * CELL), Math.min(height, (row + 1) * CELL)];
      for (let j = row * CELL; j < bottom; j++)
        for (let i = column * CELL; i < right; i++) count += still[j * width + i]!;
      taken[row * columns + column] = count > TAKEN * CELL * CELL ? 1 : 0;
    }
  // From the rim inwards, cell by cell.
  for (let left = taken.reduce((sum, one) => sum + one, 0); left > 0;) {
    const ring: [cell: number, from: number][] = [];
    for (let cell = 0; cell < taken.length; cell++) {
      if (!taken[cell]) continue;
      const column = cell % columns;
      for (const [near, there] of [
        [cell - 1, column > 0],
        [cell + 1, column < columns - 1],
        [cell - columns, cell >= columns],
        [cell + columns, cell < taken.length - columns],
      ] as const)
        if (there && !taken[near]) {
          ring.push([cell, near]);
          break;
        }
    }
    if (!ring.length) return;
    for (const [cell, from] of ring) {
      x[cell] = x[from]!;
      y[cell] = y[from]!;
      taken[cell] = 0;
    }
    left -= ring.length;
  }
}

/** Half as large, 1 where any of four pixels is: for planes of colour. */
export function halfOf(still: Uint8Array, width: number): Uint8Array {
  const height = still.length / width;
  const [w, h] = [(width + 1) >> 1, (height + 1) >> 1];
  const half = new Uint8Array(w * h);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) if (still[y * width + x]) half[(y >> 1) * w + (x >> 1)] = 1;
  return half;
}

/**
 * Puts back into a made plane what stands still, and takes out of it what of that was carried along: there the frame that
 * shows the moving picture is taken alone, or both mixed where neither does.
 * @param plane bytes of the plane, and of the same plane of both frames; `still` has its size
 * @param middle vectors of the made frame, in pixels of luma; `cell` pixels of this plane a side of a cell
 */
export function keepStill(
  plane: Uint8Array,
  [one, other]: readonly [Uint8Array, Uint8Array],
  still: Uint8Array,
  width: number,
  middle: Field,
  cell: number,
  share: number,
): void {
  const height = still.length / width;
  const scale = cell / CELL;
  const stands = (x: number, y: number): boolean => still[y * width + x] === 1;
  for (let row = 0; row < middle.rows; row++)
    for (let column = 0; column < middle.columns; column++) {
      const at = row * middle.columns + column;
      const [vx, vy] = [middle.x[at]! * scale, middle.y[at]! * scale];
      const [ax, ay] = [Math.round(-share * vx), Math.round(-share * vy)];
      const [bx, by] = [Math.round((1 - share) * vx), Math.round((1 - share) * vy)];
      const [right, bottom] = [Math.min(width, (column + 1) * cell), Math.min(height, (row + 1) * cell)];
      for (let y = row * cell; y < bottom; y++)
        for (let x = column * cell; x < right; x++) {
          const i = y * width + x;
          const mixed = (1 - share) * one[i]! + share * other[i]!;
          if (stands(x, y)) {
            plane[i] = mixed + 0.5;
            continue;
          }
          const [fromX, fromY] = [held(x + ax, width), held(y + ay, height)];
          const [toX, toY] = [held(x + bx, width), held(y + by, height)];
          const [inOne, inOther] = [stands(fromX, fromY), stands(toX, toY)];
          if (inOne && inOther) plane[i] = mixed + 0.5;
          else if (inOne) plane[i] = other[toY * width + toX]!;
          else if (inOther) plane[i] = one[fromY * width + fromX]!;
        }
    }
}
