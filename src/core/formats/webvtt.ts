/** WebVTT: The Web Video Text Tracks Format, W3C Candidate Recommendation 4 April 2019; cues as chapters of players. */
import { clockTime, isKind, MarksError, secondsIn, taken, type Mark, type MarksFormat } from './marks.ts';

const ARROW = /^\s*(\S+)\s+-->\s+(\S+)(?:\s.*)?$/;
/** Seconds that the last chapter lasts. */
const LAST = 5;

const escaped = (text: string): string =>
  text
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;')
    .replace(/[\r\n]+/g, ' ');
const unescaped = (text: string): string =>
  text
    .replace(/<[^<>]*>/g, '')
    .replaceAll('&lt;', '<')
    .replaceAll('&gt;', '>')
    .replaceAll('&nbsp;', ' ')
    .replaceAll('&amp;', '&');

export const webvtt: MarksFormat = {
  id: 'webvtt',
  name: 'WebVTT',
  extensions: ['vtt'],
  mime: 'text/vtt',
  holds: 'Times to the millisecond and names; each cue lasts until the next, so that players show chapters.',
  read(text, rate) {
    const lines = text.replace(/^\uFEFF/, '').split(/\r\n?|\n/);
    if (!/^WEBVTT(?:[ \t].*)?$/.test(lines[0] ?? '')) throw new MarksError('The file does not begin with “WEBVTT”.');
    const found: (Mark & { line: number })[] = [];
    const left: { line: number; why: string }[] = [];
    for (let i = 1; i < lines.length; i++) {
      if (!lines[i]!.includes('-->')) continue;
      const [, from, to] = ARROW.exec(lines[i]!) ?? [];
      const [t, end] = [from, to].map((time) => secondsIn(time ?? '', rate, 'seconds'));
      const line = i + 1;
      if (t === null || t === undefined || end === null || end === undefined) {
        left.push({ line, why: 'its times cannot be read' });
        continue;
      }
      const words: string[] = [];
      while (i + 1 < lines.length && lines[i + 1]!.trim() && !lines[i + 1]!.includes('-->'))
        words.push(lines[++i]!.trim());
      const name = unescaped(words.join(' ')).trim();
      found.push({
        line,
        t,
        ...(end > t && { end }),
        ...(isKind(name) ? { kind: name } : name && { name: name.slice(0, 500) }),
      });
    }
    return taken(found, left);
  },
  write: (marks) =>
    ['WEBVTT', '']
      .concat(
        marks.flatMap(({ t, end, kind, name }, i) => [
          `${clockTime(t)} --> ${clockTime(end ?? marks[i + 1]?.t ?? t + LAST)}`,
          escaped(name ?? kind ?? `Mark ${i + 1}`),
          '',
        ]),
      )
      .join('\n'),
};
