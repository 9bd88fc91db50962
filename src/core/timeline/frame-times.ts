/** When each frame of a source begins: by rule for constant rates, as a list for variable ones. */
import { fps, nearestRate, type Rate } from '../base/time.ts';

export interface FrameTimes {
  readonly count: number;
  /** Average rate, for display and for choosing a montage rate. */
  readonly rate: Rate;
  readonly variable: boolean;
  /** Start of frame `index` in source seconds; indices outside 0..count-1 are clamped. */
  timeOf(index: number): number;
  /** End of the last frame in source seconds. */
  readonly end: number;
  /** The frame on screen at `seconds`, clamped to 0..count-1. */
  indexAt(seconds: number): number;
}

/** Container ticks can lie half a millisecond beside the true time (WebM counts milliseconds). */
const TICK_SLACK = 6e-4;

const clampIndex = (index: number, count: number): number => Math.min(Math.max(0, index), Math.max(0, count - 1));

/** Constant rate: frame i starts at first + i/rate. */
export function regularTimes(rate: Rate, count: number, first = 0): FrameTimes {
  const step = rate.den / rate.num;
  const slack = Math.min(TICK_SLACK, step / 8);
  return {
    count,
    rate,
    variable: false,
    end: first + count * step,
    timeOf: (index) => first + (clampIndex(index, count) * rate.den) / rate.num,
    indexAt: (seconds) => clampIndex(Math.floor((seconds - first + slack) / step), count),
  };
}

/** Variable rate: `starts` ascending, in seconds; `lastDuration` is the length of the last frame. */
export function listedTimes(starts: ArrayLike<number>, lastDuration: number): FrameTimes {
  const count = starts.length;
  const span = count > 1 ? starts[count - 1]! - starts[0]! : 0;
  const rate = nearestRate(span > 0 ? (count - 1) / span : 1 / (lastDuration || 1 / 30));
  const end = count ? starts[count - 1]! + lastDuration : 0;
  return {
    count,
    rate,
    variable: true,
    end,
    timeOf: (index) => starts[clampIndex(index, count)] ?? 0,
    indexAt(seconds) {
      let low = 0;
      let high = count - 1;
      while (low < high) {
        const middle = (low + high + 1) >> 1;
        if (starts[middle]! <= seconds + 1e-5) low = middle;
        else high = middle - 1;
      }
      return clampIndex(low, count);
    },
  };
}

/**
 * Decides whether measured frame starts are regular: each within 1.2 ms of a standard grid
 * (what millisecond containers round to). Else keeps them as a list.
 */
export function frameTimesOf(starts: ArrayLike<number>, lastDuration: number): FrameTimes {
  const count = starts.length;
  if (count < 2) return regularTimes(nearestRate(lastDuration > 0 ? 1 / lastDuration : 30), count, starts[0] ?? 0);
  const first = starts[0]!;
  const rate = nearestRate((count - 1) / (starts[count - 1]! - first));
  for (let i = 0; i < count; i++) {
    if (Math.abs(starts[i]! - first - i / fps(rate)) > 1.2e-3) return listedTimes(starts, lastDuration);
  }
  return regularTimes(rate, count, first);
}

/** Names what frame numbers of a source mean: lists that number its frames alike have the same. */
export const timesVersion = (times: FrameTimes): string => {
  const middle = times.count >> 1;
  return [times.count, times.rate.num, times.rate.den, times.timeOf(0), times.timeOf(middle), times.end].join('/');
};
