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
  type Montage,
  type Rule,
} from '../document/types.ts';
import { mediaIndex, timeline } from '../timeline/timeline.ts';
import { footage, hit, punchAccent, shotRule, twoClips } from '../testkit/montages.ts';
import { prepare } from './prepare.ts';
import { carriedKinds, carries, matches, placements } from './placements.ts';

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
        .map((p) => p.rule.id),
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
    expect(of(addRule(rule({ accent: 'gone' }))(base))).toEqual([]);
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
    of({ ...withBurst, rules: [rule({ accent: 'acc', kinds: ['shot'], ...change })] }).map(
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
