/** Values over frames relative to a hit. */
import bezier from 'bezier-easing';

/** CSS Easing Functions Level 1 control points for the named curves; `hold` is steps(1, jump-end). */
export const EASINGS = {
  hold: null,
  linear: [0, 0, 1, 1],
  ease: [0.25, 0.1, 0.25, 1],
  'fast out': [0.05, 0.7, 0.1, 1],
  'slow out': [0.42, 0, 1, 1],
  'both slow': [0.42, 0, 0.58, 1],
} as const;
export type EasingName = keyof typeof EASINGS;
export const EASING_NAMES = Object.keys(EASINGS) as EasingName[];

export interface Key {
  /** Frames from the hit at the accent's own rate; 0 is the hit's frame. */
  readonly at: number;
  readonly value: number;
  /** How the value runs from this key to the next. */
  readonly ease: EasingName;
}

/** A steady value, or keys in ascending order of `at`. */
export type Envelope = number | readonly Key[];

const curves = new Map<EasingName, (t: number) => number>();

/** Progress 0-1 to eased progress 0-1. */
export function eased(name: EasingName, t: number): number {
  const points = EASINGS[name];
  if (!points) return t >= 1 ? 1 : 0;
  let curve = curves.get(name);
  if (!curve) curves.set(name, (curve = bezier(points[0], points[1], points[2], points[3])));
  return curve(Math.min(1, Math.max(0, t)));
}

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

/**
 * Frame counts made at one rate carried to another: rounded, but never to nothing, and two keys
 * never onto one frame.
 */
export function scaleEnvelope(envelope: Envelope, factor: number): Envelope {
  if (typeof envelope === 'number' || factor === 1) return envelope;
  const scaled = envelope.map((key) => ({ ...key, at: scaleFrames(key.at, factor) }));
  return scaled.filter((key, i) => i === scaled.length - 1 || scaled[i + 1]!.at !== key.at);
}

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

/** Removes the key at a frame; the last key leaves its value behind as a steady one. */
export function withoutKey(envelope: Envelope, at: number): Envelope {
  if (typeof envelope === 'number') return envelope;
  const keys = envelope.filter((key) => key.at !== at);
  return keys.length ? keys : (envelope[0]?.value ?? 0);
}
