/** Frame starts of variable-rate sources as they are kept and passed between threads. */
import { listedTimes } from '../../core/timeline/frame-times.ts';
import type { MediaIndex } from '../../core/timeline/timeline.ts';

export type ListedStarts = Readonly<Record<string, { readonly starts: Float64Array; readonly lastDuration: number }>>;

export const listedIndex = (listed: ListedStarts): MediaIndex =>
  new Map(
    Object.entries(listed).map(([source, { starts, lastDuration }]) => [source, listedTimes(starts, lastDuration)]),
  );
