/** Automatic fire: what goes on evenly from shots, or fills a gap between them, is likely one more (common practice, no source). */
import { lowerBound } from '../../base/search.ts';

/** Seconds from one shot of a row to the next. */
export const SHORTEST = 0.05;
const LONGEST = 0.25;
/** Seconds that one may lie beside its place. */
const BESIDE = 0.02;
/** Probability from which a shot begins a row. */
const SURELY = 0.5;

/**
 * For each time how surely two shots say that one of their row is due then, 0-1: the less sure of the two, of those that say it most.
 * @param times rising, in seconds
 * @param shots for each how surely it is a shot, 0-1
 */
export function due(times: ArrayLike<number>, shots: ArrayLike<number>): Float32Array {
  const out = new Float32Array(times.length);
  const sure = Array.from(times, (_, i) => i).filter((i) => shots[i]! >= SURELY);
  const say = (at: number, surely: number, but: readonly number[]): void => {
    for (let i = lowerBound(times, at - BESIDE, (t) => t); i < times.length && times[i]! <= at + BESIDE; i++)
      if (!but.includes(i)) out[i] = Math.max(out[i]!, surely);
  };
  sure.forEach((one, n) => {
    for (let k = n + 1; k < sure.length; k++) {
      const other = sure[k]!;
      const gap = times[other]! - times[one]!;
      if (gap > 2 * LONGEST) break;
      const surely = Math.min(shots[one]!, shots[other]!);
      if (gap >= SHORTEST && gap <= LONGEST)
        for (const at of [times[one]! - gap, times[other]! + gap]) say(at, surely, [one, other]);
      if (gap >= 2 * SHORTEST) say(times[one]! + gap / 2, surely, [one, other]);
    }
  });
  return out;
}
