import { isMoved } from '../document/params.ts';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EFFECTS } from '../../effects/index.ts';
import { evaluate } from './envelope.ts';
import { type Accent, type EffectUse, type Key, DEFAULT_ACCENT, TIME_UNITS } from '../document/types.ts';
import { accentPasses, SINGLE_RUN, type PlacementContext } from './passes.ts';
import { hasClosingKeys, inUnit, keyedOn, keyOn, placesOf, prepare, rekeyedOn, withTail } from './prepare.ts';

const key = (at: number, value: number, more: Partial<Key> = {}): Key => ({ at, value, ease: 'linear', ...more });
const use = (effect: string, params: EffectUse['params'], more: Partial<EffectUse> = {}): EffectUse => ({
  id: `${effect}-1`,
  effect,
  version: 1,
  on: true,
  params,
  ...more,
});
const accent = (effects: EffectUse[], more: Partial<Accent> = {}): Accent => ({
  ...DEFAULT_ACCENT,
  id: 'a',
  name: 'A',
  rate: { num: 30, den: 1 },
  lead: 2,
  tail: 8,
  seed: 1,
  effects,
  ...more,
});
const clock = { fps: 30, bpm: 120 };
const now: PlacementContext = { intensity: 1, seed: 5, fps: 30, mirror: false, run: SINGLE_RUN };
const passes = (a: Accent, age: number, more: Partial<PlacementContext> = {}, fps = 30) =>
  accentPasses(prepare(a, { ...clock, fps }), age, { ...now, fps, ...more }, EFFECTS).passes;
const zoomOf = (list: ReturnType<typeof passes>): number =>
  100 / ((list[0]?.uniforms['turn'] as number[] | undefined) ?? [1])[0]!;
const punch = (zoom: EffectUse['params'][string]) => accent([use('punch', { zoom })]);

