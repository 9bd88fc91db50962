/** Features over time that are kept with a source, so that thresholds move without new analysis. */

/** Kept signals of one sound track. */
export interface SoundSignals {
  /** Values a second of `onset` and `peaks`. */
  readonly rate: number;
  /** Source seconds of the first value. */
  readonly start: number;
  /** Spectral flux, 0 or more, one value a hop. */
  readonly onset: Float32Array;
  /** Largest absolute sample of each hop, 0-255. */
  readonly peaks: Uint8Array;
  /** Candidate attacks refined on the waveform, source seconds, ascending; beside each the index in `onset`. */
  readonly attacks: Float64Array;
  readonly attackHops: Uint32Array;
}

/** Kept signals of one picture track, one value a frame. */
export interface PictureSignals {
  /** Source seconds, ascending. */
  readonly times: Float64Array;
  readonly lastDuration: number;
  /** Mean luma 0-1. */
  readonly mean: Float32Array;
  /** Largest rise of a block's mean luma against the frame before, 0-1. */
  readonly rise: Float32Array;
  /** Mean absolute luma change against the frame before, 0-1. */
  readonly change: Float32Array;
  /** Distance of the luma histogram from the frame before, 0-1. */
  readonly histogram: Float32Array;
}

export interface Signals {
  readonly version: number;
  readonly sound: SoundSignals | null;
  /** Which sound track `sound` was made from. */
  readonly track: number | null;
  readonly picture: PictureSignals | null;
}

/** Raised when a signal changes meaning; older kept signals are then made anew. */
export const SIGNALS_VERSION = 1;
