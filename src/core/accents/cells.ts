/** Values on frames of envelopes, set and copied cell by cell; frames count from the accent's frame 0. */
import type { Easing, Envelope, Key } from '../document/types.ts';
import { replaced } from '../document/params.ts';
import { evaluate } from './envelope.ts';
import { keyedOn, keyOn, rekeyedOn, type Places } from './prepare.ts';

/** How values that are set together change: each by as much, or each by the same factor of its distance from rest. */
export const RELATIONS = ['ratio', 'difference'] as const;
export type Relation = (typeof RELATIONS)[number];

/** One value that is set, and what others change by: `rest` is where it does nothing. */
export interface Change {
  readonly was: number;
  readonly is: number;
  readonly rest: number;
}

/** What a value becomes beside another one that changed; unchanged where that one was at rest and there is no ratio. */
export function related(value: number, rest: number, { was, is, rest: other }: Change, by: Relation): number {
  if (by === 'difference') return value + is - was;
  return was === other ? value : rest + ((value - rest) * (is - other)) / (was - other);
}

export const valueOn = (envelope: Envelope, places: Places, frame: number): number =>
  evaluate(replaced(envelope, places.of), frame);

/** Keys of neighbouring frames, to be set elsewhere. */
export interface CopiedCells {
  /** Frames, at least one. */
  readonly width: number;
  readonly keys: readonly { readonly offset: number; readonly value: number; readonly ease: Easing }[];
}

/** The keys from one frame to another, both inclusive; an end that has none gets one of its value. */
export function copiedCells(envelope: Envelope, places: Places, from: number, to: number): CopiedCells {
  const keys: { offset: number; value: number; ease: Easing }[] = [];
  for (let frame = from; frame <= to; frame++) {
    const key = keyOn(envelope, places, frame);
    if (key || frame === from || frame === to)
      keys.push({
        offset: frame - from,
        value: key?.value ?? valueOn(envelope, places, frame),
        ease: key?.ease ?? easeBefore(envelope, places, frame),
      });
  }
  return { width: to - from + 1, keys };
}

/** Puts copied keys in place of those on as many frames from `frame` on. Values stay within limits, both inclusive. */
export function pastedCells(
  envelope: Envelope,
  places: Places,
  frame: number,
  { width, keys }: CopiedCells,
  { min, max }: { readonly min: number; readonly max: number },
): Envelope {
  let next = envelope;
  for (let at = frame; at < frame + width; at++) next = rekeyedOn(next, places, at, () => null);
  for (const { offset, value, ease } of keys) {
    next = keyedOn(next, places, frame + offset, Math.min(max, Math.max(min, value)));
    next = rekeyedOn(next, places, frame + offset, (key: Key) => ({ ...key, ease }));
  }
  return next;
}

/** How the value runs on a frame between keys. */
function easeBefore(envelope: Envelope, places: Places, frame: number): Easing {
  const before = typeof envelope === 'number' ? undefined : envelope.filter((key) => places.of(key) < frame).at(-1);
  return before?.ease ?? 'linear';
}
