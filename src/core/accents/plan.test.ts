import { occurrences, placementKey } from '../timeline/occurrences.ts';
import { mergeHits } from '../finding/hits/merge.ts';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EFFECTS } from '../../effects/index.ts';
import { inFormat } from '../document/formats.ts';
import { addRule, decide, decideAll, moveHit, override, removeAccent } from '../document/edits.ts';
import { removeClip, splitClip } from '../timeline/row.ts';
import { DEFAULT_TITLE, type Accent, type Bed, type Easing, type Montage, type Rule } from '../document/types.ts';
import { listedTimes } from '../timeline/frame-times.ts';
import { footage, hit, punchAccent, shotRule, twoClips } from '../testkit/montages.ts';
import { plan, planner } from './plan.ts';
import { soundPlan } from '../sound/sound-plan.ts';
import { mediaIndex, timeline } from '../timeline/timeline.ts';

const rule = shotRule({ minStrength: 0.2, seed: 4 });
const withRule = (m: Montage, change: Partial<Rule> = {}): Montage =>
  addRule({ ...rule, ...change })({ ...m, accents: [punchAccent()] });
const planOf = (m: Montage) => planner(m, mediaIndex(m.sources), EFFECTS);

describe('sounds like an example', () => {
  const alike = (id: string, t: number) =>
    hit(id, 'one', t, {
      kind: 'match',
      state: 'found',
      confidence: 0.8,
      evidence: [{ detector: 'like:x', t, strength: 0.8 }],
    });

  it('join the hit that is there, kept, rejected or not yet decided, and stand alone where there is none', () => {
    const kept = hit('k', 'one', 1, { audioT: 1.01 });
    const rejected = hit('r', 'one', 3, { state: 'rejected' });
    const open = hit('o', 'one', 2, { state: 'found', evidence: [{ detector: 'onset', t: 2, strength: 0.5 }] });
    const found = [open, alike('a', 1.02), alike('b', 2.01), alike('c', 3.01), alike('d', 4)];
    const merged = mergeHits(found, [kept, rejected]);
    expect(merged.map(({ id }) => id)).toEqual(['k', 'o', 'r', 'd']);
    expect(merged.map(({ kinds }) => kinds?.match)).toEqual([0.8, 0.8, 0.8, undefined]);
    // A second analysis, with what was joined kept meanwhile, doubles nothing either.
    expect(
      mergeHits(
        found,
        [...merged.slice(0, 2), rejected].map((h) => ({ ...h, state: 'kept' as const })),
      ).length,
    ).toBe(4);
  });
});

describe("a trim within a frame, each frame at its source's own time", () => {
  it('has its sound begin where its picture does', () => {
    const media = new Map([['one', listedTimes([0, 0.05, 0.2, 0.21, 0.5], 0.1)]]);
    const m: Montage = {
      ...twoClips(),
      clips: [{ id: 'c', source: 'one', in: 0.19, out: 0.6, fit: 'fit' }],
    };
    const line = timeline({ ...m, settings: { ...m.settings, timing: { mode: 'source' } } }, media);
    // 0.19 lies in the frame that begins at 0.05.
    expect(soundPlan(m, line)[0]).toMatchObject({ at: 0, in: 0.05 });
    expect(soundPlan(m, timeline(m, media))[0]).toMatchObject({ at: 0, in: 0.19 });
  });

  it('of a variable source without its list shows nothing rather than wrong frames', () => {
    const m = twoClips();
    const variable = m.sources.map((s) => ({ ...s, video: { ...s.video!, variable: true } }));
    const media = mediaIndex(variable);
    expect(media.size).toBe(0);
    expect(planner({ ...m, sources: variable }, media, EFFECTS).at(3).picture).toBeNull();
  });
});

describe('covers', () => {
  it('of beds hold over the whole shot when they are asked to', () => {
    const shaken: Accent = {
      ...punchAccent('s'),
      lead: 0,
      cover: 'shot',
      effects: [{ id: 'e', effect: 'shake', version: 1, on: true, params: { x: 4, y: 4 } }],
    };
    const bed: Bed = {
      id: 'b',
      accent: 's',
      on: true,
      stretch: { kind: 'hits', from: 'h', to: 'i' },
      above: false,
      intensity: 1,
      seed: 1,
    };
    const hits = [hit('h', 'one', 1.4), hit('i', 'one', 1.6)];
    const m = { ...decideAll(hits, 'kept')(twoClips()), accents: [shaken], beds: [bed] };
    // Before the bed and in it the same enlargement; in the other shot none.
    const first = planOf(m).at(2).passes[0]!;
    expect(first).toMatchObject({ effect: 'punch' });
    expect(planOf(m).at(15).passes[0]).toEqual(first);
    expect(planOf(m).at(40).passes).toEqual([]);
  });
});

