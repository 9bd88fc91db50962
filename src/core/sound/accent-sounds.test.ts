import { describe, expect, it } from 'vitest';
import { EFFECTS } from '../../effects/index.ts';
import { planner } from '../accents/plan.ts';
import { decideAll, moveHit, override } from '../document/edits.ts';
import {
  DEFAULT_SOUND,
  emptyMontage,
  type Accent,
  type AccentSound,
  type LaneMove,
  type Montage,
} from '../document/types.ts';
import { footage, hit, punchAccent, shotRule } from '../testkit/montages.ts';
import { mediaIndex } from '../timeline/timeline.ts';
import { LaneMoves, loweredTo, moveShape, type PlacedMove } from './lane-moves.ts';
import { make } from './made/index.ts';
import { mixOf, segmentGain, type Mix } from './sound-plan.ts';

const BOOM: AccentSound = { ...DEFAULT_SOUND, id: 'b', choices: [{ made: 'boom', params: {} }], focus: false };
const LOWER: LaneMove = {
  id: 'l',
  on: true,
  lane: 'music',
  change: 'lower',
  amount: 12,
  begins: -6,
  attack: 3,
  hold: 9,
  release: 12,
};
const montage = (change: Partial<Accent>, hits = [2, 5, 8]): Montage => {
  const plain = emptyMontage('m', 'M');
  return decideAll(
    hits.map((t, i) => hit(`h${i}`, 's', t)),
    'kept',
  )({
    ...plain,
    sources: [footage('s', 300)],
    clips: [{ id: 'c', source: 's', in: 0, out: 10, fit: 'fit' }],
    accents: [{ ...punchAccent(), ...change }],
    rules: [shotRule()],
  });
};
const heard = (m: Montage): Mix => {
  const plans = planner(m, mediaIndex(m.sources), EFFECTS);
  return mixOf(m, plans.timeline, plans.sounding());
};
const booms = (m: Montage) => heard(m).voices.filter(({ lane }) => lane === 'accents');
const sounding = (change: Partial<AccentSound>, more?: (m: Montage) => Montage) => {
  const m = montage({ sounds: [{ ...BOOM, ...change }] });
  return booms(more ? more(m) : m);
};

