import { describe, expect, it } from 'vitest';
import { footage, hit, punchAccent, twoClips, shotRule } from '../testkit/montages.ts';
import { withKey } from '../accents/envelope.ts';
import * as edits from './edits.ts';
import { emptyMontage } from './types.ts';

describe('edits', () => {
  it('the first footage sets size (rounded to even) and rate, and becomes a clip', () => {
    const source = {
      ...footage('odd', 60, { num: 30000, den: 1001 }),
      video: { ...footage('odd', 60).video!, width: 853, height: 479, rate: { num: 30000, den: 1001 } },
    };
    const m = edits.addSource(source, 'c')(emptyMontage('m', 'x'));
    expect(m.settings).toMatchObject({ width: 852, height: 478, timing: { rate: { num: 30000, den: 1001 } } });
    expect(m.clips[0]!.out).toBeCloseTo((60 * 1001) / 30000);
  });

  it('sound goes to the music lane', () => {
    const m = edits.addSource({ ...footage('s', 1), video: null, role: 'music', duration: 8 }, 'i')(twoClips());
    expect(m.music).toEqual([{ id: 'i', source: 's', at: 0, in: 0, out: 8, gain: 1 }]);
    expect(m.clips).toHaveLength(2);
  });

  it('removing a source takes all that shows it', () => {
    const m = edits.removeSource('one')(edits.decideAll([hit('h', 'one', 1), hit('k', 'two', 1)], 'kept')(twoClips()));
    expect([m.sources.length, m.clips.length, m.hits.map((h) => h.id)]).toEqual([1, 1, ['k']]);
  });

  it('a decision is kept once, and taken back to undecided it is dropped', () => {
    const found = hit('h', 'one', 1, { state: 'found' });
    const kept = edits.decide(found, 'kept')(twoClips());
    expect(kept.hits).toMatchObject([{ id: 'h', state: 'kept' }]);
    expect(edits.decide(kept.hits[0]!, 'rejected')(kept).hits).toMatchObject([{ state: 'rejected' }]);
    expect(edits.decide(kept.hits[0]!, 'found')(kept).hits).toEqual([]);
  });

  it('a hand-made hit stays hand-made when moved', () => {
    const m = edits.addMark('mark', 'one', 1.2)(twoClips());
    expect(edits.moveHit(m.hits[0]!, 1.3)(m).hits).toMatchObject([{ id: 'mark', t: 1.3, state: 'made', kind: 'mark' }]);
  });

  it('effects of an accent are added, moved, switched and removed; keys set, eased and dropped', () => {
    let m = edits.addAccent(punchAccent())(twoClips());
    const use = { id: 'e2', effect: 'flash', version: 1, on: true, params: {} };
    m = edits.addEffect('a', use)(m);
    m = edits.moveEffect('a', 'e2', -5)(m);
    expect(m.accents[0]!.effects.map((e) => e.id)).toEqual(['e2', 'e1']);
    m = edits.changeEffect('a', 'e2', (e) => ({ ...e, on: false }))(m);
    m = edits.changeEnvelope('a', 'e2', 'exposure', 0, (e) => withKey(withKey(e, 0, 3), 4, 0))(m);
    expect(m.accents[0]!.effects[0]).toMatchObject({
      on: false,
      params: {
        exposure: [
          { at: 0, value: 3 },
          { at: 4, value: 0, ease: 'linear' },
        ],
      },
    });
    // What a generator moves keeps its generator when its envelope changes.
    const by = { kind: 'hold' as const, amount: 1, every: 2 };
    m = edits.changeParam('a', 'e2', 'exposure', 0, () => ({ base: 0, by }))(m);
    m = edits.changeEnvelope('a', 'e2', 'exposure', 0, () => 2)(m);
    expect(m.accents[0]!.effects[0]!.params['exposure']).toEqual({ base: 2, by });
    m = edits.changeEffect('a', 'e2', (e) => ({ ...e, stack: [{ ...use, id: 'inner' }] }))(m);
    m = edits.changeEffect('a', 'inner', (e) => ({ ...e, on: false }))(m);
    expect(m.accents[0]!.effects[0]!.stack![0]).toMatchObject({ id: 'inner', on: false });
    expect(edits.removeEffect('a', 'inner')(m).accents[0]!.effects[0]!.stack).toEqual([]);
    expect(
      edits
        .dropEffect(
          'a',
          'e2',
          'e1',
        )(m)
        .accents[0]!.effects.map((e) => e.id),
    ).toEqual(['e1', 'e2']);
    expect(
      edits
        .removeEffect(
          'a',
          'e2',
        )(m)
        .accents[0]!.effects.map((e) => e.id),
    ).toEqual(['e1']);
  });

  it('leave their input as it was', () => {
    const before = edits.addAccent(punchAccent())(twoClips());
    const copy = JSON.stringify(before);
    for (const edit of [
      edits.changeEnvelope('a', 'e1', 'zoom', 100, (e) => withKey(e, 3, 9)),
      edits.removeSource('one'),
      edits.override('x', { mute: true }),
      edits.setSensitivity('shot', 1),
    ])
      edit(before);
    expect(JSON.stringify(before)).toBe(copy);
  });

  it('removing an accent takes its beds, its rules and what was set by hand under them', () => {
    let m = edits.addAccent(punchAccent())(twoClips());
    m = edits.addRule(shotRule())(m);
    m = edits.addBed({ id: 'b', accent: 'a', on: true, stretch: { kind: 'all' }, above: false, intensity: 1, seed: 1 })(
      m,
    );
    m = edits.override('r|h@c1', { mute: true })(m);
    expect(edits.removeAccent('a')(m)).toMatchObject({ accents: [], rules: [], beds: [], overrides: {} });
  });

  it('a focus that a job found leaves alone what was rejected, moved or taken away meanwhile', () => {
    const [a, b, gone] = [hit('a', 'one', 1), hit('b', 'one', 1.2), hit('gone', 'one', 1.4)];
    const found = hit('f', 'one', 1.6, { state: 'found' });
    const m = {
      ...twoClips(),
      hits: [
        { ...a, t: 1.1 },
        { ...b, state: 'rejected' as const },
      ],
    };
    const point = { x: 0.2, y: 0.3 };
    const after = edits.together([a, b, gone, found].map((one) => edits.setFoundFocus(one, point)))(m);
    expect(after.hits).toEqual([
      { ...a, t: 1.1, focus: point },
      { ...b, state: 'rejected' },
      { ...found, state: 'kept', focus: point },
    ]);
  });

  it('a rule that has other accents outlives one that is removed, and so does what else is laid by hand', () => {
    const both = [
      { accent: 'a', weight: 1 },
      { accent: 'b', weight: 2 },
    ];
    const hand = (accent: string) => ({ id: accent, accent, on: 'h@c1', intensity: 1, seed: 1 });
    const m = {
      ...twoClips(),
      accents: [punchAccent('a'), punchAccent('b')],
      rules: [shotRule({ accents: both })],
      byHand: [hand('a'), hand('b')],
    };
    const after = edits.removeAccent('a')(m);
    expect(after.rules.map(({ accents }) => accents)).toEqual([[both[1]]]);
    expect(after.byHand).toEqual([hand('b')]);
  });
});