describe('timeline', () => {
  it('lays clips end to end and shows the right source frames', () => {
    const m = twoClips();
    const line = timeline(m, mediaIndex(m.sources));
    expect(line.count).toBe(60);
    const at = (frame: number) => {
      const span = line.spanAt(frame)!;
      return [span.clip.source, line.sourceFrame(span, frame)];
    };
    expect([at(0), at(29), at(30), at(59)]).toEqual([
      ['one', 30],
      ['one', 59],
      ['two', 0],
      ['two', 29],
    ]);
    expect(line.spanAt(60)).toBeNull();
  });

  it('stays exact over three hours of 30000/1001 in a 60000/1001 montage', () => {
    const rate = { num: 30000, den: 1001 };
    const frames = 323676;
    const m: Montage = {
      ...twoClips(),
      sources: [footage('long', frames, rate)],
      clips: [{ id: 'c', source: 'long', in: 0, out: (frames * 1001) / 30000, fit: 'fit' }],
    };
    const double = {
      ...m,
      settings: { ...m.settings, timing: { mode: 'constant' as const, rate: { num: 60000, den: 1001 } } },
    };
    const line = timeline(double, mediaIndex(double.sources));
    expect(line.count).toBe(frames * 2);
    for (const frame of [0, 1, 99_999, 300_001, frames * 2 - 1])
      expect(line.sourceFrame(line.spans[0]!, frame)).toBe(Math.floor(frame / 2));
  });

  it('keeps the own timestamps of a variable source, one montage frame a source frame', () => {
    const starts = [0, 0.05, 0.2, 0.21, 0.5];
    const m: Montage = {
      ...twoClips(),
      sources: [footage('v', 5)],
      clips: [{ id: 'c', source: 'v', in: 0, out: 0.6, fit: 'fit' }],
    };
    const media = new Map([['v', listedTimes(starts, 0.1)]]);
    const line = timeline({ ...m, settings: { ...m.settings, timing: { mode: 'source' } } }, media);
    expect(line.count).toBe(5);
    expect([0, 1, 2, 3, 4, 5].map((f) => Math.round(line.timeOf(f) * 1000) / 1000)).toEqual([
      0, 0.05, 0.2, 0.21, 0.5, 0.6,
    ]);
    expect(line.frameAt(0.205)).toBe(2);
    const constant = timeline(m, media);
    expect(constant.count).toBe(18);
    expect(constant.sourceFrame(constant.spans[0]!, 6)).toBe(2);
  });
});

describe('occurrences', () => {
  it('gives one for each clip that shows the hit, at the first frame showing it, and none where it is trimmed out', () => {
    const base = twoClips();
    const m: Montage = { ...base, clips: [...base.clips, { id: 'c3', source: 'one', in: 1.2, out: 1.6, fit: 'fit' }] };
    const line = timeline(m, mediaIndex(m.sources));
    const shown = occurrences(m, [hit('h', 'one', 1.5), hit('gone', 'one', 2.5)], line).filter(
      (o) => o.hit.kind !== 'join',
    );
    expect(shown.map((o) => [o.key, o.frame])).toEqual([
      ['h@c1', 15],
      ['h@c3', 69],
    ]);
  });

  it('places a hit between two montage frames on the first that shows its source frame or a later one', () => {
    const m: Montage = {
      ...twoClips(),
      sources: [footage('fast', 120, { num: 60, den: 1 })],
      clips: [{ id: 'c', source: 'fast', in: 0, out: 2, fit: 'fit' }],
    };
    const line = timeline(m, mediaIndex(m.sources));
    // Source frame 31 (of 60 a second) is skipped at 30 a second: montage frame 16 shows source frame 32.
    expect(line.frameOf(line.spans[0]!, 31 / 60)).toBe(16);
    expect(line.frameOf(line.spans[0]!, 32 / 60)).toBe(16);
  });

  it('makes every join a hit of its own', () => {
    const m = twoClips();
    const joins = occurrences(m, [], timeline(m, mediaIndex(m.sources)));
    expect(joins).toMatchObject([{ key: 'join:c1:c2', frame: 30, hit: { kind: 'join', state: 'kept' } }]);
    const rejected = decide(joins[0]!.hit, 'rejected')(m);
    expect(occurrences(rejected, [], timeline(rejected, mediaIndex(m.sources)))[0]!.hit.state).toBe('rejected');
  });
});

describe('decisions', () => {
  const found = [hit('f1', 'one', 1.0, { state: 'found' }), hit('f2', 'one', 1.5, { state: 'found' })];

  it('survive a re-analysis, whatever kind is found now, and stay when nothing is found', () => {
    const kept = hit('old', 'one', 1.04, { kind: 'impact', evidence: [{ detector: 'onset', t: 1.04, strength: 0.4 }] });
    const lost = hit('lost', 'one', 9, { state: 'rejected' });
    const merged = mergeHits(found, [kept, lost]);
    expect(merged.map((h) => [h.id, h.state])).toEqual([
      ['old', 'kept'],
      ['f2', 'found'],
      ['lost', 'rejected'],
    ]);
  });

  it('of a nudged hit still stand for the find they were made on', () => {
    const m = moveHit(found[0]!, 1.4)(twoClips());
    expect(mergeHits(found, m.hits).map((h) => [h.id, h.t, h.state])).toEqual([
      ['f1', 1.4, 'kept'],
      ['f2', 1.5, 'found'],
    ]);
  });

  it('claim one find each', () => {
    const two = [hit('d1', 'one', 1.0), hit('d2', 'one', 1.02)];
    expect(mergeHits(found, two).map((h) => h.id)).toEqual(['d1', 'd2', 'f2']);
  });
});

