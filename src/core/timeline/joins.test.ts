import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { EFFECTS } from '../../effects/index.ts';
import { planner } from '../accents/plan.ts';
import type { Join, Montage } from '../document/types.ts';
import { segmentGain, soundPlan } from '../sound/sound-plan.ts';
import { footage, twoClips } from '../testkit/montages.ts';
import { joinsOf } from './joins.ts';
import { joinClip, splitClip } from './row.ts';
import { mediaIndex, timeline } from './timeline.ts';

const FADE: Join = { kind: 'fade', frames: 10, ease: 'linear' };
const joined = (join: Partial<Join> = {}): Montage => joinClip('c2', { ...FADE, ...join })(twoClips());
const plansOf = (m: Montage) => planner(m, mediaIndex(m.sources), EFFECTS);
const lineOf = (m: Montage) => timeline(m, mediaIndex(m.sources));

describe('a fade', () => {
  it('lasts its frames about the cut, shows both clips, and leaves the row as long as it was', () => {
    const plans = plansOf(joined());
    expect(plans.timeline.count).toBe(60);
    const shares = [24, 25, 29, 30, 34, 35].map((frame) => {
      const { passes, others, picture } = plans.at(frame);
      return [picture!.source, others[0]?.source ?? null, (passes[0]?.uniforms['blend'] as number[] | undefined)?.[0]];
    });
    expect(shares).toEqual([
      ['one', null, undefined],
      ['one', 'two', expect.closeTo(0.05, 9)],
      ['one', 'two', expect.closeTo(0.45, 9)],
      ['two', 'one', expect.closeTo(0.45, 9)],
      ['two', 'one', expect.closeTo(0.05, 9)],
      ['two', null, undefined],
    ]);
    // Before its beginning the second clip shows what its source has there: here nothing before its first frame.
    expect(plans.at(27).others[0]!.frame).toBe(0);
    // The first one goes on past its end: frame 60 of its source is the first that was trimmed off.
    expect(plans.at(30).others[0]!.frame).toBe(60);
    expect(plans.at(34).others[0]!.frame).toBe(64);
  });

  it('is heard as well: one goes out as the other comes in, as far as their sources go', () => {
    const m = joined();
    const [one, two] = soundPlan(m, lineOf(m));
    expect(one).toMatchObject({ at: 0, in: 1, out: expect.closeTo(2 + 5 / 30, 9) as number });
    expect(one!.fadeOut).toBeCloseTo(10 / 30, 9);
    // Nothing comes before the second source's beginning.
    expect(two).toMatchObject({ at: 1, in: 0, fadeIn: expect.closeTo(5 / 30, 9) as number });
    expect(segmentGain(one!, 1)).toBeCloseTo(0.5, 9);
  });

  it('is as long as halves of its clips at most, and two of them never share a frame', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 1, max: 40 }), fc.integer({ min: 1, max: 600 })), {
          minLength: 2,
          maxLength: 8,
        }),
        (clips) => {
          const m: Montage = {
            ...twoClips(),
            sources: [footage('one', 3000)],
            clips: clips.map(([frames, length], i) => ({
              id: `c${i}`,
              source: 'one',
              in: i,
              out: i + frames / 30,
              fit: 'fit' as const,
              join: { ...FADE, frames: length },
            })),
          };
          const placed = joinsOf(lineOf(m));
          expect(placed.length).toBe(clips.length - 1);
          placed.forEach((join, i) => {
            expect(join.first).toBeGreaterThanOrEqual(placed[i - 1]?.end ?? 0);
            expect(join.end - join.first).toBeLessThanOrEqual(join.join.frames);
            expect(join.first).toBeLessThanOrEqual(join.after.first);
            expect(join.end).toBeGreaterThan(join.after.first);
          });
        },
      ),
    );
  });
});

describe('a flow', () => {
  it('names a frame of each clip, to be made by movement, and counts no pass', () => {
    const { picture, passes } = plansOf(joined({ kind: 'flow' })).at(30);
    expect(passes).toEqual([]);
    expect(picture).toMatchObject({
      source: 'one',
      frame: 60,
      mixed: { source: 'two', frame: 0, moved: true, share: expect.closeTo(0.55, 9) as number },
    });
  });

  it('is a fade where the pictures have no places in common', () => {
    const m = joined({ kind: 'flow' });
    const other = {
      ...m,
      sources: [m.sources[0]!, { ...m.sources[1]!, video: { ...m.sources[1]!.video!, width: 640 } }],
    };
    expect(plansOf(other).at(30).passes[0]?.effect).toBe('overlay');
  });
});

it('a clip cut in two keeps its join before its first half, and its halves are cut', () => {
  const { clips } = splitClip('c2', 0.5, 'c3')(joined());
  expect(clips.map(({ join }) => join?.kind)).toEqual([undefined, 'fade', undefined]);
});
