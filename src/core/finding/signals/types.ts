/** Features over time that are kept with a source, so that thresholds move without new analysis. */

/** Kept signals of one sound track. */
export interface SoundSignals {
  /** Hops a second: values of `onset`, `soft` and `peaks`, rows of `bands`. */
  readonly rate: number;
  /** Source seconds of the first hop. */
  readonly start: number;
  /** Spectral flux, 0 or more, one value a hop. */
  readonly onset: Float32Array;
  /** New partials that stay, in 32nds, one value a hop: onsets without an edge, see soft-onsets.ts. */
  readonly soft: Uint8Array;
  /** Largest absolute sample of each hop, 0-255. */
  readonly peaks: Uint8Array;
  /** Level of the {@link BARK_BANDS} in each hop, one row after another: decibels below full scale + 120. */
  readonly bands: Uint8Array;
  /** Strength of the 12 pitch classes, {@link CHROMA_RATE} rows a second, the strongest of each row 255. */
  readonly chroma: Uint8Array;
  /** Candidate attacks refined on the waveform, source seconds, ascending; beside each the index in `onset`. */
  readonly attacks: Float64Array;
  readonly attackHops: Uint32Array;
  /** Probability 0-255 of each of the {@link SOUND_CLASSES} for each attack, one row after another. */
  readonly attackKinds: Uint8Array;
}

/** What an attack can be; `other` is a voice, a step, a chime, a hiss: no hit. */
export const SOUND_CLASSES = ['shot', 'impact', 'kick', 'snare', 'hat', 'note', 'other'] as const;
export type SoundClass = (typeof SOUND_CLASSES)[number];
/** Those that are hits. */
export type Sounding = Exclude<SoundClass, 'other'>;
/** Those that strike once, whatever is played. */
export const BLOWS = ['shot', 'impact'] as const satisfies readonly Sounding[];
/** Those that music is made of. */
export const PLAYED: readonly Sounding[] = ['kick', 'snare', 'hat', 'note'];

export const BARK_BANDS = 26;
/** Power of each value of `bands`, 1 at full scale. */
export const POWER = Float64Array.from({ length: 256 }, (_, level) => 10 ** ((level - 120) / 10));
/** The value that a power is kept as, `less` decibels taken off. */
export const keptLevel = (power: number, less = 0): number =>
  Math.max(0, Math.min(255, Math.round(10 * Math.log10(power + 1e-12) - less + 120)));
export const CHROMA_RATE = 10;

/** Kept signals of one picture track, one value a frame. */
export interface PictureSignals {
  /** Source seconds, ascending. */
  readonly times: Float64Array;
  readonly lastDuration: number;
  /** Mean luma 0-1. */
  readonly mean: Float32Array;
  /** Largest rise of a block's mean luma over the brightest block around it in the frame before, 0-1. */
  readonly rise: Float32Array;
  /** Mean absolute luma change against the frame before, 0-1. */
  readonly change: Float32Array;
  /** Distance of the luma histogram from the frame before, 0-1. */
  readonly histogram: Float32Array;
  /** Movement of the whole picture since the frame before, in picture heights, right and down positive. */
  readonly shiftX: Float32Array;
  readonly shiftY: Float32Array;
  /** Strongest local movement against that of the whole, 0-1, and its centre in shares of the picture. */
  readonly motion: Float32Array;
  readonly motionX: Float32Array;
  readonly motionY: Float32Array;
  /** Local movement left where the frame before had its strongest, 0-1. */
  readonly after: Float32Array;
}

export interface Signals {
  readonly version: number;
  /** By number of the sound track. */
  readonly sounds: Readonly<Record<number, SoundSignals>>;
  readonly picture: PictureSignals | null;
}

/** Raised when a signal changes meaning; older kept signals are then made anew. */
export const SIGNALS_VERSION = 8;

/** Attacks that stand out less than this are not told apart: no sensitivity shows them. */
export const LEAST_OVER = 0.3;

/** The hop nearest to a time in source seconds; may lie outside the sound. */
export const hopOf = ({ rate, start }: Pick<SoundSignals, 'rate' | 'start'>, t: number): number =>
  Math.round((t - start) * rate);
