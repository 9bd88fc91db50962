/**
 * More like this: places that sound like an example, whatever else sounds at the same time. Other
 * sounds only add: where the example is present at some gain, nothing of what stands out in it may be
 * missing, and much of it is heard at just that gain. Common practice, no source.
 */
import { hopOf, BARK_BANDS, type SoundSignals } from '../signals/types.ts';

/** Seconds an example may last. */
export const SHORTEST_EXAMPLE = 0.05;
export const LONGEST_EXAMPLE = 2;

/** A stretch of kept bands: levels as in {@link SoundSignals.bands}, the rows before the attack first. */
export interface Example {
  /** Rows of {@link BARK_BANDS} values, 100 a second. */
  readonly rows: Uint8Array;
  /** Rows before the attack. */
  readonly lead: number;
}

/** Likeness that is enough unless the person sets another. */
export const LIKE_ENOUGH = 0.72;

const LEAD = 6;
/** Decibels under the loudest that still belong to the example, and over what was there before. */
const AUDIBLE = 32;
const RISEN = 6;
/** Most points that are compared. */
const POINTS = 120;
/** Decibels between levels that count as equal; below that, the point is missing. */
const EQUAL = 3.5;
const MISSING = 4;
/** Hops to each side of an attack that are tried. */
const SLACK = 5;
/** Weakest gain, decibels, that is looked for; from the second on, a decibel costs this much likeness, for anything is found in everything if it may be faint enough. */
const QUIETEST = -24;
const FAINT = -12;
const FAINT_COST = 0.015;

/**
 * Cuts an example out of kept signals. The attack is the strongest in the window; the example ends with it.
 * @throws RangeError when the window is not {@link SHORTEST_EXAMPLE} to {@link LONGEST_EXAMPLE} seconds or outside the sound
 */
export function exampleFrom(sound: SoundSignals, from: number, to: number): Example {
  if (!(to - from >= SHORTEST_EXAMPLE && to - from <= LONGEST_EXAMPLE))
    throw new RangeError(`An example lasts ${SHORTEST_EXAMPLE} to ${LONGEST_EXAMPLE} seconds.`);
  const [first, last] = [hopOf(sound, from), hopOf(sound, to)];
  if (first < 0 || last > sound.onset.length) throw new RangeError('The example lies outside the sound.');
  let attack = -1;
  sound.attackHops.forEach((hop, i) => {
    if (
      sound.attacks[i]! >= from - 0.01 &&
      sound.attacks[i]! < to &&
      (attack < 0 || sound.onset[hop]! > sound.onset[sound.attackHops[attack]!]!)
    )
      attack = i;
  });
  const at = attack < 0 ? first : hopOf(sound, sound.attacks[attack]!);
  const start = Math.max(0, at - LEAD);
  return { rows: sound.bands.slice(start * BARK_BANDS, Math.max(at + 4, last) * BARK_BANDS), lead: at - start };
}

interface Point {
  readonly row: number;
  readonly band: number;
  readonly level: number;
  readonly weight: number;
}

/** What stands out in the example over what was there before it. */
function pointsOf({ rows, lead }: Example): Point[] {
  const count = rows.length / BARK_BANDS;
  const before = new Float64Array(BARK_BANDS);
  // Up to the last 30 ms, which the window of the analysis already smears.
  for (let b = 0; b < BARK_BANDS; b++)
    for (let r = 0; r < Math.max(1, lead - 2); r++) before[b] = Math.max(before[b]!, rows[r * BARK_BANDS + b]!);
  let loudest = 0;
  for (let r = lead; r < count; r++)
    for (let b = 0; b < BARK_BANDS; b++) loudest = Math.max(loudest, rows[r * BARK_BANDS + b]!);
  const points: Point[] = [];
  for (let r = lead; r < count; r++) {
    for (let b = 0; b < BARK_BANDS; b++) {
      const level = rows[r * BARK_BANDS + b]!;
      const over = level - before[b]!;
      if (level < loudest - AUDIBLE || (lead > 2 && over < RISEN)) continue;
      points.push({
        row: r - lead,
        band: b,
        level,
        weight: (1 - (loudest - level) / (AUDIBLE + 8)) * Math.min(1, over / 15),
      });
    }
  }
  return points.sort((a, b) => b.weight - a.weight).slice(0, POINTS);
}

export interface Likeness {
  /** Source seconds of the attack. */
  readonly t: number;
  /** 0-1 */
  readonly likeness: number;
  /** Decibels louder than the example. */
  readonly gain: number;
}

/** Best likeness at one hop over all gains. */
function compare(
  points: readonly Point[],
  bands: Uint8Array,
  hop: number,
  hops: number,
  gaps: Float64Array,
  order: Uint16Array,
): { score: number; gain: number } {
  let total = 0;
  for (let p = 0; p < points.length; p++) {
    const { row, band, level, weight } = points[p]!;
    const h = hop + row;
    gaps[p] = h < hops ? bands[h * BARK_BANDS + band]! - level : -60;
    total += weight;
  }
  order.sort((a, b) => gaps[a]! - gaps[b]!);
  // The gain moves up through the sorted gaps; what lies under it by more than a little is missing.
  let best = { score: -1, gain: 0 };
  let [low, high] = [0, 0];
  let equal = 0;
  let missing = 0;
  for (let k = 0; k < order.length; k++) {
    const gain = gaps[order[k]!]! + EQUAL;
    while (high < order.length && gaps[order[high]!]! <= gain + EQUAL) equal += points[order[high++]!]!.weight;
    while (low < order.length && gaps[order[low]!]! < gain - MISSING) {
      equal -= points[order[low]!]!.weight;
      missing += points[order[low++]!]!.weight;
    }
    if (gain < QUIETEST) continue;
    const score = (equal - 1.5 * missing) / total - Math.max(0, FAINT - gain) * FAINT_COST;
    if (score > best.score) best = { score, gain };
  }
  return best;
}

/** All places that sound like the example with at least `least` likeness, the best first within each moment. */
export function findLike(sound: SoundSignals, example: Example, least: number): Likeness[] {
  const points = pointsOf(example);
  if (points.length < 8) return [];
  const gaps = new Float64Array(points.length);
  const order = Uint16Array.from(points, (_, i) => i);
  const seconds = Math.max(0.08, (example.rows.length / BARK_BANDS - example.lead) / sound.rate / 2);
  const found: Likeness[] = [];
  sound.attacks.forEach((t) => {
    const middle = hopOf(sound, t);
    let best = { score: -1, gain: 0, off: 0 };
    for (let k = -SLACK; k <= SLACK; k++) {
      if (middle + k < 0) continue;
      const now = compare(points, sound.bands, middle + k, sound.onset.length, gaps, order);
      if (now.score > best.score) best = { ...now, off: k };
    }
    if (best.score < least) return;
    const last = found.at(-1);
    // Under other sounds the attack nearby may be another's.
    const own = Math.abs(best.off) <= 1 ? t : sound.start + (middle + best.off) / sound.rate;
    const one = { t: own, likeness: Math.max(0, Math.min(1, best.score)), gain: best.gain };
    if (last && own - last.t < seconds) {
      if (one.likeness > last.likeness) found[found.length - 1] = one;
    } else found.push(one);
  });
  return found;
}
