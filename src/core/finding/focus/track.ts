/**
 * Follows a point of the picture from frame to frame: the patch around it is sought where it is expected, by
 * normalised cross-correlation (J. P. Lewis, "Fast normalized cross-correlation", 1995), which changes of light leave
 * alone. The first patch is kept as long as it is recognised, so that the point does not drift.
 */
import type { Point } from '../../document/types.ts';
import type { Grey } from './grey.ts';

/** Longer side of the pictures it works on, pixels; half the patch's side; how far a point may move in a frame. */
export const TRACK_SIDE = 480;
const HALF = 10;
const SIDE = 2 * HALF + 1;
const REACH = 16;
/** Likeness from which the first patch is recognised, and below which the point is lost. */
const KNOWN = 0.85;
const LOST = 0.6;

interface Patch {
  /** Brightness about its mean. */
  readonly values: Float32Array;
  readonly norm: number;
}

/** The patch about a point in pixels, between pixels by straight interpolation; borders are continued. */
function patchAt({ data, width, height }: Grey, cx: number, cy: number): Patch {
  const values = new Float32Array(SIDE * SIDE);
  const [x0, y0] = [Math.floor(cx), Math.floor(cy)];
  const [fx, fy] = [cx - x0, cy - y0];
  const px = (x: number): number => Math.min(width - 1, Math.max(0, x));
  const py = (y: number): number => Math.min(height - 1, Math.max(0, y)) * width;
  let sum = 0;
  for (let j = -HALF, i = 0; j <= HALF; j++) {
    const [up, down] = [py(y0 + j), py(y0 + j + 1)];
    for (let k = -HALF; k <= HALF; k++, i++) {
      const [left, right] = [px(x0 + k), px(x0 + k + 1)];
      const value =
        (data[up + left]! * (1 - fx) + data[up + right]! * fx) * (1 - fy) +
        (data[down + left]! * (1 - fx) + data[down + right]! * fx) * fy;
      values[i] = value;
      sum += value;
    }
  }
  const mean = sum / values.length;
  let norm = 0;
  for (let i = 0; i < values.length; i++) {
    values[i]! -= mean;
    norm += values[i]! ** 2;
  }
  return { values, norm: Math.sqrt(norm) };
}

/** -1 to 1; 0 where either is flat. */
function likeness(a: Patch, b: Patch): number {
  if (a.norm < 8 || b.norm < 8) return 0;
  let sum = 0;
  for (let i = 0; i < a.values.length; i++) sum += a.values[i]! * b.values[i]!;
  return sum / (a.norm * b.norm);
}

/** Where a patch lies best about a place, in pixels, and how well. */
function seekPatch(patch: Patch, grey: Grey, cx: number, cy: number): { x: number; y: number; like: number } {
  let best = { x: cx, y: cy, like: -1 };
  const at = (x: number, y: number): number => likeness(patch, patchAt(grey, x, y));
  const around = (reach: number, step: number): void => {
    const { x: mx, y: my } = best.like < 0 ? { x: cx, y: cy } : best;
    for (let dy = -reach; dy <= reach; dy += step)
      for (let dx = -reach; dx <= reach; dx += step) {
        // Of equals the nearer one.
        const like = at(mx + dx, my + dy) - 1e-4 * Math.hypot(mx + dx - cx, my + dy - cy);
        if (like > best.like) best = { x: mx + dx, y: my + dy, like };
      }
  };
  around(REACH, 2);
  around(1, 1);
  // Between pixels: the top of a parabola through the neighbours.
  const [l, r] = [at(best.x - 1, best.y), at(best.x + 1, best.y)];
  const [u, d] = [at(best.x, best.y - 1), at(best.x, best.y + 1)];
  const top = (before: number, after: number): number => {
    const bend = before - 2 * best.like + after;
    return bend < -1e-6 ? Math.min(0.5, Math.max(-0.5, (before - after) / (2 * bend))) : 0;
  };
  return { x: best.x + top(l, r), y: best.y + top(u, d), like: best.like };
}

export interface Tracked extends Point {
  /** How well the patch was recognised, 0-1. */
  readonly like: number;
}

/** Follows one point through frames that are given to it in turn, the first being the one it was set on. */
export class PointTracker {
  private readonly first: Patch;
  private latest: Patch;
  private x: number;
  private y: number;
  private vx = 0;
  private vy = 0;

  constructor(
    private readonly from: Grey,
    point: Point,
  ) {
    this.x = point.x * from.width - 0.5;
    this.y = point.y * from.height - 0.5;
    this.first = this.latest = patchAt(from, this.x, this.y);
  }

  /** Where the point is in the next frame; null where it was lost, and nothing more is known of it. */
  next(grey: Grey): Tracked | null {
    if (grey.width !== this.from.width || grey.height !== this.from.height) return null;
    let found = seekPatch(this.first, grey, this.x + this.vx, this.y + this.vy);
    if (found.like < KNOWN) {
      const other = seekPatch(this.latest, grey, this.x + this.vx, this.y + this.vy);
      // What turns or grows is no longer like the first patch, but like the last.
      if (other.like > found.like) {
        found = other;
        this.latest = patchAt(grey, found.x, found.y);
      }
    } else this.latest = patchAt(grey, found.x, found.y);
    const inside = found.x > -1 && found.y > -1 && found.x < grey.width && found.y < grey.height;
    if (found.like < LOST || !inside) return null;
    [this.vx, this.vy] = [found.x - this.x, found.y - this.y];
    [this.x, this.y] = [found.x, found.y];
    const share = (value: number): number => Math.min(1, Math.max(0, value));
    return {
      x: share((found.x + 0.5) / grey.width),
      y: share((found.y + 0.5) / grey.height),
      like: Math.min(1, found.like),
    };
  }
}