describe('a subject', () => {
  const points = [
    [0.2, 0.2],
    [0.6, 0.2],
    [0.4, 0.8],
  ].map(([x, y]) => ({ x: x!, y: y!, smooth: false }));
  const subject = { paths: [{ id: 'p', does: 'adds' as const, keys: [{ t: 0, points }] }], grow: 0, soft: 0 };
  const of = (
    acts: Accent['acts'],
    effect = 'punch',
    params: Accent['effects'][number]['params'] = { zoom: 140 },
    clean = 0,
  ) => {
    const base = withRule(decideAll([hit('h', 'one', 1.5)], 'kept')(twoClips()));
    const use = { ...punchAccent().effects[0]!, effect, params };
    return planOf({
      ...base,
      sources: base.sources.map((source) =>
        source.id === 'one' ? { ...source, subject: { ...subject, clean } } : source,
      ),
      accents: [{ ...punchAccent(), effects: [use], ...(acts && { acts }) }],
    });
  };

  it('is laid over what acts behind it; the picture below is filled in where something moves', () => {
    const { picture, passes, others } = of('behind').at(15);
    expect(picture).toMatchObject({ frame: 45, shows: { what: 'behind' } });
    expect(passes.map(({ effect }) => effect)).toEqual(['punch', 'parted']);
    expect(others.map(({ shows }) => shows?.what)).toEqual([undefined, 'matte', 'behind']);
    expect(of('behind', 'negative', { amount: 100 }).at(15).picture).not.toHaveProperty('shows');
  });

  it('is moved with its edge, and coloured without', () => {
    const moved = of('subject').at(15).passes;
    expect(moved.map(({ effect }) => effect)).toEqual(['parted']);
    expect(moved[0]!.copies![0]).toMatchObject({
      passes: [{ effect: 'punch' }],
      matte: { passes: [{ effect: 'punch' }] },
      behind: { passes: [{ effect: 'punch' }] },
    });
    const coloured = of('subject', 'negative', { amount: 100 }).at(15).passes[0]!.copies![0]!;
    expect([coloured.passes.length, coloured.matte!.passes.length]).toEqual([1, 0]);
  });

  it('is swept across by copies of its own; where there is none, of the frame', () => {
    const swept = of(undefined, 'sweep', { opacity: 100, trail: 2, gap: 0 }).at(15);
    expect(swept.passes[0]!.copies!.map(({ matte }) => matte !== undefined)).toEqual([true, true]);
    const none = withRule(decideAll([hit('h', 'one', 1.5)], 'kept')(twoClips()));
    const use = { ...punchAccent().effects[0]!, effect: 'sweep', params: { opacity: 100, gap: 0 } };
    const plain = planOf({ ...none, accents: [{ ...punchAccent(), effects: [use], acts: 'behind' }] }).at(15);
    expect(plain.passes[0]!.copies!.every(({ matte }) => matte === undefined)).toBe(true);
    expect(plain.picture).not.toHaveProperty('shows');
  });

  it('is cut out of a cleaned picture where it is to be cleaned, and what is behind it is not', () => {
    const shown = (acts: Accent['acts'], effect?: string) => {
      const { picture, others } = of(acts, effect, effect ? { opacity: 100, gap: 0 } : undefined, 1).at(15);
      return [picture?.shows?.what, ...others.map(({ shows }) => shows?.what)];
    };
    expect(shown('behind')).toEqual(['behind', 'clean', 'matte', 'behind']);
    expect(shown(undefined, 'sweep')).toEqual([undefined, 'matte', 'clean']);
  });

  it('is looked at by itself, or as its matte, without accents', () => {
    const plans = of('behind');
    expect(plans.at(15, { subject: 'matte' })).toMatchObject({ picture: { shows: { what: 'matte' } }, passes: [] });
    expect(plans.at(15, { subject: 'edge' }).passes.map(({ effect }) => effect)).toEqual(['rim']);
    for (const subject of ['checks', '#ff8000'] as const)
      expect(plans.at(15, { subject }).passes.map(({ effect }) => effect)).toEqual(['backdrop', 'matted']);
    expect(plans.at(15, { subject: '#ff8000' }).passes[0]!.uniforms).toMatchObject({
      one: [1, expect.closeTo(0.2159, 4), 0],
      other: [1, expect.closeTo(0.2159, 4), 0],
    });
    // The second clip's source has none.
    expect(plans.at(40, { subject: 'matte' }).picture).not.toHaveProperty('shows');
  });
});

describe('another source over the picture', () => {
  const of = (source: string | undefined, params: Accent['effects'][number]['params'] = {}, still = false) => {
    const base = withRule(decideAll([hit('h', 'one', 1.5)], 'kept')(twoClips()));
    const logo = { ...footage('logo', 60), ...(still && { still: true }) };
    const use = { ...punchAccent().effects[0]!, effect: 'layer', params: { opacity: 100, ...params }, source };
    return planOf({
      ...base,
      sources: [...base.sources, logo],
      accents: [{ ...punchAccent(), effects: [use as (typeof base.accents)[0]['effects'][0]] }],
    });
  };

  it("runs from the accent's first frame on, over and over; a still is one frame that may be clear in places", () => {
    const at = (frame: number, params = {}) =>
      of('logo', params)
        .at(frame)
        .others.map((other) => other.frame);
    const first = 13;
    expect(at(first)).toEqual([0]);
    expect(at(first + 3, { speed: 100 })[0]! - at(first + 2, { speed: 100 })[0]!).toBeGreaterThan(0);
    expect(at(first + 3, { speed: 0 })).toEqual([0]);
    expect(of('logo', {}, true).at(15).others).toMatchObject([{ frame: 0 }, { frame: 0, shows: { what: 'clear' } }]);
  });

  it('is drawn only where it names a source that is there', () => {
    expect(of(undefined).at(15).passes).toEqual([]);
    expect(of('gone').at(15).passes).toEqual([]);
  });
});