describe('time of an accent', () => {
  it('scales frame counts with the rate, to at least one, unless marked exact', () => {
    const a = punch([key(-1, 100), key(0, 150), key(6, 100)]);
    expect(prepare(a, { ...clock, fps: 60 })).toMatchObject({ lead: 4, tail: 16, perFrame: 2 });
    expect(prepare(a, { ...clock, fps: 10 }).effects[0]!.params['zoom']).toEqual([
      key(-1, 100),
      key(0, 150),
      key(2, 100),
    ]);
    expect(prepare({ ...a, exact: true }, { ...clock, fps: 60 })).toMatchObject({ lead: 2, tail: 8, perFrame: 1 });
  });

  it('takes the keys on its end along when its tail is made longer or shorter', () => {
    const a = punch([key(-1, 100), key(0, 150), key(4, 120), key(8, 100), key(0, 7, { anchor: 'end' })]);
    expect(hasClosingKeys(a)).toBe(false);
    const closing = punch([key(-1, 100), key(0, 150), key(4, 120), key(8, 100)]);
    expect(hasClosingKeys(closing)).toBe(true);
    const at = (made: Accent): number[] => (made.effects[0]!.params['zoom'] as Key[]).map((one) => one.at);
    expect(withTail(closing, 12)).toMatchObject({ tail: 12 });
    expect([12, 6, 3].map((tail) => at(withTail(closing, tail)))).toEqual([
      [-1, 0, 4, 12],
      [-1, 0, 4, 6],
      [-1, 0, 3],
    ]);
    // Longer and back is what it was.
    expect(withTail(withTail(closing, 30), 8)).toEqual(closing);
  });

  it('counts in milliseconds, beats and shares of its reach', () => {
    const at = (unit: Accent['unit'], value: number, more: Partial<Accent> = {}) =>
      placesOf({ ...punch(100), unit, ...more }, clock).of(key(value, 0));
    expect(at('ms', 500)).toBe(15);
    // A beat at 120 a minute is half a second.
    expect(at('beats', 1)).toBe(15);
    expect(at('%', 50)).toBe(4);
    expect(at('%', -50)).toBe(-1);
  });

  it('changes its unit without changing what is drawn', () => {
    const a = accent([
      use('punch', {
        zoom: [key(-2, 100), key(0, 140), key(3, 120), key(8, 100)],
        roll: { base: 0, by: { kind: 'noise', amount: [key(0, 5), key(8, 0)], rate: 10, rough: 0 } },
      }),
    ]);
    for (const unit of TIME_UNITS)
      for (const back of TIME_UNITS) {
        const other = inUnit(inUnit(a, unit, clock), back, clock);
        expect(other.unit).toBe(back);
        for (const age of [-2, -1, 0, 1, 2, 5, 8])
          expect(JSON.stringify(passes(other, age)), `${unit} ${back} ${age}`).toBe(JSON.stringify(passes(a, age)));
      }
  });

  it("ties keys to the start and end of the movement, the clip's end and the next hit", () => {
    const a = punch([
      key(0, 100, { anchor: 'start' }),
      key(0, 150),
      key(-2, 150, { anchor: 'next' }),
      key(0, 100, { anchor: 'next' }),
    ]);
    const zoom = (anchors: Parameters<typeof prepare>[2]) => prepare(a, clock, anchors).effects[0]!.params['zoom'];
    expect(zoom({ start: -4, end: 9, clip: 40, next: 20 })).toEqual([
      key(-4, 100),
      key(0, 150),
      key(18, 150),
      key(20, 100),
    ]);
    // The segments between stretch with what they are tied to.
    expect(zoom({ start: -1, end: 9, clip: 40, next: 6 })).toEqual([
      key(-1, 100),
      key(0, 150),
      key(4, 150),
      key(6, 100),
    ]);
    // Where there is no next hit, the accent's own end stands in.
    expect(zoom({ start: 0, end: Infinity, clip: 40, next: Infinity })).toMatchObject([
      { at: 0 },
      { at: 6 },
      { at: 8 },
    ]);
  });

  it("lasts until the next hit, the clip's or the movement's end when told so", () => {
    const anchors = { start: 0, end: 5, clip: 30, next: 21 };
    expect(
      (['tail', 'end', 'clip', 'next'] as const).map((until) => prepare({ ...punch(100), until }, clock, anchors).tail),
    ).toEqual([8, 5, 30, 20]);
  });

  it('sets, moves and drops keys by frame, whatever the unit', () => {
    for (const unit of TIME_UNITS) {
      const places = placesOf(inUnit(punch(100), unit, clock), clock);
      const set = keyedOn(keyedOn(100, places, -1, 120), places, 4, 90);
      expect(keyOn(set, places, 4)).toMatchObject({ value: 90 });
      expect(
        evaluate(
          set.map((k) => ({ ...k, at: places.of(k) })),
          4,
        ),
        unit,
      ).toBe(90);
      expect(keyedOn(set, places, 4, 95)).toHaveLength(2);
      expect(
        rekeyedOn(
          rekeyedOn(set, places, 4, () => null),
          places,
          -1,
          () => null,
        ),
      ).toBe(120);
    }
  });
});

