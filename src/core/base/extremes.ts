/** The least and the greatest of a list of any length: a call takes some hundred thousand arguments at the most. */
export const least = (values: readonly number[], from = Infinity): number =>
  values.reduce((low, value) => Math.min(low, value), from);
export const greatest = (values: readonly number[], from = -Infinity): number =>
  values.reduce((high, value) => Math.max(high, value), from);
