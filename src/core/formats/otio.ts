/** OpenTimelineIO JSON (Timeline.1, Marker.2 or later): markers of the timeline, its tracks and clips. */
import { fps, type Rate } from '../base/time.ts';
import { LIMITS } from '../document/limits.ts';
import { frameOf, isKind, MarksError, taken, type Mark, type MarksFormat } from './marks.ts';

type Json = Readonly<Record<string, unknown>>;
const isObject = (value: unknown): value is Json =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const schemaOf = (value: unknown): string => (isObject(value) ? String(value['OTIO_SCHEMA'] ?? '').split('.')[0]! : '');
const listOf = (value: unknown): readonly unknown[] => (Array.isArray(value) ? value : []);

/** Seconds of a RationalTime; null for what is none. */
function secondsOf(time: unknown): number | null {
  if (!isObject(time)) return null;
  const [value, rate] = [Number(time['value']), Number(time['rate'])];
  return Number.isFinite(value) && rate > 0 ? value / rate : null;
}
const startOf = (range: unknown): number | null => (isObject(range) ? secondsOf(range['start_time']) : null);
const lengthOf = (range: unknown): number | null => (isObject(range) ? secondsOf(range['duration']) : null);

const rational = (frames: number, rate: number): Json => ({ OTIO_SCHEMA: 'RationalTime.1', rate, value: frames });

export const otio: MarksFormat = {
  id: 'otio',
  name: 'OpenTimelineIO',
  extensions: ['otio'],
  mime: 'application/json',
  holds: 'Markers with frame, kind, strength and name.',
  read(text) {
    let root: unknown;
    try {
      root = JSON.parse(text.replace(/^\uFEFF/, ''));
    } catch {
      throw new MarksError('The file is no JSON.');
    }
    if (!['Timeline', 'Stack', 'Track'].includes(schemaOf(root)))
      throw new MarksError('The file holds no OpenTimelineIO timeline.');
    const found: (Mark & { line: number })[] = [];
    const left: { line: number; why: string }[] = [];
    let count = 0;
    /** Takes the markers of an item that begins at a time, and of what is in it; gives how long it is. */
    const visit = (item: unknown, at: number, depth: number): number => {
      if (!isObject(item) || depth > LIMITS.jsonDepth) return 0;
      const shown = item['source_range'];
      const from = startOf(shown) ?? 0;
      for (const marker of listOf(item['markers'])) {
        const line = ++count;
        const range = isObject(marker) ? marker['marked_range'] : null;
        const start = startOf(range);
        if (!isObject(marker) || start === null) {
          left.push({ line, why: 'a marker without a time' });
          continue;
        }
        const own = isObject(marker['metadata']) ? marker['metadata']['akmeon'] : null;
        const { kind, strength } = isObject(own) ? own : {};
        const name = String(marker['name'] ?? '').slice(0, 500);
        const length = lengthOf(range) ?? 0;
        found.push({
          line,
          t: at + start - from,
          ...(length > 0 && { end: at + start - from + length }),
          ...(typeof kind === 'string' && isKind(kind) ? { kind } : isKind(name) && { kind: name }),
          ...(typeof strength === 'number' && strength >= 0 && strength <= 1 && { strength }),
          ...(name && !isKind(name) && { name }),
        });
      }
      const schema = schemaOf(item);
      if (schema === 'Timeline') return visit(item['tracks'], at, depth + 1);
      if (schema !== 'Stack' && schema !== 'Track')
        return (
          lengthOf(shown) ??
          lengthOf(isObject(item['media_reference']) ? item['media_reference']['available_range'] : null) ??
          0
        );
      let length = 0;
      for (const child of listOf(item['children'])) {
        if (schemaOf(child) === 'Transition') continue;
        const own = visit(child, schema === 'Track' ? at + length : at, depth + 1);
        length = schema === 'Track' ? length + own : Math.max(length, own);
      }
      return lengthOf(shown) ?? length;
    };
    visit(root, 0, 0);
    return taken(found, left);
  },
  write(marks, rate: Rate, title) {
    const each = fps(rate);
    return `${JSON.stringify(
      {
        OTIO_SCHEMA: 'Timeline.1',
        name: title,
        global_start_time: null,
        metadata: {},
        tracks: {
          OTIO_SCHEMA: 'Stack.1',
          name: 'tracks',
          children: [],
          effects: [],
          source_range: null,
          metadata: {},
          markers: marks.map(({ t, end, kind, strength, name }) => ({
            OTIO_SCHEMA: 'Marker.2',
            name: name ?? kind ?? '',
            color: 'RED',
            marked_range: {
              OTIO_SCHEMA: 'TimeRange.1',
              start_time: rational(frameOf(t, rate), each),
              duration: rational(end === undefined ? 0 : frameOf(end - t, rate), each),
            },
            metadata: { akmeon: { ...(kind && { kind }), ...(strength !== undefined && { strength }) } },
          })),
        },
      },
      null,
      1,
    )}\n`;
  },
};
