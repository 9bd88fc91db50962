/** Shapes that differ by less than this share are one shape: sizes are made even, and bars of a few lines help nobody. */
export const SAME_SHAPE = 0.0125;

/** Whether two ratios of width to height are one shape. */
export const sameShape = (one: number, other: number): boolean => Math.abs(one / other - 1) < SAME_SHAPE;
