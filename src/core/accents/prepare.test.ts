import { describe, expect, it } from 'vitest';
import { TIME_UNITS, type PathPoint } from '../document/types.ts';
import { punchAccent } from '../testkit/montages.ts';
import { prepare, steadied } from './prepare.ts';

const triangle = (x: number): PathPoint[] => [
  { x: x - 20, y: -20, smooth: false },
  { x: x + 20, y: -20, smooth: false },
  { x, y: 20, smooth: false },
];

describe('an accent that is held', () => {
  it.each(TIME_UNITS)('has the path of its hit on every frame, with its keys in %s', (unit) => {
    const [use] = punchAccent().effects;
    const path = [
      { at: -8, points: triangle(-40) },
      { at: 8, points: triangle(40) },
    ];
    const shape = { id: 'r', kind: 'path', combine: 'add', invert: false, params: {}, path } as const;
    const moving = { ...punchAccent(), unit, lead: 8, tail: 8, effects: [{ ...use!, region: [shape] }] };
    const clock = { fps: 25, bpm: 120 };
    const held = prepare({ ...steadied(moving, clock), until: 'clip' }, clock, {
      start: 0,
      end: 99,
      clip: 99,
      next: 100,
    });
    expect(held.effects[0]!.region[0]!.path).toEqual([{ at: 0, points: triangle(0) }]);
  });
});
