/** What comes again some beats earlier or later, sounding alike, is played, whatever it is like (common practice, no source). */
import { beatGrid } from '../beats/track.ts';
import { BARK_BANDS, type SoundSignals } from '../signals/types.ts';
import { lowerBound } from '../units/search.ts';

/** Beats from a stroke to itself played again. */
const AGAIN = [1, 2, 3, 4, 6, 8, 12, 16] as const;
/** Hops from an attack in which two are compared. */
const FROM = -1;
const TO = 21;
/** Seconds that a stroke may lie beside its place. */
const BESIDE = 0.02;

/** Beats from the first to each time, between them in proportion, before and after them as between the nearest two. */
function phases(times: ArrayLike<number>, beats: readonly number[]): number[] {
  let next = 1;
  return Array.from(times, (t) => {
    while (next < beats.length - 1 && beats[next]! < t) next++;
    return next - 1 + (t - beats[next - 1]!) / (beats[next]! - beats[next - 1]!);
  });
}

/**
 * For each attack the mean difference in decibels, over all bands and a fifth of a second, to the one most alike among
 * those {@link AGAIN} beats earlier or later; infinite where there is none.
 * @param asked which attacks it is wanted for; the others are infinitely different
 */
export function unlikeness(sound: SoundSignals, asked: (attack: number) => boolean): Float32Array {
  const { beats } = beatGrid(sound);
  const out = new Float32Array(sound.attacks.length).fill(Infinity);
  if (beats.length < 2) return out;
  const all = phases(sound.attacks, beats);
  const beat = (beats.at(-1)! - beats[0]!) / (beats.length - 1);
  const last = sound.onset.length - 1;
  const row = (attack: number, hop: number): number => Math.max(0, Math.min(last, sound.attackHops[attack]! + hop)) * BARK_BANDS;
  const apart = (one: number, other: number): number => {
    let sum = 0;
    for (let hop = FROM; hop < TO; hop++) {
      const [a, b] = [row(one, hop), row(other, hop)];
      for (let band = 0; band < BARK_BANDS; band++) sum += Math.abs(sound.bands[a + band]! - sound.bands[b + band]!);
    }
    return sum / ((TO - FROM) * BARK_BANDS);
  };
  for (let i = 0; i < all.length; i++) {
    if (!asked(i)) continue;
    for (const phase of AGAIN.flatMap((away) => [all[i]! - away, all[i]! + away])) {
      for (let k = lowerBound(all, phase - BESIDE / beat, (at) => at); k < all.length && all[k]! <= phase + BESIDE / beat; k++) out[i] = Math.min(out[i]!, apart(i, k));
    }
  }
  return out;
}