describe('what is drawn at an age', () => {
  it('scales with intensity what has an identity, and leaves hues, switches and places alone', () => {
    expect(zoomOf(passes(punch(120), 0, { intensity: 0.5 }))).toBeCloseTo(110, 9);
    const hue = accent([use('hue', { turn: 90 })]);
    expect(passes(hue, 0, { intensity: 0.5 })[0]!.uniforms['turn']).toEqual([Math.PI / 2, 0]);
    expect(passes(punch(120), 0, { intensity: 0 })).toEqual([]);
  });

  it('clamps what lies past its limits, and answers NaN and huge values with the usual one', () => {
    expect(zoomOf(passes(punch(1e9), 0))).toBeCloseTo(400, 9);
    expect(zoomOf(passes(punch(-1e300), 0))).toBeCloseTo(50, 9);
    expect(passes(punch(Number.NaN), 0)).toEqual([]);
    // An easing that overshoots past the limit is held there.
    const over = punch([{ at: -2, value: 100, ease: [0.3, 3, 0.6, 3] }, key(8, 390)]);
    for (let age = -2; age <= 8; age++) expect(zoomOf(passes(over, age))).toBeLessThanOrEqual(400 + 1e-9);
  });

  it('lets a speed follow intensity, side and limits as a distance does', () => {
    const slide = (speedX: number) => accent([use('slide', { speedX, edge: 1 })], { lead: 0, tail: 60 });
    const offset = (speedX: number, more: Partial<PlacementContext> = {}): number =>
      (passes(slide(speedX), 30, more)[0]!.uniforms['offset'] as number[])[0]!;
    // 60 % of the height a second, after one second.
    expect(offset(60)).toBeCloseTo(0.6, 9);
    expect(offset(60, { intensity: 0.5 })).toBeCloseTo(0.3, 9);
    expect(offset(60, { mirror: true })).toBeCloseTo(-0.6, 9);
    expect(offset(1e300)).toBeCloseTo(30, 9);
  });

  it('mirrors left to right what has a side', () => {
    const a = accent([use('punch', { roll: 10, focusX: 20, focusY: 5 })]);
    const [plain, other] = [passes(a, 0)[0]!.uniforms, passes(a, 0, { mirror: true })[0]!.uniforms];
    expect(other['focus']).toEqual([-(plain['focus'] as number[])[0]!, (plain['focus'] as number[])[1]]);
    expect((other['turn'] as number[])[1]).toBeCloseTo(-(plain['turn'] as number[])[1]!, 12);
  });

  it('repeats an effect later, with its own length and strength', () => {
    const a = accent(
      [
        use(
          'punch',
          { zoom: [key(0, 150), key(2, 100)] },
          { repeat: { times: 2, every: 3, length: 2, strength: 0.5 } },
        ),
      ],
      { lead: 0, tail: 20 },
    );
    // The first copy begins at 3, runs half as fast and reaches half as far.
    expect(zoomOf(passes(a, 3))).toBeCloseTo(125, 6);
    expect(zoomOf(passes(a, 5))).toBeCloseTo(112.5, 6);
    expect(passes(a, 1)).toHaveLength(1);
  });

  it('keeps unknown effects without drawing them, and draws nothing for an accent of no length outside its frame', () => {
    expect(passes(accent([use('warp-nine', { amount: 3 }), use('punch', { zoom: 120 })]), 0)).toHaveLength(1);
    const still = accent([use('punch', { zoom: 120 })], { lead: 0, tail: 0 });
    expect([-1, 0, 1].map((age) => passes(still, age).length)).toEqual([0, 1, 0]);
  });

  it('takes the last of two keys on one frame', () => {
    expect(zoomOf(passes(punch([key(0, 110), key(0, 140), key(8, 100)]), 0))).toBeCloseTo(140, 9);
  });

  it('limits an effect to its region, in output frames', () => {
    const region = [
      { id: 'r', kind: 'box' as const, combine: 'add' as const, invert: false, params: { x: [key(0, 0), key(4, 40)] } },
    ];
    const a = accent([use('punch', { zoom: 120 }, { region })]);
    expect(passes(a, 2)[0]!.mask![0]!.box[0]).toBeCloseTo(0.2, 9);
    expect(passes(a, 4, {}, 60)[0]!.mask![0]!.box[0]).toBeCloseTo(0.2, 9);
  });

  it('opens the shutter on the movement below it and on nothing after it', () => {
    const a = accent([
      use('punch', { zoom: [key(0, 100), key(8, 140)] }),
      use('shutter', { opening: 360 }),
      use('vignette', { amount: 50 }),
    ]);
    const list = passes(a, 4);
    expect(list.map((p) => p.effect)).toEqual(['shutter', 'vignette']);
    expect(list[0]!.shutter).toMatchObject({ effects: ['punch'], open: 1 });
    // Half a frame before and after the middle: 5 % of zoom a frame.
    const zoomAt = (offset: number): number => 100 / (list[0]!.shutter!.at(offset)[0]!['turn'] as number[])[0]!;
    expect([zoomAt(-0.5), zoomAt(0), zoomAt(0.5)].map((z) => Math.round(z * 10) / 10)).toEqual([117.5, 120, 122.5]);
    // What is more than one kernel is drawn at a few moments, with all else below the shutter.
    const swept = passes(
      accent([
        use('punch', { zoom: [key(0, 100), key(8, 140)] }),
        use('sweep', { opacity: 100, time: 6, gap: 0 }),
        use('shutter', { opening: 360 }),
        use('vignette', { amount: 50 }),
      ]),
      4,
    );
    expect(swept.map((p) => p.effect)).toEqual(['shutter', 'vignette']);
    const ways = swept[0]!.moments!.map((moment) => {
      expect(moment.map((p) => p.effect)).toEqual(['punch', 'sweep']);
      return (moment[1]!.uniforms['way'] as number[])[2]!;
    });
    // From edge to edge again and again.
    ways.slice(1).forEach((way, i) => expect((way - ways[i]! + 1) % 1).toBeCloseTo(1 / 8 / 6, 9));
    // What stands still is drawn once.
    expect(
      passes(accent([use('soft', { radius: 5 }), use('shutter', { opening: 360 })]), 4).map((p) => p.effect),
    ).toEqual(['soft']);
  });

  it('freezes, stutters and creeps by asking for other frames', () => {
    const shift = (a: Accent, age: number): number => accentPasses(prepare(a, clock), age, now, EFFECTS).shift;
    const frozen = accent([use('freeze', { on: 100, creep: 1 })], { tail: 200 });
    expect([0, 5, 100].map((age) => shift(frozen, age) + age)).toEqual([0, 0.05, 1].map((v) => expect.closeTo(v, 9)));
    const stutter = accent([use('stutter', { on: 100, every: 3 })], { lead: 0 });
    expect([0, 1, 2, 3, 4, 5, 6].map((age) => shift(stutter, age) + age)).toEqual([0, 0, 0, 3, 3, 3, 6]);
    const again = accent([use('stutter', { on: 100, every: 3, way: 1 })], { lead: 0 });
    expect([0, 1, 2, 3, 4].map((age) => shift(again, age) + age)).toEqual([0, 1, 2, 0, 1]);
  });

  it('scales counts of frames in parameters with the rate', () => {
    const stutter = accent([use('stutter', { on: 100, every: 3 })], { lead: 0 });
    const at = (age: number): number =>
      accentPasses(prepare(stutter, { ...clock, fps: 60 }), age, { ...now, fps: 60 }, EFFECTS).shift + age;
    expect([0, 5, 6, 11, 12].map(at)).toEqual([0, 0, 6, 6, 12]);
  });

  it('lays other frames over, with a stack of their own', () => {
    const a = accent([
      use('trail', { opacity: 50, count: 2, every: -3 }, { stack: [use('negative', { amount: 100 })] }),
    ]);
    expect(passes(a, 0)[0]!.copies).toMatchObject([{ shift: -6, passes: [{ effect: 'negative' }] }, { shift: -3 }]);
  });

  it('is pure for any accent of any effects: the same whatever was asked before', () => {
    const anyUse = fc.constantFrom(...[...EFFECTS.values()]).map((spec) => use(spec.id, { ...spec.thumbnail }));
    fc.assert(
      fc.property(fc.array(anyUse, { maxLength: 5 }), fc.integer({ min: -2, max: 8 }), fc.nat(), (uses, age, seed) => {
        const a = accent(uses);
        const first = JSON.stringify(passes(a, age, { seed }));
        passes(a, age + 1, { seed });
        expect(JSON.stringify(passes(a, age, { seed }))).toBe(first);
        expect(uses.every((u) => Object.values(u.params).every((p) => !isMoved(p)))).toBe(true);
      }),
      { numRuns: 60 },
    );
  });
});
