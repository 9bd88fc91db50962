import { mergeHits } from './merge.ts';
import { isOfKind } from '../../document/hits.ts';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Hit } from '../../document/types.ts';
import { hit } from '../../testkit/montages.ts';
import { withBursts } from './bursts.ts';
import { estimateDelay, fuse, isSeen } from './fusion.ts';
import { learnFrom, ranked } from './lessons.ts';

const heard = (t: number, change: Partial<Hit> = {}): Hit =>
  hit(`a${t}`, 's', t, {
    kind: 'impact',
    audioT: t,
    confidence: 0.7,
    state: 'found',
    kinds: { impact: 0.5, shot: 0.4 },
    ...change,
  });
const seen = (t: number, change: Partial<Hit> = {}): Hit =>
  hit(`p${t}`, 's', t, {
    kind: 'flash',
    confidence: 0.8,
    state: 'found',
    evidence: [{ detector: 'flash', t, strength: 0.6 }],
    ...change,
  });

describe('fusion', () => {
  it("makes one hit at the picture's frame of what was heard and seen, with all probabilities", () => {
    const [one, ...more] = fuse([heard(1.03), seen(1), heard(1.5)], [], 0.08);
    expect(one).toMatchObject({ t: 1, audioT: 1.03, kind: 'shot' });
    expect(one!.evidence.map((e) => e.detector)).toEqual(['flash', 'onset']);
    // By Bayes' rule: 0.4 x 20 against 0.5 x 4 and 0.1.
    expect(one!.kinds!.shot).toBeCloseTo(8 / 10.1, 2);
    expect(one!.confidence).toBeCloseTo(1 - 0.3 * 0.2, 6);
    expect(isOfKind(one!, 'shot') && isOfKind(one!, 'flash') && !isOfKind(one!, 'note')).toBe(true);
    expect(more.map((h) => h.t)).toEqual([1.5]);
  });

  it("takes the sound's delay off before it compares", () => {
    expect(fuse([heard(1.2), seen(1)], [], 0.05, 0.2)).toHaveLength(1);
    expect(fuse([heard(1.2), seen(1)], [], 0.05, 0)).toHaveLength(2);
    expect(fuse([heard(1.03), seen(1)], [], 0.01)).toHaveLength(2);
  });

  it('pairs the nearest, each once, and joins the same attack of two tracks', () => {
    const fused = fuse(
      [seen(1), heard(0.96), heard(1.01), heard(1.015, { confidence: 0.9, id: 'other track' })],
      [],
      0.08,
    );
    expect(fused.map((h) => [h.kind, h.t, h.audioT])).toEqual([
      ['impact', 0.96, 0.96],
      ['shot', 1, 1.015],
    ]);
  });

  it('names one moment once: after a blow that is heard, and after light that nothing is heard with', () => {
    const named = (sound: Partial<Hit>, picture: Partial<Hit> = {}) =>
      fuse([heard(1, sound), seen(1, picture)], [], 0.08).map(({ kind }) => kind);
    expect(named({ kinds: { shot: 0.9 } })).toEqual(['shot']);
    expect(named({ kinds: { impact: 0.9 } }, { kind: 'strike' })).toEqual(['impact']);
    // A stroke of the music on the same frame is chance; a watched sign has the name that it was given.
    expect(named({ kind: 'hat', kinds: { hat: 0.9 } })).toEqual(['flash']);
    expect(named({ kinds: { shot: 0.9 } }, { kind: 'popup' })).toEqual(['popup']);
    expect(fuse([seen(1)], [heard(1, { kinds: { shot: 0.02, other: 0.9 } as Hit['kinds'] })])[0]!.kind).toBe('flash');
    expect(isSeen(fuse([heard(1.02), seen(1)])[0]!)).toBe(true);
    expect(isSeen(heard(1))).toBe(false);
  });

  it('names a moment after the shot in it, though a hat just before it is surer', () => {
    const [one, ...more] = fuse([
      heard(0.98, { kind: 'hat', confidence: 0.98, kinds: { hat: 0.95 } }),
      heard(1, { kind: 'shot' }),
    ]);
    expect(one).toMatchObject({ t: 1, audioT: 1, kind: 'shot' });
    expect(more).toEqual([]);
  });

  it('takes an attack that is no hit by itself for what was heard of something seen, and only there', () => {
    const fused = fuse([seen(1)], [heard(1.02), heard(2)]);
    expect(fused.map((h) => [h.t, h.audioT])).toEqual([[1, 1.02]]);
  });

  it('loses nothing and makes nothing up', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ t: fc.double({ min: 0, max: 20, noNaN: true }), picture: fc.boolean() }), {
          maxLength: 40,
        }),
        (list) => {
          const all = list.map(({ t, picture }, i) => (picture ? seen(t, { id: `p${i}` }) : heard(t, { id: `a${i}` })));
          const fused = fuse(all, [], 0.08);
          expect(fused.flatMap((h) => h.evidence).length).toBe(all.flatMap((h) => h.evidence).length);
          expect([...fused].sort((a, b) => a.t - b.t)).toEqual(fused);
        },
      ),
    );
  });

  it('estimates a constant delay from coincidences, and none from chance', () => {
    const times = [1, 2.3, 3.1, 4.8, 6.2, 7.7];
    const late = estimateDelay([...times.map((t) => seen(t)), ...times.map((t) => heard(t + 0.12))]);
    expect(late.seconds).toBeCloseTo(0.12, 6);
    expect(late.votes).toBe(6);
    expect(estimateDelay([seen(1), heard(1.1)]).votes).toBe(0);
    expect(
      estimateDelay([...times.map((t) => seen(t)), ...Array.from({ length: 90 }, (_, i) => heard(i * 0.0913 + 0.01))])
        .votes,
    ).toBe(0);
  });
});

