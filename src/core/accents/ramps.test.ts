import { describe, expect, it } from 'vitest';
import type { Montage, Ramp } from '../document/types.ts';
import { decideAll } from '../document/edits.ts';
import { soundPlan } from '../sound/sound-plan.ts';
import { footage, hit, punchAccent, shotRule } from '../testkit/montages.ts';
import { emptyMontage } from '../document/types.ts';
import { mediaIndex } from '../timeline/timeline.ts';
import { EFFECTS } from '../../effects/index.ts';
import { planner } from './plan.ts';
import { rampedTimeline } from './ramps.ts';

const RAMP: Ramp = {
  before: 4,
  steps: [
    { speed: 0.5, frames: 8 },
    { speed: 0.25, frames: 8 },
  ],
  smooth: false,
  gained: 'kept',
  most: 2,
  between: 'blended',
  sound: 'goes on',
};
const montage = (ramp: Ramp = RAMP): Montage => {
  const plain = emptyMontage('m', 'M');
  const hits = [hit('a', 's', 2), hit('b', 's', 5), hit('c', 's', 8)];
  return decideAll(
    hits,
    'kept',
  )({
    ...plain,
    settings: { ...plain.settings, timing: { mode: 'constant', rate: { num: 30, den: 1 } } },
    sources: [footage('s', 300)],
    clips: [{ id: 'c', source: 's', in: 0, out: 10, fit: 'fit' }],
    accents: [{ ...punchAccent(), ramp }],
    rules: [shotRule()],
  });
};
const lineOf = (m: Montage) => rampedTimeline(m, mediaIndex(m.sources));

describe('an accent with a ramp', () => {
  it('slows every hit that a rule lays it on, and lies on each where that is shown now', () => {
    const m = montage();
    const plans = planner(m, mediaIndex(m.sources), EFFECTS);
    // 16 frames show 6 of the source: each hit wins 10.
    expect(plans.timeline.count).toBe(330);
    expect(plans.placements.map(({ frame }) => frame)).toEqual([62, 162, 262]);
    // Its envelopes count output frames, however slow the picture is.
    const [first] = plans.placements;
    expect(first!.to - first!.frame).toBe(first!.accent.after);
    const { picture } = plans.at(63);
    expect(picture).toMatchObject({
      source: 's',
      frame: 60,
      mixed: { frame: 61, share: expect.closeTo(0.5, 3) as number },
    });
  });

  it('leaves a muted hit, one that is rejected and a rule that is off as they were', () => {
    const m = montage();
    const count = (change: Partial<Montage>): number => lineOf({ ...m, ...change }).count;
    expect(count({ overrides: { 'r|b@c': { mute: true } } })).toBe(320);
    expect(count({ hits: m.hits.map((one) => (one.id === 'a' ? { ...one, state: 'rejected' } : one)) })).toBe(320);
    expect(count({ rules: [{ ...shotRule(), on: false }] })).toBe(300);
  });

  it('that pays its time back leaves the other hits and the row as they were', () => {
    const m = montage({ ...RAMP, gained: 'paid back' });
    const plans = planner(m, mediaIndex(m.sources), EFFECTS);
    expect(plans.timeline.count).toBe(300);
    expect(plans.placements.map(({ frame }) => frame)).toEqual([60, 150, 240]);
  });

  it('gives the very same row while nothing of it changes', () => {
    const m = montage();
    const media = mediaIndex(m.sources);
    expect(rampedTimeline({ ...m, name: 'other' }, media)).toBe(rampedTimeline(m, media));
  });

  it('is heard at its own speed, with it, or not at all, and meets the rest without a jump', () => {
    const heard = (sound: Ramp['sound']) => {
      const m = montage({ ...RAMP, sound });
      const sources = [{ ...m.sources[0]!, listen: 0 }];
      return soundPlan({ ...m, sources }, lineOf(m));
    };
    const goes = heard('goes on');
    expect(goes).toHaveLength(7);
    expect(goes[1]).toMatchObject({
      at: expect.closeTo(58 / 30, 6) as number,
      in: expect.closeTo(58 / 30, 6) as number,
    });
    expect(goes[1]!.out - goes[1]!.in).toBeCloseTo(16 / 30, 6);
    expect([goes[0]!.fadeOut, goes[1]!.fadeIn, goes[1]!.fadeOut, goes[2]!.fadeIn].every((fade) => fade! > 0)).toBe(
      true,
    );
    expect(goes[2]!.in).toBeCloseTo(64 / 30, 6);
    expect(heard('silent')).toHaveLength(4);
    const follows = heard('follows');
    expect(follows).toHaveLength(7);
    expect(follows[1]!.runs!(8 / 30)).toBeCloseTo(62 / 30, 6);
    expect(follows[0]!.fadeOut).toBeUndefined();
  });
});

describe('a ramp whose last speed goes on', () => {
  const slow = (until: Ramp['until'], change: (m: Montage) => Montage = (m) => m): Montage =>
    change(montage({ ...RAMP, before: 0, until, steps: [{ speed: 0.5, frames: 6 }] }));

  it('ends at the next hit of the clip, wherever that is; the last hit keeps its own frames', () => {
    const line = lineOf(slow('next'));
    // 3 s from hit to hit take 6 at half speed; after the last hit 6 frames show 3.
    expect(line.count).toBe(300 + 90 + 90 + 3);
    const [span] = line.spans;
    expect(line.frameOf(span!, 5)).toBe(60 + 180);
    expect(span!.map!.speedAt(239)).toBe(0.5);
  });

  it('ends where the movement of its hit ends, and keeps its frames where none is known', () => {
    const line = lineOf(
      slow('end', (m) => ({ ...m, hits: m.hits.map((one) => (one.id === 'a' ? { ...one, end: 3 } : one)) })),
    );
    expect(line.count).toBe(300 + 30 + 3 + 3);
  });

  it('is cut short by a hit that comes before its steps are over', () => {
    const far = {
      ...RAMP,
      before: 0,
      until: 'next' as const,
      steps: [0.5, 0.9].map((speed) => ({ speed, frames: 600 })),
    };
    const line = lineOf(montage(far));
    expect(line.frameOf(line.spans[0]!, 5)).toBe(60 + 180);
  });
});
