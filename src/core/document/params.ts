/** Parameters as data: what a generator moves, and keys put in order. */
import type { Envelope, Generator, Key, Moved, Param } from './types.ts';

export const isMoved = (param: Param): param is Moved => typeof param === 'object' && !Array.isArray(param);
export const envelopeOf = (param: Param): Envelope => (isMoved(param) ? param.base : param);
/** The parameter with another envelope, moved as before. */
export const withEnvelope = (param: Param, base: Envelope): Param => (isMoved(param) ? { ...param, base } : base);

/** What of a generator is shaped over time; its lists and counts are not. */
const SHAPED = ['amount', 'rate', 'chance'] as const;
export type ShapedPart = (typeof SHAPED)[number];

type Parts = Partial<Record<ShapedPart, Envelope>>;
/** What of a generator can be shaped over time. */
export const shapedParts = (by: Generator): readonly ShapedPart[] => SHAPED.filter((name) => name in by);
/** An envelope of a parameter: its own, or that of a part of the generator that moves it; null where it has none. */
export function partOf(param: Param, part: ShapedPart | undefined): Envelope | null {
  if (part === undefined) return envelopeOf(param);
  return isMoved(param) ? ((param.by as Parts)[part] ?? null) : null;
}
/** The parameter with one of its envelopes changed. */
export function withPart(param: Param, part: ShapedPart | undefined, change: (e: Envelope) => Envelope): Param {
  const envelope = partOf(param, part);
  if (envelope === null) return param;
  if (part === undefined) return withEnvelope(param, change(envelope));
  return isMoved(param) ? { ...param, by: { ...param.by, [part]: change(envelope) } } : param;
}

/** The generator with each of its envelopes changed. */
export function withShaped(by: Generator, change: (envelope: Envelope) => Envelope): Generator {
  const shaped: Record<string, Envelope> = {};
  for (const name of shapedParts(by)) shaped[name] = change((by as Parts)[name]!);
  return { ...by, ...shaped };
}

/** All envelopes of a parameter: its own, and those of the generator that moves it. */
export function envelopesOf(param: Param): Envelope[] {
  if (!isMoved(param)) return [param];
  const all = [param.base];
  withShaped(param.by, (envelope) => {
    all.push(envelope);
    return envelope;
  });
  return all;
}

/** Keys moved in time by `place`, in order, the last one of those that fall together. */
export function replaced(envelope: Envelope, place: (key: Key) => number): Envelope {
  if (typeof envelope === 'number') return envelope;
  const keys = envelope.map((key) => ({ at: place(key), value: key.value, ease: key.ease }));
  keys.sort((a, b) => a.at - b.at);
  return keys.filter((key, i) => keys[i + 1]?.at !== key.at);
}
