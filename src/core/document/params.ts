/** Parameters as data: what a generator moves, and keys put in order. */
import type { Envelope, Generator, Key, Moved, Param } from './types.ts';

export const isMoved = (param: Param): param is Moved => typeof param === 'object' && !Array.isArray(param);
export const envelopeOf = (param: Param): Envelope => (isMoved(param) ? param.base : param);
/** The parameter with another envelope, moved as before. */
export const withEnvelope = (param: Param, base: Envelope): Param => (isMoved(param) ? { ...param, base } : base);

/** What of a generator is shaped over time; its lists and counts are not. */
const SHAPED = ['amount', 'rate', 'chance'] as const;

/** The generator with each of its envelopes changed. */
export function withShaped(by: Generator, change: (envelope: Envelope) => Envelope): Generator {
  const shaped: Record<string, Envelope> = {};
  for (const name of SHAPED)
    if (name in by) shaped[name] = change((by as Generator & Record<typeof name, Envelope>)[name]);
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
