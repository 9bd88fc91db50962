/**
 * Any number of channels as stereo. Coefficients: ITU-R BS.775-3, Table 2 (down-mixing to two channels): the centre
 * and each surround at -3 dB, the low-frequency channel left out. Order of channels as in WAVE files and WebCodecs:
 * left, right, centre, low frequency, then surrounds.
 */
const HALF_POWER = Math.SQRT1_2;

/** Share of each channel in left and in right; null for channels that are left out. */
type Weights = readonly (readonly [left: number, right: number])[];

const [LEFT, RIGHT, CENTRE, NONE]: Weights = [
  [1, 0],
  [0, 1],
  [HALF_POWER, HALF_POWER],
  [0, 0],
];
const [LEFT_SURROUND, RIGHT_SURROUND]: Weights = [
  [HALF_POWER, 0],
  [0, HALF_POWER],
];

const LAYOUTS: Readonly<Record<number, Weights>> = {
  1: [[1, 1]],
  2: [LEFT!, RIGHT!],
  3: [LEFT!, RIGHT!, CENTRE!],
  4: [LEFT!, RIGHT!, LEFT_SURROUND!, RIGHT_SURROUND!],
  5: [LEFT!, RIGHT!, CENTRE!, LEFT_SURROUND!, RIGHT_SURROUND!],
  6: [LEFT!, RIGHT!, CENTRE!, NONE!, LEFT_SURROUND!, RIGHT_SURROUND!],
  7: [LEFT!, RIGHT!, CENTRE!, NONE!, CENTRE!, LEFT_SURROUND!, RIGHT_SURROUND!],
  8: [LEFT!, RIGHT!, CENTRE!, NONE!, LEFT_SURROUND!, RIGHT_SURROUND!, LEFT_SURROUND!, RIGHT_SURROUND!],
};

/** Where no layout is known every channel counts alike on both sides, so that none is lost. */
const layoutOf = (count: number): Weights =>
  LAYOUTS[count] ?? Array.from({ length: count }, () => [1 / Math.sqrt(count), 1 / Math.sqrt(count)] as const);

/**
 * Planes of one length, each a channel, as left and right; for one channel both are the very same array.
 * Sums may pass full scale.
 */
export function toStereo(
  channels: readonly Float32Array<ArrayBuffer>[],
): readonly [Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>] {
  const [first, second] = channels;
  if (!first) return [new Float32Array(0), new Float32Array(0)];
  if (channels.length === 1) return [first, first];
  if (channels.length === 2) return [first, second!];
  const out = [new Float32Array(first.length), new Float32Array(first.length)] as const;
  layoutOf(channels.length).forEach((weights, c) => {
    const from = channels[c]!;
    out.forEach((to, side) => {
      const weight = weights[side]!;
      if (weight !== 0) for (let i = 0; i < to.length; i++) to[i]! += weight * from[i]!;
    });
  });
  return out;
}
