import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EFFECTS } from '../../effects/index.ts';
import { accentPasses } from './passes.ts';
import { addBed, addRule, decideAll, override } from '../document/edits.ts';
import { splitClip, trimClip } from '../timeline/row.ts';
import {
  CONFINES,
  COVERS,
  ALIGNS,
  TIME_UNITS,
  UNTILS,
  type Accent,
  type Bed,
  type Montage,
  type Rule,
} from '../document/types.ts';
import { mediaIndex, timeline } from '../timeline/timeline.ts';
import { footage, hit, punchAccent, shotRule, twoClips } from '../testkit/montages.ts';
import { prepare } from './prepare.ts';
import { planner } from './plan.ts';
import { carriedKinds, placements } from './placements.ts';
import { carries } from '../document/hits.ts';
import { loudnessOf, matches, ruleLike } from './selection.ts';

const rule = (change: Partial<Rule> = {}): Rule => shotRule({ kinds: ['shot', 'join'], ...change });
const of = (m: Montage) => placements(m, timeline(m, mediaIndex(m.sources)));
const base: Montage = { ...decideAll([hit('h', 'one', 1.5)], 'kept')(twoClips()), accents: [punchAccent()] };

describe('placements', () => {
  it('carry accents only on kept and hand-made hits', () => {
    expect(
      (['found', 'kept', 'rejected', 'made'] as const).map((state) => carries(hit('h', 'one', 1, { state }))),
    ).toEqual([false, true, false, true]);
    expect(matches(rule({ minStrength: 0.5 }), hit('h', 'one', 1, { strength: 0.5 }))).toBe(true);
    expect(matches(rule({ minStrength: 0.51 }), hit('h', 'one', 1, { strength: 0.5 }))).toBe(false);
  });

  it('lie on what the hit is that a rule was begun from: its family, its sign, or its kind', () => {
    const seen = (id: string, watch: string) =>
      hit(id, 'one', 1, {
        kind: 'popup',
        state: 'kept',
        evidence: [{ detector: `watch:${watch}`, t: 1, strength: 1 }],
      });
    const named = { id: 'f', name: '', kind: 'shot', state: 'kept', members: ['a'], examples: [], more: null } as const;
    const m = { families: [named], watches: [{ id: 'w' }, { id: 'v' }] as never };
    const like = (h: Parameters<typeof ruleLike>[0]) => rule(ruleLike(h, m));
    const hits = ['a', 'b'].map((id) => hit(id, 'one', 1, { state: 'kept' }));
    const all = [...hits, seen('p', 'w'), seen('q', 'v'), hit('j', 'one', 1, { kind: 'join', state: 'kept' })];
    const takes = (h: (typeof all)[number]): string[] =>
      all.filter((other) => matches(like(h), other, m.families)).map(({ id }) => id);
    expect(all.map(takes)).toEqual([['a'], ['a', 'b'], ['p'], ['q'], ['j']]);
  });

  it('lie on every hit where a rule first asks for a loudness, however many there are', () => {
    const hits = Array.from({ length: 200_000 }, (_, i) => hit(`h${i}`, 'one', 1, { loud: -40 + (i % 301) / 10 }));
    const all = loudnessOf([...hits, hit('silent', 'one', 1)])!;
    expect(all).toEqual({ from: -40, to: -9 });
    expect(hits.slice(0, 301).every((h) => matches(rule({ loud: all }), h))).toBe(true);
    expect(loudnessOf([hit('silent', 'one', 1)])).toBe(null);
  });

  it('lie on hits that are as loud as the rule asks, and in the sections that it names', () => {
    const loud = rule({ loud: { from: -30, to: -10 } });
    const at = (decibels?: number): boolean => matches(loud, hit('h', 'one', 1, { loud: decibels }));
    expect([-30, -20, -10, undefined].map(at)).toEqual([true, true, false, false]);
    const m = decideAll(
      [hit('h', 'one', 1.5), hit('i', 'two', 0.5), hit('d', 'two', 0.2, { kind: 'drop' })],
      'kept',
    )({ ...base, hits: [] });
    const inSections = (sections: number[]): number[] =>
      of(addRule(rule({ kinds: ['shot'], sections }))(m)).map((p) => p.frame);
    expect([inSections([]), inSections([0]), inSections([1]), inSections([2])]).toEqual([[15, 45], [15], [45], []]);
  });

  it('may lie on what kept hits surely are besides what they are named after', () => {
    const seen = hit('h', 'one', 1, { kind: 'flash', kinds: { shot: 0.8, impact: 0.2 } });
    expect(carriedKinds([{ ...seen, state: 'kept' }])).toEqual(['shot', 'flash']);
    expect(carriedKinds([{ ...seen, state: 'found' }, hit('i', 'one', 2, { kind: 'jolt', state: 'made' })])).toEqual([
      'jolt',
    ]);
  });

  it('lie on joins too, when the rule names them', () => {
    expect(of(addRule(rule())(base)).map((p) => p.frame)).toEqual([15, 30]);
    expect(of(addRule(rule({ kinds: ['join'] }))(base)).map((p) => p.frame)).toEqual([30]);
  });

  it("of several rules all lie on one hit, in the rules' order", () => {
    const two = addRule(rule({ id: 'second' }))(addRule(rule({ kinds: ['shot'] }))(base));
    expect(
      of(two)
        .filter((p) => p.frame === 15)
        .map((p) => p.rule?.id),
    ).toEqual(['r', 'second']);
  });

  it('stay as they were when the clip is cut: muted, nudged, seeded, and under their beds', () => {
    const hits = [1.2, 1.5, 1.8].map((t, i) => hit(`h${i}`, 'one', t));
    const bed = {
      id: 'b',
      accent: 'a',
      on: true,
      stretch: { kind: 'clip' as const, clip: 'c1' },
      above: false,
      intensity: 1,
      seed: 1,
    };
    const before = override('r|h2@c1', { mute: true, nudge: 1 })(
      addBed(bed)(
        addRule(rule({ kinds: ['shot'] }))({ ...decideAll(hits, 'kept')(twoClips()), accents: [punchAccent()] }),
      ),
    );
    const after = splitClip('c1', 1.6, 'new')(before);
    const told = (m: Montage) =>
      of(m).map(({ key, frame, seed, muted, intensity }) => ({ key, frame, seed, muted, intensity }));
    expect(told(after)).toEqual(told(before));
    expect(told(splitClip('new', 1.7, 'newer')(after))).toEqual(told(before));
    expect(after.beds.map(({ stretch }) => stretch)).toEqual([bed.stretch, { kind: 'clip', clip: 'new' }]);
    // Where both halves show a hit, each has a placement of its own.
    const both = trimClip('new', { in: 1 })(after);
    expect(new Set(of(both).map((p) => p.key)).size).toBe(of(both).length);
  });

  it("go on past the accent's tail where an effect repeats", () => {
    const accent = punchAccent();
    const repeated = {
      ...accent,
      effects: [{ ...accent.effects[0]!, repeat: { times: 2, every: 5, length: 2, strength: 1 } }],
    };
    const [placement] = of(addRule(rule({ kinds: ['shot'] }))({ ...base, accents: [repeated] }));
    // The second copy begins 10 frames later and lasts four times as long: to 10 + 4 * 6; its lead is 4 * 2 - 10.
    expect([placement!.from - placement!.frame, placement!.to - placement!.frame]).toEqual([-2, 34]);
    expect(accentPasses(placement!.accent, 30, placement!, EFFECTS).passes).toHaveLength(1);
    expect(accentPasses(placement!.accent, 35, placement!, EFFECTS).passes).toHaveLength(0);
  });

  it('prepare lists that begin with nothing', () => {
    for (const by of [
      { kind: 'cadence' as const, values: [null, 15], every: 1, once: false },
      { kind: 'run' as const, values: [null, 15], from: 0, to: 1, glide: null },
    ]) {
      const accent = punchAccent();
      const listed = { ...accent, effects: [{ ...accent.effects[0]!, params: { zoom: { base: 100, by } } }] };
      expect(of(addRule(rule())({ ...base, accents: [listed] }))).toHaveLength(2);
    }
  });

  it('tie keys of nested stacks to other places, too', () => {
    const accent = punchAccent();
    const inner = {
      ...accent.effects[0]!,
      id: 'in',
      params: { zoom: [{ at: 0, value: 150, ease: 'hold' as const, anchor: 'clip' as const }] },
    };
    const nested = {
      ...accent,
      effects: [{ id: 't', effect: 'trail', version: 1, on: true, params: {}, stack: [inner] }],
    };
    const [first] = of(addRule(rule({ kinds: ['shot'] }))({ ...base, accents: [nested] }));
    // The clip ends 14 frames after the hit.
    expect(first!.accent.effects[0]!.stack[0]!.params['zoom']).toMatchObject([{ at: 14 }]);
  });

  it('in a run meet where a nudge puts them', () => {
    const hits = [1.1, 1.4, 1.7].map((t, i) => hit(`h${i}`, 'one', t));
    const run = rule({ kinds: ['shot'], run: { count: 0, after: 'stay' } });
    const m = override('r|h1@c1', { nudge: 3 })(
      addRule(run)({ ...decideAll(hits, 'kept')(twoClips()), accents: [punchAccent()] }),
    );
    const list = of(m);
    expect(list.map((p) => p.frame)).toEqual([3, 15, 21]);
    expect(list.map((p) => p.to)).toEqual([14, 20, 29]);
    expect(list.map((p) => p.run.length)).toEqual([12, 6, 0]);
  });

  it('of a rule that is off, or whose accent is gone, are none', () => {
    expect(of(addRule(rule({ on: false }))(base))).toEqual([]);
    expect(of(addRule(rule({ accents: [{ accent: 'gone', weight: 1 }] }))(base))).toEqual([]);
  });

  it("follow music hits by the music's place in the montage", () => {
    const tune = { ...footage('tune', 30), role: 'music' as const, video: null, duration: 10 };
    const m = addRule(rule({ kinds: ['beat'] }))({
      ...base,
      sources: [...base.sources, tune],
      music: [{ id: 'i', source: 'tune', at: 0.5, in: 2, out: 10, gain: 1 }],
    });
    const kept = decideAll(
      [hit('b', 'tune', 2.5, { kind: 'beat' }), hit('before', 'tune', 1, { kind: 'beat' })],
      'kept',
    )(m);
    expect(of(kept).map((p) => [p.occurrence.key, p.frame])).toEqual([['b@i', 30]]);
  });

  it('scale reach with the rate, to at least one frame', () => {
    expect(prepare(punchAccent(), { fps: 60, bpm: 120 })).toMatchObject({ lead: 4, tail: 12 });
    expect(prepare({ ...punchAccent(), lead: 1, tail: 1 }, { fps: 12, bpm: 120 })).toMatchObject({ lead: 1, tail: 1 });
  });
});

