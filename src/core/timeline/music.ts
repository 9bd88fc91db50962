/** Where the music's own time lies in the montage's; with timeline.ts the only place that reckons so. */
import type { MusicItem } from '../document/types.ts';

type Placed = Pick<MusicItem, 'at' | 'in' | 'out'>;

/** Montage seconds at which it ends, exclusive. */
export const musicEnd = ({ at, in: from, out }: Placed): number => at + out - from;

/** Source seconds at a montage time, as if it were not trimmed. */
export const musicRuns = ({ at, in: from }: Placed, seconds: number): number => from + seconds - at;

/** Source seconds that are heard at a montage time; null where nothing of it is. */
export const musicSourceTime = (item: Placed, seconds: number): number | null =>
  seconds >= item.at && seconds < musicEnd(item) ? musicRuns(item, seconds) : null;

/** Montage seconds at which a source time is heard; null where it is trimmed out. */
export const musicTime = (item: Placed, t: number): number | null =>
  t >= item.in && t < item.out ? item.at + t - item.in : null;

/** The same music, its source time `t` at a montage time; what would begin before the montage is trimmed off. */
export function musicLaidAt<T extends Placed>(item: T, t: number, seconds: number): T {
  const at = seconds - (t - item.in);
  return at >= 0 ? { ...item, at } : { ...item, at: 0, in: item.in - at };
}