describe('a sound of an accent', () => {
  const { peak, duration } = make('boom', {}, 1);

  it('lies with its loudest moment on every hit that the accent lies on', () => {
    const list = sounding({});
    expect(list.map(({ at }) => at + peak)).toEqual([2, 5, 8].map((t) => expect.closeTo(t, 9) as number));
    expect(list[0]!.made).toMatchObject({ made: 'boom', seed: 1 });
  });

  it('lies with its beginning or its end where the accent begins or ends, and so many frames later', () => {
    // The accent reaches from 2 frames before its hit to 6 after it.
    expect(sounding({ moment: 'begin', place: 'start' })[0]!.at).toBeCloseTo(2 - 2 / 30, 9);
    expect(sounding({ moment: 'end', place: 'end' })[1]!.at).toBeCloseTo(5 + 7 / 30 - duration, 9);
    expect(sounding({ moment: 'begin', place: 'hit', offset: -3 })[0]!.at).toBeCloseTo(2 - 0.1, 9);
  });

  it('goes along with a nudge on the accent and stays on its hit, is muted with it, and moves with a moved hit', () => {
    const key = planner(montage({}), mediaIndex(montage({}).sources), EFFECTS).placements[0]!.key;
    const by = (change: Parameters<typeof override>[1]) => override(key, change);
    expect(sounding({ place: 'peak' }, by({ nudge: 5 }))[0]!.at + peak).toBeCloseTo(2 + 5 / 30, 9);
    expect(sounding({}, by({ nudge: 5 }))[0]!.at + peak).toBeCloseTo(2, 9);
    expect(sounding({}, by({ mute: true }))).toHaveLength(2);
    expect(sounding({}, moveHit(hit('h0', 's', 2), 2.5))[0]!.at + peak).toBeCloseTo(2.5, 9);
  });

  it('is cut off with its accent, stretched to it, or trimmed where the montage begins and ends', () => {
    const [cut] = sounding({ length: 'cut', moment: 'begin', place: 'start' });
    expect(cut!.out - cut!.in).toBeCloseTo(9 / 30, 9);
    expect(segmentGain(cut!, 9 / 30)).toBeCloseTo(0, 9);
    const [stretched] = sounding({ length: 'stretched', semitones: 5 });
    expect(stretched).toMatchObject({ pitch: 'kept', semitones: 5, at: expect.closeTo(2 - 2 / 30, 9) as number });
    expect(stretched!.runs!(9 / 30)).toBeCloseTo(duration, 6);
    const early = booms(montage({ sounds: [{ ...BOOM, moment: 'end' }] }, [0.5]));
    expect(early[0]).toMatchObject({ at: 0, in: expect.closeTo(duration - 0.5, 6) as number });
    const late = booms(montage({ sounds: [BOOM] }, [9.8]));
    expect(late[0]!.at + late[0]!.out - late[0]!.in).toBeCloseTo(10, 9);
  });

  it('is played faster for a higher pitch, and backwards', () => {
    const [high] = sounding({ semitones: 12 });
    expect(high!.out - high!.in).toBeCloseTo(duration / 2, 9);
    expect(high!.at + peak / 2).toBeCloseTo(2, 9);
    const [back] = sounding({ reversed: true });
    expect(back!.runs!(0)).toBeCloseTo(duration, 9);
    expect(back!.at + duration - peak).toBeCloseTo(2, 9);
  });

  it('takes turns, and draws its level and pitch anew for each placement, the same every time', () => {
    const choices = [BOOM.choices[0]!, { made: 'snap', params: {} }];
    expect(sounding({ choices }).map(({ made }) => made!.made)).toEqual(['boom', 'snap', 'boom']);
    const one = sounding({ spreadGain: 6, spreadPitch: 3 });
    expect(new Set(one.map(({ gain }) => gain)).size).toBe(3);
    expect(one.map(({ gain }) => gain)).toEqual(sounding({ spreadGain: 6, spreadPitch: 3 }).map(({ gain }) => gain));
    for (const { gain } of one) expect(Math.abs(20 * Math.log10(gain))).toBeLessThanOrEqual(6);
  });

  it('is as loud as its decibels and its placement say, along a curve as well', () => {
    const key = planner(montage({}), mediaIndex(montage({}).sources), EFFECTS).placements[0]!.key;
    const half = override(key, { intensity: 0.5 });
    expect(sounding({ gain: -6 })[0]!.gain).toBeCloseTo(10 ** (-6 / 20), 9);
    expect(sounding({}, half)[0]!.gain).toBeCloseTo(0.5, 9);
    expect(sounding({ follow: 0 }, half)[0]!.gain).toBeCloseTo(1, 9);
    const [curved] = sounding({
      moment: 'begin',
      gain: [
        { at: 0, value: 0, ease: 'linear' },
        { at: 6, value: -12, ease: 'linear' },
      ],
    });
    expect(segmentGain(curved!, 0.1)).toBeCloseTo(10 ** (-6 / 20), 6);
    expect(sounding({ gain: -96 })).toEqual([]);
  });

  it('that is no sound of ours is not heard, a file that is gone is named, and five hundred on one frame are laid', () => {
    expect(sounding({ choices: [{ made: 'nothing', params: {} }] })).toEqual([]);
    const [gone] = sounding({ choices: [{ file: 'f'.repeat(64), name: 'thud.wav', duration: 1, peak: 0.1 }] });
    expect(gone).toMatchObject({ source: '', lost: 'thud.wav' });
    const many = montage({ sounds: Array.from({ length: 64 }, (_, i) => ({ ...BOOM, id: `b${i}` })) });
    expect(booms(many)).toHaveLength(192);
  });
});

