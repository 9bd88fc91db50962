/** docs/formats.md from the formats' own declarations. */
import { MARKS_FORMATS, ROW_FORMATS } from './index.ts';
import type { Rate } from '../base/time.ts';
import type { Mark, MarksFormat, RowClip } from './marks.ts';

const RATE: Rate = { num: 30, den: 1 };
const MARKS: readonly Mark[] = [
  { t: 1.5, kind: 'shot', strength: 0.8 },
  { t: 4, end: 5, name: 'Lantern' },
];
const CLIPS: readonly RowClip[] = [
  { name: 'lantern-drift.mp4', in: 1, out: 3 },
  { name: 'rampart-rally.mp4', in: 0, out: 1.5 },
];

const example = (text: string): string => ['```', text.trimEnd(), '```'].join('\n');

const marksSection = (format: MarksFormat): string =>
  [
    `### ${format.name}`,
    `Files: ${format.extensions.map((ending) => `\`.${ending}\``).join(', ')}. ${format.holds}`,
    ...(format.binary ? [] : [example(format.write(MARKS, RATE, 'Harbour Nights'))]),
  ].join('\n\n');

export const describeFormats = (): string =>
  `${[
    '# Formats of other programs',
    [
      'Made by `npm run docs:formats` from `src/core/formats/`, where one entry on a list is a new format.',
      "Times are the montage's; what cannot be taken over is named by line.",
      'The examples are what Akmeon writes of a shot at 1.5 s and of a named second from 4 s on, at 30 frames a second.',
    ].join(' '),
    '## Marks',
    'Read at Check under “Seek”, written there and at Export.',
    ...MARKS_FORMATS.map(marksSection),
    '## Rows of clips',
    [
      'Read at Bring in (“From a timeline”): cuts become the row where their files are at hand, by name without folder and',
      'ending; others are asked for. Written at Export. Speeds and joins are said to be left out.',
    ].join(' '),
    ...ROW_FORMATS.map((format) =>
      [`### ${format.name}`, example(format.write(CLIPS, RATE, 'Harbour Nights'))].join('\n\n'),
    ),
  ].join('\n\n')}\n`;
