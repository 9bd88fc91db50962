/** Tables with a column for time: RFC 4180, with commas, semicolons or tabs. Read and written by Papa Parse. */
import Papa from 'papaparse';
import { timecode } from '../base/time.ts';
import { frameOf, isKind, MarksError, secondsIn, taken, type Mark, type MarksFormat } from './marks.ts';

/** Names of columns, in the order they are sought. */
const COLUMNS = {
  t: ['seconds', 'time', 'timecode', 'start', 'in', 'position', 'frame', 'frames'],
  end: ['end', 'out', 'stop'],
  kind: ['kind', 'type', 'category'],
  strength: ['strength', 'intensity', 'value'],
  name: ['name', 'label', 'title', 'comment', 'note', 'text'],
} as const;

export const csv: MarksFormat = {
  id: 'csv',
  name: 'Table (CSV)',
  extensions: ['csv', 'tsv'],
  mime: 'text/csv',
  holds: 'Seconds, frame, timecode, kind, strength and name of each.',
  read(text, rate) {
    const { data } = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), { skipEmptyLines: 'greedy' });
    const [first, ...rows] = data;
    if (!first) throw new MarksError('The table is empty.');
    const names = first.map((cell) => cell.trim().toLowerCase());
    const column = (wanted: readonly string[]): number => {
      for (const name of wanted) if (names.includes(name)) return names.indexOf(name);
      return -1;
    };
    let at = { t: 0, end: -1, kind: -1, strength: -1, name: -1 };
    let [whole, body, from]: ['seconds' | 'frames', string[][], number] = ['seconds', data, 1];
    if (column(COLUMNS.t) >= 0) {
      at = Object.fromEntries(Object.entries(COLUMNS).map(([key, wanted]) => [key, column(wanted)])) as typeof at;
      [body, from] = [rows, 2];
      if (names[at.t]!.startsWith('frame')) whole = 'frames';
    } else if (secondsIn(first[0] ?? '', rate, 'seconds') === null)
      throw new MarksError(
        `No column is called ${COLUMNS.t.slice(0, 3).join(', ')} or frame, and the first holds no times.`,
      );
    const found: (Mark & { line: number })[] = [];
    const left: { line: number; why: string }[] = [];
    body.forEach((row, i) => {
      const line = from + i;
      const cell = (key: keyof typeof at): string => (at[key] < 0 ? '' : (row[at[key]] ?? '').trim());
      const t = secondsIn(cell('t'), rate, whole);
      if (t === null) return void left.push({ line, why: `“${cell('t').slice(0, 40)}” is no time` });
      const end = secondsIn(cell('end'), rate, whole);
      const kind = cell('kind').toLowerCase();
      const strength =
        Number(cell('strength').replace(',', '.').replace('%', '')) / (cell('strength').includes('%') ? 100 : 1);
      found.push({
        line,
        t,
        ...(end !== null && end > t && { end }),
        ...(isKind(kind) && { kind }),
        ...(cell('strength') && strength >= 0 && strength <= 1 && { strength }),
        ...(cell('name') && { name: cell('name').slice(0, 500) }),
      });
    });
    return taken(found, left);
  },
  write: (marks, rate) =>
    Papa.unparse(
      marks.map(({ t, kind = '', strength, name = '' }) => ({
        seconds: Math.round(t * 1e6) / 1e6,
        frame: frameOf(t, rate),
        timecode: timecode(frameOf(t, rate), rate),
        kind,
        strength: strength === undefined ? '' : Math.round(strength * 1000) / 1000,
        name,
      })),
      // A name that a spreadsheet would take for a formula is written as text.
      { newline: '\n', escapeFormulae: true, columns: ['seconds', 'frame', 'timecode', 'kind', 'strength', 'name'] },
    ) + '\n',
};
