/** Index of the first of `ordered`, by rising values, whose value is `least` or more; their count where none is. */
export function lowerBound<T>(ordered: ArrayLike<T>, least: number, valueOf: (item: T) => number): number {
  let low = 0;
  let high = ordered.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (valueOf(ordered[middle]!) < least) low = middle + 1;
    else high = middle;
  }
  return low;
}
