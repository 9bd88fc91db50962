/** What comes again, sounding alike, one, two, four or eight beats earlier or later is played, whatever it is like (common practice, no source). */
import { beatGrid } from '../beats/track.ts';
import { lowerBound } from '../hits/fusion.ts';
import { BARK_BANDS, type SoundSignals } from '../signals/types.ts';

/** Beats from a stroke to its like. */
const AWAY = [1, 2, 4, 8] as const;
/** How many of these places to both sides must hold its like: blows at random hardly meet two. */
const LEAST = 2;
/** Mean difference in decibels, over all bands and {@link HEARD} hops, up to which two strokes are alike. */
const ALIKE = 6;
const HEARD = 6;
/** Seconds that a stroke may lie beside its place. */
const BESIDE = 0.02;

/** Beats from the first to each time, between them in proportion, before and after them as between the nearest two. */
function phases(times: readonly number[], beats: readonly number[]): { t: number }[] {
  let next = 1;
  return times.map((t) => {
    while (next < beats.length - 1 && beats[next]! < t) next++;
    return { t: next - 1 + (t - beats[next - 1]!) / (beats[next]! - beats[next - 1]!) };
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
  const indices = Array.from(sound.attacks.keys()).filter(asked);
  const at = phases(indices.map((i) => sound.attacks[i]!), beats);
  const beat = (beats.at(-1)! - beats[0]!) / (beats.length - 1);
  const alike = (one: number, other: number): boolean => {
    const [a, b] = [one, other].map((i) => sound.attackHops[i]! * BARK_BANDS) as [number, number];
    let sum = 0;
    for (let k = 0; k < HEARD * BARK_BANDS; k++) sum += Math.abs((sound.bands[a + k] ?? 0) - (sound.bands[b + k] ?? 0));
    return sum <= ALIKE * HEARD * BARK_BANDS;
  };
  /** Whether one like attack `n` lies at a phase. */
  const holds = (n: number, phase: number): boolean => {
    for (let k = lowerBound(at, phase - BESIDE / beat); k < at.length && at[k]!.t <= phase + BESIDE / beat; k++) if (alike(indices[n]!, indices[k]!)) return true;
    return false;
  };
  indices.forEach((index, n) => {
    const places = AWAY.flatMap((away) => [at[n]!.t - away, at[n]!.t + away]);
    if (places.filter((phase) => holds(n, phase)).length >= LEAST) found.add(index);
  });
  return found;
}
