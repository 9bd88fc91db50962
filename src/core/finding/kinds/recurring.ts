/** What comes again some beats earlier or later, sounding alike, is played, whatever it is like; and music has its places in the beat (common practice, no source). */
import { beatGrid } from '../beats/track.ts';
import { BARK_BANDS, type SoundSignals } from '../signals/types.ts';
import { lowerBound } from '../../base/search.ts';

/** Beats from a stroke to itself played again. */
const AGAIN = [1, 2, 3, 4, 6, 8, 12, 16] as const;
/** Hops from an attack in which two are compared. */
const FROM = -1;
const TO = 21;
/** Seconds that a stroke may lie beside its place. */
const BESIDE = 0.02;

const beatOf = (beats: readonly number[]): number => (beats.at(-1)! - beats[0]!) / (beats.length - 1);

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
  const beat = beatOf(beats);
  const last = sound.onset.length - 1;
  const row = (attack: number, hop: number): number =>
    Math.max(0, Math.min(last, sound.attackHops[attack]! + hop)) * BARK_BANDS;
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
      for (
        let k = lowerBound(all, phase - BESIDE / beat, (at) => at);
        k < all.length && all[k]! <= phase + BESIDE / beat;
        k++
      )
        out[i] = Math.min(out[i]!, apart(i, k));
    }
  }
  return out;
}

/** Places in a beat that are told apart, and seconds by which strokes lie beside theirs, as a standard deviation. */
const PLACES = 100;
const ABOUT = 0.03;
/** Strokes spread evenly over the beat that are believed in before any was heard. */
const BELIEVED = 5;

/**
 * For each attack how often strokes of the music, its own left out, fall on its place in the beat: 1 as often as if
 * they came at random, more where they are played, less in between. All 1 without beats.
 * @param played for each attack how surely it is a stroke of the music, 0-1
 */
export function strokesAt(sound: SoundSignals, played: ArrayLike<number>): Float32Array {
  const { beats } = beatGrid(sound);
  const out = new Float32Array(sound.attacks.length).fill(1);
  if (beats.length < 2) return out;
  const spread = (ABOUT / beatOf(beats)) * PLACES;
  const curve = Float64Array.from({ length: PLACES }, (_, d) =>
    Math.exp(-0.5 * (Math.min(d, PLACES - d) / spread) ** 2),
  );
  const area = curve.reduce((a, b) => a + b) / PLACES;
  const places = phases(sound.attacks, beats).map((phase) => Math.floor((phase - Math.floor(phase)) * PLACES));
  const counts = new Float64Array(PLACES);
  places.forEach((place, i) => (counts[place]! += played[i]!));
  const all = counts.reduce((a, b) => a + b);
  const near = counts.map(
    (_, place) =>
      counts.reduce((sum, count, other) => sum + count * curve[(other - place + PLACES) % PLACES]!, 0) / area,
  );
  places.forEach(
    (place, i) =>
      (out[i] = (BELIEVED + near[place]! - (played[i]! * curve[0]!) / area) / (BELIEVED + all - played[i]!)),
  );
  return out;
}
