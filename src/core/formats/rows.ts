/** A row of clips as other programs keep it: which stretch of which file follows which. */
import type { Rate } from '../base/time.ts';
import { MarksError, MOST_LETTERS, type RowFormat, type RowRead } from './marks.ts';
import { cmx3600Row } from './cmx3600.ts';
import { otioRow } from './otio.ts';

export const ROW_FORMATS: readonly RowFormat[] = [otioRow, cmx3600Row];

/** @throws MarksError with a sentence for the person */
export function readRow(name: string, text: string, rate: Rate): RowRead {
  if (text.length > MOST_LETTERS) throw new MarksError('The file is too large to be a timeline.');
  const format = ROW_FORMATS.find(({ extensions }) => extensions.some((end) => name.toLowerCase().endsWith(`.${end}`)));
  if (!format) throw new MarksError('Timelines are read from .otio and .edl files.');
  const read = format.read(text, rate);
  if (!read.clips.length) throw new MarksError('There is no clip in the file.');
  return read;
}

/** A name without its folder and ending, in small letters: what programs agree on. */
export const plainFileName = (name: string): string =>
  (name.split(/[\\/]/).at(-1) ?? name).replace(/\.[a-z0-9]{1,5}$/i, '').toLowerCase();
