/** Formats of marks. To add one, write its file and put it on the list: the app takes names, endings and words from there. */
import { cmx3600 } from './cmx3600.ts';
import { csv } from './csv.ts';
import { midi } from './midi.ts';
import { MarksError, MOST_BYTES, MOST_LETTERS, type MarksFormat, type MarksRead } from './marks.ts';
import { otio } from './otio.ts';
import { plain } from './plain.ts';
import { waveCues } from './wave-cues.ts';
import { webvtt } from './webvtt.ts';
import type { Rate } from '../base/time.ts';

export { MarksError, type Mark, type MarksFormat, type MarksRead } from './marks.ts';

export { plainFileName, readRow, ROW_FORMATS } from './rows.ts';

export const MARKS_FORMATS: readonly MarksFormat[] = [csv, webvtt, otio, cmx3600, waveCues, midi, plain];

/** The format of a file by its ending; a list of times where no other has it. */
export function formatOf(name: string): MarksFormat {
  const ending = name.toLowerCase().split('.').at(-1) ?? '';
  return MARKS_FORMATS.find(({ extensions }) => extensions.includes(ending)) ?? plain;
}

/** Reads marks from a file by its ending. @throws MarksError with a sentence for the person */
export function readMarks(name: string, text: string, rate: Rate): MarksRead {
  const format = formatOf(name);
  if (text.length > (format.binary ? MOST_BYTES : MOST_LETTERS))
    throw new MarksError('The file is too large to be read for marks.');
  const read = format.read(text, rate);
  if (!read.marks.length) {
    const [first] = read.left;
    throw new MarksError(
      first ? `No mark could be read: line ${first.line}: ${first.why}.` : 'There is no mark in the file.',
    );
  }
  return read;
}
