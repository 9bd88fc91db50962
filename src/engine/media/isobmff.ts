/**
 * What the container library does not say of an MP4 or MOV file: whether it has an index at all, where its edit list
 * ends what is shown, and whether its H.264 is interlaced. Boxes: ISO/IEC 14496-12; sequence parameter sets: ITU-T H.264,
 * section 7.3.2.1.1.
 */
import { EngineError } from '../errors.ts';
import type { MediaLocation } from './open.ts';

export interface TrackEdit {
  /** "vide", "soun" or another handler. */
  readonly handler: string;
  /** Seconds at which the edit list ends what is shown; Infinity where it does not. */
  readonly end: number;
  /** Stretches that the edit list puts together. */
  readonly edits: number;
  /** H.264 that may hold fields instead of frames. */
  readonly interlaced: boolean;
}

/** Largest index that is read for this. */
const MOST = 64 << 20;

async function read(location: MediaLocation, from: number, to: number): Promise<DataView> {
  const bytes = location.blob
    ? await location.blob.slice(from, to).arrayBuffer()
    : await (await fetch(location.url, { headers: { Range: `bytes=${from}-${to - 1}` } })).arrayBuffer();
  return new DataView(bytes.byteLength > to - from ? bytes.slice(0, to - from) : bytes);
}

const nameAt = (view: DataView, at: number): string =>
  String.fromCharCode(view.getUint8(at), view.getUint8(at + 1), view.getUint8(at + 2), view.getUint8(at + 3));

/** Boxes within a stretch of a box, what is cut short or makes no sense left out. */
function* boxes(view: DataView, from: number, to: number): Generator<{ name: string; from: number; to: number }> {
  for (let at = from; at + 8 <= to;) {
    let size = view.getUint32(at);
    let head = 8;
    if (size === 1 && at + 16 <= to) {
      size = Number(view.getBigUint64(at + 8));
      head = 16;
    } else if (size === 0) size = to - at;
    if (size < head || at + size > to) return;
    yield { name: nameAt(view, at + 4), from: at + head, to: at + size };
    at += size;
  }
}

function inside(view: DataView, from: number, to: number, ...path: string[]): { from: number; to: number } | null {
  const [name, ...rest] = path;
  for (const box of boxes(view, from, to)) {
    if (box.name !== name) continue;
    return rest.length ? inside(view, box.from, box.to, ...rest) : box;
  }
  return null;
}

/** Whether the first sequence parameter set of an `avcC` box allows fields (frame_mbs_only_flag is 0). */
function allowsFields(bytes: Uint8Array): boolean {
  const length = ((bytes[6] ?? 0) << 8) | (bytes[7] ?? 0);
  // Emulation prevention bytes out, header of the unit off.
  const unit: number[] = [];
  for (let i = 9, zeros = 0; i < Math.min(bytes.length, 8 + length); i++) {
    if (zeros >= 2 && bytes[i] === 3) {
      zeros = 0;
      continue;
    }
    zeros = bytes[i] === 0 ? zeros + 1 : 0;
    unit.push(bytes[i]!);
  }
  let at = 0;
  const bit = (): number => ((unit[at >> 3] ?? 0) >> (7 - (at++ & 7))) & 1;
  const bits = (n: number): number => Array.from({ length: n }, bit).reduce((v, b) => v * 2 + b, 0);
  const ue = (): number => {
    let zeros = 0;
    while (!bit() && zeros < 32) zeros++;
    return 2 ** zeros - 1 + bits(zeros);
  };
  const se = (): number => ue();
  const profile = bits(8);
  bits(16);
  ue();
  if ([100, 110, 122, 244, 44, 83, 86, 118, 128, 138].includes(profile)) {
    const chroma = ue();
    if (chroma === 3) bit();
    ue();
    ue();
    bit();
    // Scaling lists are long and rare: what holds them is not looked into.
    if (bit()) return false;
  }
  ue();
  const order = ue();
  if (order === 0) ue();
  else if (order === 1) {
    bit();
    se();
    se();
    for (let n = Math.min(255, ue()); n > 0; n--) se();
  }
  ue();
  bit();
  ue();
  ue();
  return !bit();
}

/** Tables of an index: bytes before the count, and of an entry. */
const TABLES = {
  stts: [4, 8],
  ctts: [4, 8],
  stss: [4, 4],
  stsc: [4, 12],
  stco: [4, 4],
  co64: [4, 8],
} as const;

/** Boxes a sample table must have, each by either of its names (ISO/IEC 14496-12, 8.5 to 8.7; from memory). */
const MANDATORY = [['stsd'], ['stts'], ['stsc'], ['stsz', 'stz2'], ['stco', 'co64']];

/**
 * Whether a track's tables hold what they say: a damaged count of thousands of millions would be counted up to by
 * whoever reads it.
 */
