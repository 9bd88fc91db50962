/** Values over frames relative to a hit. */
import { replaced } from '../document/params.ts';
import type { Envelope, Key, TimeUnit } from '../document/types.ts';
import { eased, reversed } from './easing.ts';

/** The value at frame `at`. Before the first key the first value holds, after the last the last. */
export function evaluate(envelope: Envelope, at: number): number {
  if (typeof envelope === 'number') return envelope;
  const first = envelope[0];
  if (!first) return 0;
  if (at <= first.at) return first.value;
  for (let i = 1; i < envelope.length; i++) {
    const to = envelope[i]!;
    if (at >= to.at) continue;
    const from = envelope[i - 1]!;
    return from.value + (to.value - from.value) * eased(from.ease, (at - from.at) / (to.at - from.at));
  }
  return envelope[envelope.length - 1]!.value;
}

/** Frames of the running sums kept for one envelope; a bed over hours asks for no more. */
const MOST_SUMMED = 1 << 20;
const sums = new WeakMap<readonly Key[], Map<number, number[]>>();

/**
 * The envelope summed from frame `from` to `to` (value x frames), so that a shaped rate gives a
 * phase that never jumps. Each frame is summed by Simpson's rule, always from `from` on: the same
 * for whichever frame is asked first.
 */
export function integral(envelope: Envelope, from: number, to: number): number {
  if (typeof envelope === 'number') return envelope * (to - from);
  if (to <= from) return 0;
  const piece = (a: number, b: number): number =>
    ((evaluate(envelope, a) + 4 * evaluate(envelope, (a + b) / 2) + evaluate(envelope, b)) * (b - a)) / 6;
  let byStart = sums.get(envelope);
  if (!byStart) sums.set(envelope, (byStart = new Map<number, number[]>()));
  let sum = byStart.get(from);
  if (!sum) byStart.set(from, (sum = [0]));
  const last = envelope.at(-1)!;
  // After its last key the value is steady: no sums needed.
  const settled = Math.max(from, Math.min(Math.ceil(last.at), from + MOST_SUMMED));
  const whole = Math.min(Math.floor(to - from), Math.ceil(settled - from));
  while (sum.length <= whole) sum.push(sum.at(-1)! + piece(from + sum.length - 1, from + sum.length));
  const rest = from + whole;
  return sum[whole]! + (to > settled ? last.value * (to - rest) : piece(rest, to));
}

/** Frames of one rate as frames of another: rounded, but never to nothing. */
export function scaleFrames(frames: number, factor: number): number {
  if (frames === 0) return 0;
  return Math.sign(frames) * Math.max(1, Math.round(Math.abs(frames) * factor));
}

/** Sets the value at a frame, making a steady value into keys. The new key eases like its forerunner. */
export function withKey(envelope: Envelope, at: number, value: number): Key[] {
  const keys = typeof envelope === 'number' ? [] : [...envelope];
  const existing = keys.findIndex((key) => key.at === at);
  if (existing >= 0) {
    keys[existing] = { ...keys[existing]!, value };
    return keys;
  }
  const before = keys.filter((key) => key.at < at).at(-1);
  keys.push({ at, value, ease: before?.ease ?? 'linear' });
  return keys.sort((a, b) => a.at - b.at);
}

/** All keys later by `by`. */
export const shifted = (envelope: Envelope, by: number): Envelope =>
  typeof envelope === 'number' ? envelope : envelope.map((key) => ({ ...key, at: key.at + by }));

/** The least step that times are rounded to, by what they count in: 48 to a beat divide by halves and by thirds. */
export const GRAIN: Readonly<Record<TimeUnit, number>> = { frames: 1, ms: 1, beats: 1 / 48, '%': 1 };

/** Times the distance of each key from `about`, in steps of `grain`; keys that would meet keep one step between them. */
export function stretched(envelope: Envelope, factor: number, grain = 1, about = 0): Envelope {
  if (typeof envelope === 'number') return envelope;
  return replaced(envelope, ({ at }) => {
    if (at === about) return at;
    const steps = Math.max(1, Math.round((Math.abs(at - about) * factor) / grain));
    return about + (Math.sign(at - about) * Math.round(steps * grain * 1e6)) / 1e6;
  });
}

/** Run backwards about frame `about`: what rose before the hit falls after it. */
export function mirrored(envelope: Envelope, about = 0): Envelope {
  if (typeof envelope === 'number') return envelope;
  return [...envelope].reverse().map((key, i, keys) => ({
    ...key,
    at: 2 * about - key.at,
    ease: keys[i + 1] ? reversed(keys[i + 1]!.ease) : key.ease,
  }));
}

/** Values as far from `identity` times `factor`. */
export function scaledValues(envelope: Envelope, factor: number, identity: number): Envelope {
  const scale = (value: number): number => Math.round((identity + (value - identity) * factor) * 1000) / 1000;
  return typeof envelope === 'number' ? scale(envelope) : envelope.map((key) => ({ ...key, value: scale(key.value) }));
}

/** The envelope with a key of `identity` at each end where it stands elsewhere. */
export function endedIn(envelope: Envelope, identity: number, first: number, last: number): Envelope {
  if (typeof envelope === 'number')
    return envelope === identity
      ? envelope
      : [
          { at: first - 1, value: identity, ease: 'hold' },
          { at: first, value: envelope, ease: 'linear' },
          { at: last, value: identity, ease: 'linear' },
        ];
  let keys: Envelope = envelope;
  if (evaluate(keys, last) !== identity) keys = withKey(keys, last, identity);
  if (first < 0 && evaluate(keys, first) !== identity) keys = withKey(keys, first, identity);
  return keys;
}
