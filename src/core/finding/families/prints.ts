/**
 * What an attack sounds like, as far as it stands out of what sounded before it, and how alike two attacks are. Games
 * play the same samples again, so that two attacks of one thing differ by a gain alone wherever nothing else covers
 * them. Likeness is symmetric. Common practice, no source; the figures were chosen on recordings kept apart.
 */
import { Arena } from '../../base/simd/kernels.ts';
import { BARK_BANDS, POWER, type SoundSignals } from '../signals/types.ts';

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
/** Hops that attacks may be dated apart. */
const MOST_SHIFT = 2;
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
  /** What stands out at its loudest, decibels below full scale. */
  readonly loud: number;
}

/** The print of the attack at a hop; what lies outside the sound is silent. */
export function printOf({ bands }: Pick<SoundSignals, 'bands'>, hop: number): Print {
  const levels = new Uint8Array(POINTS);
  const bed = new Uint8Array(BARK_BANDS);
  const last = bands.length / BARK_BANDS;
  for (let h = Math.max(0, hop - BED_FROM); h <= hop - BED_TO && h < last; h++)
    for (let b = 0; b < BARK_BANDS; b++) bed[b] = Math.max(bed[b]!, bands[h * BARK_BANDS + b]!);
  for (let r = 0; r < ROWS; r++) {
    const h = hop - BEFORE + r;
    if (h < 0 || h >= last) continue;
    levels.set(bands.subarray(h * BARK_BANDS, (h + 1) * BARK_BANDS), r * BARK_BANDS);
  }
  return standing(levels, bed);
}

/** Which points of these levels stand out, and how loud they are. */
function standing(levels: Uint8Array, bed: Uint8Array): Print {
  const top = levels.reduce((most, level) => Math.max(most, level), 0);
  const stands = new Uint8Array(POINTS);
  let clear = 0;
  let loudest = 0;
  for (let r = 0; r < ROWS; r++) {
    let power = 0;
    for (let b = 0; b < BARK_BANDS; b++) {
      const p = r * BARK_BANDS + b;
      if (levels[p]! < bed[b]! + STANDS || levels[p]! < top - AUDIBLE) continue;
      stands[p] = 1;
      clear++;
      power += POWER[levels[p]!]!;
    }
    loudest = Math.max(loudest, power);
  }
  return { levels, stands, bed, clear, loud: Math.round(100 * Math.log10(loudest + 1e-12)) / 10 };
}

/** Bytes of a print outside of memory: its levels, then its bed. */
export const PACKED_PRINT = POINTS + BARK_BANDS;

export function packedPrint({ levels, bed }: Print): Uint8Array {
  const packed = new Uint8Array(PACKED_PRINT);
  packed.set(levels);
  packed.set(bed, POINTS);
  return packed;
}

/** Null where the bytes are none of a print. */
export const unpackedPrint = (packed: Uint8Array): Print | null =>
  packed.length === PACKED_PRINT ? standing(packed.slice(0, POINTS), packed.slice(POINTS)) : null;

/** Share of the examples in which a point must stand out to be of what they share, and percentile of its levels. */
const SHARED = 0.4;
const TYPICAL = 0.35;

/** What stands out in most of these, each at the first one's loudness: what other sounds add to single ones is gone. */
export function commonPrint(examples: readonly Print[]): Print {
  const [first] = examples;
  if (!first || examples.length < 3) return first ?? standing(new Uint8Array(POINTS), new Uint8Array(BARK_BANDS));
  const levels = new Uint8Array(POINTS);
  const bed = new Uint8Array(BARK_BANDS);
  const typical = (at: (print: Print) => number): number => {
    const values = examples.map((print) => at(print) + Math.round(first.loud - print.loud)).sort((a, b) => a - b);
    return Math.max(0, Math.min(255, values[Math.floor(TYPICAL * (values.length - 1))]!));
  };
  for (let p = 0; p < POINTS; p++)
    if (examples.filter(({ stands }) => stands[p]).length >= SHARED * examples.length)
      levels[p] = typical((print) => print.levels[p]!);
  for (let b = 0; b < BARK_BANDS; b++) bed[b] = typical((print) => print.bed[b]!);
  return standing(levels, bed);
}

/** Bytes of a print in memory: its levels, whether they stand out, the bed under each; lanes are read in sixteens. */
const STANDS_AT = 496;
const BED_AT = 2 * STANDS_AT;
const SIZE = 1536;
/** Bytes of a coarse name. */
const CODE_BYTES = 16;
/** Points that names are made of: the first rows, which any weapon has; later ones are more often another sound's. */
const NAMED = 8 * BARK_BANDS;

