/** What a detector declares. It turns kept signals into finds; it never sees the media. */
import type { Content, HitKind, Kinds } from '../../document/types.ts';
import type { BeatGrid } from '../beats/track.ts';
import type { PictureSignals, SoundSignals } from '../signals/types.ts';

export interface Find {
  /** Source seconds. */
  readonly t: number;
  readonly kind: HitKind;
  /** 0-1 */
  readonly strength: number;
  /** 0-1 */
  readonly confidence: number;
  /** Probability of each kind it may be, where the detector tells several apart. */
  readonly kinds?: Kinds;
  /** Where in the picture, shares of its width and height. */
  readonly focus?: { readonly x: number; readonly y: number };
  /** Not a hit by itself, but what was heard where something is seen. */
  readonly faint?: boolean;
}

/** What one detector looks at: one sound track, or the picture. */
export interface Kept {
  readonly sound?: SoundSignals;
  /** Whether a person said that the sound is music. */
  readonly music?: boolean;
  /** What a person said that the source holds. */
  readonly content?: Content;
  readonly picture?: PictureSignals;
  /** The beat grid as the person corrected it; without it, as it is tracked. */
  readonly grid?: BeatGrid | undefined;
}

/** 0-1 for a kind; higher finds more. */
export type Sensitivity = (kind: HitKind) => number;

export interface Detector {
  readonly id: string;
  readonly version: number;
  readonly name: string;
  readonly doc: string;
  /** Published source, or "common practice, no source". */
  readonly reference: string;
  /** Kinds of hits it finds; each has a sensitivity of its own. */
  readonly kinds: readonly HitKind[];
  /** For music only: what it looks for has no meaning in a game's or a hall's own sound. */
  readonly musicOnly?: boolean;
  find(kept: Kept, sensitivity: Sensitivity): Find[];
}
