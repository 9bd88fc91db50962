/** Sections of a montage: what lies between the drops of its music that were kept. They move with the music. */
import { lowerBound } from '../base/search.ts';
import type { Occurrence } from './occurrences.ts';

/** Frames on which sections begin, ascending: the first frame, and each kept drop. */
export function sectionStarts(kept: readonly Occurrence[]): number[] {
  const drops = kept.filter(({ hit, frame }) => hit.kind === 'drop' && frame > 0).map(({ frame }) => frame);
  return [0, ...new Set(drops)].sort((a, b) => a - b);
}

/** Number of the section that holds a frame. */
export const sectionAt = (starts: readonly number[], frame: number): number =>
  Math.max(0, lowerBound(starts, frame + 1, (start) => start) - 1);

/** What a person calls it. */
export const sectionName = (section: number): string => (section === 0 ? 'before the drop' : `drop ${section}`);
