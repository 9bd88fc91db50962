import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EFFECTS } from '../../effects/index.ts';
import { addRule, decide, decideAll, moveHit, override, removeClip } from '../montage/edits.ts';
import { mergeHits, occurrences } from '../hits/hits.ts';
import type { Montage, Rule } from '../montage/types.ts';
import { listedTimes } from '../media/frame-times.ts';
import { placementKey } from '../hits/hits.ts';
import { footage, hit, punchAccent, twoClips } from '../testkit/montages.ts';
import { plan, planner } from './plan.ts';
import { soundPlan } from './sound-plan.ts';
import { mediaIndex, timeline } from './timeline.ts';

const rule: Rule = { id: 'r', accent: 'a', on: true, kinds: ['shot'], minStrength: 0.2, follow: 0, burst: 'each', seed: 4 };
const withRule = (m: Montage, change: Partial<Rule> = {}): Montage => addRule({ ...rule, ...change })({ ...m, accents: [punchAccent()] });
const planOf = (m: Montage) => planner(m, mediaIndex(m.sources), EFFECTS);

describe('timeline', () => {
  it('lays clips end to end and shows the right source frames', () => {
    const m = twoClips();
    const line = timeline(m, mediaIndex(m.sources));
    expect(line.count).toBe(60);
    const at = (frame: number) => {
      const span = line.spanAt(frame)!;
      return [span.clip.source, line.sourceFrame(span, frame)];
    };
    expect([at(0), at(29), at(30), at(59)]).toEqual([['one', 30], ['one', 59], ['two', 0], ['two', 29]]);
    expect(line.spanAt(60)).toBeNull();
  });

  it('stays exact over three hours of 30000/1001 in a 60000/1001 montage', () => {
    const rate = { num: 30000, den: 1001 };
    const frames = 323676;
    const m: Montage = { ...twoClips(), sources: [footage('long', frames, rate)], clips: [{ id: 'c', source: 'long', in: 0, out: (frames * 1001) / 30000, fit: 'fit' }] };
    const double = { ...m, settings: { ...m.settings, timing: { mode: 'constant' as const, rate: { num: 60000, den: 1001 } } } };
    const line = timeline(double, mediaIndex(double.sources));
    expect(line.count).toBe(frames * 2);
    for (const frame of [0, 1, 99_999, 300_001, frames * 2 - 1]) expect(line.sourceFrame(line.spans[0]!, frame)).toBe(Math.floor(frame / 2));
  });

  it('keeps the own timestamps of a variable source, one montage frame a source frame', () => {
    const starts = [0, 0.05, 0.2, 0.21, 0.5];
    const m: Montage = { ...twoClips(), sources: [footage('v', 5)], clips: [{ id: 'c', source: 'v', in: 0, out: 0.6, fit: 'fit' }] };
    const media = new Map([['v', listedTimes(starts, 0.1)]]);
    const line = timeline({ ...m, settings: { ...m.settings, timing: { mode: 'source' } } }, media);
    expect(line.count).toBe(5);
    expect([0, 1, 2, 3, 4, 5].map((f) => Math.round(line.timeOf(f) * 1000) / 1000)).toEqual([0, 0.05, 0.2, 0.21, 0.5, 0.6]);
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
    const shown = occurrences(m, [hit('h', 'one', 1.5), hit('gone', 'one', 2.5)], line).filter((o) => o.hit.kind !== 'join');
    expect(shown.map((o) => [o.key, o.frame])).toEqual([['h@c1', 15], ['h@c3', 69]]);
  });

  it('places a hit between two montage frames on the first that shows its source frame or a later one', () => {
    const m: Montage = { ...twoClips(), sources: [footage('fast', 120, { num: 60, den: 1 })], clips: [{ id: 'c', source: 'fast', in: 0, out: 2, fit: 'fit' }] };
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
    expect(merged.map((h) => [h.id, h.state])).toEqual([['old', 'kept'], ['f2', 'found'], ['lost', 'rejected']]);
  });

  it('of a nudged hit still stand for the find they were made on', () => {
    const m = moveHit(found[0]!, 1.4)(twoClips());
    expect(mergeHits(found, m.hits).map((h) => [h.id, h.t, h.state])).toEqual([['f1', 1.4, 'kept'], ['f2', 1.5, 'found']]);
  });

  it('claim one find each', () => {
    const two = [hit('d1', 'one', 1.0), hit('d2', 'one', 1.02)];
    expect(mergeHits(found, two).map((h) => h.id)).toEqual(['d1', 'd2', 'f2']);
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
    expect(p.at(15, true).passes).toEqual([]);
    expect(p.at(15).picture).toEqual({ source: 'one', frame: 45, fit: 'fit' });
  });

  it('is pure: any frame first, the same twice', () => {
    const frames = fc.array(fc.integer({ min: -5, max: 70 }), { minLength: 2, maxLength: 12 });
    fc.assert(fc.property(frames, (list) => {
      const shared = planOf(m);
      for (const frame of list) expect(shared.at(frame)).toEqual(plan(m, mediaIndex(m.sources), EFFECTS, frame));
    }));
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
    const odd = { ...m, accents: [{ ...punchAccent(), effects: [...punchAccent().effects, { id: 'x', effect: 'from-tomorrow', version: 7, on: true, params: {} }] }] };
    expect(planOf(odd).at(15).passes).toHaveLength(1);
  });

  it('carries an accent made at 30 frames a second to 60', () => {
    const fast: Montage = { ...m, settings: { ...m.settings, timing: { mode: 'constant', rate: { num: 60, den: 1 } } } };
    const [placement] = planOf(fast).placements;
    expect([placement!.frame, placement!.accent.lead, placement!.accent.tail]).toEqual([30, 4, 12]);
  });
});

describe('sound plan', () => {
  it('plays each clip in its place and the music under all', () => {
    const tune = { ...footage('tune', 30), role: 'music' as const, video: null, duration: 10 };
    const base = twoClips();
    const m: Montage = { ...base, sources: [...base.sources, tune], music: [{ id: 'i', source: 'tune', at: 0.5, in: 2, out: 10, gain: 0.7 }] };
    expect(soundPlan(m, timeline(m, mediaIndex(m.sources)))).toEqual([
      { source: 'one', track: 0, at: 0, in: 1, out: 2, gain: 1 },
      { source: 'two', track: 0, at: 1, in: 0, out: 1, gain: 1 },
      { source: 'tune', track: 0, at: 0.5, in: 2, out: 3.5, gain: 0.7 },
    ]);
  });
});
