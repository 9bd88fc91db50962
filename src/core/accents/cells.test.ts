import { describe, expect, it } from 'vitest';
import type { Accent, Envelope } from '../document/types.ts';
import { punchAccent } from '../testkit/montages.ts';
import { copiedCells, pastedCells, related, valueOn } from './cells.ts';
import { evaluate } from './envelope.ts';
import { keyedOn, keyOn, placesOf, prepare, rekeyedOn } from './prepare.ts';

const CLOCK = { fps: 30, bpm: 120 };
const places = placesOf({ ...punchAccent(), lead: 4, tail: 12, unit: 'frames' }, CLOCK);
const ramp: Envelope = [
  { at: -2, value: 0, ease: 'linear' },
  { at: 0, value: 100, ease: 'hold' },
  { at: 6, value: 0, ease: 'fast out' },
];

describe('values that are set together', () => {
  it('change by as much, or by the same factor of their distance from where they do nothing', () => {
    const zoom = { was: 120, is: 110, rest: 100 };
    expect(related(8, 0, zoom, 'difference')).toBe(-2);
    expect(related(8, 0, zoom, 'ratio')).toBe(4);
    expect(related(-8, 0, zoom, 'ratio')).toBe(-4);
    // Where the one that is set does nothing there is no factor: a zoom that begins turns nothing.
    expect(related(8, 0, { was: 100, is: 111, rest: 100 }, 'ratio')).toBe(8);
    expect(related(0, 0, { was: 110, is: 111, rest: 100 }, 'ratio')).toBe(0);
  });
});

describe('copied cells', () => {
  it('have the keys with their easings, and a key at either end', () => {
    expect(copiedCells(ramp, places, -1, 1)).toEqual({
      width: 3,
      keys: [
        { offset: 0, value: 50, ease: 'linear' },
        { offset: 1, value: 100, ease: 'hold' },
        { offset: 2, value: 100, ease: 'hold' },
      ],
    });
  });

  it('are set elsewhere as they were, in place of what lay there, within limits', () => {
    const piece = copiedCells(ramp, places, -2, 6);
    const pasted = pastedCells([{ at: 3, value: 7, ease: 'linear' }], places, 2, piece, { min: 0, max: 80 });
    expect(pasted).toEqual([
      { at: 2, value: 0, ease: 'linear' },
      { at: 4, value: 80, ease: 'hold' },
      { at: 10, value: 0, ease: 'fast out' },
    ]);
    expect(valueOn(pasted, places, 3)).toBe(40);
    expect(pastedCells(5, places, 0, copiedCells(3, places, 1, 1), { min: 0, max: 80 })).toEqual([
      { at: 0, value: 3, ease: 'linear' },
    ]);
  });
});

describe('keys that fall together', () => {
  const accent: Accent = { ...punchAccent(), unit: '%', lead: 0, tail: 10 };
  const at = placesOf(accent, CLOCK);
  const both: Envelope = [
    { at: -100, value: 0, ease: 'linear' },
    { at: 0, value: 50, ease: 'linear' },
    { at: 100, value: 0, ease: 'linear' },
  ];
  const drawn = (envelope: Envelope): number => {
    const use = { ...accent.effects[0]!, params: { zoom: envelope } };
    return evaluate(prepare({ ...accent, effects: [use] }, CLOCK).effects[0]!.params['zoom'] as Envelope, 0);
  };

  it('are one: the value that is typed is the one that is drawn', () => {
    expect(drawn(both)).toBe(50);
    expect(keyOn(both, at, 0)).toBe((both as readonly unknown[])[1]);
    const typed = keyedOn(both, at, 0, 80);
    expect(drawn(typed)).toBe(80);
    expect(typed).toHaveLength(2);
    // Taken away, none is left on that frame.
    expect(
      keyOn(
        rekeyedOn(both, at, 0, () => null),
        at,
        0,
      ),
    ).toBeUndefined();
  });
});
