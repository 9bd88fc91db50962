/**
 * Follows an outline through a picture: points all over what it holds are followed one by one, and the outline moves,
 * turns and grows with those that agree, in the least squares.
 */
import { applied, fitted, type Similarity } from '../base/similarity.ts';
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

  /**
   * How the outline has moved since its first frame, of places in picture heights, and which share of its points agrees, 0-1;
   * null: it is lost.
   */
  next(frame: Grey): (Similarity & { readonly sure: number }) | null {
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
      if (off(similarity, worst) <= OFF)
        return agreeing.length >= AGREE * this.count ? { ...similarity, sure: agreeing.length / this.count } : null;
      agreeing = agreeing.filter((one) => one !== worst);
      if (agreeing.length < Math.max(FEWEST, AGREE * this.count)) return null;
    }
  }
}
