/** What a detector declares. It turns kept signals into finds; it never sees the media. */
import type { Signals } from '../signals/types.ts';
import type { HitKind, Source } from '../montage/types.ts';

export interface Find {
  /** Source seconds. */
  readonly t: number;
  /** 0-1 */
  readonly strength: number;
  /** 0-1 */
  readonly confidence: number;
}

export interface Detector {
  readonly id: string;
  readonly version: number;
  readonly name: string;
  readonly doc: string;
  /** Published source, or "common practice, no source". */
  readonly reference: string;
  /** Kind of its hits, by the role of the source. */
  readonly kind: { readonly footage: HitKind; readonly music: HitKind };
  /** The one role of sources it is for; without it, all. */
  readonly only?: Source['role'];
  /** 0-1, higher finds more. */
  readonly sensitivity: number;
  find(signals: Signals, sensitivity: number): Find[];
}
