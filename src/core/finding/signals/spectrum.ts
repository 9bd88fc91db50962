/** Spectra of windows of samples under a Hann window. */
import { Arena } from '../../base/simd/kernels.ts';

/** Samples a second at which all sound is analysed: windows hold as much of it, and kinds sound as they did in training. */
export const ANALYSIS_RATE = 44100;

export class Spectrum {
  /** What it lies in, with room for what is worked out from it. */
  readonly arena: Arena;
  /** Of the bins below half the sample rate; a full-scale sine has magnitude `size / 4`. */
  readonly powers: Float32Array;
  readonly magnitudes: Float32Array;
  private readonly input: Float32Array;
  private readonly transform: () => void;

  /**
   * @param size samples of a window: twice a power of 4, at least 32
   * @param room bytes that will be set aside in its arena
   */
  constructor(
    private readonly size: number,
    room = 0,
  ) {
    const half = size / 2;
    const arena = (this.arena = new Arena(4 * (2 * size + 12 * half + 8) + room));
    const hann = arena.floats(size);
    for (let i = 0; i < size; i++) hann[i] = 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / size);
    const turns = arena.floats(4 * half);
    for (let k = 0; k < half; k++) {
      turns[k] = Math.cos((2 * Math.PI * k) / half);
      turns[half + k] = Math.sin((2 * Math.PI * k) / half);
      turns[2 * half + k] = Math.cos((Math.PI * k) / half);
      turns[3 * half + k] = Math.sin((Math.PI * k) / half);
    }
    const work = arena.floats(4 * half + 8);
    this.input = arena.floats(size);
    this.powers = arena.floats(half);
    this.magnitudes = arena.floats(half);
    const addresses = [this.input, hann].map((values) => values.byteOffset) as [number, number];
    this.transform = () =>
      arena.kernels.spectrum(
        ...addresses,
        half,
        turns.byteOffset,
        work.byteOffset,
        this.powers.byteOffset,
        this.magnitudes.byteOffset,
      );
  }

  /** The window that begins at `samples[from]`; what lies outside `samples` is silence. */
  take(samples: Float32Array, from: number): void {
    const { input, size } = this;
    const begin = Math.max(0, from);
    const inside = samples.subarray(begin, Math.max(begin, from + size));
    if (inside.length < size) input.fill(0);
    if (inside.length) input.set(inside, begin - from);
    this.transform();
  }

  /** Sum of the powers of bins `from` to before `to`, each 1 for a full-scale sine. */
  power(from: number, to: number): number {
    return this.arena.kernels.total(this.powers.byteOffset + 4 * from, to - from) / (this.size / 4) ** 2;
  }

  /** The greatest of these. */
  greatest(from: number, to: number): number {
    return this.arena.kernels.largest(this.powers.byteOffset + 4 * from, to - from) / (this.size / 4) ** 2;
  }
}

const made = new Map<number, Spectrum>();

/** The one for windows of this size, shared by all who ask: what it holds is valid until it takes the next window. */
export function spectrumOf(size: number): Spectrum {
  const known = made.get(size) ?? new Spectrum(size);
  made.set(size, known);
  return known;
}