describe('plan', () => {
  const m = withRule(decideAll([hit('h', 'one', 1.5)], 'kept')(twoClips()));

  it('puts the accent on the hit, and the identity outside of it', () => {
    const p = planOf(m);
    expect(p.at(12).passes).toEqual([]);
    // On its first frame the zoom is 100 %: the identity needs no pass.
    expect(p.at(13).passes).toEqual([]);
    expect(p.at(15).passes).toHaveLength(1);
    expect(p.at(15).passes[0]).toMatchObject({ effect: 'punch', uniforms: { turn: [100 / 140, 0] } });
    expect(p.at(22).passes).toEqual([]);
    expect(p.at(15, { plain: true }).passes).toEqual([]);
    expect(p.at(15).picture).toEqual({ source: 'one', frame: 45, fit: 'fit' });
  });

  it('is pure: any frame first, the same twice', () => {
    const frames = fc.array(fc.integer({ min: -5, max: 70 }), { minLength: 2, maxLength: 12 });
    fc.assert(
      fc.property(frames, (list) => {
        const shared = planOf(m);
        for (const frame of list) expect(shared.at(frame)).toEqual(plan(m, mediaIndex(m.sources), EFFECTS, frame));
      }),
    );
  });

  it('moves with the hit and vanishes with its clip', () => {
    const moved = moveHit(m.hits[0]!, 1.6)(m);
    expect(planOf(moved).placements.map((p) => p.frame)).toEqual([18]);
    expect(planOf(removeClip('c1')(m)).placements).toEqual([]);
  });

  it('follows strength, obeys least strength, kinds, and what is set by hand', () => {
    expect(planOf(withRule(m, { follow: 1 })).placements.at(-1)!.intensity).toBeCloseTo(0.5);
    expect(planOf({ ...m, rules: [{ ...rule, minStrength: 0.6 }] }).placements).toEqual([]);
    expect(planOf({ ...m, rules: [{ ...rule, kinds: ['flash'] }] }).placements).toEqual([]);
    const key = placementKey('r', 'h@c1');
    const [placement] = planOf(override(key, { nudge: 2, intensity: 0.25, seed: 9 })(m)).placements;
    expect(placement).toMatchObject({ frame: 17, intensity: 0.25, seed: 9 });
    expect(planOf(override(key, { mute: true })(m)).at(15).passes).toEqual([]);
    expect(override(key, { mute: undefined })(override(key, { mute: true })(m)).overrides).toEqual({});
  });

  it('gives each hit a seed of its own and keeps it', () => {
    const two = decideAll([hit('h2', 'one', 1.8)], 'kept')(m);
    const seeds = planOf(two).placements.map((p) => p.seed);
    expect(new Set(seeds).size).toBe(2);
    expect(planOf(moveHit(two.hits[1]!, 1.7)(two)).placements.map((p) => p.seed)).toEqual(seeds);
  });

  it('halves a zoom of 40 % to 20 % at half intensity, and skips unknown effects', () => {
    const half = planOf(override(placementKey('r', 'h@c1'), { intensity: 0.5 })(m)).at(15).passes[0]!;
    expect((half.uniforms['turn'] as number[])[0]).toBeCloseTo(100 / 120);
    const odd = {
      ...m,
      accents: [
        {
          ...punchAccent(),
          effects: [...punchAccent().effects, { id: 'x', effect: 'from-tomorrow', version: 7, on: true, params: {} }],
        },
      ],
    };
    expect(planOf(odd).at(15).passes).toHaveLength(1);
  });

  it('carries an accent made at 30 frames a second to 60', () => {
    const fast: Montage = {
      ...m,
      settings: { ...m.settings, timing: { mode: 'constant', rate: { num: 60, den: 1 } } },
    };
    const [placement] = planOf(fast).placements;
    expect([placement!.frame, placement!.accent.lead, placement!.accent.tail]).toEqual([30, 4, 12]);
  });
});

describe('sound plan', () => {
  it('plays each clip in its place and the music under all', () => {
    const tune = { ...footage('tune', 30), role: 'music' as const, video: null, duration: 10 };
    const base = twoClips();
    const m: Montage = {
      ...base,
      sources: [...base.sources, tune],
      music: [{ id: 'i', source: 'tune', at: 0.5, in: 2, out: 10, gain: 0.7 }],
    };
    expect(soundPlan(m, timeline(m, mediaIndex(m.sources)))).toEqual([
      { lane: 'clips', source: 'one', track: 0, at: 0, in: 1, out: 2, gain: 1, fadeIn: 0.004, fadeOut: 0.004 },
      { lane: 'clips', source: 'two', track: 0, at: 1, in: 0, out: 1, gain: 1, fadeOut: 0.004 },
      { lane: 'music', source: 'tune', track: 0, at: 0.5, in: 2, out: 3.5, gain: 0.7 },
    ]);
  });
});

