/** Sample rate conversion by a windowed sinc: stretches for mixing, and streams for analysis. */
import { Arena } from './simd/kernels.ts';

const HALF_TAPS = 16;
/** The lower of both Nyquist rates, and a little less, is where the low-pass begins. */
const CUTOFF = 0.97;

/** A sinc of this cutoff under a Hann window, `d` samples from its middle. */
function sinc(d: number, cutoff: number, half: number): number {
  const x = Math.PI * d * cutoff;
  return (d === 0 ? 1 : Math.sin(x) / x) * (0.5 + 0.5 * Math.cos((Math.PI * d) / half));
}

/**
 * Adds `input` (at `rateIn`) into `output` (at `rateOut`) times `gain`. `offset` is the position
 * of output[0] in input samples; what lies outside the input counts as silence.
 */
export function mixResampled(
  input: Float32Array,
  rateIn: number,
  output: Float32Array,
  rateOut: number,
  offset: number,
  gain: number,
): void {
  const step = rateIn / rateOut;
  if (step === 1 && Math.abs(offset - Math.round(offset)) < 1e-3) {
    const shift = Math.round(offset);
    const from = Math.max(0, -shift);
    const to = Math.min(output.length, input.length - shift);
    for (let i = from; i < to; i++) output[i]! += input[i + shift]! * gain;
    return;
  }
  const cutoff = Math.min(1, 1 / step) * CUTOFF;
  for (let i = 0; i < output.length; i++) {
    const at = offset + i * step;
    const middle = Math.floor(at);
    if (middle < -HALF_TAPS || middle > input.length + HALF_TAPS) continue;
    let sum = 0;
    for (let k = middle - HALF_TAPS + 1; k <= middle + HALF_TAPS; k++) {
      const sample = input[k];
      if (sample === undefined || sample === 0) continue;
      sum += sample * sinc(at - k, cutoff, HALF_TAPS);
    }
    output[i]! += sum * cutoff * gain;
  }
}

/** Samples taken at once. */
const ROOM = 8192;

const divisor = (a: number, b: number): number => (b ? divisor(b, a % b) : a);

/** Samples that the next ones need, and where between two of them the next lies: plain data, so that it can be stored. */
export interface ResamplerState {
  readonly kept: Float32Array;
  readonly phase: number;
}

/** Takes samples in blocks of any size and gives the same at another rate however they are cut; before the first is silence. */
export class Resampler {
  private readonly up: number;
  private readonly down: number;
  private readonly taps: number;
  private readonly arena: Arena;
  private readonly table: Float32Array;
  private readonly input: Float32Array;
  private readonly output: Float32Array;
  private kept: number;
  private phase: number;

  /** @param from samples a second, a whole number, as is `to` */
  constructor(from: number, to: number, state?: ResamplerState) {
    const common = divisor(from, to);
    this.up = to / common;
    this.down = from / common;
    const half = Math.ceil(HALF_TAPS * Math.max(1, from / to));
    this.taps = Math.ceil(half / 2) * 4;
    const { up, taps } = this;
    this.arena = new Arena(4 * (up * taps + ROOM + taps + Math.ceil((ROOM + taps) * (to / from)) + 16));
    this.table = this.arena.floats(up * taps);
    const cutoff = Math.min(1, to / from) * CUTOFF;
    for (let phase = 0, at = 0; phase < up; phase++, at += taps) {
      for (let k = 0; k < 2 * half; k++) this.table[at + k] = cutoff * sinc(half - 1 + phase / up - k, cutoff, half);
    }
    this.input = this.arena.floats(ROOM + taps);
    this.output = this.arena.floats(Math.ceil((ROOM + taps) * (to / from)) + 1);
    this.input.set(state?.kept ?? []);
    this.kept = state?.kept.length ?? half - 1;
    this.phase = state?.phase ?? 0;
  }

  state(): ResamplerState {
    return { kept: this.input.slice(0, this.kept), phase: this.phase };
  }

  /** Gives what is known by now to `out`, in pieces that are valid until it returns. */
  take(block: Float32Array, out: (piece: Float32Array) => void): void {
    const { arena, input, output, table, taps, up, down } = this;
    for (let at = 0; at < block.length;) {
      const piece = block.subarray(at, at + ROOM + taps - this.kept);
      input.set(piece, this.kept);
      this.kept += piece.length;
      at += piece.length;
      const made = arena.kernels.resample(
        input.byteOffset,
        this.kept,
        this.phase,
        up,
        down,
        taps,
        table.byteOffset,
        output.byteOffset,
      );
      const parts = this.phase + made * down;
      const used = Math.floor(parts / up);
      this.phase = parts % up;
      input.copyWithin(0, used, this.kept);
      this.kept -= used;
      if (made) out(output.subarray(0, made));
    }
  }
}