describe('bursts', () => {
  const shots = (...times: number[]): Hit[] => times.map((t) => heard(t, { kind: 'shot' }));

  it('joins close regular repeats of one kind under the id of the first', () => {
    const marked = withBursts([...shots(1, 1.1, 1.2, 1.3), heard(1.25), ...shots(3, 3.1)].sort((a, b) => a.t - b.t));
    expect(marked.filter((h) => h.burst).map((h) => [h.t, h.burst])).toEqual([
      [1, 'a1'],
      [1.1, 'a1'],
      [1.2, 'a1'],
      [1.3, 'a1'],
    ]);
  });

  it('leaves uneven, slow and too few repeats alone, and sixteenths of hats', () => {
    expect(withBursts(shots(1, 1.05, 1.24, 1.29)).some((h) => h.burst)).toBe(false);
    expect(withBursts(shots(1, 1.4, 1.8)).some((h) => h.burst)).toBe(false);
    expect(
      withBursts(Array.from({ length: 8 }, (_, i) => heard(1 + i * 0.1, { kind: 'hat' }))).some((h) => h.burst),
    ).toBe(false);
  });
});

describe('lessons', () => {
  const decided = (kind: Hit['kind'], state: 'kept' | 'rejected', i: number): Hit =>
    heard(i, { kind, state, id: `${kind}${i}` });
  const decisions = [
    ...[1, 2, 3, 4].map((i) => decided('shot', 'kept', i)),
    ...[5, 6, 7, 8].map((i) => decided('impact', 'rejected', i)),
  ];

  it('ranks the undecided after what was kept and rejected, and says why', () => {
    const taught = learnFrom(decisions, []);
    const [shot, impact] = [ranked(heard(9, { kind: 'shot' }), taught), ranked(heard(10), taught)];
    expect(shot.likely).toBeGreaterThan(0.8);
    expect(impact.likely).toBeLessThan(0.5);
    expect(impact.because[0]).toMatchObject({ trait: 'impact', kept: 0, rejected: 4 });
    expect(impact.because[0]!.weight).toBeLessThan(0);
    // Traits that all share say nothing.
    expect(shot.because.map((l) => l.trait)).toEqual(['shot']);
  });

  it('waits for a handful of both, and forgets', () => {
    expect(learnFrom(decisions.slice(0, 4), [])).toBeNull();
    expect(learnFrom([...decisions.slice(0, 4), decisions[0]!], [])).toBeNull();
    expect(
      learnFrom(
        decisions,
        decisions.map((h) => h.id),
      ),
    ).toBeNull();
    expect(ranked(heard(9), null)).toEqual({ likely: 0.7, because: [] });
  });
});

describe('decisions and what is found again', () => {
  const drop = (t: number, change: Partial<Hit> = {}): Hit =>
    hit('s:drop:1', 's', t, { kind: 'drop', evidence: [{ detector: 'drop', t, strength: 1 }], ...change });

  it('stand for the very same find, also where another lies at the same time', () => {
    const found = [drop(1, { state: 'found' }), heard(1), heard(2)];
    const merged = mergeHits(found, [drop(1, { state: 'kept' }), heard(1, { state: 'rejected' })]);
    expect(merged.map((h) => [h.kind, h.t, h.state])).toEqual([
      ['drop', 1, 'kept'],
      ['impact', 1, 'rejected'],
      ['impact', 2, 'found'],
    ]);
  });
});

describe('what a family is sought by', () => {
  const sought = (t: number, change: Partial<Hit> = {}): Hit =>
    heard(t, {
      id: `s:family:f:${t}`,
      kind: 'shot',
      evidence: [{ detector: 'family:f', t, strength: 0.8 }],
      ...change,
    });

  it('joins the hit that it is already, which is of its kind then', () => {
    const merged = mergeHits([heard(1), sought(1.01, { confidence: 0.8 })], []);
    expect(merged).toHaveLength(1);
    expect(merged[0]!.kinds!.shot).toBe(0.8);
    expect(merged[0]!.evidence.map(({ detector }) => detector)).toContain('family:f');
    const kept = mergeHits([sought(1.01)], [heard(1, { state: 'kept' })]);
    expect(kept.map(({ state }) => state)).toEqual(['kept']);
  });

  it('is a hit of its own where two shots of it lie 40 ms apart and one of them was found', () => {
    expect(mergeHits([heard(1), sought(1), sought(1.04)], []).map(({ t }) => t)).toEqual([1, 1.04]);
    expect(mergeHits([heard(1), sought(1.04)], []).map(({ t }) => t)).toEqual([1]);
  });

  it('tells a decision when it is heard, where that does not', () => {
    const decision = hit('d', 's', 1, {
      kind: 'shot',
      state: 'kept',
      evidence: [{ detector: 'flash', t: 1, strength: 1 }],
    });
    expect(mergeHits([heard(1.02)], [decision])[0]).toEqual({ ...decision, audioT: 1.02 });
  });
});
