/** What draws planned frames: on the graphics unit, or on the processor's lanes. Both take the same and give the same. */
import type { PlannedTitle } from '../../core/accents/titles.ts';
import type { Pass } from '../../core/accents/plan.ts';
import type { VideoInfo } from '../../core/document/types.ts';
import type { Framed } from '../../core/timeline/framing.ts';
import type { YuvFrame } from '../media/yuv.ts';

export interface Picture {
  readonly yuv: YuvFrame;
  readonly rotation: VideoInfo['rotation'];
  /** Upright width / height as displayed. */
  readonly aspect: number;
  readonly framed: Framed;
}

/** A frame to draw: its picture, the others it needs, and what is done to them. */
export interface Drawing {
  readonly picture: Picture | null;
  readonly others: readonly (Picture | null)[];
  readonly passes: readonly Pass[];
  /** Over all of it. */
  readonly titles?: readonly PlannedTitle[] | undefined;
  /** Quicker, with fewer moments of an open shutter. */
  readonly draft?: boolean | undefined;
}

export const NOTHING: Drawing = { picture: null, others: [], passes: [] };

/** A frame by its drawing, or by the key under which it is kept. */
export interface Wanted {
  readonly drawing: Drawing | null;
  readonly key: string | null;
}

export interface FrameRenderer {
  readonly kind: 'gpu' | 'cpu';
  /** False while a lost graphics context is not back. */
  readonly ready: boolean;
  /** Frames drawn so far; those that were kept are not drawn again. */
  readonly drawn: number;
  /** True where a frame made of this is kept. */
  has(key: string): boolean;
  /**
   * Shows a frame on the canvas, which takes the given size; left of a line another one, if wanted.
   * With a key a frame is kept for the next time; without a drawing it is one that was kept.
   */
  show(frame: Wanted, width: number, height: number, beside?: Wanted & { readonly line: number }): void;
  /** Draws aside and reads back: RGBA rows, top first. @throws EngineError where it cannot be drawn. */
  read(drawing: Drawing, width: number, height: number): Uint8ClampedArray<ArrayBuffer>;
  /** The same as limited-range BT.709 I420, as encoders take it; even sizes. */
  planes(drawing: Drawing, width: number, height: number): Promise<Uint8Array<ArrayBuffer>>;
}
