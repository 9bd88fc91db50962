/** How far the onset function stands over what is around it: peak picking of the paper named in sound.ts. */

/** Hops of 10 ms before and after that make the local mean. */
const BEFORE = 10;
const AFTER = 7;

/** Hops to each side in which a peak is the largest. */
const PEAK = 2;
/** Hops before and after an attack that is no peak in which the one that hides it has its peak, itself up to two hops early. */
const HIDER_BEFORE = 5;
const HIDER_AFTER = 3;

export function isPeak(onset: Float32Array, hop: number): boolean {
  for (let k = -PEAK; k <= PEAK && hop + k < onset.length; k++)
    if (k < 0 ? onset[hop + k]! >= onset[hop]! : onset[hop + k]! > onset[hop]!) return false;
  return true;
}

const known = new WeakMap<Float32Array, Float32Array>();

/** The onset function over its local mean at one hop. */
export function localProminenceAt(onset: Float32Array, hop: number): number {
  const from = Math.max(0, hop - BEFORE);
  const to = Math.min(onset.length, hop + AFTER + 1);
  let sum = 0;
  for (let h = from; h < to; h++) sum += onset[h]!;
  return onset[hop]! - sum / (to - from);
}

/** The onset function over its local mean, one value a hop; computed once for each. */
export function localProminence(onset: Float32Array): Float32Array {
  const before = known.get(onset);
  if (before) return before;
  const over = onset.map((_, hop) => localProminenceAt(onset, hop));
  known.set(onset, over);
  return over;
}

/** How far an attack stands out: a peak by itself, another as the one that hides it. */
export function prominence(
  onset: Float32Array,
  hop: number,
  over: (hop: number) => number = (at) => localProminenceAt(onset, at),
): number {
  if (isPeak(onset, hop)) return over(hop);
  let most = -Infinity;
  for (let at = Math.max(0, hop - HIDER_BEFORE); at <= Math.min(onset.length - 1, hop + HIDER_AFTER); at++)
    most = Math.max(most, over(at));
  return most;
}