describe('what an accent takes off the music', () => {
  it('lies about its hits, is as deep as its placement is strong, and lasts for a bed', () => {
    const { moves } = heard(montage({ lanes: [LOWER] }));
    expect(moves).toHaveLength(3);
    expect(moves[0]).toMatchObject({
      lane: 'music',
      amount: 12,
      from: expect.closeTo(2 - 0.2, 9) as number,
      attack: expect.closeTo(0.1, 9) as number,
    });
    const both = heard(montage({ lanes: [{ ...LOWER, lane: 'both', on: true }] })).moves;
    expect(both).toHaveLength(6);
    expect(heard(montage({ lanes: [{ ...LOWER, on: false }] })).moves).toEqual([]);
    const bed = montage({ lanes: [LOWER] });
    const { moves: held } = heard({
      ...bed,
      rules: [],
      beds: [{ id: 'x', accent: 'a', on: true, stretch: { kind: 'all' }, above: false, intensity: 1, seed: 1 }],
    });
    expect(held[0]!.hold).toBeCloseTo(10, 6);
  });

  const at = (from: number, amount: number, adds = false): PlacedMove => ({
    lane: 'music',
    change: 'lower',
    amount,
    adds,
    from,
    attack: 0.1,
    hold: 0.3,
    release: 0.4,
  });

  it('reaches its depth within 0.2 dB, in even decibels, and comes back', () => {
    const left = new Float32Array(48000).fill(1);
    const right = left.slice();
    const lane = new LaneMoves([at(0.2, 12)], 'music', 48000);
    for (let i = 0; i < 48000; i += 12000) lane.run(left.subarray(i, i + 12000), right.subarray(i, i + 12000), i);
    const decibels = (seconds: number): number => 20 * Math.log10(left[Math.round(seconds * 48000)]!);
    expect(decibels(0.1)).toBe(0);
    expect(Math.abs(decibels(0.25) + 6)).toBeLessThan(0.2);
    expect(Math.abs(decibels(0.45) + 12)).toBeLessThan(0.2);
    expect(Math.abs(decibels(0.8) + 6)).toBeLessThan(0.2);
    expect(Math.abs(decibels(0.99) + 0.3)).toBeLessThan(0.1);
  });

  it('does not add up beyond the deepest unless that is asked; 96 dB are silence', () => {
    expect(loweredTo([at(0, 12), at(0, 6)], 0.2)).toBeCloseTo(10 ** (-12 / 20), 9);
    expect(loweredTo([at(0, 12), at(0, 6, true)], 0.2)).toBeCloseTo(10 ** (-18 / 20), 9);
    expect(loweredTo([at(0, 96)], 0.2)).toBe(0);
    expect(moveShape({ ...at(0, 12), attack: 0, release: 0 }, 0)).toBe(1);
  });

  it.each([
    ['low-pass', 400, 8000],
    ['high-pass', 8000, 400],
  ] as const)('a %s leaves what it lets through and takes the rest', (change, kept, taken) => {
    const level = (hertz: number): number => {
      const tone = Float32Array.from({ length: 48000 }, (_, i) => Math.sin((2 * Math.PI * hertz * i) / 48000));
      const move = { ...at(0, 1800), change, attack: 0.1, hold: 0.9 };
      new LaneMoves([move], 'music', 48000).run(tone, tone.slice(), 0);
      return 20 * Math.log10(tone.subarray(24000, 40000).reduce((top, v) => Math.max(top, Math.abs(v)), 0));
    };
    expect(Math.abs(level(kept))).toBeLessThan(0.5);
    expect(level(taken)).toBeLessThan(-40);
  });
});

