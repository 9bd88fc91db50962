/**
 * What an attack sounds like, as far as it stands out of what sounded before it, and how alike two attacks are. Games
 * play the same samples again, so that two attacks of one thing differ by a gain alone wherever nothing else covers
 * them. Likeness is symmetric. Common practice, no source; the figures were chosen on recordings kept apart.
 */
import { BARK_BANDS, type SoundSignals } from '../signals/types.ts';

/** Hops before the attack's and in all that a print holds: 0.19 s. */
const BEFORE = 1;
const ROWS = 19;
const POINTS = ROWS * BARK_BANDS;
/** Hops before the attack whose loudest is the bed: what sounded before, and goes on. */
const BED_FROM = 10;
const BED_TO = 3;
/** Decibels over its bed from which a point stands out, and under the loudest point down to which it counts. */
const STANDS = 5;
const AUDIBLE = 34;
/** Decibels over the other's bed from which a point must be heard there too. */
const OVER_BED = 3;
/** Decibels by which levels differ that are alike by 1/e. */
const EQUAL = 4;
/** Points that must be common to say anything. */
const LEAST_COMMON = 8;
/** Decibels from the first guess of a gain within which points say what it is. */
const GAIN_SPREAD = 8;

/** An attack's sound: rows of {@link BARK_BANDS} levels in decibels, as in {@link SoundSignals.bands}. */
export interface Print {
  readonly levels: Uint8Array;
  /** 1 where a point stands out. */
  readonly stands: Uint8Array;
  /** One level a band. */
  readonly bed: Uint8Array;
  /** Points that stand out: how clear the print is. */
  readonly clear: number;
}

/** The print of the attack at a hop; what lies outside the sound is silent. */
export function printOf({ bands }: Pick<SoundSignals, 'bands'>, hop: number): Print {
  const levels = new Uint8Array(POINTS);
  const bed = new Uint8Array(BARK_BANDS);
  const last = bands.length / BARK_BANDS;
  for (let h = Math.max(0, hop - BED_FROM); h <= hop - BED_TO && h < last; h++)
    for (let b = 0; b < BARK_BANDS; b++) bed[b] = Math.max(bed[b]!, bands[h * BARK_BANDS + b]!);
  let top = 0;
  for (let r = 0; r < ROWS; r++) {
    const h = hop - BEFORE + r;
    if (h < 0 || h >= last) continue;
    for (let b = 0; b < BARK_BANDS; b++) {
      const level = bands[h * BARK_BANDS + b]!;
      levels[r * BARK_BANDS + b] = level;
      if (level > top) top = level;
    }
  }
  const stands = new Uint8Array(POINTS);
  let clear = 0;
  for (let p = 0; p < POINTS; p++) {
    if (levels[p]! < bed[p % BARK_BANDS]! + STANDS || levels[p]! < top - AUDIBLE) continue;
    stands[p] = 1;
    clear++;
  }
  return { levels, stands, bed, clear };
}

/** exp(-(d / EQUAL)^2) in quarters of a decibel. */
const ALIKE = Float64Array.from({ length: 1024 }, (_, q) => Math.exp(-((q / 4 / EQUAL) ** 2)));

/** Differences and what they are compared by, of one pair at a time. */
const differences = new Float64Array(POINTS);

/** Likeness with `b` dated `shift` hops later than `a`: 0-1. */
function shifted(a: Print, b: Print, shift: number): number {
  const from = Math.max(0, -shift) * BARK_BANDS;
  const to = POINTS - Math.max(0, shift) * BARK_BANDS;
  const by = shift * BARK_BANDS;
  const [la, lb, sa, sb] = [a.levels, b.levels, a.stands, b.stands];
  // Where both stand out: the gain between them, once more without what lies far off it.
  let sum = 0;
  let n = 0;
  for (let p = from; p < to; p++)
    if ((sa[p]! & sb[p + by]!) !== 0) {
      const d = la[p]! - lb[p + by]!;
      differences[n++] = d;
      sum += d;
    }
  if (n < LEAST_COMMON) return 0;
  const guess = sum / n;
  let near = 0;
  let m = 0;
  for (let k = 0; k < n; k++) {
    const d = differences[k]!;
    if (d - guess <= GAIN_SPREAD && guess - d <= GAIN_SPREAD) {
      near += d;
      m++;
    }
  }
  const gain = m ? near / m : guess;
  let alike = 0;
  let compared = 0;
  for (let p = from, band = 0; p < to; p++, band = band === BARK_BANDS - 1 ? 0 : band + 1) {
    const [standsA, standsB] = [sa[p]!, sb[p + by]!];
    if ((standsA | standsB) === 0) continue;
    const d = la[p]! - lb[p + by]! - gain;
    // Either must be heard in the other where it would stand over what sounds there anyway.
    if (
      (standsA !== 0 && la[p]! - gain >= b.bed[band]! + OVER_BED) ||
      (standsB !== 0 && lb[p + by]! + gain >= a.bed[band]! + OVER_BED)
    ) {
      alike += ALIKE[Math.min(1023, Math.round(4 * (d < 0 ? -d : d)))]!;
      compared++;
    }
  }
  return compared < LEAST_COMMON ? 0 : alike / compared;
}

/** How alike two attacks sound, 0-1: the same of (a, b) and (b, a). */
export function likeness(a: Print, b: Print): number {
  const [here, earlier, later] = [shifted(a, b, 0), shifted(a, b, -1), shifted(a, b, 1)];
  const most = Math.max(here, earlier, later);
  // Two hops apart only where one hop apart is better than none.
  if (most === here) return most;
  if (earlier === later) return Math.max(most, shifted(a, b, -2), shifted(a, b, 2));
  return Math.max(most, shifted(a, b, earlier > later ? -2 : 2));
}

/** Words of 32 bits of a coarse name of a print. */
export const CODE_WORDS = 4;

/**
 * Coarse names that alike prints nearly share: signs of 128 projections (M. Charikar, "Similarity estimation
 * techniques from rounding algorithms", STOC 2002), of what stands out against its mean.
 * @param random -1 to 1 for a number, always the same
 */
export function codesOf(prints: readonly Print[], random: (n: number) => number): Uint32Array {
  // Only the first rows, which any weapon has: what comes after them is more often another sound's.
  const rows = 8;
  const size = rows * BARK_BANDS;
  const planes = Float32Array.from({ length: 32 * CODE_WORDS * size }, (_, i) => random(i));
  const codes = new Uint32Array(prints.length * CODE_WORDS);
  const vector = new Float32Array(size);
  prints.forEach((print, k) => {
    let [sum, n] = [0, 0];
    vector.fill(0);
    for (let p = 0; p < size; p++)
      if (print.stands[p]) {
        sum += print.levels[p]!;
        n++;
      }
    const mean = n ? sum / n : 0;
    for (let p = 0; p < size; p++) if (print.stands[p]) vector[p] = print.levels[p]! - mean + 20;
    for (let bit = 0; bit < 32 * CODE_WORDS; bit++) {
      let dot = 0;
      for (let p = 0, at = bit * size; p < size; p++, at++) dot += vector[p]! * planes[at]!;
      if (dot > 0) codes[k * CODE_WORDS + (bit >> 5)]! |= 1 << (bit & 31);
    }
  });
  return codes;
}
