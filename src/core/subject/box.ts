/** Parts of planes: what lies in them is worked on alone, and laid back. */

/** A part of a picture, pixels. */
export interface Box {
  readonly left: number;
  readonly top: number;
  readonly w: number;
  readonly h: number;
}

/** The part of a plane that holds all that is not of a value, and a margin about it, within the plane; null: there is none. */
export function boxOf(
  plane: ArrayLike<number>,
  width: number,
  height: number,
  value: number,
  margin: number,
): Box | null {
  let [left, right, top, bottom] = [width, -1, height, -1];
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      if (plane[i] === value) continue;
      if (x < left) left = x;
      if (x > right) right = x;
      if (y < top) top = y;
      bottom = y;
    }
  if (right < 0) return null;
  [left, top] = [Math.max(0, left - margin), Math.max(0, top - margin)];
  return { left, top, w: Math.min(width, right + margin + 1) - left, h: Math.min(height, bottom + margin + 1) - top };
}

export function cut(plane: Float32Array, width: number, { left, top, w, h }: Box): Float32Array {
  const out = new Float32Array(w * h);
  for (let y = 0; y < h; y++) out.set(plane.subarray((top + y) * width + left, (top + y) * width + left + w), y * w);
  return out;
}

/** Lays a part back into its plane. */
export function pasted(plane: Float32Array, width: number, part: Float32Array, { left, top, w, h }: Box): void {
  for (let y = 0; y < h; y++) plane.set(part.subarray(y * w, (y + 1) * w), (top + y) * width + left);
}