describe('echoes and rooms', () => {
  const heardBack = (change: 'echo' | 'room', amount: number): Float32Array => {
    const left = new Float32Array(96000);
    left[4800] = 1;
    const move: PlacedMove = {
      lane: 'music',
      change,
      amount,
      adds: false,
      from: 0.05,
      attack: 0,
      hold: 0.1,
      release: 0,
    };
    new LaneMoves([move], 'music', 48000).run(left, left.slice(), 0);
    return left;
  };

  it('an echo comes back every so many milliseconds, each weaker, after the accent is over too', () => {
    const left = heardBack('echo', 250);
    expect([4800, 16800, 28800, 40800].map((at) => left[at])).toEqual([
      1,
      1,
      expect.closeTo(0.45, 6) as number,
      expect.closeTo(0.2025, 6) as number,
    ]);
    expect(left.reduce((sum, v) => sum + Math.abs(v), 0)).toBeLessThan(3.1);
  });

  it('a room dies away by 60 dB in its time', () => {
    const left = heardBack('room', 1);
    const power = (from: number): number => left.subarray(from, from + 4800).reduce((sum, v) => sum + v * v, 0);
    // By 30 dB in half of it.
    const fallen = 10 * Math.log10(power(4800 + 4800) / power(4800 + 28800));
    expect(Math.abs(fallen - 30)).toBeLessThan(4);
    expect(left.every((v) => Math.abs(v) <= 1)).toBe(true);
  });

  it('what sounds before and after a move does not come back', () => {
    const left = new Float32Array(48000);
    left[1000] = 1;
    left[40000] = 1;
    const before = left.slice();
    const move: PlacedMove = {
      lane: 'music',
      change: 'echo',
      amount: 20,
      adds: false,
      from: 0.2,
      attack: 0.01,
      hold: 0.1,
      release: 0.01,
    };
    new LaneMoves([move], 'music', 48000).run(left, left.slice(), 0);
    expect(left).toEqual(before);
  });
});

describe('the sound of a clip', () => {
  const two = (change: Partial<Montage['clips'][number]>): Montage => ({
    ...montage({}),
    clips: [
      { id: 'a', source: 's', in: 1, out: 2, fit: 'fit', ...change },
      { id: 'b', source: 's', in: 5, out: 6, fit: 'fit' },
    ],
  });
  const own = { gain: 1, mute: false, fadeIn: 0, fadeOut: 0, early: 0, late: 0 };

  it('comes and goes in four milliseconds where it is cut, and not where it goes on', () => {
    const [first, second] = heard(two({})).voices;
    expect([first!.fadeIn, first!.fadeOut, second!.fadeIn]).toEqual([0.004, 0.004, 0.004]);
    const on = two({});
    const [a, b] = heard({ ...on, clips: [on.clips[0]!, { ...on.clips[1]!, in: 2, out: 3 }] }).voices;
    expect([a!.fadeOut, b!.fadeIn]).toEqual([undefined, undefined]);
  });

  it('goes on under the next clip, is louder, fades, or is mute', () => {
    const [late] = heard(two({ sound: { ...own, late: 15, gain: 0.5, fadeOut: 0.3 } })).voices;
    expect(late).toMatchObject({ out: expect.closeTo(2.5, 9) as number, gain: 0.5, fadeOut: 0.3 });
    expect(heard(two({ sound: { ...own, mute: true } })).voices).toHaveLength(1);
    const early = two({});
    const [, second] = heard({
      ...early,
      clips: [early.clips[0]!, { ...early.clips[1]!, sound: { ...own, early: 6 } }],
    }).voices;
    expect(second).toMatchObject({ at: expect.closeTo(0.8, 9) as number, in: expect.closeTo(4.8, 9) as number });
  });

  it('is all of its tracks at their own levels, where that is asked', () => {
    const m = two({});
    const [track] = m.sources[0]!.audio;
    const source = { ...m.sources[0]!, audio: [track!, track!, track!], mix: [1, 0, 0.4] };
    const voices = heard({ ...m, sources: [source] }).voices.filter(({ at }) => at === 0);
    expect(voices.map(({ track: n, gain }) => [n, gain])).toEqual([
      [0, 1],
      [2, 0.4],
    ]);
  });
});
