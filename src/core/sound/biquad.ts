/** Filters of second order, in direct form II transposed. */

export interface Coefficients {
  readonly b0: number;
  readonly b1: number;
  readonly b2: number;
  readonly a1: number;
  readonly a2: number;
}

/** R. Bristow-Johnson, "Cookbook formulae for audio EQ biquad filter coefficients". Frequencies in hertz, below half the rate. */
export function lowPass(frequency: number, rate: number, q = Math.SQRT1_2): Coefficients {
  const { cos, alpha } = turn(frequency, rate, q);
  return scaled((1 - cos) / 2, 1 - cos, (1 - cos) / 2, 1 + alpha, -2 * cos, 1 - alpha);
}

export function highPass(frequency: number, rate: number, q = Math.SQRT1_2): Coefficients {
  const { cos, alpha } = turn(frequency, rate, q);
  return scaled((1 + cos) / 2, -1 - cos, (1 + cos) / 2, 1 + alpha, -2 * cos, 1 - alpha);
}

export function bandPass(frequency: number, rate: number, q = 1): Coefficients {
  const { cos, alpha } = turn(frequency, rate, q);
  return scaled(alpha, 0, -alpha, 1 + alpha, -2 * cos, 1 - alpha);
}

function turn(frequency: number, rate: number, q: number): { cos: number; alpha: number } {
  const w = (2 * Math.PI * Math.min(0.49 * rate, Math.max(1, frequency))) / rate;
  return { cos: Math.cos(w), alpha: Math.sin(w) / (2 * q) };
}

const scaled = (b0: number, b1: number, b2: number, a0: number, a1: number, a2: number): Coefficients => ({
  b0: b0 / a0,
  b1: b1 / a0,
  b2: b2 / a0,
  a1: a1 / a0,
  a2: a2 / a0,
});

export class Biquad {
  private z1 = 0;
  private z2 = 0;

  constructor(public by: Coefficients) {}

  next(x: number): number {
    const { b0, b1, b2, a1, a2 } = this.by;
    const y = b0 * x + this.z1;
    this.z1 = b1 * x - a1 * y + this.z2;
    this.z2 = b2 * x - a2 * y;
    return y;
  }

  /** Runs over samples in place. */
  run(samples: Float32Array | Float64Array): void {
    for (let i = 0; i < samples.length; i++) samples[i] = this.next(samples[i]!);
  }
}
