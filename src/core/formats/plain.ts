/** Times one below the other, as they are pasted. */
import { timecode } from '../base/time.ts';
import { frameOf, isKind, secondsIn, taken, type Mark, type MarksFormat } from './marks.ts';

export const plain: MarksFormat = {
  id: 'plain',
  name: 'List of times',
  extensions: ['txt'],
  mime: 'text/plain',
  holds: 'A time a line, in any usual form, and behind it a kind or a name.',
  read(text, rate) {
    const found: (Mark & { line: number })[] = [];
    const left: { line: number; why: string }[] = [];
    text.split(/\r\n?|\n/).forEach((row, i) => {
      const line = i + 1;
      const [, time, rest = ''] = /^(\S+(?:\s*s(?:ec)?\b)?)[\s,;]*(.*)$/i.exec(row.replace(/^\uFEFF/, '').trim()) ?? [];
      if (!time || row.trim().startsWith('#')) return;
      const t = secondsIn(time.replace(/[,;]$/, ''), rate, 'seconds');
      if (t === null) left.push({ line, why: `“${time.slice(0, 40)}” is no time` });
      else {
        const kind = rest.toLowerCase();
        found.push({ line, t, ...(isKind(kind) ? { kind } : rest && { name: rest.slice(0, 500) }) });
      }
    });
    return taken(found, left);
  },
  write: (marks, rate) =>
    marks.map(({ t, kind, name }) => `${timecode(frameOf(t, rate), rate)} ${name ?? kind ?? ''}`.trimEnd()).join('\n') +
    '\n',
};