describe('accents over joins, in runs and as beds', () => {
  const zoomed = (m: Montage, frame: number): number[] =>
    planOf(m)
      .at(frame)
      .passes.filter((p) => p.effect === 'punch')
      .map((p) => Math.round(100 / (p.uniforms['turn'] as number[])[0]!));
  /** Two clips of 30 frames: a hit six frames before the join. */
  const late = (change: Partial<Accent>): Montage => ({
    ...decideAll([hit('h', 'one', 1.8)], 'kept')(twoClips()),
    rules: [shotRule()],
    accents: [
      {
        ...punchAccent(),
        tail: 12,
        effects: [
          {
            id: 'e',
            effect: 'punch',
            version: 1,
            on: true,
            params: {
              zoom: [
                { at: -2, value: 100, ease: 'linear' },
                { at: 0, value: 160, ease: 'linear' },
                { at: 12, value: 100, ease: 'linear' },
              ],
            },
          },
        ],
        ...change,
      },
    ],
  });

  it('carries an accent over the join, cuts it off there, or squeezes it', () => {
    expect(zoomed(late({}), 31)).toEqual([125]);
    expect(zoomed(late({ confine: 'cut' }), 31)).toEqual([]);
    expect(zoomed(late({ confine: 'cut' }), 29)).toEqual([135]);
    // Five frames are left of twelve: the last one of the shot is the accent's end.
    expect(zoomed(late({ confine: 'squeeze' }), 26)).toEqual([136]);
    expect(zoomed(late({ confine: 'squeeze' }), 29)).toEqual([]);
  });

  it('lays start, peak or end on the hit', () => {
    const peak = (align: Accent['align']): number =>
      Array.from({ length: 60 }, (_, f) => zoomed(late({ align, tail: 4 }), f)[0] ?? 100).indexOf(160);
    expect([peak('start'), peak('peak'), peak('end')]).toEqual([26, 24, 20]);
  });

  it('begins before the montage and outlasts it without harm', () => {
    const m = late({ lead: 500, tail: 500 });
    expect(() => [0, 29, 30, 59].map((frame) => planOf(m).at(frame))).not.toThrow();
    expect(zoomed(m, 24)).toEqual([160]);
  });

  const three = decideAll([hit('a', 'one', 1.2), hit('b', 'one', 1.5), hit('c', 'two', 0.5)], 'kept')(twoClips());
  const runAccent = (glide: Easing | null): Accent => ({
    ...punchAccent(),
    lead: 1,
    tail: 3,
    effects: [
      {
        id: 'e',
        effect: 'punch',
        version: 1,
        on: true,
        params: { zoom: { base: 100, by: { kind: 'run', values: [], from: 110, to: 150, glide } } },
      },
    ],
  });
  const inRun = (after: 'plain' | 'stay', glide: Easing | null = null, count = 0): Montage => ({
    ...three,
    accents: [runAccent(glide)],
    rules: [shotRule({ run: { count, after } })],
  });

  it('takes one value a hit, held until the next changes within exactly one frame', () => {
    const m = inRun('plain');
    expect([6, 14, 15, 44, 45, 48].map((f) => zoomed(m, f))).toEqual([[110], [110], [130], [130], [150], [150]]);
    expect(zoomed(m, 49)).toEqual([]);
  });

  it('stays on its last value until the clip ends, or begins anew after so many', () => {
    expect(zoomed(inRun('stay'), 59)).toEqual([150]);
    expect([6, 15, 45].map((f) => zoomed(inRun('plain', null, 2), f))).toEqual([[110], [150], [150]]);
  });

  it('glides from value to value', () => {
    const m = inRun('plain', 'linear');
    expect([15, 30, 44].map((f) => zoomed(m, f)[0])).toEqual([130, 140, 149]);
  });

  it('lays a bed on all, on a clip, or from hit to hit, under or over the accents', () => {
    const bed = (stretch: Bed['stretch'], above = false): Montage => ({
      ...three,
      accents: [
        { ...punchAccent('bed'), effects: [{ id: 'e', effect: 'punch', version: 1, on: true, params: { zoom: 120 } }] },
        { ...punchAccent(), effects: [{ id: 'f', effect: 'punch', version: 1, on: true, params: { zoom: 200 } }] },
      ],
      rules: [shotRule()],
      beds: [{ id: 'b', accent: 'bed', on: true, stretch, above, intensity: 1, seed: 1 }],
    });
    expect([0, 15, 59].map((f) => zoomed(bed({ kind: 'all' }), f))).toEqual([[120], [120, 200], [120]]);
    expect(zoomed(bed({ kind: 'all' }, true), 15)).toEqual([200, 120]);
    expect([0, 30, 59].map((f) => zoomed(bed({ kind: 'clip', clip: 'c2' }), f))).toEqual([[], [120], [120]]);
    expect([5, 6, 15, 16, 24].map((f) => zoomed(bed({ kind: 'hits', from: 'a', to: 'b' }), f).includes(120))).toEqual([
      false,
      true,
      true,
      false,
      false,
    ]);
    expect(zoomed(bed({ kind: 'hits', from: 'a', to: 'gone' }), 10)).not.toContain(120);
  });

  it('lays a bed on sections between kept drops, each of them or those that are named', () => {
    const bed = (sections: number[]): Montage => ({
      ...decideAll(
        [hit('d', 'one', 1.5, { kind: 'drop' }), hit('e', 'two', 0.5, { kind: 'drop' })],
        'kept',
      )(twoClips()),
      accents: [
        { ...punchAccent(), effects: [{ id: 'e', effect: 'punch', version: 1, on: true, params: { zoom: 120 } }] },
      ],
      beds: [
        {
          id: 'b',
          accent: 'a',
          on: true,
          stretch: { kind: 'sections', sections },
          above: false,
          intensity: 1,
          seed: 1,
        },
      ],
    });
    const lies = (m: Montage): number[] => [0, 14, 15, 44, 45, 59].map((frame) => zoomed(m, frame).length);
    expect(lies(bed([]))).toEqual([1, 1, 1, 1, 1, 1]);
    expect(lies(bed([1]))).toEqual([0, 0, 1, 1, 0, 0]);
    expect(lies(bed([0, 2]))).toEqual([1, 1, 0, 0, 1, 1]);
  });

  it('plays a bed once, holds what it is on the hit, or plays it again and again', () => {
    const bed = (lasts: Bed['lasts']): Montage => ({
      ...twoClips(),
      accents: [punchAccent()],
      beds: [{ id: 'b', accent: 'a', on: true, stretch: { kind: 'all' }, lasts, above: false, intensity: 1, seed: 1 }],
    });
    const at = (lasts: Bed['lasts']): (number | undefined)[] =>
      [0, 2, 5, 8, 9, 11, 59].map((frame) => zoomed(bed(lasts), frame)[0]);
    expect(at(undefined)).toEqual([140, 127, 107, undefined, undefined, undefined, undefined]);
    expect(at('hold')).toEqual([140, 140, 140, 140, 140, 140, 140]);
    // Two frames of lead, the hit and six of tail: nine frames each time.
    expect(at('repeat')).toEqual([undefined, 140, 120, undefined, undefined, 140, 120]);
  });

  it('draws an effect where another one acts that it shares its region with, and elsewhere on one placement', () => {
    const box = (x: number) => [
      { id: `s${x}`, kind: 'box' as const, combine: 'add' as const, invert: false, params: { x, w: 10, h: 10 } },
    ];
    const flash = (id: string, more: object) => ({
      id,
      effect: 'flash',
      version: 1,
      on: true,
      params: { exposure: 2 },
      ...more,
    });
    const m: Montage = {
      ...decideAll([hit('a', 'one', 1.2), hit('b', 'one', 1.6)], 'kept')(twoClips()),
      rules: [shotRule()],
      accents: [
        { ...punchAccent(), effects: [flash('own', { region: box(20) }), flash('shares', { regionOf: 'own' })] },
      ],
    };
    const middles = (of: Montage, frame: number): (number | undefined)[] =>
      planOf(of)
        .at(frame)
        .passes.map(({ mask }) => mask?.[0]!.box[0]);
    const [first, second] = [middles(m, 6), middles(m, 18)];
    expect(first).toHaveLength(2);
    expect(new Set([...first, ...second]).size).toBe(1);
    const key = planOf(m).placements[1]!.key;
    const moved = { ...m, overrides: { [key]: { regions: { own: box(-20) } } } };
    expect(middles(moved, 6)).toEqual(first);
    expect(middles(moved, 18)).toEqual(first.map((x) => -x!));
  });

  it('asks for other frames, never over a join', () => {
    const trail = {
      ...punchAccent(),
      effects: [
        { id: 't', effect: 'trail', version: 1, on: true, params: { opacity: 50, count: 2, every: -40 } },
        { id: 'z', effect: 'freeze', version: 1, on: true, params: { on: 100, from: -3 } },
      ],
    };
    const at = planOf({ ...three, rules: [shotRule()], accents: [trail] }).at(17);
    // Frozen three frames before the hit on frame 15; both copies lie before the clip and are its first frame.
    expect(at.picture).toMatchObject({ source: 'one', frame: 42 });
    expect(at.others).toEqual([{ source: 'one', frame: 30, fit: 'fit' }]);
    expect(at.passes[0]!.copies!.map((c) => c.picture)).toEqual([0, 0]);
  });

  it('enlarges just so much that no border is read, over the accent or the whole shot', () => {
    const slid = (cover: Accent['cover']): Montage => ({
      ...three,
      rules: [shotRule()],
      accents: [
        {
          ...punchAccent(),
          cover,
          effects: [{ id: 's', effect: 'rattle', version: 1, on: true, params: { amount: 5, angle: 90 } }],
        },
      ],
    });
    // 5 % of travel on each side is what an enlargement of 110 % leaves (design: (s - 1) / 2).
    expect(
      planOf(slid('accent'))
        .at(15)
        .passes.map((p) => p.effect),
    ).toEqual(['punch', 'rattle']);
    expect(zoomed(slid('accent'), 15)).toEqual([110]);
    expect(planOf(slid('accent')).at(10 + 13).passes).toEqual([]);
    expect(zoomed(slid('shot'), 23)).toEqual([110]);
    expect(planOf(slid('clamp')).at(15).passes[0]).toMatchObject({ effect: 'rattle', edge: 'clamp' });
    expect(planOf(slid('mirror')).at(15).passes).toHaveLength(1);
  });
});

