/**
 * Attacks that louder ones beside them hide in the flux of all bands: sudden rises of the energy of single bands over
 * the loudest of the 50 ms before, which counts for less the longer ago it was (energy over its recent past in
 * subbands: A. Klapuri, "Sound onset detection by applying psychoacoustic knowledge", ICASSP 1999).
 */
import { ANALYSIS_RATE, spectrumOf } from './spectrum.ts';

const WINDOW = 512;
/** Windows a hop: one every 2.5 ms. */
const FRAMES = 4;
/** Edges of the bands in bins of a window, the lowest from 43 Hz, each about an octave wide. */
const EDGES = [1, 2, 3, 6, 12, 23, 46, 93, 186] as const;
const BANDS = EDGES.length - 1;
/** Frames whose mean is what rose: low bands swing slowly. */
const LENGTHS = [8, 8, 5, 5, 3, 3, 3, 3] as const;
/** Frames between what was before and what rose: windows of both reach into them. */
const BETWEEN = 2;
/** Frames that say what was before, and decibels by which each frame longer ago counts for less: what dies away does so faster in high bands, and low ones swing. */
const BEFORE = 20;
const FORGOTTEN = [0, 0, 0.75, 0.75, 1.25, 1.25, 1.25, 1.25] as const;
/** Decibels of a rise. */
const LEAST = 8;
/** Power that is as good as silence, 1 for a full-scale sine. */
const SILENCE = 1e-8;
const NOTHING = 10 * Math.log10(SILENCE);
/** Frames to each side in which a rise is the largest. */
const SINGLE_RUN = 8;
/** Frames kept, one row of bands after another in a ring: more than all the above need. */
const RING = 64;
/** Frames from the newest to the one that is looked at, so that all of what rose is known. */
const LATER = Math.max(...LENGTHS) - 1;

/** Plain data, so that it can be stored: rings of powers, of levels over {@link LENGTHS}, and of rises. */
export interface RisesState {
  readonly powers: Float64Array;
  readonly levels: Float64Array;
  readonly rises: Float64Array;
}

export class Rises {
  private readonly spectrum = spectrumOf(WINDOW);
  private readonly powers: Float64Array;
  private readonly levels: Float64Array;
  private readonly rises: Float64Array;

  constructor(state?: RisesState) {
    const ring = (kept?: Float64Array): Float64Array => kept?.slice() ?? new Float64Array(RING * BANDS);
    this.powers = ring(state?.powers);
    this.levels = ring(state?.levels);
    this.rises = ring(state?.rises);
  }

  state(): RisesState {
    return { powers: this.powers.slice(), levels: this.levels.slice(), rises: this.rises.slice() };
  }

  /**
   * Takes the frames of a hop.
   * @param samples what lies outside is silence
   * @param at index in `samples` of the hop's centre
   * @param found called with each rise that is known by now, in seconds, and its decibels
   */
  take(
    samples: Float32Array,
    at: number,
    hop: number,
    hopsPerSecond: number,
    found: (t: number, decibels: number) => void,
  ): void {
    for (let k = 0; k < FRAMES; k++) {
      const frame = hop * FRAMES + k;
      this.spectrum.take(samples, at + Math.round((k * ANALYSIS_RATE) / (hopsPerSecond * FRAMES)) - WINDOW / 2);
      const row = (frame % RING) * BANDS;
      for (let b = 0; b < BANDS; b++) this.powers[row + b] = this.spectrum.power(EDGES[b]!, EDGES[b + 1]!);
      this.look(frame - LATER, hopsPerSecond * FRAMES, found);
    }
  }

  private look(frame: number, framesPerSecond: number, found: (t: number, decibels: number) => void): void {
    if (frame < 0) return;
    const row = (at: number): number => (at % RING) * BANDS;
    for (let b = 0; b < BANDS; b++) {
      let sum = 0;
      for (let k = 0; k < LENGTHS[b]!; k++) sum += this.powers[row(frame + k) + b]!;
      const level = 10 * Math.log10(sum / LENGTHS[b]! + SILENCE);
      this.levels[row(frame) + b] = level;
      const last = frame - BETWEEN - LENGTHS[b]!;
      // That a recording begins is no attack.
      let rise = last < BEFORE ? 0 : level - Math.max(NOTHING, this.levels[row(last) + b]!);
      // No less can have been before: what is too little by now stays so.
      if (rise >= LEAST)
        for (let k = 1; k <= BEFORE - LENGTHS[b]!; k++)
          rise = Math.min(rise, level - this.levels[row(last - k) + b]! + k * FORGOTTEN[b]!);
      this.rises[row(frame) + b] = rise;
    }
    const middle = frame - SINGLE_RUN;
    if (middle < SINGLE_RUN) return;
    for (let b = 0; b < BANDS; b++) {
      const rise = this.rises[row(middle) + b]!;
      if (rise < LEAST) continue;
      let largest = true;
      for (let k = 1; k <= SINGLE_RUN && largest; k++)
        largest = rise > this.rises[row(middle - k) + b]! && rise >= this.rises[row(middle + k) + b]!;
      if (largest) found(middle / framesPerSecond, rise);
    }
  }
}
