import { describe, expect, it } from 'vitest';
import { addRule, decideAll } from '../montage/edits.ts';
import type { Montage, Rule } from '../montage/types.ts';
import { mediaIndex, timeline } from '../plan/timeline.ts';
import { footage, hit, punchAccent, twoClips } from '../testkit/montages.ts';
import { carries, matches, placements, scaleAccent } from './placements.ts';

const rule = (change: Partial<Rule> = {}): Rule => ({ id: 'r', accent: 'a', on: true, kinds: ['shot', 'join'], minStrength: 0, follow: 0, seed: 1, ...change });
const of = (m: Montage) => placements(m, timeline(m, mediaIndex(m.sources)));
const base: Montage = { ...decideAll([hit('h', 'one', 1.5)], 'kept')(twoClips()), accents: [punchAccent()] };

describe('placements', () => {
  it('carry accents only on kept and hand-made hits', () => {
    expect((['found', 'kept', 'rejected', 'made'] as const).map((state) => carries(hit('h', 'one', 1, { state })))).toEqual([false, true, false, true]);
    expect(matches(rule({ minStrength: 0.5 }), hit('h', 'one', 1, { strength: 0.5 }))).toBe(true);
    expect(matches(rule({ minStrength: 0.51 }), hit('h', 'one', 1, { strength: 0.5 }))).toBe(false);
  });

  it('lie on joins too, when the rule names them', () => {
    expect(of(addRule(rule())(base)).map((p) => p.frame)).toEqual([15, 30]);
    expect(of(addRule(rule({ kinds: ['join'] }))(base)).map((p) => p.frame)).toEqual([30]);
  });

  it('of several rules all lie on one hit, in the rules\' order', () => {
    const two = addRule(rule({ id: 'second' }))(addRule(rule({ kinds: ['shot'] }))(base));
    expect(of(two).filter((p) => p.frame === 15).map((p) => p.rule.id)).toEqual(['r', 'second']);
  });

  it('of a rule that is off, or whose accent is gone, are none', () => {
    expect(of(addRule(rule({ on: false }))(base))).toEqual([]);
    expect(of(addRule(rule({ accent: 'gone' }))(base))).toEqual([]);
  });

  it('follow music hits by the music\'s place in the montage', () => {
    const tune = { ...footage('tune', 30), role: 'music' as const, video: null, duration: 10 };
    const m = addRule(rule({ kinds: ['beat'] }))({ ...base, sources: [...base.sources, tune], music: [{ id: 'i', source: 'tune', at: 0.5, in: 2, out: 10, gain: 1 }] });
    const kept = decideAll([hit('b', 'tune', 2.5, { kind: 'beat' }), hit('before', 'tune', 1, { kind: 'beat' })], 'kept')(m);
    expect(of(kept).map((p) => [p.occurrence.key, p.frame])).toEqual([['b@i', 30]]);
  });

  it('scale reach with the rate, to at least one frame', () => {
    expect(scaleAccent(punchAccent(), 60)).toMatchObject({ lead: 4, tail: 12 });
    expect(scaleAccent({ ...punchAccent(), lead: 1, tail: 1 }, 12)).toMatchObject({ lead: 1, tail: 1 });
  });
});
