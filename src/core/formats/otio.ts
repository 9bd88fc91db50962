/** OpenTimelineIO JSON (Timeline.1, Marker.2 or later): markers of the timeline, its tracks and clips. */
import { fps, type Rate } from '../base/time.ts';
import { LIMITS } from '../document/limits.ts';
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

/** @throws MarksError where a text holds no timeline */
function timelineIn(text: string): unknown {
  let root: unknown;
  try {
    root = JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch {
    throw new MarksError('The file is no JSON.');
  }
  if (['Timeline', 'Stack', 'Track'].includes(schemaOf(root))) return root;
  throw new MarksError('The file holds no OpenTimelineIO timeline.');
}

export const otio: MarksFormat = {
  id: 'otio',
  name: 'OpenTimelineIO',
  extensions: ['otio'],
  mime: 'application/json',
  holds: 'Markers with frame, kind, strength and name.',
  read(text) {
    const root = timelineIn(text);
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

/** The row of clips as a timeline of one track. */
export const otioRow: RowFormat = {
  id: 'otio',
  name: 'OpenTimelineIO',
  extensions: ['otio'],
  read(text) {
    const root = timelineIn(text);
    const clips: (RowClip & { line: number })[] = [];
    const left: { line: number; why: string }[] = [];
    let count = 0;
    let track: string | null = null;
    const visit = (item: unknown, depth: number): void => {
      if (!isObject(item) || depth > LIMITS.jsonDepth) return;
      const schema = schemaOf(item);
      if (schema === 'Timeline') return visit(item['tracks'], depth + 1);
      if (schema === 'Track') {
        // The first track of pictures is the row; what lies over it is said to be left out.
        const id = `${depth} ${count}`;
        if (item['kind'] === 'Audio') return;
        if (track !== null && track !== id) {
          left.push({ line: count + 1, why: `the track “${String(item['name'] ?? '')}” lies over the first one` });
          return;
        }
        track = id;
      }
      if (schema === 'Stack' || schema === 'Track') {
        for (const child of listOf(item['children'])) visit(child, depth + 1);
        return;
      }
      const line = ++count;
      if (schema === 'Gap') left.push({ line, why: 'a gap' });
      else if (schema === 'Transition') left.push({ line, why: 'a transition is taken as a cut' });
      else if (schema === 'Clip') {
        const media = mediaOf(item);
        const range = item['source_range'] ?? media?.['available_range'];
        const [from, length] = [startOf(range), lengthOf(range)];
        const name = decodedUrl(String(media?.['target_url'] ?? media?.['name'] ?? item['name'] ?? ''));
        if (from === null || length === null || !(length > 0)) left.push({ line, why: 'a clip without a stretch' });
        else if (from < 0) left.push({ line, why: 'a clip that begins before its source' });
        else clips.push({ line, name, in: from, out: from + length });
      } else left.push({ line, why: `“${schema || 'something'}” is not known` });
    };
    visit(root, 0);
    return { clips, left };
  },
  write(clips, rate, title) {
    const each = fps(rate);
    const range = (from: number, to: number): Json => ({
      OTIO_SCHEMA: 'TimeRange.1',
      start_time: rational(from, each),
      duration: rational(to - from, each),
    });
    return `${JSON.stringify(
      {
        OTIO_SCHEMA: 'Timeline.1',
        name: title,
        tracks: {
          OTIO_SCHEMA: 'Stack.1',
          name: 'tracks',
          children: [
            {
              OTIO_SCHEMA: 'Track.1',
              kind: 'Video',
              name: 'Row',
              children: clips.map((clip) => ({
                OTIO_SCHEMA: 'Clip.1',
                name: clip.name,
                source_range: range(
                  frameOf(clip.in, rate),
                  Math.max(frameOf(clip.in, rate) + 1, frameOf(clip.out, rate)),
                ),
                media_reference: { OTIO_SCHEMA: 'ExternalReference.1', target_url: encodeURI(clip.name) },
              })),
            },
          ],
        },
      },
      null,
      1,
    )}\n`;
  },
};

/** The medium of a clip; of several the active one (Clip.2). */
function mediaOf(clip: Json): Json | null {
  const { media_reference: one, media_references: several, active_media_reference_key: key } = clip;
  if (isObject(one)) return one;
  const active = isObject(several) ? several[String(key ?? 'DEFAULT_MEDIA')] : null;
  return isObject(active) ? active : null;
}

function decodedUrl(url: string): string {
  try {
    return decodeURIComponent(url).slice(0, 1000);
  } catch {
    return url.slice(0, 1000);
  }
}
