/** How a picture lies in an output of another shape: whole with bars, or cut around a point that moves from hit to hit. */
import type { Clip, Hit, Point, Region } from '../document/types.ts';
import { lowerBound } from '../base/search.ts';
import { sameShape } from '../base/shape.ts';

export interface Framed {
  readonly fit: Clip['fit'];
  /** What stands in the middle where the picture is cut, shares of it; its own middle if absent. */
  readonly centre?: Point | undefined;
}

const MIDDLE: Point = { x: 0.5, y: 0.5 };

/**
 * The part of a picture that fills the output: its middle, and its size in shares of the picture (above 1 where bars
 * stand beside it).
 * @param aspect the upright picture's width / height
 * @param out the output's
 */
export function windowOf(
  { fit, centre = MIDDLE }: Framed,
  aspect: number,
  out: number,
): { readonly centre: Point; readonly width: number; readonly height: number } {
  const bars = fit === 'fit' && !sameShape(aspect, out);
  const wide = aspect > out;
  const [width, height] = bars === wide ? [1, aspect / out] : [out / aspect, 1];
  const within = (at: number, size: number): number =>
    size >= 1 ? 0.5 : Math.min(1 - size / 2, Math.max(size / 2, at));
  return { centre: { x: within(centre.x, width), y: within(centre.y, height) }, width, height };
}

/** A place of the picture in shares of the output; outside of 0 to 1 where it is cut away. */
export function inOutput({ x, y }: Point, framed: Framed, aspect: number, out: number): Point {
  const { centre, width, height } = windowOf(framed, aspect, out);
  return { x: (x - centre.x) / width + 0.5, y: (y - centre.y) / height + 0.5 };
}

/** A place of the output in shares of the picture; outside of 0 to 1 on the bars. */
export function inPicture({ x, y }: Point, framed: Framed, aspect: number, out: number): Point {
  const { centre, width, height } = windowOf(framed, aspect, out);
  return { x: (x - 0.5) * width + centre.x, y: (y - 0.5) * height + centre.y };
}

/** Where a hit's focus is at a source time, seconds; null where it has none. */
export function focusAt({ focus, track }: Pick<Hit, 'focus' | 'track'>, t: number): Point | null {
  if (!focus || !track?.length) return focus ?? null;
  const after = lowerBound(track, t, (point) => point.t);
  const [a, b] = [track[Math.max(0, after - 1)]!, track[Math.min(after, track.length - 1)]!];
  const share = b.t > a.t ? Math.min(1, Math.max(0, (t - a.t) / (b.t - a.t))) : 0;
  return { x: a.x + (b.x - a.x) * share, y: a.y + (b.y - a.y) * share };
}

/**
 * What is to stand in the middle so that a part of the picture is seen beside a focus, which stays seen; where there is no
 * room for all of the part, as much of it as there is on the side that the focus is on.
 * @param size of the part of the picture that is shown, shares of it
 */
export function keptIn(focus: Point, around: Region, size: { readonly width: number; readonly height: number }): Point {
  const along = (at: number, from: number, length: number, shown: number): number => {
    const half = shown / 2;
    // The focus stays a tenth of what is shown away from its edges.
    const near = 0.8 * half;
    const [least, most] = [from + length - half, from + half];
    const wanted = least <= most ? Math.min(most, Math.max(least, at)) : Math.min(least, Math.max(most, at));
    return Math.min(at + near, Math.max(at - near, wanted));
  };
  return {
    x: along(focus.x, around.x, around.w, size.width),
    y: along(focus.y, around.y, around.h, size.height),
  };
}

/** What is to stand in the middle at a moment, seconds. */
export interface FramingKey extends Point {
  readonly at: number;
}

/** Seconds over which framing passes from one focus to the next where there is time. */
const EASED = 1.2;
/** A smoothstep is at most this much faster than its mean. */
const STEEPEST = 1.5;
const ROUNDS = 60;

/**
 * A smooth way through the keys that never moves faster than `speed` shares of the picture a second on either axis:
 * keys that are too near in time for their distance give way to one another, as little as they must in turn.
 */
export function framingPath(keys: readonly FramingKey[], speed: number): (seconds: number) => Point {
  if (!keys.length) return () => MIDDLE;
  const sorted = [...keys].sort((a, b) => a.at - b.at);
  const times = sorted.map(({ at }) => at);
  const axis = (values: number[]): number[] => {
    const reach = times.slice(1).map((at, i) => ((at - times[i]!) * speed) / STEEPEST);
    for (let round = 0; round < ROUNDS; round++) {
      let moved = false;
      reach.forEach((most, i) => {
        const over = Math.abs(values[i + 1]! - values[i]!) - most;
        if (over <= 1e-6) return;
        const by = (Math.sign(values[i + 1]! - values[i]!) * over) / 2;
        values[i]! += by;
        values[i + 1]! -= by;
        moved = true;
      });
      if (!moved) break;
    }
    // What is left over after the last round is held from the first key on.
    reach.forEach((most, i) => {
      const way = values[i + 1]! - values[i]!;
      values[i + 1] = values[i]! + Math.sign(way) * Math.min(Math.abs(way), most);
    });
    return values;
  };
  const [xs, ys] = [axis(sorted.map(({ x }) => x)), axis(sorted.map(({ y }) => y))];
  return (seconds) => {
    const after = lowerBound(times, seconds, (at) => at);
    if (after === 0) return { x: xs[0]!, y: ys[0]! };
    if (after === times.length) return { x: xs.at(-1)!, y: ys.at(-1)! };
    const [from, to] = [times[after - 1]!, times[after]!];
    const way = Math.max(Math.abs(xs[after]! - xs[after - 1]!), Math.abs(ys[after]! - ys[after - 1]!));
    const length = Math.min(to - from, Math.max(EASED, (way * STEEPEST) / speed));
    const t = Math.min(1, Math.max(0, (seconds - (from + to - length) / 2) / length));
    const share = t * t * (3 - 2 * t);
    return {
      x: xs[after - 1]! + (xs[after]! - xs[after - 1]!) * share,
      y: ys[after - 1]! + (ys[after]! - ys[after - 1]!) * share,
    };
  };
}
