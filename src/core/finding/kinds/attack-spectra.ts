/** Short spectra around an attack, aligned to where it begins: its click, and what follows within hundredths of a second. */
import { ANALYSIS_RATE, spectrumOf } from '../signals/spectrum.ts';
import { keptLevel } from '../signals/types.ts';

const WINDOW = 512;
/** Seconds from the attack to the beginning of each window; the first two end before it. */
const BEGIN = [-0.024, -0.012, 0, 0.004, 0.008, 0.012, 0.018, 0.026, 0.036, 0.048, 0.062, 0.08, 0.1, 0.125] as const;
/** Edges of the bands in Hz, at least a bin of a window of 11.6 ms apart. */
const EDGES = [
  86, 172, 258, 345, 431, 517, 689, 861, 1120, 1464, 1895, 2498, 3273, 4307, 5685, 7494, 9905, 12920, 16021,
] as const;

export const ATTACK_SPECTRUM_BANDS = EDGES.length - 1;
/** The first spectrum that holds a whole window of the attack's sound. */
export const FIRST_WHOLE = BEGIN.indexOf(0) + 1;
/** Bytes of one attack: decibels below full scale + 120, one row of bands a window. */
export const ATTACK_SPECTRUM_BYTES = BEGIN.length * ATTACK_SPECTRUM_BANDS;

const BINS = EDGES.map((hz) => Math.round((hz * WINDOW) / ANALYSIS_RATE));

/** Writes the {@link ATTACK_SPECTRUM_BYTES} of an attack at `samples[at]`, at {@link ANALYSIS_RATE}, into `out` from `offset`; what lies outside `samples` is silence. */
export function takeAttackSpectra(samples: Float32Array, at: number, out: Uint8Array, offset: number): void {
  const spectrum = spectrumOf(WINDOW);
  for (const begin of BEGIN) {
    spectrum.take(samples, at + Math.trunc(begin * ANALYSIS_RATE));
    for (let b = 0; b < ATTACK_SPECTRUM_BANDS; b++) out[offset++] = keptLevel(spectrum.power(BINS[b]!, BINS[b + 1]!));
  }
}
