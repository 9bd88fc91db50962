import { describe, expect, it } from 'vitest';
import { addRule, decideAll } from '../montage/edits.ts';
import type { Montage, Rule } from '../montage/types.ts';
import { mediaIndex, timeline } from '../plan/timeline.ts';
import { footage, hit, punchAccent, shotRule, twoClips } from '../testkit/montages.ts';
import { prepare } from '../accents/prepare.ts';
import { carries, matches, placements } from './placements.ts';

const rule = (change: Partial<Rule> = {}): Rule => shotRule({ kinds: ['shot', 'join'], ...change });
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
    expect(prepare(punchAccent(), { fps: 60, bpm: 120 })).toMatchObject({ lead: 4, tail: 12 });
    expect(prepare({ ...punchAccent(), lead: 1, tail: 1 }, { fps: 12, bpm: 120 })).toMatchObject({ lead: 1, tail: 1 });
  });
});

describe('bursts and hits of two kinds', () => {
  const burst = ['a', 'b', 'c'].map((id, i) => hit(id, 'one', 1 + i * 0.1, { burst: 'a' }));
  const withBurst: Montage = { ...twoClips(), accents: [punchAccent('acc')], hits: [...burst, hit('d', 'one', 1.8, { kind: 'flash', kinds: { flash: 0.9, shot: 0.7, impact: 0.2 } })] };
  const on = (change: Partial<Rule>): number[] => of({ ...withBurst, rules: [rule({ accent: 'acc', kinds: ['shot'], ...change })] }).map((p) => Math.round(p.occurrence.hit.t * 10) / 10);

  it('takes each, the first or the last member, and single hits always', () => {
    expect(on({})).toEqual([1, 1.1, 1.2, 1.8]);
    expect(on({ burst: 'first' })).toEqual([1, 1.8]);
    expect(on({ burst: 'last' })).toEqual([1.2, 1.8]);
  });

  it('takes a flash that was surely heard as a shot for both, and not for what it hardly is', () => {
    expect(on({ kinds: ['flash'] })).toEqual([1.8]);
    expect(on({ kinds: ['impact'] })).toEqual([]);
  });
});
