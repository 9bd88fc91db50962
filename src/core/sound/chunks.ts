/** Which samples are played next, counted in whole ones: no rounding adds up, however many rounds a loop makes. */

/** A stretch of the montage in samples; the end is exclusive. */
export interface Stretch {
  readonly from: number;
  readonly to: number;
}

/** Stretches played one after another, from `start` samples into them on, once or round and round. */
export interface Played {
  readonly stretches: readonly Stretch[];
  readonly start: number;
  readonly loop: boolean;
}

const lengthOf = (stretches: readonly Stretch[]): number => stretches.reduce((sum, { from, to }) => sum + to - from, 0);

/** Where playing is after `played` samples: its place in the montage and what is left of its stretch; null at the end. */
export function placeAfter(
  { stretches, start, loop }: Played,
  played: number,
): { readonly at: number; readonly left: number } | null {
  const length = lengthOf(stretches);
  if (length <= 0) return null;
  let into = loop ? (start + played) % length : start + played;
  for (const { from, to } of stretches) {
    if (into < to - from) return { at: from + into, left: to - from - into };
    into -= to - from;
  }
  return null;
}

/** The chunk after `played` samples: where it begins and how long it is, at most `most`; null at the end. */
export function chunkAfter(
  playing: Played,
  played: number,
  most: number,
): { readonly from: number; readonly count: number } | null {
  const place = placeAfter(playing, played);
  return place && { from: place.at, count: Math.min(most, place.left) };
}