describe('a focus', () => {
  const punchOn = (m: Montage, frame: number) =>
    planOf(m)
      .at(frame)
      .passes.find(({ effect }) => effect === 'punch')!.uniforms['focus'] as readonly number[];
  const at = (focus: boolean, change: Parameters<typeof hit>[3] = {}): Montage => {
    const accent = punchAccent();
    const m = addRule({ ...rule, minStrength: 0, follow: 0 })({
      ...twoClips(),
      accents: [{ ...accent, effects: accent.effects.map((use) => ({ ...use, ...(focus && { focus }) })) }],
    });
    return { ...m, hits: [hit('h', 'one', 1.5, { focus: { x: 0.75, y: 0.25 }, ...change })] };
  };

  it('is where an effect acts that goes by it, and moves with the picture', () => {
    // Shares of a picture of 16:9 to frame heights from its middle.
    expect(punchOn(at(true), 16)).toEqual([expect.closeTo((0.25 * 16) / 9, 6), expect.closeTo(-0.25, 6)]);
    expect(punchOn(at(false), 16)).toEqual([0, 0]);
    expect(punchOn(at(true, { focus: undefined }), 16)).toEqual([0, 0]);
    const track = [
      { t: 1.5, x: 0.75, y: 0.25 },
      { t: 1.5 + 4 / 30, x: 0.25, y: 0.5 },
    ];
    expect(punchOn(at(true, { track }), 17)).toEqual([expect.closeTo(0, 6), expect.closeTo(-0.125, 6)]);
    expect(punchOn(at(true, { track }), 19)[0]).toBeCloseTo((-0.25 * 16) / 9, 6);
  });

  it('is where regions lie that go by it', () => {
    const shape = { id: 's', kind: 'ellipse' as const, combine: 'add' as const, invert: false, params: { x: 5 } };
    const region = (focus: boolean): readonly number[] => {
      const m = at(false);
      const accents = m.accents.map((a) => ({
        ...a,
        effects: a.effects.map((use) => ({ ...use, region: [{ ...shape, ...(focus && { focus }) }] })),
      }));
      return planOf({ ...m, accents }).at(16).passes[0]!.mask![0]!.box;
    };
    expect(region(false)[0]).toBeCloseTo(0.05, 6);
    expect(region(true)[0]).toBeCloseTo(0.05 + (0.25 * 16) / 9, 6);
    expect(region(true)[1]).toBeCloseTo(-0.25, 6);
  });

  it('stands in the middle of a tall format, and the zoom in it goes about the middle then', () => {
    const m = at(true);
    const format = { id: 'f', name: '9:16', width: 720, height: 1280, fit: 'focus' as const, fits: {} };
    const tall = inFormat({ ...m, formats: [format] }, 'f');
    const { picture } = planOf(tall).at(15);
    expect(picture!.centre!.x).toBeCloseTo(0.75, 6);
    // Across it is in the middle; the whole height is shown, so that it stays above the middle.
    expect(punchOn(tall, 16)).toEqual([expect.closeTo(0, 6), expect.closeTo(-0.25, 6)]);
    // What was cut off is framed as what it was cut from.
    const framed = { ...m, formats: [{ ...format, fits: { c1: 'fill' as const } }] };
    const halves = inFormat(splitClip('c1', 1.5, 'new')(framed), 'f').clips;
    expect(halves.map(({ fit }) => fit)).toEqual(['fill', 'fill', 'focus']);
    expect(inFormat(m, 'gone')).toBe(m);
    expect(inFormat({ ...m, formats: [{ ...format, fits: { [m.clips[0]!.id]: 'fill' } }] }, 'f').clips[0]!.fit).toBe(
      'fill',
    );
  });
});

