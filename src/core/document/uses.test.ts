import { describe, expect, it } from 'vitest';
import { punchAccent, twoClips } from '../testkit/montages.ts';
import { addAccent, removeEffect } from './edits.ts';
import type { EffectUse, RegionShape } from './types.ts';
import { copyOf, regionOf } from './uses.ts';

const shape = (id: string): RegionShape => ({ id, kind: 'box', combine: 'add', invert: false, params: {} });
const use = (id: string, more: Partial<EffectUse> = {}): EffectUse => ({
  id,
  effect: 'flash',
  version: 1,
  on: true,
  params: {},
  ...more,
});
const uses = [
  use('a', { region: [shape('s')], stack: [use('in', { region: [shape('t')] })] }),
  use('b', { regionOf: 'a' }),
  use('c', { regionOf: 'in' }),
];
const newIds = (): (() => string) => {
  let n = 0;
  return () => `new${++n}`;
};

describe('a shared region', () => {
  it('is that of the other effect, of its stack too, and of one placement before all others', () => {
    expect(uses.map((one) => regionOf(one, uses)[0]?.id)).toEqual(['s', 's', 't']);
    expect(regionOf(uses[1]!, uses, { a: [shape('own')] })[0]!.id).toBe('own');
    expect(regionOf(use('d', { regionOf: 'gone' }), uses)).toEqual([]);
  });

  it('stays shared among effects that are copied together, and becomes the own one of what is copied alone', () => {
    const all = copyOf(uses, uses, newIds());
    expect(all.map((one) => regionOf(one, all)[0]?.id)).toEqual(['s', 's', 't']);
    expect(new Set(all.map(({ id }) => id)).size).toBe(3);
    const [alone] = copyOf([uses[1]!], uses, newIds());
    expect(alone).toEqual({ ...use('new1'), region: [shape('s')] });
  });

  it('outlives the effect that it was drawn for', () => {
    const m = removeEffect('a', 'a')(addAccent({ ...punchAccent('a'), effects: uses })(twoClips()));
    const left = m.accents.find(({ id }) => id === 'a')!.effects;
    expect(left.map(({ id }) => id)).toEqual(['b', 'c']);
    expect(left.map((one) => regionOf(one, left)[0]?.id)).toEqual(['s', 't']);
  });
});
