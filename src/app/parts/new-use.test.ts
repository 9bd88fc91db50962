import { describe, expect, it } from 'vitest';
import { placesOf } from '../../core/accents/prepare.ts';
import { evaluate } from '../../core/accents/envelope.ts';
import { replaced } from '../../core/document/params.ts';
import { DEFAULT_ACCENT, TIME_UNITS, type Accent, type Envelope } from '../../core/document/types.ts';
import { EFFECT_LIST } from '../../effects/index.ts';
import { newUse } from './new-use.ts';

const CLOCK = { fps: 30, bpm: 120 };
const FRAMES: Accent = {
  ...DEFAULT_ACCENT,
  id: 'a',
  name: 'A',
  rate: { num: 30, den: 1 },
  lead: 3,
  tail: 15,
  seed: 1,
  effects: [],
};
/** The same reach in each unit: 3 and 15 frames at 30 a second and 120 beats a minute. */
const REACH = { frames: [3, 15], '%': [3, 15], ms: [100, 500], beats: [0.2, 1] } as const;

describe('a new effect', () => {
  it('has the same shape in whatever unit the accent counts', () => {
    for (const lead of [0, 1])
      for (const { id } of EFFECT_LIST) {
        const values = TIME_UNITS.map((unit) => {
          const accent = { ...FRAMES, unit, lead: lead * REACH[unit][0], tail: REACH[unit][1] };
          const places = placesOf(accent, CLOCK);
          return Object.values(newUse(accent, id).params).map((param) =>
            [-3, -1, 0, 5, 15].map((at) => evaluate(replaced(param as Envelope, places.of), at).toFixed(6)),
          );
        });
        for (const other of values) expect(other).toEqual(values[0]);
      }
  });
});
