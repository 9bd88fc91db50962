/**
 * Region watch: when an icon or a text appears in a rectangle of the picture, or when anything changes
 * there. Compared by weighted normalised cross-correlation (J. P. Lewis, "Fast normalized
 * cross-correlation", 1995) of slopes of brightness, times the agreement of colour. Which pixels belong to the
 * icon is learnt from the frames around the example: they stand still while what is behind them moves.
 */

/** A rectangle of one frame at a fixed small size: brightness and two colour differences, 0-255, each `width * height`. */
export interface Patch {
  readonly width: number;
  readonly height: number;
  readonly y: Uint8Array;
  readonly u: Uint8Array;
  readonly v: Uint8Array;
}

/** Longest side of a patch, and fewest pixels of its shorter one. */
const LONGEST = 48;
const SHORTEST = 6;

/** Size at which a rectangle of the picture is compared. */
export function patchSize(width: number, height: number): { width: number; height: number } {
  const scale = Math.min(1, LONGEST / Math.max(width, height));
  return {
    width: Math.max(SHORTEST, Math.round(width * scale)),
    height: Math.max(SHORTEST, Math.round(height * scale)),
  };
}

/** The example with the weight 0-255 of each pixel. */
export interface Sought extends Patch {
  readonly weight: Uint8Array;
}

/** Brightness that pixels of the icon may vary by, and that those which came with it differ by from before. */
const STEADY = 14;
const CAME = 20;
/** Frames a pixel must stand still to count, and the share of pixels that must begin or end together. */
const STANDS = 4;
const TOGETHER = 0.04;

/**
 * First and past-the-last frame in which the icon shows: its pixels come and go together, while those
 * of what is behind it change here and there.
 */
function shownFrom(around: readonly Patch[], at: number): { from: number; to: number } {
  const pixels = around[at]!.y.length;
  const [starts, ends] = [new Uint32Array(around.length + 1), new Uint32Array(around.length + 1)];
  for (let i = 0; i < pixels; i++) {
    const steady = (f: number): boolean => Math.abs(around[f]!.y[i]! - around[at]!.y[i]!) <= STEADY;
    let from = at;
    let to = at + 1;
    while (from > 0 && steady(from - 1)) from--;
    while (to < around.length && steady(to)) to++;
    if (to - from < STANDS) continue;
    starts[from]!++;
    ends[to]!++;
  }
  // The outermost frames are where looking ended, not where anything did.
  const together = (counts: Uint32Array, except: number): number => {
    let best = -1;
    counts.forEach((count, f) => {
      if (f !== except && count >= pixels * TOGETHER && (best < 0 || count > counts[best]!)) best = f;
    });
    return best;
  };
  const [from, to] = [together(starts, 0), together(ends, around.length)];
  return { from: from < 0 ? 0 : from, to: to < 0 ? around.length : to };
}

/**
 * Learns which pixels are sought.
 * @param around patches of the frames around the example, in order
 * @param at the example's place among them
 */
export function learn(around: readonly Patch[], at: number): Sought {
  const example = around[at]!;
  const flat: Sought = { ...example, weight: new Uint8Array(example.y.length).fill(255) };
  const { from, to } = shownFrom(around, at);
  const inside = around.slice(from, to);
  const outside = [...around.slice(Math.max(0, from - 8), Math.max(0, from - 1)), ...around.slice(to + 1, to + 8)];
  if (inside.length < 3) return flat;
  const weight = flat.weight.map((_, i) => {
    let varies = 0;
    for (const patch of inside) varies += Math.abs(patch.y[i]! - example.y[i]!);
    const steady = Math.exp(-((varies / inside.length / STEADY) ** 2));
    let came = 1;
    if (outside.length) {
      let unlike = 0;
      for (const patch of outside)
        unlike +=
          Math.abs(patch.y[i]! - example.y[i]!) +
          Math.abs(patch.u[i]! - example.u[i]!) +
          Math.abs(patch.v[i]! - example.v[i]!);
      came = Math.max(0.08, Math.min(1, unlike / outside.length / CAME));
    }
    return Math.round(255 * steady * came);
  });
  // Too little left to recognise anything by: the whole rectangle counts.
  return weight.reduce((sum, w) => sum + w, 0) < 255 * 12 ? flat : { ...example, weight };
}

