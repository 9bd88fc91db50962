/**
 * CMX 3600 decision lists: events with source and record times, in the layout of SMPTE RP 224 ("EDL 258M" of SMPTE 258M-2004
 * from memory), markers as the `* LOC:` remarks that editing programs add (common practice, no source).
 */
import { greatest, least } from '../base/extremes.ts';
import { framesFrom, frameToSeconds, isDropRate, timecode, type Rate } from '../base/time.ts';
import {
  frameOf,
  isKind,
  MarksError,
  taken,
  type Mark,
  type MarksFormat,
  type RowClip,
  type RowFormat,
} from './marks.ts';

const CODE = String.raw`\d{1,2}:\d{2}:\d{2}[:;.]\d{2,3}`;
const EVENT = new RegExp(
  String.raw`^\s*(\d{1,6})\s+(\S+)\s+(\S+)\s+([A-Z]\S*)(?:\s+\d+)?\s+(${CODE})\s+(${CODE})\s+(${CODE})\s+(${CODE})\s*$`,
);
const LOCATOR = new RegExp(String.raw`^\s*\*\s*LOC:\s*(${CODE})\s*(?:([A-Z]+)\b)?\s*(.*)$`);
const CLIP = /^\*\s*(?:FROM CLIP NAME|SOURCE FILE):\s*(.+)$/i;

interface Event {
  readonly line: number;
  readonly reel: string;
  readonly video: boolean;
  /** Seconds. */
  readonly source: readonly [number, number];
  readonly record: readonly [number, number];
  name: string | null;
}
interface Parsed {
  readonly events: readonly Event[];
  readonly marks: readonly (Mark & { readonly line: number })[];
  readonly left: { line: number; why: string }[];
}

/** @throws MarksError where no line is one of a decision list */
function parse(text: string, rate: Rate): Parsed {
  const events: Event[] = [];
  const marks: (Mark & { line: number })[] = [];
  const left: { line: number; why: string }[] = [];
  let drop = isDropRate(rate);
  const seconds = (code: string): number | null => {
    const plain = code.replace('.', ':').replace(/[:;](\d+)$/, `${drop && isDropRate(rate) ? ';' : ':'}$1`);
    const frame = framesFrom(plain, rate);
    return frame === null || frame < 0 ? null : frameToSeconds(frame, rate);
  };
  let known = false;
  text.split(/\r\n?|\n/).forEach((raw, i) => {
    const line = i + 1;
    if (/^\s*FCM:/i.test(raw)) drop = !/NON/i.test(raw);
    if (/^\s*(TITLE|FCM):/i.test(raw)) known = true;
    const event = EVENT.exec(raw);
    if (event) {
      known = true;
      const times = event.slice(5, 9).flatMap((code) => seconds(code) ?? []);
      const [from, to, begin, end] = times as [number, number, number, number];
      if (times.length < 4) return left.push({ line, why: 'a timecode that there is not at this rate' });
      if (end < begin || to < from) return left.push({ line, why: 'it ends before it begins' });
      events.push({
        line,
        reel: event[2]!,
        video: /V/.test(event[3]!),
        source: [from, to],
        record: [begin, end],
        name: null,
      });
      if (!/^C$/.test(event[4]!)) left.push({ line, why: `its transition ${event[4]!} is taken as a cut` });
      return;
    }
    const locator = LOCATOR.exec(raw);
    if (locator) {
      const t = seconds(locator[1]!);
      const name = locator[3]!.trim().slice(0, 500);
      if (t === null) left.push({ line, why: 'a timecode that there is not at this rate' });
      else marks.push({ line, t, ...(isKind(name) ? { kind: name } : name && { name }) });
      return;
    }
    const [, name] = CLIP.exec(raw.trim()) ?? [];
    const last = events.at(-1);
    if (name && last) last.name ??= name;
    else if (/^\s*\d{1,6}\s+\S+\s+\S+\s+[A-Z]/.test(raw))
      left.push({ line, why: 'an event whose times cannot be read' });
  });
  if (!known) throw new MarksError('The file is no CMX 3600 decision list.');
  return { events, marks, left };
}