describe('an audition', () => {
  it('shows an accent on a frame whatever the rules say, laid as on the hit there', () => {
    const m = { ...decideAll([hit('h', 'one', 1.5), hit('i', 'one', 1.9)], 'kept')(twoClips()), accents: [] };
    const p = planOf(m);
    const audition = { accent: { ...punchAccent(), until: 'next' as const }, frame: 15, intensity: 1 };
    expect(p.placed(audition)).toMatchObject({ frame: 15, from: 13, to: 26 });
    expect(p.at(15, { audition }).passes).toHaveLength(1);
    expect(p.at(15).passes).toEqual([]);
    expect(p.at(15, { audition, plain: true }).passes).toEqual([]);
  });
});

describe('a bed that is pinned', () => {
  const track = [1, 1.5, 2].map((t) => ({ t, x: 0.5 + (t - 1) / 5, y: 0.5 }));
  const zoom = (params = {}): Accent => ({
    ...punchAccent('z'),
    lead: 0,
    tail: 4,
    effects: [
      {
        id: 'e',
        effect: 'punch',
        version: 1,
        on: true,
        params: { zoom: 150, ...params },
        region: [{ id: 'r', kind: 'ellipse', combine: 'add', invert: false, params: { x: 10, y: 0 } }],
      },
    ],
  });
  const passAt = (frame: number, bed: Partial<Bed> = {}) => {
    const placed: Bed = {
      ...{ id: 'b', accent: 'z', on: true, stretch: { kind: 'all' }, above: false, intensity: 1, seed: 1 },
      pin: { source: 'one', at: 1, track },
      ...bed,
    };
    const m: Montage = { ...twoClips(), accents: [zoom()], beds: [placed] };
    return { pass: planOf(m).at(frame).passes[0]!, aspect: m.settings.width / m.settings.height };
  };

  it('has all its places and regions go along with what was followed, and stand where that is not seen', () => {
    const { pass: start, aspect } = passAt(0);
    const moved = (frame: number, bed: Partial<Bed> = {}) => {
      const { pass } = passAt(frame, bed);
      return pass.mask![0]!.box[0]! - start.mask![0]!.box[0]!;
    };
    // The first clip shows source seconds 1 to 2 in its 30 frames.
    for (const frame of [0, 15, 29]) expect(moved(frame)).toBeCloseTo((frame / 30 / 5) * aspect, 6);
    expect(moved(40)).toBeCloseTo(0, 9);
    // Where it begins again and again it goes on with the picture, not with its own frames.
    expect(moved(29, { lasts: 'repeat' })).toBeCloseTo((29 / 30 / 5) * aspect, 6);
    const { centre: before } = passAt(0).pass.uniforms as { centre?: number[] };
    const { centre: after } = passAt(15).pass.uniforms as { centre?: number[] };
    if (before && after) expect(after[0]! - before[0]!).toBeCloseTo((0.5 / 5) * aspect, 6);
  });
});

