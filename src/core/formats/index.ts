/** Formats of marks. To add one, write its file and put it on the list: the app takes names, endings and words from there. */
import { csv } from './csv.ts';
import { MarksError, MOST_LETTERS, type MarksFormat, type MarksRead } from './marks.ts';
import { otio } from './otio.ts';
import { plain } from './plain.ts';
import { webvtt } from './webvtt.ts';
import type { Rate } from '../base/time.ts';

export { MarksError, type Mark, type MarksFormat, type MarksRead } from './marks.ts';

export const MARKS_FORMATS: readonly MarksFormat[] = [csv, webvtt, otio, plain];

/** Reads marks from a file by its ending, or as a list of times. @throws MarksError with a sentence for the person */
export function readMarks(name: string, text: string, rate: Rate): MarksRead {
  if (text.length > MOST_LETTERS) throw new MarksError('The file is too large to be a list of marks.');
  const ending = name.toLowerCase().split('.').at(-1) ?? '';
  const format = MARKS_FORMATS.find(({ extensions }) => extensions.includes(ending)) ?? plain;
  const read = format.read(text, rate);
  if (!read.marks.length) {
    const [first] = read.left;
    throw new MarksError(
      first ? `No mark could be read: line ${first.line}: ${first.why}.` : 'There is no mark in the file.',
    );
  }
  return read;
}
