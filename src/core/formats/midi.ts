/**
 * Standard MIDI files (MIDI Manufacturers Association, Standard MIDI Files 1.0, RP-001): notes, markers and cue points, by the
 * file's own map of tempi. Looked at: `@tonejs/midi` and `midi-file` read what is well formed, but run past the end of
 * what is not; reading is a page.
 */
import { big, Bytes, decoded, encoded } from './bytes.ts';
import { isKind, MarksError, taken, type Mark, type MarksFormat } from './marks.ts';

/** Ticks of a quarter at 120 a minute in files that are written: 2400 a second, a tenth of a frame of 240 a second. */
const QUARTER = 1200;
const TEMPO = 500_000;
/** The note that is written: a snare of General MIDI percussion. */
const NOTE = 38;
/** Most events that are read. */
const MOST = 1_000_000;

interface Event {
  readonly tick: number;
  readonly tempo?: number;
  readonly note?: { readonly key: number; readonly velocity: number };
  readonly words?: string;
}

/** A number of variable length: at most four bytes. */
function variable(bytes: Bytes): number {
  let value = 0;
  for (let i = 0; i < 4; i++) {
    const next = bytes.u8();
    value = value * 128 + (next & 127);
    if (next < 128) break;
  }
  return value;
}

function readTrack(bytes: Bytes, end: number, into: Event[]): string | null {
  let tick = 0;
  /** The last message to a channel: one without a status is of its kind, after messages of other kinds, too. */
  let channel = 0;
  let messages = 0;
  while (bytes.at < end) {
    if (into.length >= MOST || ++messages > MOST) return `it holds more than ${MOST} events`;
    tick += variable(bytes);
    const first = bytes.u8();
    const running = first < 128;
    const status = running ? channel : first;
    if (status < 128) return 'a message without a status';
    if (status < 0xf0) channel = status;
    if (status === 0xff) {
      const type = bytes.u8();
      const length = variable(bytes);
      if (bytes.at + length > end) return 'it breaks off';
      if (type === 0x2f) return null;
      if (type === 0x51 && length === 3) into.push({ tick, tempo: bytes.big(3) });
      else if (type === 0x06 || type === 0x07) into.push({ tick, words: decoded(bytes.word(length)).slice(0, 500) });
      else bytes.word(length);
    } else if (status === 0xf0 || status === 0xf7) {
      const length = variable(bytes);
      if (bytes.at + length > end) return 'it breaks off';
      bytes.word(length);
    } else {
      const key = running ? first : bytes.u8();
      const kind = status & 0xf0;
      const velocity = kind === 0xc0 || kind === 0xd0 ? 0 : bytes.u8();
      if (kind === 0x90 && velocity > 0) into.push({ tick, note: { key: key & 127, velocity: velocity & 127 } });
    }
  }
  return 'its end is not said';
}

/** Seconds of ticks, by the tempi before them. */
function clockOf(division: number, events: readonly Event[]): (tick: number) => number {
  // Frames a second and ticks a frame.
  if (division >= 0x8000) {
    const frames = 256 - (division >> 8);
    const each = (frames === 29 ? 30000 / 1001 : frames) * Math.max(1, division & 255);
    return (tick) => tick / each;
  }
  const tempi = events.filter(({ tempo }) => tempo !== undefined).sort((a, b) => a.tick - b.tick);
  const quarter = Math.max(1, division);
  const steps = [{ tick: 0, seconds: 0, tempo: TEMPO }];
  for (const { tick, tempo } of tempi) {
    const last = steps.at(-1)!;
    const seconds = last.seconds + ((tick - last.tick) * last.tempo) / quarter / 1e6;
    if (tick === last.tick) steps.pop();
    steps.push({ tick, seconds, tempo: tempo! });
  }
  let at = 0;
  return (tick) => {
    if (steps[at]!.tick > tick) at = 0;
    while (at + 1 < steps.length && steps[at + 1]!.tick <= tick) at++;
    const { tick: from, seconds, tempo } = steps[at]!;
    return seconds + ((tick - from) * tempo) / quarter / 1e6;
  };
}

const variableOf = (value: number): string => {
  let bytes = String.fromCharCode(value & 127);
  for (let rest = Math.floor(value / 128); rest > 0; rest = Math.floor(rest / 128))
    bytes = String.fromCharCode(128 | (rest & 127)) + bytes;
  return bytes;
};

export const midi: MarksFormat = {
  id: 'midi',
  name: 'Standard MIDI file',
  extensions: ['mid', 'midi'],
  mime: 'audio/midi',
  binary: true,
  holds: 'Notes with their velocity as strength, markers and cue points as names and kinds; times to the tick.',
  read(text) {
    const bytes = new Bytes(text);
    if (bytes.word(4) !== 'MThd') throw new MarksError('The file does not begin as a MIDI file does.');
    const length = bytes.big(4);
    const [, , division] = [bytes.big(2), bytes.big(2), bytes.big(2)];
    bytes.word(Math.max(0, Math.min(bytes.left, length - 6)));
    const events: Event[] = [];
    const left: { line: number; why: string }[] = [];
    for (let track = 1; bytes.left >= 8;) {
      const name = bytes.word(4);
      const size = bytes.big(4);
      const end = Math.min(bytes.at + size, bytes.at + bytes.left);
      if (name === 'MTrk') {
        const why = readTrack(bytes, end, events);
        if (why) left.push({ line: track, why: `track ${track}: ${why}` });
        track++;
      }
      bytes.at = end;
    }
    const seconds = clockOf(division, events);
    /** A marker and a note of one moment are one mark. */
    const found: { tick: number; words: string; velocity: number; key: number }[] = [];
    for (const { tick, note, words } of [...events].sort((a, b) => a.tick - b.tick)) {
      if (!note && words === undefined) continue;
      let mark = found.at(-1);
      if (mark?.tick !== tick || (words !== undefined && mark.words))
        found.push((mark = { tick, words: '', velocity: 0, key: 0 }));
      if (words !== undefined) mark.words = words;
      if (note && note.velocity > mark.velocity) Object.assign(mark, note);
    }
    return taken(
      found.map(({ tick, words, velocity, key }, i): Mark & { line: number } => ({
        line: i + 1,
        t: seconds(tick),
        ...(velocity > 0 && { strength: velocity / 127 }),
        ...(isKind(words) ? { kind: words } : (words || velocity) && { name: words || `note ${key}` }),
      })),
      left,
    );
  },
  write(marks, _, title) {
    let last = 0;
    const messages = marks.map(({ t, kind, name, strength = 1 }) => {
      const tick = Math.max(last, Math.round((t * 1e6 * QUARTER) / TEMPO));
      const later = tick - last;
      last = tick;
      const words = encoded((name ?? kind ?? 'mark').slice(0, 500));
      const velocity = Math.max(1, Math.round(strength * 127));
      return (
        `${variableOf(later)}\xff\x06${variableOf(words.length)}${words}` +
        `\0\x99${String.fromCharCode(NOTE, velocity)}` +
        `\0\x89${String.fromCharCode(NOTE, 0)}`
      );
    });
    const said = encoded(title.slice(0, 120));
    const track =
      `\0\xff\x03${variableOf(said.length)}${said}\0\xff\x51\x03${big(TEMPO, 3)}` + messages.join('') + `\0\xff\x2f\0`;
    return `MThd${big(6, 4)}${big(0, 2)}${big(1, 2)}${big(QUARTER, 2)}MTrk${big(track.length, 4)}${track}`;
  },
};