/** Where the record begins: programs begin it at an hour of their own. */
function beginOf({ events, marks }: Parsed, rate: Rate): number {
  const first = least(events.length ? events.map(({ record }) => record[0]) : marks.map(({ t }) => t));
  // An hour of timecode is not quite one of time at every rate.
  const hours = Number.isFinite(first) ? Math.floor((first + 4) / 3600) : 0;
  const frame = framesFrom(`${hours}:00:00${isDropRate(rate) ? ';' : ':'}00`, rate);
  return frame !== null && frameToSeconds(frame, rate) <= first ? frameToSeconds(frame, rate) : 0;
}

const two = (frame: number, rate: Rate): string => timecode(frame, rate).padStart(11, '0');
const header = (title: string, rate: Rate): string[] => [
  `TITLE: ${title.replace(/[\r\n]+/g, ' ').slice(0, 70)}`,
  `FCM: ${isDropRate(rate) ? 'DROP FRAME' : 'NON-DROP FRAME'}`,
  '',
];
const event = (
  n: number,
  reel: string,
  source: readonly [number, number],
  record: readonly [number, number],
  rate: Rate,
): string =>
  `${String(n).padStart(3, '0')}  ${reel.padEnd(8)} V     C        ${[...source, ...record].map((frame) => two(frame, rate)).join(' ')}`;

export const cmx3600: MarksFormat = {
  id: 'cmx3600',
  name: 'Decision list, CMX 3600',
  extensions: ['edl'],
  mime: 'text/plain',
  holds: 'Frames by timecode, drop-frame too, and one word or name a mark; cuts between events.',
  read(text, rate) {
    const parsed = parse(text, rate);
    const begin = beginOf(parsed, rate);
    const cuts = parsed.events
      .filter(({ video, record }) => video && record[0] > begin)
      .map(({ line, record }) => ({ line, t: record[0], kind: 'cut' as const }));
    // A list with marks of its own is read for these.
    const found = parsed.marks.length ? parsed.marks : cuts;
    return taken(
      found.map((mark) => ({ ...mark, t: mark.t - begin })),
      parsed.left,
    );
  },
  write(marks, rate, title) {
    const end = greatest(
      marks.map(({ t }) => frameOf(t, rate) + 1),
      1,
    );
    return [
      ...header(title, rate),
      event(1, 'AX', [0, end], [0, end], rate),
      ...marks.map(
        ({ t, kind, name }) =>
          `* LOC: ${two(frameOf(t, rate), rate)} RED     ${(name ?? kind ?? 'mark').replace(/[\r\n]+/g, ' ')}`,
      ),
      '',
    ].join('\n');
  },
};

/** The row of clips as a decision list. */
export const cmx3600Row: RowFormat = {
  id: 'cmx3600',
  name: 'Decision list, CMX 3600',
  extensions: ['edl'],
  read(text, rate) {
    const { events, left } = parse(text, rate);
    const clips = events
      .filter(({ video }) => video)
      .sort((a, b) => a.record[0] - b.record[0])
      .map(({ line, name, reel, source }): RowClip & { line: number } => ({
        line,
        name: name ?? reel,
        in: source[0],
        out: source[1],
      }));
    return { clips, left };
  },
  write(clips, rate, title) {
    let record = 0;
    return [
      ...header(title, rate),
      ...clips.flatMap((clip, i) => {
        const source = [frameOf(clip.in, rate), Math.max(frameOf(clip.in, rate) + 1, frameOf(clip.out, rate))] as const;
        const begin = record;
        record += source[1] - source[0];
        return [
          event(i + 1, 'AX', source, [begin, record], rate),
          `* FROM CLIP NAME: ${clip.name.replace(/[\r\n]+/g, ' ')}`,
        ];
      }),
      '',
    ].join('\n');
  },
};
