/**
 * What the model of kinds hears of an attack: its own spectrum over half a second, with what sounded
 * before it taken off (S. F. Boll, "Suppression of acoustic noise in speech using spectral subtraction",
 * IEEE Trans. ASSP 27(2), 1979), the first 24 ms finely, and how loud it stands in its surroundings.
 */
import { BARK_BANDS, POWER, type SoundSignals } from '../signals/types.ts';

/** Seconds of one slot of an attack's shape, slots before it, slots in all. */
export const SHAPE_SLOT = 0.002;
export const SHAPE_BEFORE = 4;
export const SHAPE_SLOTS = 16;
/** Bytes an attack: energy, then energy of the first difference. */
export const ATTACK_SHAPE = 2 * SHAPE_SLOTS;

/** Hops from the attack that are averaged, finer where it begins. */
const SLOTS: readonly (readonly [from: number, to: number])[] = [
  [-2, -1], [0, 0], [1, 1], [2, 3], [4, 5], [6, 8], [9, 13], [14, 20], [21, 30], [31, 44],
];
/** Slots in which the loudest band sets the level that all others are measured from. */
const LOUDEST_FROM = 1;
const LOUDEST_TO = 6;
/** Hops before the attack that say what it stands on; its own window begins to reach into later ones. */
const BED_FROM = -12;
const BED_TO = -4;
/** Decibels under the loudest that are still told apart. */
const RANGE = 36;

/** Hops to each side that say what is usual; no attack is told apart before those after it are known. */
export const CONTEXT_AFTER = 150;
const CONTEXT = 4;
export const FEATURES = (SLOTS.length + 1) * BARK_BANDS + ATTACK_SHAPE + CONTEXT;

export type Heard = Pick<SoundSignals, 'rate' | 'start' | 'onset' | 'bands' | 'attacks' | 'attackHops'>;

const decibels = (power: number): number => 10 * Math.log10(power + 1e-13);

/**
 * Writes the {@link FEATURES} numbers of attack `index` into `out`, each about -1 to 1.
 * @param shape the attack's {@link ATTACK_SHAPE} bytes
 */
export function attackFeatures({ rate, start, onset, bands, attacks, attackHops }: Heard, shape: Uint8Array, index: number, out: Float32Array): void {
  const hops = onset.length;
  const middle = Math.max(0, Math.min(hops - 1, Math.round((attacks[index]! - start) * rate)));
  const mean = (band: number, from: number, to: number): number => {
    let sum = 0;
    for (let k = from; k <= to; k++) sum += POWER[bands[Math.max(0, Math.min(hops - 1, middle + k)) * BARK_BANDS + band]!]!;
    return sum / (to - from + 1);
  };
  let most = -130;
  for (let b = 0; b < BARK_BANDS; b++) {
    const bed = mean(b, BED_FROM, BED_TO);
    for (let slot = 0; slot < SLOTS.length; slot++) {
      const [from, to] = SLOTS[slot]!;
      const power = mean(b, from, to);
      // Less than a decibel over the bed is the bed.
      const own = power > bed * 1.26 ? decibels(power - bed) : -130;
      out[slot * BARK_BANDS + b] = own;
      if (slot >= LOUDEST_FROM && slot < LOUDEST_TO && own > most) most = own;
    }
    out[SLOTS.length * BARK_BANDS + b] = decibels(bed);
  }
  let n = 0;
  for (; n < SLOTS.length * BARK_BANDS; n++) out[n] = Math.max(0, Math.min(1.2, (out[n]! - most) / RANGE + 1));
  for (; n < (SLOTS.length + 1) * BARK_BANDS; n++) out[n] = Math.max(-0.5, Math.min(1.2, (out[n]! - most) / RANGE + 0.5));
  for (let i = 0; i < ATTACK_SHAPE; i++) out[n++] = 1 - Math.min(40, shape[i]!) / 20;
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
  out[n++] = Math.max(-1, Math.min(1.5, (most - usual / Math.max(1, seen)) / 30));
  out[n++] = Math.log2(1 + onset[hop]!) / 5;
  out[n++] = Math.log2(1 + busy / Math.max(1, seen)) / 4;
  out[n] = Math.max(-1, Math.min(1, most / 60 + 0.5));
}