describe('what is pinned to a box', () => {
  // A quarter turn and twice the size within its first half second.
  const track = [1, 1.5].map((t) => ({ t, x: 0.5 + (t - 1) / 5, y: 0.5, turn: (t - 1) * Math.PI, scale: 2 * t - 1 }));
  const pin = { source: 'one', at: 1, track };
  const aspect = twoClips().settings.width / twoClips().settings.height;

  it('turns and grows about it: regions, and what lies over', () => {
    const region = {
      id: 'r',
      kind: 'box',
      combine: 'add',
      invert: false,
      params: { x: 10, y: 0, w: 20, h: 30 },
    } as const;
    const over: Accent = {
      ...punchAccent('o'),
      lead: 0,
      effects: [
        {
          id: 'e',
          effect: 'layer',
          version: 1,
          on: true,
          params: { opacity: 100, x: 10, size: 50 },
          source: 'two',
          region: [region],
        },
      ],
    };
    const bed: Bed = {
      id: 'b',
      accent: 'o',
      on: true,
      stretch: { kind: 'all' },
      above: false,
      intensity: 1,
      seed: 1,
      pin,
    };
    const at = (frame: number) => planOf({ ...twoClips(), accents: [over], beds: [bed] }).at(frame).passes[0]!;
    const [start, later] = [at(0), at(15)];
    const [box] = later.mask!;
    // Ten hundredths right of the middle have become twenty below it.
    expect(start.mask![0]!.box).toEqual([0.1, 0, 0.1, 0.15].map((v) => expect.closeTo(v, 6) as number));
    expect(box!.box).toEqual([0.1 * aspect, 0.2, 0.2, 0.3].map((v) => expect.closeTo(v, 6) as number));
    expect(box!.form.slice(1, 3)).toEqual([expect.closeTo(0, 6), expect.closeTo(1, 6)]);
    expect(start.uniforms['place']).toEqual([0.1, 0, 2, 0].map((v) => expect.closeTo(v, 6) as number));
    expect(later.uniforms['place']).toEqual([0.1 * aspect, 0.2, 1, 0].map((v) => expect.closeTo(v, 6) as number));
    expect(later.uniforms['turn']).toEqual([expect.closeTo(0, 6), expect.closeTo(1, 6)]);
  });

  it('turns and grows with it: titles, which a pass lays over then', () => {
    const title = { ...DEFAULT_TITLE, id: 't', text: 'Bolt', over: 0, x: 10, y: 0, pin };
    const { passes, titles } = planOf({ ...twoClips(), titles: [title] }).at(15);
    expect(passes.map(({ effect }) => effect)).toEqual(['matted']);
    const [drawn] = titles;
    expect(drawn).toMatchObject({ laid: true, x: expect.closeTo(0.1 * aspect, 6), y: expect.closeTo(0.2, 6) });
    expect(drawn!.size).toBeCloseTo((2 * DEFAULT_TITLE.size) / 100, 6);
    // Its own place is where it is turned about.
    const [ox, oy] = passes[0]!.uniforms['place'] as number[];
    const [c, s] = passes[0]!.uniforms['turn'] as number[];
    const [dx, dy] = [drawn!.x - ox!, drawn!.y - oy!];
    expect(c! * dx + s! * dy).toBeCloseTo(drawn!.x, 6);
    expect(c! * dy - s! * dx).toBeCloseTo(drawn!.y, 6);
  });
});

describe('a title that comes and goes by accents', () => {
  const of = (frame: number, change: object = {}) =>
    planOf({
      ...decideAll([hit('h', 'one', 1.5)], 'kept')(twoClips()),
      accents: [punchAccent('in'), punchAccent('out')],
      titles: [{ ...DEFAULT_TITLE, id: 't', text: 'Bolt', comes: 'cut', goes: 'cut', x: 20, ...change }],
    }).at(frame);
  const acting = (frame: number, change: object) => {
    const { passes } = of(frame, change);
    expect(passes.map(({ effect }) => effect)).toEqual(['matted']);
    const [copy] = passes[0]!.copies!;
    expect(copy!.matte!.passes).toEqual(copy!.passes);
    return copy!.passes.map(({ effect }) => effect);
  };

  it('has them act on it alone, from its first frame, up to its last, or about its hit', () => {
    const both = { comesBy: 'in', goesBy: 'out' };
    const active = Array.from({ length: 60 }, (_, frame) => acting(frame, both).length);
    const { lead, tail } = punchAccent();
    const length = lead + tail + 1;
    const first = active.slice(0, length);
    expect(first.filter(Boolean).length).toBeGreaterThan(2);
    expect(active.slice(length, 60 - length).some(Boolean)).toBe(false);
    expect(active.slice(60 - length)).toEqual(first);
    const each = { comesBy: 'in', where: { kind: 'each', kinds: [], before: 4, after: 20 } };
    expect(acting(11, each)).toEqual([]);
    expect(acting(15, each)).toEqual(['punch']);
  });

  it('is drawn as others are where that accent is gone', () => {
    const m: Montage = {
      ...twoClips(),
      accents: [punchAccent('in')],
      titles: [{ ...DEFAULT_TITLE, id: 't', text: 'Bolt', comesBy: 'in', goesBy: 'in' }],
    };
    expect(removeAccent('in')(m).titles).toEqual([{ ...DEFAULT_TITLE, id: 't', text: 'Bolt' }]);
    expect(of(30).passes).toEqual([]);
  });
});

describe('a title under the accents', () => {
  const of = (below: boolean) =>
    planOf({
      ...withRule(decideAll([hit('h', 'one', 1.5)], 'kept')(twoClips())),
      titles: [{ ...DEFAULT_TITLE, id: 't', text: 'Bolt', over: 0, below }],
    }).at(15);

  it('is laid over the picture before them, and over nothing again', () => {
    const { passes, others, titles } = of(true);
    expect(passes.map(({ effect }) => effect)).toEqual(['matted', 'punch']);
    expect(others.map(({ title, shows }) => [title?.text, shows?.what])).toEqual([
      ['Bolt', undefined],
      ['Bolt', 'clear'],
    ]);
    // Named on the frame all the same: it is dragged there.
    expect(titles).toMatchObject([{ id: 't', laid: true }]);
    expect(of(false).passes.map(({ effect }) => effect)).toEqual(['punch']);
  });
});
