/**
 * What the model of kinds hears of an attack: its own spectrum over a second, with what sounded before
 * it taken off (S. F. Boll, "Suppression of acoustic noise in speech using spectral subtraction",
 * IEEE Trans. ASSP 27(2), 1979), its first hundredths of a second finely, how much tone is in it, and
 * how loud it stands in its surroundings.
 */
import { BARK_BANDS, POWER, type SoundSignals } from '../signals/types.ts';
import { FIRST_WHOLE, ATTACK_SPECTRUM_BANDS, ATTACK_SPECTRUM_BYTES } from './attack-spectra.ts';

type Hops = readonly [from: number, to: number];

/** Hops from the attack that are averaged, finer where it begins. */
const SLOTS: readonly Hops[] = [
  [-2, -1],
  [0, 0],
  [1, 1],
  [2, 2],
  [3, 3],
  [4, 5],
  [6, 8],
  [9, 13],
  [14, 20],
  [21, 30],
  [31, 44],
  [45, 64],
  [65, 90],
  [91, 112],
];
/** Slots in which the loudest band sets the level that all others are measured from. */
const LOUDEST_FROM = 1;
const LOUDEST_TO = 6;
/** Hops before the attack that say what it stands on; its own window begins to reach into later ones. */
const BED: Hops = [-12, -4];
/** What sounded earlier: an echo follows something, the next of a burst its like. */
const EARLIER: readonly Hops[] = [
  [-60, -31],
  [-30, -13],
];
/** Decibels under the loudest that are still told apart. */
const RANGE = 36;

/** Groups of neighbouring bands, from and to, in which the loudest bin is compared with the mean: tones stand out, noise is even. */
export const CREST_REGIONS: readonly (readonly [from: number, to: number])[] = [
  [4, 7],
  [7, 11],
  [11, 15],
  [15, 19],
  [19, 22],
  [22, 25],
  [25, 26],
];
/** A crest's step is an eighth of a decibel. */
export const CREST_STEP = 0.125;
const CREST_SLOTS: readonly Hops[] = [
  [-12, -4],
  [0, 2],
  [3, 6],
  [7, 14],
  [15, 30],
];
/** Hops whose crests are kept, one after another in a ring: an attack is told apart once {@link CONTEXT_AFTER} is known. */
export const CREST_HOPS = 256;

/** Hops to each side that say what is usual; no attack is told apart before those after it are known. */
export const CONTEXT_AFTER = 150;
const CONTEXT = 4;

/** Order of the features: the own spectrum in rows of bands, bed and earlier beds and context, attack spectra, crests. */
export const SLOT_COUNT = SLOTS.length;
export const BED_AT = SLOT_COUNT * BARK_BANDS;
export const ATTACK_SPECTRA_AT = BED_AT + (1 + EARLIER.length) * BARK_BANDS + CONTEXT;
export const FEATURES = ATTACK_SPECTRA_AT + ATTACK_SPECTRUM_BYTES + CREST_SLOTS.length * CREST_REGIONS.length;

export type Heard = Pick<SoundSignals, 'rate' | 'start' | 'onset' | 'bands' | 'attacks' | 'attackHops'>;

const decibels = (power: number): number => 10 * Math.log10(power + 1e-13);
const within = (value: number, least: number, most: number): number => Math.max(least, Math.min(most, value));

/**
 * Writes the {@link FEATURES} numbers of attack `index` into `out`, each about -1 to 1.
 * @param attackSpectra the attack's {@link ATTACK_SPECTRUM_BYTES}
 * @param louder decibels by which it was heard louder than its bands say
 * @param crests of the last {@link CREST_HOPS} hops, a row of {@link CREST_REGIONS} at the hop's number modulo their count
 */
export function attackFeatures(
  { rate, start, onset, bands, attacks, attackHops }: Heard,
  attackSpectra: Uint8Array,
  crests: Uint8Array,
  index: number,
  louder: number,
  out: Float32Array,
): void {
  const hops = onset.length;
  const middle = within(Math.round((attacks[index]! - start) * rate), 0, hops - 1);
  const hopAt = (k: number): number => within(middle + k, 0, hops - 1);
  /** Powers of the bands, each the mean over some hops. */
  const mean = ([from, to]: Hops, means: Float64Array): Float64Array => {
    means.fill(0);
    for (let k = from; k <= to; k++)
      for (let b = 0, at = hopAt(k) * BARK_BANDS; b < BARK_BANDS; b++) means[b]! += POWER[bands[at + b]!]!;
    for (let b = 0; b < BARK_BANDS; b++) means[b]! /= to - from + 1;
    return means;
  };
  const bed = mean(BED, new Float64Array(BARK_BANDS));
  const means = new Float64Array(BARK_BANDS);
  let most = -130;
  SLOTS.forEach((hops, slot) => {
    mean(hops, means);
    for (let b = 0; b < BARK_BANDS; b++) {
      // Less than a decibel over the bed is the bed.
      const own = means[b]! > bed[b]! * 1.26 ? decibels(means[b]! - bed[b]!) : -130;
      out[slot * BARK_BANDS + b] = own;
      if (slot >= LOUDEST_FROM && slot < LOUDEST_TO && own > most) most = own;
    }
  });
  out.set(bed.map(decibels), SLOTS.length * BARK_BANDS);
  EARLIER.forEach((hops, k) => out.set(mean(hops, means).map(decibels), (SLOTS.length + 1 + k) * BARK_BANDS));
  let n = 0;
  for (; n < BED_AT; n++) out[n] = within((out[n]! - most) / RANGE + 1, 0, 1.2);
  for (; n < (SLOTS.length + 1 + EARLIER.length) * BARK_BANDS; n++)
    out[n] = within((out[n]! - most) / RANGE + 0.5, -0.5, 1.2);
  // The level against what is usual in the three seconds around, and how busy they are.
  let usual = 0;
  let busy = 0;
  let seen = 0;
  for (let h = Math.max(0, middle - CONTEXT_AFTER); h < Math.min(hops, middle + CONTEXT_AFTER - 20); h += 5, seen++) {
    let top = 0;
    for (let b = 0; b < BARK_BANDS; b++) top = Math.max(top, bands[h * BARK_BANDS + b]!);
    usual += top - 120;
    busy += onset[h]!;
  }
  const hop = attackHops[index]!;
  out[n++] = within((most - usual / Math.max(1, seen)) / 30, -1, 1.5);
  out[n++] = Math.log2(1 + onset[hop]!) / 5;
  out[n++] = Math.log2(1 + busy / Math.max(1, seen)) / 4;
  out[n++] = within((most + louder) / 60 + 0.5, -1, 1);
  let top = 0;
  for (let i = FIRST_WHOLE * ATTACK_SPECTRUM_BANDS; i < ATTACK_SPECTRUM_BYTES; i++)
    top = Math.max(top, attackSpectra[i]!);
  for (let i = 0; i < ATTACK_SPECTRUM_BYTES; i++) out[n++] = within((attackSpectra[i]! - top) / 40 + 1, -0.3, 1.2);
  for (const [from, to] of CREST_SLOTS) {
    for (let r = 0; r < CREST_REGIONS.length; r++) {
      let sum = 0;
      for (let k = from; k <= to; k++) sum += crests[(hopAt(k) % CREST_HOPS) * CREST_REGIONS.length + r]!;
      // In even noise the loudest of so many bins lies about 9 dB over the mean.
      out[n++] = ((sum * CREST_STEP) / (to - from + 1) - 9) / 5;
    }
  }
}
