/** Files that a montage needs and that are not at hand. */
import type { Montage } from '../../core/document/types.ts';
import type { SoundSegment } from '../../core/sound/sound-plan.ts';

/** Their names. @param shown ids of sources that are seen @param there what holds the ids of those at hand */
export function missingFiles(
  { sources }: Pick<Montage, 'sources'>,
  shown: readonly string[],
  heard: readonly SoundSegment[],
  there: Pick<ReadonlyMap<string, unknown>, 'has'>,
): string[] {
  const used = new Set([...shown, ...heard.map(({ source }) => source)]);
  const gone = sources.filter(({ id }) => used.has(id) && !there.has(id)).map(({ name }) => name);
  return [...new Set([...gone, ...heard.flatMap(({ lost }) => lost ?? [])])];
}