/**
 * 0-1: how much a patch looks like what is sought. Patches are of the same size. Slopes of brightness are
 * correlated, not brightness itself: what shines through from behind is mostly smooth.
 */
export function likeness(sought: Sought, patch: Patch): number {
  const { weight, width, height } = sought;
  let [sum, colour, level, ab, aa, bb] = [1e-9, 0, 0, 0, 0, 0];
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = y * width + x;
      const w = weight[i]!;
      sum += w;
      level += w * (sought.y[i]! - patch.y[i]!);
      colour += w * (Math.abs(sought.u[i]! - patch.u[i]!) + Math.abs(sought.v[i]! - patch.v[i]!));
      if (x === 0 || y === 0 || x === width - 1 || y === height - 1) continue;
      const [ax, ay] = [sought.y[i + 1]! - sought.y[i - 1]!, sought.y[i + width]! - sought.y[i - width]!];
      const [bx, by] = [patch.y[i + 1]! - patch.y[i - 1]!, patch.y[i + width]! - patch.y[i - width]!];
      ab += w * (ax * bx + ay * by);
      aa += w * (ax * ax + ay * ay);
      bb += w * (bx * bx + by * by);
    }
  }
  // A patch without structure looks like nothing; an example without, like its own brightness only.
  const flat = aa / sum < 4;
  const shape = flat ? Math.exp(-((level / sum / 20) ** 2)) : bb / sum < 1 ? 0 : Math.max(0, ab / Math.sqrt(aa * bb));
  return shape * Math.exp(-((colour / sum / 60) ** 2));
}

/** 0-1: how much changed from one patch to the next. */
export function changed(before: Patch, now: Patch): number {
  let sum = 0;
  for (let i = 0; i < now.y.length; i++) sum += Math.abs(now.y[i]! - before.y[i]!);
  return sum / now.y.length / 255;
}

/** Kept for a watched rectangle of a source: one value 0-255 a frame. */
export interface WatchSignal {
  readonly times: Float64Array;
  readonly scores: Uint8Array;
}

export interface Appearance {
  readonly t: number;
  readonly strength: number;
}

/** Frames that it must have been away before it appears again. */
const AWAY = 2;

/** Likeness 0.9, 0.72 and 0.45 at sensitivity 0, 0.5 and 1. */
export const appearThreshold = (sensitivity: number): number =>
  sensitivity <= 0.5 ? 0.9 - 0.36 * sensitivity : 0.72 - 0.54 * (sensitivity - 0.5);

/** Frames in which it appears: the score rises over the threshold, having fallen clearly below. */
export function appearances({ times, scores }: WatchSignal, sensitivity: number): Appearance[] {
  const threshold = 255 * appearThreshold(sensitivity);
  const found: Appearance[] = [];
  let away = AWAY;
  for (let i = 0; i < scores.length; i++) {
    if (scores[i]! >= threshold) {
      if (away >= AWAY) {
        let most = 0;
        for (let k = i; k < scores.length && scores[k]! >= threshold; k++) most = Math.max(most, scores[k]!);
        found.push({ t: times[i]!, strength: most / 255 });
      }
      away = 0;
    } else if (scores[i]! < threshold * 0.9) away++;
  }
  return found;
}

/** 0.2, 0.06 and 0.018 of full scale at sensitivity 0, 0.5 and 1. */
export const changeThreshold = (sensitivity: number): number => 0.2 * 0.09 ** sensitivity;

/** Seconds in which changes are one. */
const ONE_CHANGE = 0.2;

/** Frames at which anything changes, out of how much usually does. */
export function changes({ times, scores }: WatchSignal, sensitivity: number): Appearance[] {
  const threshold = 255 * changeThreshold(sensitivity);
  const found: Appearance[] = [];
  for (let i = 1; i < scores.length; i++) {
    if (scores[i]! < threshold) continue;
    let usual = 0;
    let n = 0;
    for (let k = i - 1; k >= 1 && times[i]! - times[k]! < 0.5; k--, n++) usual += scores[k]!;
    if (n && scores[i]! < threshold + (1.5 * usual) / n) continue;
    const last = found.at(-1);
    if (!last || times[i]! - last.t >= ONE_CHANGE)
      found.push({ t: times[i]!, strength: Math.min(1, scores[i]! / 128) });
  }
  return found;
}
