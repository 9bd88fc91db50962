/** Sample rate conversion by a windowed sinc, for mixing sounds of unlike rates. */

const HALF_TAPS = 16;

/**
 * Adds `input` (at `rateIn`) into `output` (at `rateOut`) times `gain`. `offset` is the position
 * of output[0] in input samples; what lies outside the input counts as silence.
 */
export function mixResampled(
  input: Float32Array, rateIn: number, output: Float32Array, rateOut: number, offset: number, gain: number,
): void {
  const step = rateIn / rateOut;
  if (step === 1 && Math.abs(offset - Math.round(offset)) < 1e-3) {
    const shift = Math.round(offset);
    const from = Math.max(0, -shift);
    const to = Math.min(output.length, input.length - shift);
    for (let i = from; i < to; i++) output[i]! += input[i + shift]! * gain;
    return;
  }
  // Low-pass at the lower of both Nyquist rates.
  const cutoff = Math.min(1, 1 / step) * 0.97;
  for (let i = 0; i < output.length; i++) {
    const at = offset + i * step;
    const middle = Math.floor(at);
    if (middle < -HALF_TAPS || middle > input.length + HALF_TAPS) continue;
    let sum = 0;
    for (let k = middle - HALF_TAPS + 1; k <= middle + HALF_TAPS; k++) {
      const sample = input[k];
      if (sample === undefined || sample === 0) continue;
      const d = at - k;
      const x = Math.PI * d * cutoff;
      const sinc = d === 0 ? 1 : Math.sin(x) / x;
      const window = 0.5 + 0.5 * Math.cos((Math.PI * d) / HALF_TAPS);
      sum += sample * sinc * window;
    }
    output[i]! += sum * cutoff * gain;
  }
}
