/**
 * The greatest value of a sound between its samples, too: four times as many, by a polyphase filter as ITU-R BS.1770-5,
 * annex 2, describes it.
 */

/** Samples to each side that a value between two of them is made of. */
export const REACH = 6;

/**
 * Weights of the values a quarter, half and three quarters of the way to the next sample: a sinc in a Blackman window, each
 * adding up to 1.
 */
const [QUARTER, HALF, THREE_QUARTERS] = [0.25, 0.5, 0.75].map((shift) => {
  const taps = Float64Array.from({ length: 2 * REACH }, (__, k) => {
    const x = k - REACH + 1 - shift;
    const w = 0.42 + 0.5 * Math.cos((Math.PI * x) / REACH) + 0.08 * Math.cos((2 * Math.PI * x) / REACH);
    return (Math.sin(Math.PI * x) / (Math.PI * x)) * w;
  });
  const sum = taps.reduce((total, v) => total + v, 0);
  return taps.map((v) => v / sum);
}) as [Float64Array, Float64Array, Float64Array];

/** The greatest absolute value from sample `at` to before the next one; samples past the ends are silent. */
export function peakFrom(samples: Float32Array, at: number): number {
  const first = at - REACH + 1;
  let one = 0;
  let two = 0;
  let three = 0;
  // Counted from the samples there are: what lies past the ends adds nothing.
  const begin = first < 0 ? -first : 0;
  const end = Math.min(2 * REACH, samples.length - first);
  for (let k = begin; k < end; k++) {
    const v = samples[first + k]!;
    one += QUARTER[k]! * v;
    two += HALF[k]! * v;
    three += THREE_QUARTERS[k]! * v;
  }
  return Math.max(Math.abs(samples[at] ?? 0), Math.abs(one), Math.abs(two), Math.abs(three));
}

/** Share of the greatest sample so far under which nothing between two samples can be greater than it. */
const LOW = 0.4;

/** Counts the greatest value of left and right, block after block. */
export class TruePeak {
  most = 0;
  private tails: [Float32Array, Float32Array] = [new Float32Array(), new Float32Array()];

  add(left: Float32Array, right: Float32Array): void {
    this.tails = [left, right].map((channel, c) => {
      const tail = this.tails[c]!;
      const all = new Float32Array(tail.length + channel.length);
      all.set(tail);
      all.set(channel, tail.length);
      // The last samples wait for those after them.
      for (let i = Math.max(0, tail.length - REACH); i < all.length - REACH; i++)
        if (Math.abs(all[i]!) > LOW * this.most || Math.abs(all[i + 1]!) > LOW * this.most)
          this.most = Math.max(this.most, peakFrom(all, i));
      for (let i = Math.max(0, all.length - REACH); i < all.length; i++)
        this.most = Math.max(this.most, Math.abs(all[i]!));
      return all.subarray(Math.max(0, all.length - 2 * REACH));
    }) as [Float32Array, Float32Array];
  }
}
