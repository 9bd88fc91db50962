/**
 * Follows an outline through a picture: points all over what it holds are followed one by one, and the outline moves,
 * turns and grows with those that agree (least squares of a similarity; S. Umeyama, "Least-squares estimation of
 * transformation parameters between two point patterns", IEEE Trans. PAMI 13 (4), 1991).
 */
import type { Point } from '../document/types.ts';
import type { Grey } from '../finding/focus/grey.ts';
import { PointTracker } from '../finding/focus/track.ts';

/** Points a side of the grid over the outline's box that are tried. */
const GRID = 6;
/** Fewest points that must agree, and the share of those there were. */
const FEWEST = 3;
const AGREE = 0.4;
/** Off by so many shares of the picture's height, a point does not agree. */
const OFF = 0.008;

export interface Similarity {
  /** Scale times cosine and sine of the turn. */
  readonly c: number;
  readonly s: number;
  readonly x: number;
  readonly y: number;
}

export const applied = ({ c, s, x, y }: Similarity, p: Point): Point => ({
  x: c * p.x - s * p.y + x,
  y: s * p.x + c * p.y + y,
});

/** The similarity that brings points nearest to others, in the least squares. */
export function fitted(from: readonly Point[], to: readonly Point[]): Similarity {
  const mean = (list: readonly Point[]): Point => ({
    x: list.reduce((sum, p) => sum + p.x, 0) / list.length,
    y: list.reduce((sum, p) => sum + p.y, 0) / list.length,
  });
  const [a, b] = [mean(from), mean(to)];
  let [dot, cross, norm] = [0, 0, 0];
  from.forEach((p, i) => {
    const [px, py, qx, qy] = [p.x - a.x, p.y - a.y, to[i]!.x - b.x, to[i]!.y - b.y];
    dot += px * qx + py * qy;
    cross += px * qy - py * qx;
    norm += px * px + py * py;
  });
  const [c, s] = norm > 1e-12 ? [dot / norm, cross / norm] : [1, 0];
  return { c, s, x: b.x - c * a.x + s * a.y, y: b.y - s * a.x - c * a.y };
}

const inside = (points: readonly Point[], { x, y }: Point): boolean => {
  let odd = false;
  points.forEach((a, i) => {
    const b = points[(i + 1) % points.length]!;
    if (a.y <= y !== b.y <= y && x < a.x + ((y - a.y) / (b.y - a.y)) * (b.x - a.x)) odd = !odd;
  });
  return odd;
};

/** One outline, frame after frame in one direction. */
export class OutlineTracker {
  private trackers: { readonly from: Point; readonly tracker: PointTracker }[];
  private readonly count: number;

  /** @param outline shares of the upright picture */
  constructor(start: Grey, outline: readonly Point[]) {
    const [xs, ys] = [outline.map(({ x }) => x), outline.map(({ y }) => y)];
    const [left, right, top, bottom] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
    this.trackers = Array.from({ length: GRID * GRID }, (_, i) => ({
      x: left + ((right - left) * ((i % GRID) + 0.5)) / GRID,
      y: top + ((bottom - top) * (Math.floor(i / GRID) + 0.5)) / GRID,
    }))
      .filter((p) => inside(outline, p))
      .map((from) => ({ from, tracker: new PointTracker(start, from) }));
    this.count = this.trackers.length;
    this.aspect = start.width / start.height;
  }

  private readonly aspect: number;

  /** How the outline has moved since its first frame, of places in picture heights; null: it is lost. */
  next(frame: Grey): Similarity | null {
    const found = this.trackers.flatMap(({ from, tracker }) => {
      const to = tracker.next(frame);
      return to ? [{ from, tracker, to: { x: to.x * this.aspect, y: to.y } }] : [];
    });
    this.trackers = found.map(({ from, tracker }) => ({ from, tracker }));
    let agreeing = found.map(({ from, to }) => ({ from: { x: from.x * this.aspect, y: from.y }, to }));
    if (agreeing.length < FEWEST) return null;
    const fit = (): Similarity =>
      fitted(
        agreeing.map(({ from }) => from),
        agreeing.map(({ to }) => to),
      );
    const off = (similarity: Similarity, { from, to }: (typeof agreeing)[number]): number => {
      const p = applied(similarity, from);
      return Math.hypot(p.x - to.x, p.y - to.y);
    };
    // The worst goes until all agree.
    for (;;) {
      const similarity = fit();
      const worst = agreeing.reduce((a, b) => (off(similarity, a) >= off(similarity, b) ? a : b));
      if (off(similarity, worst) <= OFF) return agreeing.length >= AGREE * this.count ? similarity : null;
      agreeing = agreeing.filter((one) => one !== worst);
      if (agreeing.length < Math.max(FEWEST, AGREE * this.count)) return null;
    }
  }
}