describe('bursts and hits of two kinds', () => {
  const burst = ['a', 'b', 'c'].map((id, i) => hit(id, 'one', 1 + i * 0.1, { burst: 'a' }));
  const withBurst: Montage = {
    ...twoClips(),
    accents: [punchAccent('acc')],
    hits: [...burst, hit('d', 'one', 1.8, { kind: 'flash', kinds: { flash: 0.9, shot: 0.7, impact: 0.2 } })],
  };
  const on = (change: Partial<Rule>): number[] =>
    of({ ...withBurst, rules: [rule({ accents: [{ accent: 'acc', weight: 1 }], kinds: ['shot'], ...change })] }).map(
      (p) => Math.round(p.occurrence.hit.t * 10) / 10,
    );

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

describe('placements of any rules', () => {
  const anyRule = fc.record({
    id: fc.constantFrom('r1', 'r2', 'r3'),
    minStrength: fc.double({ min: 0, max: 1, noNaN: true }),
    follow: fc.double({ min: 0, max: 1, noNaN: true }),
    burst: fc.constantFrom('each' as const, 'first' as const, 'last' as const),
    mirror: fc.boolean(),
    spread: fc.double({ min: 0, max: 1, noNaN: true }),
    seed: fc.nat(),
    run: fc.option(
      fc.record({ count: fc.integer({ min: 0, max: 5 }), after: fc.constantFrom('plain' as const, 'stay' as const) }),
    ),
  });
  const anyAccent = fc.record({
    lead: fc.integer({ min: 0, max: 40 }),
    tail: fc.integer({ min: 0, max: 90 }),
    align: fc.constantFrom(...ALIGNS),
    confine: fc.constantFrom(...CONFINES),
    until: fc.constantFrom(...UNTILS),
    cover: fc.constantFrom(...COVERS),
    exact: fc.boolean(),
    unit: fc.constantFrom(...TIME_UNITS),
  });
  const anyHits = fc.array(
    fc.record({
      t: fc.double({ min: 0, max: 3, noNaN: true }),
      strength: fc.double({ min: 0, max: 1, noNaN: true }),
      source: fc.constantFrom('one', 'two'),
    }),
    { maxLength: 12 },
  );
  const made = (
    hits: readonly { t: number; strength: number; source: string }[],
    rules: readonly Partial<Rule>[],
    accent: Partial<Accent>,
  ): Montage => ({
    ...twoClips(),
    hits: hits.map(({ t, strength, source }, i) => hit(`h${i}`, source, t, { strength })),
    accents: [{ ...punchAccent(), ...accent }],
    rules: rules.map((change, i) => shotRule({ ...change, id: `r${i}` })),
  });

  it('lie within what they say, in order, with an intensity that is a number', () => {
    fc.assert(
      fc.property(anyHits, fc.array(anyRule, { minLength: 1, maxLength: 3 }), anyAccent, (hits, rules, accent) => {
        const all = of(made(hits, rules, accent));
        all.forEach((p, i) => {
          // Of two hits of a run on one frame the earlier has no frame left.
          expect(p.from).toBeLessThanOrEqual(p.to + 1);
          expect(p.accent.lead).toBeGreaterThanOrEqual(0);
          expect(p.intensity).toBeGreaterThanOrEqual(0);
          expect(Number.isFinite(p.intensity)).toBe(true);
          if (i) expect(all[i - 1]!.from).toBeLessThanOrEqual(p.from);
        });
      }),
      { numRuns: 80 },
    );
  });

  it('confined ones never leave their shot', () => {
    fc.assert(
      fc.property(anyHits, anyAccent, (hits, accent) => {
        const line = timeline(twoClips(), mediaIndex(twoClips().sources));
        for (const p of of(made(hits, [{}], { ...accent, confine: 'cut' }))) {
          const span = line.spanAt(p.occurrence.frame)!;
          // One that lies wholly beside its shot is drawn on its own frame 0 alone.
          if (p.frame < span.first || p.frame >= span.end) continue;
          expect(p.from).toBeGreaterThanOrEqual(span.first);
          expect(p.to).toBeLessThan(span.end);
        }
      }),
      { numRuns: 80 },
    );
  });

  it('in a run never overlap, and each hit has one', () => {
    fc.assert(
      fc.property(anyHits, fc.integer({ min: 0, max: 4 }), (hits, count) => {
        const all = of(
          made(hits, [{ run: { count, after: 'stay' } }], { align: 'peak', confine: 'carry', until: 'tail' }),
        ).sort((a, b) => a.frame - b.frame);
        all.slice(1).forEach((p, i) => {
          if (p.run.index > 0 && p.frame > all[i]!.frame) expect(all[i]!.to).toBeLessThan(p.frame);
        });
      }),
      { numRuns: 60 },
    );
  });

  it('mirrors every second one, and spreads intensities by the seed alone', () => {
    const hits = [0.2, 0.4, 0.6, 0.8].map((t) => ({ t: t + 1, strength: 1, source: 'one' }));
    const all = of(made(hits, [{ mirror: true, spread: 0.5 }], {}));
    expect(all.map((p) => p.mirror)).toEqual([false, true, false, true]);
    expect(new Set(all.map((p) => p.intensity)).size).toBe(4);
    expect(of(made(hits, [{ mirror: true, spread: 0.5 }], {})).map((p) => p.intensity)).toEqual(
      all.map((p) => p.intensity),
    );
    expect(all.every((p) => p.intensity >= 0.5 && p.intensity <= 1.5)).toBe(true);
  });
});

describe('what a rule may say', () => {
  /** Shots every third of a second, beats every half with a bar of four. */
  const base: Montage = {
    ...twoClips(),
    sources: [footage('one', 900)],
    clips: [
      { id: 'c1', source: 'one', in: 0, out: 10, fit: 'fit' },
      { id: 'c2', source: 'one', in: 10, out: 20, fit: 'fit' },
    ],
    accents: ['a', 'b', 'c'].map((id) => ({ ...punchAccent(id), lead: 2, tail: 6 })),
    hits: [
      ...Array.from({ length: 60 }, (_, i) =>
        hit(`s${String(i).padStart(2, '0')}`, 'one', i / 3, { strength: (i % 6) / 5 }),
      ),
      ...Array.from({ length: 40 }, (_, i) => hit(`b${i}`, 'one', i / 2, { kind: 'beat', strength: i % 4 ? 0.5 : 1 })),
    ],
  };
  const all = (change: Partial<Rule>, more: Partial<Montage> = {}) =>
    of({ ...base, rules: [rule({ kinds: ['shot'], ...change })], ...more });
  const frames = (change: Partial<Rule>): number[] => all(change).map(({ frame }) => frame);

  it('takes every n-th with a phase, at most so strong, with a least gap, in clips and stretches', () => {
    expect(frames({ every: 4 }).slice(0, 4)).toEqual([0, 40, 80, 120]);
    expect(frames({ every: 4, phase: 2 }).slice(0, 3)).toEqual([20, 60, 100]);
    expect(all({ minStrength: 0.3, maxStrength: 0.7 }).every((p) => p.occurrence.hit.strength <= 0.7)).toBe(true);
    const gaps = frames({ gap: 1 });
    expect(gaps.slice(1).every((f, i) => f - gaps[i]! >= 30)).toBe(true);
    expect(gaps).toHaveLength(20);
    expect(frames({ clips: ['c2'] })[0]).toBe(300);
    expect(frames({ clips: ['c2'] })).toHaveLength(30);
    expect(
      frames({
        ranges: [
          { from: 2, to: 3 },
          { from: 12, to: 12.5 },
        ],
      }),
    ).toEqual([60, 70, 80, 360, 370]);
    // One after another: of the hits that a gap leaves every second.
    expect(frames({ gap: 1, every: 2 }).slice(0, 3)).toEqual([0, 60, 120]);
  });

  it('lies on beats, beside them, or on one beat of the bar', () => {
    const on = frames({ beat: 'on' });
    expect(on.every((f) => Math.min(f % 15, 15 - (f % 15)) <= 2)).toBe(true);
    expect(on.length + frames({ beat: 'off' }).length).toBe(60);
    // A bar is 60 frames, a shot comes every 10: of each bar's beats the shots meet the first and the third.
    expect(frames({ beat: '1' })).toEqual(Array.from({ length: 10 }, (_, i) => 60 * i));
    expect(frames({ beat: '3' })).toEqual(Array.from({ length: 10 }, (_, i) => 30 + 60 * i));
    expect(frames({ kinds: ['beat'], every: 4, phase: 1 }).slice(0, 2)).toEqual([15, 75]);
    expect(of({ ...base, hits: base.hits.slice(0, 60), rules: [rule({ kinds: ['shot'], beat: 'on' })] })).toEqual([]);
  });

  it('takes by chance as many as it says, the same ones every time, and others by another seed', () => {
    const some = frames({ chance: 0.4 });
    expect(some.length).toBeGreaterThan(14);
    expect(some.length).toBeLessThan(34);
    expect(frames({ chance: 0.4 })).toEqual(some);
    expect(frames({ chance: 0.4, seed: 99 })).not.toEqual(some);
    expect(frames({ chance: 0 })).toEqual([]);
  });

  it('lays several accents in turn, or by lot as often as they weigh', () => {
    const accents = [
      { accent: 'a', weight: 1 },
      { accent: 'b', weight: 3 },
    ];
    expect(
      all({ accents })
        .slice(0, 5)
        .map((p) => p.accent.accent.id),
    ).toEqual(['a', 'b', 'a', 'b', 'a']);
    const lots = all({ accents, pick: 'random' }).map((p) => p.accent.accent.id);
    expect(lots.filter((id) => id === 'b').length).toBeGreaterThan(36);
    expect(lots.filter((id) => id === 'b').length).toBeLessThan(56);
    expect(all({ accents: [...accents, { accent: 'gone', weight: 9 }], pick: 'random' })).toHaveLength(60);
    // The hit before is cut: all others keep what they drew.
    const less = of({ ...base, hits: base.hits.slice(1), rules: [rule({ kinds: ['shot'], accents, pick: 'random' })] });
    expect(less.map((p) => p.accent.accent.id)).toEqual(lots.slice(1));
  });

  it('lies over what it meets, cuts it off, or gives way; and keeps its distance', () => {
    const second = (change: Partial<Rule>) =>
      of({
        ...base,
        rules: [
          rule({ kinds: ['shot'], every: 6 }),
          rule({ id: 'q', kinds: ['shot'], accents: [{ accent: 'b', weight: 1 }], every: 1, ...change }),
        ],
      });
    const meets = (list: ReturnType<typeof second>): number =>
      list.filter((p, i) => list.some((q, k) => k !== i && p.from <= q.to && q.from <= p.to)).length;
    expect(meets(second({}))).toBeGreaterThan(0);
    const yielded = second({ meet: 'yield' });
    expect(meets(yielded)).toBe(0);
    expect(yielded.filter((p) => p.rule?.id === 'r')).toHaveLength(10);
    const cut = second({ meet: 'cut', every: 2, phase: 1 });
    const first = cut.filter((p) => p.rule?.id === 'r');
    expect(first.every((p) => cut.every((q) => q === p || q.from <= p.from || q.from > p.to))).toBe(true);
    const apart = second({ apart: 12 });
    expect(
      apart.every((p) =>
        apart.every((q) => p === q || p.rule?.id === q.rule?.id || p.to + 12 < q.from || q.to + 12 < p.from),
      ),
    ).toBe(true);
    expect(apart.length).toBeGreaterThan(10);
  });

  it('of a burst takes every n-th', () => {
    const burst = Array.from({ length: 7 }, (_, i) => hit(`u${i}`, 'one', 1 + i * 0.1, { burst: 'u0' }));
    const taken = of({ ...base, hits: burst, rules: [rule({ kinds: ['shot'], burst: 'nth', burstEvery: 3 })] });
    expect(taken.map(({ occurrence }) => occurrence.hit.id)).toEqual(['u0', 'u3', 'u6']);
  });

  it('says nothing of what was laid by hand: it moves with its hit and outlives the rules', () => {
    const hand = { id: 'h', accent: 'b', on: 's06@c1', intensity: 0.5, seed: 7, nudge: 1 };
    const m = { ...base, rules: [], byHand: [hand] };
    expect(of(m).map((p) => [p.frame, p.intensity, p.seed, p.rule, p.hand?.id])).toEqual([[61, 0.5, 7, null, 'h']]);
    const moved = { ...m, hits: m.hits.map((one) => (one.id === 's06' ? { ...one, t: 2.5 } : one)) };
    expect(of(moved)[0]!.frame).toBe(76);
    expect(of({ ...m, hits: m.hits.map((one) => ({ ...one, state: 'rejected' as const })) })).toEqual([]);
    expect(of({ ...m, byHand: [{ ...hand, mute: true }] })[0]!.muted).toBe(true);
  });
});

describe('beds by rule', () => {
  it('lie on each clip that holds a hit of a kind, and from each hit to the next of another', () => {
    const m: Montage = {
      ...twoClips(),
      sources: [footage('one', 900)],
      clips: [0, 2, 4].map((t, i) => ({ id: `c${i}`, source: 'one', in: t, out: t + 2, fit: 'fit' as const })),
      accents: [punchAccent('bed')],
      hits: [
        hit('a', 'one', 0.5),
        hit('b', 'one', 1.5, { kind: 'impact' }),
        hit('c', 'one', 4.5),
        hit('d', 'one', 5, { kind: 'impact' }),
      ],
    };
    const touched = (stretch: Bed['stretch']): number[] => {
      const bed = { id: 'x', accent: 'bed', on: true, stretch, above: false, intensity: 1, seed: 3 };
      const p = planner({ ...m, accents: [steady], beds: [bed] }, mediaIndex(m.sources), EFFECTS);
      return Array.from({ length: 180 }, (_, f) => f).filter((f) => p.at(f).passes.length > 0);
    };
    const steady = { ...punchAccent('bed'), effects: [{ ...punchAccent().effects[0]!, params: { zoom: 120 } }] };
    const range = (from: number, to: number): number[] => Array.from({ length: to - from }, (_, i) => from + i);
    expect(touched({ kind: 'clips', kinds: ['shot'] })).toEqual([...range(0, 60), ...range(120, 180)]);
    expect(touched({ kind: 'clips', kinds: ['drop'] })).toEqual([]);
    expect(touched({ kind: 'between', from: 'shot', to: 'impact' })).toEqual([...range(15, 45), ...range(135, 150)]);
  });
});
