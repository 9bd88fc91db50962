/** Where clips are joined by more than a cut: on which output frames both are seen. */
import type { Join } from '../document/types.ts';
import { lowerBound } from '../base/search.ts';
import type { ClipSpan, Timeline } from './timeline.ts';

/** A join where it lies, output frames; `end` exclusive. No two of them share a frame. */
export interface PlacedJoin {
  readonly join: Join;
  readonly before: ClipSpan;
  readonly after: ClipSpan;
  readonly first: number;
  readonly end: number;
}

/** All joins of the row in their order. One is at most as long as halves of both clips are. */
export function joinsOf({ spans }: Timeline): PlacedJoin[] {
  return spans.flatMap((after, i): PlacedJoin[] => {
    const [before, { join }] = [spans[i - 1], after.clip];
    if (!join || !before) return [];
    const wanted = Math.floor(join.frames / 2);
    const first = after.first - Math.min(wanted, Math.floor((before.end - before.first) / 2));
    const end = after.first + Math.min(join.frames - wanted, Math.ceil((after.end - after.first) / 2));
    return [{ join, before, after, first, end }];
  });
}

/** The join that a frame lies in. */
export function joinAt(joins: readonly PlacedJoin[], frame: number): PlacedJoin | null {
  const placed = joins[lowerBound(joins, frame + 1, ({ end }) => end)];
  return placed && frame >= placed.first ? placed : null;
}