function holdsItsTables(view: DataView, trak: { from: number; to: number }, size: number): boolean {
  const table = inside(view, trak.from, trak.to, 'mdia', 'minf', 'stbl');
  if (!table) return true;
  const names = new Set([...boxes(view, table.from, table.to)].map(({ name }) => name));
  if (!MANDATORY.every((either) => either.some((name) => names.has(name)))) return false;
  let samples = Infinity;
  let timed = 0;
  for (const { name, from, to } of boxes(view, table.from, table.to)) {
    const known = TABLES[name as keyof typeof TABLES];
    if (known) {
      const [before, entry] = known;
      if (to - from < before + 4) return false;
      const count = view.getUint32(from + before);
      if (before + 4 + count * entry > to - from) return false;
      if (name === 'stts') for (let i = 0; i < count; i++) timed += view.getUint32(from + before + 4 + i * entry);
    } else if (name === 'stsz') {
      if (to - from < 12) return false;
      const [each, count] = [view.getUint32(from + 4), view.getUint32(from + 8)];
      if (each === 0 ? 12 + count * 4 > to - from : count * each > size) return false;
      samples = count;
    }
  }
  // Some writers time a few samples more than there are.
  return timed <= Math.min(samples + 65_536, size);
}

function trackOf(view: DataView, trak: { from: number; to: number }, movieScale: number): TrackEdit {
  const handlerBox = inside(view, trak.from, trak.to, 'mdia', 'hdlr');
  const list = inside(view, trak.from, trak.to, 'edts', 'elst');
  let end = 0;
  let edits = 0;
  if (list && list.to - list.from >= 8) {
    const version = view.getUint8(list.from);
    const size = version === 1 ? 20 : 12;
    const count = Math.min(view.getUint32(list.from + 4), Math.floor((list.to - list.from - 8) / size));
    for (let i = 0; i < count; i++) {
      const at = list.from + 8 + i * size;
      const duration = version === 1 ? Number(view.getBigUint64(at)) : view.getUint32(at);
      const media = version === 1 ? Number(view.getBigInt64(at + 8)) : view.getInt32(at + 4);
      // Of several stretches only the first is read; an empty one before it only makes it later.
      if (edits === 0) end += duration / movieScale;
      // A stretch of no length goes on to the end of a file that is written in fragments.
      if (media >= 0 && edits++ === 0 && duration === 0) end = Infinity;
    }
  }
  const entries = inside(view, trak.from, trak.to, 'mdia', 'minf', 'stbl', 'stsd');
  const entry = entries && inside(view, entries.from + 8, entries.to, 'avc1');
  const config = entry && inside(view, entry.from + 78, entry.to, 'avcC');
  return {
    handler: handlerBox && handlerBox.to - handlerBox.from >= 12 ? nameAt(view, handlerBox.from + 8) : '',
    end: edits ? end : Infinity,
    edits,
    interlaced: config
      ? allowsFields(new Uint8Array(view.buffer, view.byteOffset + config.from, config.to - config.from))
      : false,
  };
}

/** Names of the first box of MP4 and MOV files. */
const FIRST = ['ftyp', 'moov', 'mdat', 'wide', 'free', 'skip', 'pnot', 'styp'];

/**
 * Tracks of a file's index in their order; null where it has none, or is no such file. Files that make no sense give no
 * tracks. @throws EngineError for an index whose tables hold less than they say
 */
export async function trackEdits(location: MediaLocation, size: number, name: string): Promise<TrackEdit[] | null> {
  for (let at = 0; at + 8 <= size;) {
    const head = await read(location, at, Math.min(size, at + 16));
    if (head.byteLength < 8) return null;
    let length = head.getUint32(0);
    if (length === 1 && head.byteLength === 16) length = Number(head.getBigUint64(8));
    else if (length === 0) length = size - at;
    if (length < 8) return null;
    if (at === 0 && !FIRST.includes(nameAt(head, 4))) return null;
    if (nameAt(head, 4) === 'moov') {
      if (length > MOST) return [];
      try {
        const view = await read(location, at, Math.min(size, at + length));
        const whole = { from: 8, to: view.byteLength };
        for (const box of boxes(view, whole.from, whole.to))
          if (box.name === 'trak' && !holdsItsTables(view, box, size))
            throw new EngineError('truncated', `${name} is damaged: its index says more than it holds.`);
        const header = inside(view, whole.from, whole.to, 'mvhd');
        const scale = header ? view.getUint32(header.from + (view.getUint8(header.from) === 1 ? 20 : 12)) : 0;
        return [...boxes(view, whole.from, whole.to)].flatMap((box) =>
          box.name === 'trak' ? [trackOf(view, box, scale || 1)] : [],
        );
      } catch (error) {
        if (error instanceof EngineError) throw error;
        return [];
      }
    }
    at += length;
  }
  return null;
}
