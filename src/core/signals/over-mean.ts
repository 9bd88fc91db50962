/** How far the onset function stands over what is around it: peak picking of the paper named in sound.ts. */

/** Hops of 10 ms before and after that make the local mean. */
const BEFORE = 10;
const AFTER = 7;

const known = new WeakMap<Float32Array, Float32Array>();

/** The onset function over its local mean at one hop. */
export function overMeanAt(onset: Float32Array, hop: number): number {
  const from = Math.max(0, hop - BEFORE);
  const to = Math.min(onset.length, hop + AFTER + 1);
  let sum = 0;
  for (let h = from; h < to; h++) sum += onset[h]!;
  return onset[hop]! - sum / (to - from);
}

/** The onset function over its local mean, one value a hop; computed once for each. */
export function overMean(onset: Float32Array): Float32Array {
  const before = known.get(onset);
  if (before) return before;
  const over = onset.map((_, hop) => overMeanAt(onset, hop));
  known.set(onset, over);
  return over;
}
