/**
 * Bands a quarter tone wide of windows of samples, as logarithms (S. Boeck and G. Widmer, "Maximum filter vibrato
 * suppression for onset detection", DAFx 2013: windows of 2048 samples, 24 bands an octave, 30-17,000 Hz).
 */
import { ANALYSIS_RATE, Spectrum } from './spectrum.ts';

export const WINDOW = 2048;
const BANDS_PER_OCTAVE = 24;
const LOWEST_HZ = 30;
const HIGHEST_HZ = 17000;

/** Bins of quarter tones, those that several fall into only once: a band rises from one to the next and falls to the one after. */
function tones(): number[] {
  const bins = new Set<number>();
  for (let hz = LOWEST_HZ, i = 0; hz <= HIGHEST_HZ; hz = LOWEST_HZ * 2 ** (++i / BANDS_PER_OCTAVE))
    bins.add(Math.round((hz * WINDOW) / ANALYSIS_RATE));
  return [...bins];
}

let made: QuarterTones | null = null;

/** The one that all share. */
export const quarterTones = (): QuarterTones => (made ??= new QuarterTones(tones()));

/** What it holds is valid until it takes the next window. */
class QuarterTones {
  readonly spectrum: Spectrum;
  /** Base 10 logarithms of 1 plus the weighted magnitudes of each band. */
  readonly levels: Float32Array;
  private readonly add: () => void;

  constructor(tones: readonly number[]) {
    const bands = tones.length - 2;
    const weights: number[] = [];
    const places = Array.from({ length: bands }, (_, b) => {
      const [from, mid, to] = tones.slice(b, b + 3) as [number, number, number];
      const before = weights.length;
      for (let bin = from; bin < to; bin++)
        weights.push(bin < mid ? (bin - from) / (mid - from) : (to - bin) / (to - mid));
      // In fours, the last of which may be nothing.
      while (weights.length % 4) weights.push(0);
      return [from, (weights.length - before) / 4];
    });
    const padded = Math.ceil(bands / 4) * 4;
    this.spectrum = new Spectrum(WINDOW, 4 * (weights.length + 3 * padded) + 64);
    const { arena, magnitudes } = this.spectrum;
    const [kept, at, levels] = [arena.floats(weights.length), arena.whole(2 * padded), arena.floats(padded)];
    kept.set(weights);
    at.set(places.flat());
    this.levels = levels.subarray(0, bands);
    this.add = () =>
      arena.kernels.logSums(magnitudes.byteOffset, at.byteOffset, kept.byteOffset, padded, levels.byteOffset);
  }

  /** The window that begins at `samples[from]`; what lies outside `samples` is silence. */
  take(samples: Float32Array, from: number): void {
    this.spectrum.take(samples, from);
    this.add();
  }
}