/** Prints laid out for comparing; likeness is 0-1, and the same of (a, b) and (b, a). */
export class Prints {
  private readonly arena: Arena;
  private readonly bytes: Uint8Array<ArrayBuffer>;
  private readonly codes: Uint8Array<ArrayBuffer>;
  private readonly distances: Uint8Array<ArrayBuffer>;
  private readonly table: Float32Array<ArrayBuffer>;
  private readonly planes: Float32Array<ArrayBuffer>;
  private readonly vector: Float32Array<ArrayBuffer>;

  constructor(readonly list: readonly Print[]) {
    const n = Math.max(1, list.length);
    this.arena = new Arena(n * (SIZE + CODE_BYTES + 1) + 4 * (1024 + NAMED * (8 * CODE_BYTES + 1)) + 96);
    this.bytes = this.arena.bytes(n * SIZE);
    this.codes = this.arena.bytes(n * CODE_BYTES);
    this.distances = this.arena.bytes(n);
    this.table = this.arena.floats(1024);
    this.planes = this.arena.floats(8 * CODE_BYTES * NAMED);
    this.vector = this.arena.floats(NAMED);
    // exp(-(d / EQUAL)^2) in quarters of a decibel.
    for (let q = 0; q < 1024; q++) this.table[q] = Math.exp(-((q / 4 / EQUAL) ** 2));
    list.forEach(({ levels, stands, bed }, i) => {
      this.bytes.set(levels, i * SIZE);
      for (let p = 0; p < POINTS; p++) {
        this.bytes[i * SIZE + STANDS_AT + p] = stands[p] ? 255 : 0;
        this.bytes[i * SIZE + BED_AT + p] = bed[p % BARK_BANDS]!;
      }
    });
  }

  /** Likeness of two with the second dated `shift` hops later. */
  private shifted(a: number, b: number, shift: number): number {
    const at = this.bytes.byteOffset;
    const [one, other] = [at + a * SIZE, at + b * SIZE];
    const skip = Math.abs(shift) * BARK_BANDS;
    return this.arena.kernels.alikeness(
      one + (shift < 0 ? skip : 0),
      one + BED_AT,
      other + (shift > 0 ? skip : 0),
      other + BED_AT,
      POINTS - skip,
      STANDS_AT,
      GAIN_SPREAD,
      OVER_BED,
      LEAST_COMMON,
      this.table.byteOffset,
    );
  }

  likeness(a: number, b: number): number {
    let most = 0;
    for (let shift = -MOST_SHIFT; shift <= MOST_SHIFT; shift++) most = Math.max(most, this.shifted(a, b, shift));
    return most;
  }

  /**
   * Makes coarse names that alike prints nearly share, so that {@link nearest} can be asked: signs of 128 projections of
   * what stands out against its mean (M. Charikar, "Similarity estimation techniques from rounding algorithms", STOC 2002).
   * @param random -1 to 1 for a number, always the same
   */
  name(random: (n: number) => number): void {
    const { arena, list } = this;
    for (let i = 0; i < this.planes.length; i++) this.planes[i] = random(i);
    const { vector } = this;
    list.forEach(({ levels, stands }, k) => {
      let [sum, n] = [0, 0];
      for (let p = 0; p < NAMED; p++)
        if (stands[p]) {
          sum += levels[p]!;
          n++;
        }
      const mean = n ? sum / n : 0;
      for (let p = 0; p < NAMED; p++) vector[p] = stands[p] ? levels[p]! - mean + 20 : 0;
      for (let bit = 0; bit < 8 * CODE_BYTES; bit++) {
        const dot = arena.kernels.products(vector.byteOffset, this.planes.byteOffset + 4 * bit * NAMED, NAMED);
        if (dot > 0) this.codes[k * CODE_BYTES + (bit >> 3)]! |= 1 << (bit & 7);
      }
    });
  }

  /** The `count` others whose coarse names are nearest to one's; of equal ones the first. */
  nearest(one: number, count: number): number[] {
    const { codes, distances, list, arena } = this;
    arena.kernels.bitsApart(codes.byteOffset + one * CODE_BYTES, codes.byteOffset, list.length, distances.byteOffset);
    distances[one] = 255;
    // How many lie at each distance says which distance is the last that counts.
    const at = new Uint32Array(256);
    for (let i = 0; i < list.length; i++) at[distances[i]!]!++;
    let last = 0;
    for (let sum = at[0]!; sum < count && last < 128;) sum += at[++last]!;
    const found: number[] = [];
    for (let i = 0; i < list.length && found.length < count; i++) if (distances[i]! < last) found.push(i);
    for (let i = 0; i < list.length && found.length < count; i++) if (distances[i]! === last) found.push(i);
    return found;
  }
}

/** How alike two attacks sound, 0-1. */
export const likeness = (a: Print, b: Print): number => new Prints([a, b]).likeness(0, 1);
