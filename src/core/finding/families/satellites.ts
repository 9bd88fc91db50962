/** Satellites: a family that always follows another at one distance is a part of that sound (common practice, no source). */
import type { Hit } from '../../document/types.ts';
import type { Family } from './families.ts';

/** Members from which a family may be a satellite, the share of them that follow, and the seconds they follow by. */
const LEAST_SATELLITES = 6;
const FOLLOWING = 0.85;
const FOLLOWS_FROM = 0.03;
const FOLLOWS_TO = 0.15;
/** Seconds by which the distances differ; share of the followed that have a follower; strength against theirs. */
const GAP_SPREAD = 0.004;
const COVERED = 1 / 3;
const FAINTER = 0.6;

const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1] ?? 0;

type Members = Pick<Family, 'id' | 'members'>;

/** Fractions of a beat at which music plays, and seconds beside them; strength against theirs at which even such a follower is a part. */
const FRACTIONS = [1 / 2, 1 / 3, 1 / 4, 1 / 6, 1 / 8] as const;
const ON_FRACTION = 0.006;
const MUCH_FAINTER = 0.25;

/**
 * What a family follows as a part of that sound; null for what stands by itself, as a stroke of the music does.
 * @param beat seconds of one, where there is one
 */
export function satelliteOf(
  hits: readonly Hit[],
  family: Members,
  families: readonly Members[],
  beat: number | null,
): { of: string; gap: number } | null {
  const heard = ({ members }: Members): Hit[] =>
    members.map((i) => hits[i]!).filter(({ audioT }) => audioT !== undefined);
  const own = heard(family);
  if (own.length < LEAST_SATELLITES) return null;
  for (const other of families) {
    if (other === family) continue;
    const theirs = heard(other);
    // Both are in order of time: the latest of theirs before each of its own.
    const gaps: number[] = [];
    for (let i = 0, k = 0; i < own.length; i++) {
      const t = own[i]!.audioT!;
      while (k + 1 < theirs.length && theirs[k + 1]!.audioT! <= t - FOLLOWS_FROM) k++;
      const gap = t - (theirs[k]?.audioT ?? Infinity);
      if (gap >= FOLLOWS_FROM && gap <= FOLLOWS_TO) gaps.push(gap);
    }
    if (gaps.length < FOLLOWING * own.length) continue;
    const gap = median(gaps);
    const following = gaps.filter((g) => Math.abs(g - gap) <= GAP_SPREAD).length;
    if (following < FOLLOWING * own.length || following < COVERED * theirs.length) continue;
    const musical = beat !== null && FRACTIONS.some((share) => Math.abs(gap - share * beat) <= ON_FRACTION);
    const strength = median(own.map((h) => h.strength)) / Math.max(1e-6, median(theirs.map((h) => h.strength)));
    if (strength > (musical ? MUCH_FAINTER : FAINTER)) continue;
    return { of: other.id, gap };
  }
  return null;
}
