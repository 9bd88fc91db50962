/**
 * Cue points and their labels in WAV files: the chunks `cue `, and `labl` and `ltxt` in the list `adtl`, of IBM and Microsoft,
 * Multimedia Programming Interface and Data Specifications 1.0, 1991. Looked at: `wavefile` reads all samples into
 * memory first.
 */
import { greatest } from '../base/extremes.ts';
import { Bytes, decoded, encoded, little } from './bytes.ts';
import { isKind, MarksError, taken, type Mark, type MarksFormat } from './marks.ts';

/** Samples a second of what is written: silence of 8 bits, so that cues lie in sound. */
const RATE = 8000;
/** Seconds of silence at the most; cues beyond lie past the end. */
const MOST_SILENCE = 600;
const MOST_CUES = 200_000;
const MOST_CHUNKS = 1_000_000;

const chunk = (name: string, data: string): string =>
  `${name}${little(data.length, 4)}${data}${data.length % 2 ? '\0' : ''}`;

export const waveCues: MarksFormat = {
  id: 'wave-cues',
  name: 'WAV with cue points',
  extensions: ['wav', 'wave'],
  mime: 'audio/wav',
  binary: true,
  holds: 'Cue points to the sample, with labels as names and kinds, and stretches.',
  read(text) {
    const bytes = new Bytes(text);
    const riff = bytes.word(4);
    bytes.big(4);
    if ((riff !== 'RIFF' && riff !== 'RF64') || bytes.word(4) !== 'WAVE')
      throw new MarksError('The file is no WAV file.');
    let rate = 0;
    const cues: { id: number; sample: number }[] = [];
    const labels = new Map<number, string>();
    const lengths = new Map<number, number>();
    const left: { line: number; why: string }[] = [];
    const adtl = (end: number): void => {
      while (bytes.at + 8 <= end) {
        const name = bytes.word(4);
        const size = bytes.little(4);
        const next = Math.min(end, bytes.at + size + (size % 2));
        const id = bytes.little(4);
        if (name === 'labl')
          labels.set(id, decoded(bytes.word(Math.max(0, next - bytes.at)).split('\0')[0]!).slice(0, 500));
        else if (name === 'ltxt') lengths.set(id, bytes.little(4));
        bytes.at = next;
      }
    };
    let chunks = 0;
    while (bytes.left >= 8) {
      if (++chunks > MOST_CHUNKS) throw new MarksError(`The WAV file has more than ${MOST_CHUNKS} parts.`);
      const name = bytes.word(4);
      const size = bytes.little(4);
      // Sound of more than four gigabytes is counted elsewhere: what follows it cannot be found.
      const end = Math.min(bytes.at + size, bytes.at + bytes.left);
      if (name === 'fmt ') {
        bytes.word(4);
        rate = bytes.little(4);
      } else if (name === 'cue ') {
        const count = bytes.little(4);
        for (let i = 0; i < count && bytes.at + 24 <= end && cues.length < MOST_CUES; i++) {
          const id = bytes.little(4);
          bytes.word(16);
          cues.push({ id, sample: bytes.little(4) });
        }
        if (cues.length < count) left.push({ line: cues.length + 1, why: 'the list of cues breaks off' });
      } else if (name === 'LIST' && bytes.word(4) === 'adtl') adtl(end);
      bytes.at = end + (size % 2);
    }
    if (!(rate > 0)) throw new MarksError('The WAV file does not say how many samples a second it has.');
    return taken(
      cues.map(({ id, sample }, i): Mark & { line: number } => {
        const name = labels.get(id) ?? '';
        const length = lengths.get(id) ?? 0;
        return {
          line: i + 1,
          t: sample / rate,
          ...(length > 0 && { end: (sample + length) / rate }),
          ...(isKind(name) ? { kind: name } : name && { name }),
        };
      }),
      left,
    );
  },
  write(marks) {
    const points = marks.map(({ t }) => Math.round(t * RATE));
    const data = '\x80'.repeat(Math.min(MOST_SILENCE * RATE, greatest(points, 0) + RATE));
    const format = little(1, 2) + little(1, 2) + little(RATE, 4) + little(RATE, 4) + little(1, 2) + little(8, 2);
    const cues = points.map(
      (at, i) => little(i + 1, 4) + little(at, 4) + 'data' + little(0, 4) + little(0, 4) + little(at, 4),
    );
    const labels = marks.map(({ kind, name }, i) =>
      chunk('labl', `${little(i + 1, 4)}${encoded((name ?? kind ?? 'mark').replaceAll('\0', ' ').slice(0, 500))}\0`),
    );
    const stretches = marks.flatMap(({ t, end }, i) =>
      end === undefined
        ? []
        : chunk('ltxt', little(i + 1, 4) + little(Math.round((end - t) * RATE), 4) + 'rgn ' + little(0, 8)),
    );
    const all =
      chunk('fmt ', format) +
      chunk('cue ', little(marks.length, 4) + cues.join('')) +
      chunk('LIST', `adtl${labels.join('')}${stretches.join('')}`) +
      chunk('data', data);
    return `RIFF${little(4 + all.length, 4)}WAVE${all}`;
  },
};
