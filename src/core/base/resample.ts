/** Sample rate conversion of streams by a windowed sinc, for mixing and for analysis. */
import { Arena } from './simd/kernels.ts';

const HALF_TAPS = 16;
/** The lower of both Nyquist rates, and a little less, is where the low-pass begins. */
const CUTOFF = 0.97;

/** A sinc of this cutoff under a Hann window, `d` samples from its middle. */
function sinc(d: number, cutoff: number, half: number): number {
  const x = Math.PI * d * cutoff;
  return (d === 0 ? 1 : Math.sin(x) / x) * (0.5 + 0.5 * Math.cos((Math.PI * d) / half));
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

  /** Samples that are passed over before the first that counts. */
  private skip: number;

  /**
   * @param from samples a second, a whole number, as is `to`; of equal rates all samples come out as they went in
   * @param offset where the first output lies, in input samples, 0 or more, fractions rounded to 1 / up
   */
  constructor(from: number, to: number, state?: ResamplerState, offset = 0) {
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
    this.skip = 0;
    if (offset > 0) {
      const parts = Math.round(offset * this.up);
      this.phase = parts % this.up;
      this.skip = Math.floor(parts / this.up);
    }
  }

  state(): ResamplerState {
    return { kept: this.input.slice(0, this.kept), phase: this.phase };
  }

  /** Gives what is known by now to `out`, in pieces that are valid until it returns. */
  take(block: Float32Array, out: (piece: Float32Array) => void): void {
    if (this.up === this.down) {
      const gone = Math.min(this.skip, block.length);
      this.skip -= gone;
      if (block.length > gone) out(block.subarray(gone));
      return;
    }
    const { arena, input, output, table, taps, up, down } = this;
    for (let at = 0; at < block.length;) {
      const piece = block.subarray(at, at + ROOM + taps - this.kept);
      input.set(piece, this.kept);
      this.kept += piece.length;
      at += piece.length;
      if (this.skip > 0) {
        const gone = Math.min(this.skip, this.kept);
        input.copyWithin(0, gone, this.kept);
        this.kept -= gone;
        this.skip -= gone;
      }
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

  /** All that is known by now, as one array. */
  all(block: Float32Array): Float32Array<ArrayBuffer> {
    const pieces: Float32Array[] = [];
    let length = 0;
    this.take(block, (piece) => {
      pieces.push(piece.slice());
      length += piece.length;
    });
    const out = new Float32Array(length);
    let at = 0;
    for (const piece of pieces) {
      out.set(piece, at);
      at += piece.length;
    }
    return out;
  }
}
