/** Which samples are played next, counted in whole ones: no rounding adds up, however many rounds a loop makes. */

/** All in samples of the montage. */
export interface PlayedRange {
  readonly from: number;
  /** Exclusive. */
  readonly to: number;
  /** Where playing begins, within the range. */
  readonly start: number;
  readonly loop: boolean;
}

/** The chunk after `played` samples: where it begins and how long it is, at most `most`; null at the end. */
export function chunkAfter(
  { from, to, start, loop }: PlayedRange,
  played: number,
  most: number,
): { readonly from: number; readonly count: number } | null {
  const length = to - from;
  if (length <= 0) return null;
  const into = loop ? (start - from + played) % length : start - from + played;
  return into >= length ? null : { from: from + into, count: Math.min(most, length - into) };
}
