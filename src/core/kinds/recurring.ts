/** What comes again, sounding alike, one, two, four or eight beats earlier or later is played, whatever it is like (common practice, no source). */
import { beatGrid } from '../beats/track.ts';
import { BARK_BANDS, type SoundSignals } from '../signals/types.ts';
import { lowerBound } from '../units/search.ts';

/** Beats from a stroke to its like. */
const AWAY = [1, 2, 4, 8] as const;
/** How many of these places to both sides must hold its like: blows at random hardly meet two. */
const LEAST = 2;
/** Mean difference in decibels, over all bands and {@link HEARD} hops, up to which two strokes are alike. */
const ALIKE = 6;
/** Beats from a stroke to itself played again, and the difference up to which it is: one such place is enough, whatever that stroke is called. */
const AGAIN = [1, 2, 3, 4, 6, 8, 12, 16] as const;
const SAME = 4;
const HEARD = 6;
/** Seconds that a stroke may lie beside its place. */
const BESIDE = 0.02;

/** Beats from the first to each time, between them in proportion, before and after them as between the nearest two. */
function phases(times: readonly number[], beats: readonly number[]): number[] {
  let next = 1;
  return times.map((t) => {
    while (next < beats.length - 1 && beats[next]! < t) next++;
    return next - 1 + (t - beats[next - 1]!) / (beats[next]! - beats[next - 1]!);
  });
}

/**
 * Attacks that recur, by their index.
 * @param asked whether an attack is looked at, as one that may recur and as what it recurs in
 */
export function recurring(sound: SoundSignals, asked: (attack: number) => boolean): ReadonlySet<number> {
  const { beats } = beatGrid(sound);
  const found = new Set<number>();
  if (beats.length < 2) return found;
  const all = phases([...sound.attacks], beats);
  const beat = (beats.at(-1)! - beats[0]!) / (beats.length - 1);
  const apart = (one: number, other: number): number => {
    const [a, b] = [one, other].map((i) => sound.attackHops[i]! * BARK_BANDS) as [number, number];
    let sum = 0;
    for (let k = 0; k < HEARD * BARK_BANDS; k++) sum += Math.abs((sound.bands[a + k] ?? 0) - (sound.bands[b + k] ?? 0));
    return sum / (HEARD * BARK_BANDS);
  };
  const may = Array.from(sound.attacks, (_, i) => asked(i));
  /** Whether one up to `most` apart from attack `i` lies at a phase. */
  const holds = (i: number, phase: number, most: number, other: (attack: number) => boolean): boolean => {
    for (let k = lowerBound(all, phase - BESIDE / beat, (at) => at); k < all.length && all[k]! <= phase + BESIDE / beat; k++) if (other(k) && apart(i, k) <= most) return true;
    return false;
  };
  const places = (i: number, away: readonly number[]): number[] => away.flatMap((beatsAway) => [all[i]! - beatsAway, all[i]! + beatsAway]);
  may.forEach((asks, i) => {
    if (!asks) return;
    if (places(i, AGAIN).some((phase) => holds(i, phase, SAME, () => true)) || places(i, AWAY).filter((phase) => holds(i, phase, ALIKE, (k) => may[k]!)).length >= LEAST) found.add(i);
  });
  return found;
}
