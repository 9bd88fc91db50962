import { describe, expect, it } from 'vitest';
import { changeMusic } from '../timeline/row.ts';
import { mediaIndex, timeline } from '../timeline/timeline.ts';
import { footage, twoClips } from '../testkit/montages.ts';
import type { Montage } from '../document/types.ts';
import { segmentGain, soundPlan } from './sound-plan.ts';

const tune = { ...footage('tune', 1), video: null, role: 'music' as const, duration: 20 };
const montage: Montage = {
  ...twoClips(),
  sources: [...twoClips().sources, tune],
  music: [{ id: 'a', source: 'tune', at: 0.5, in: 3, out: 20, gain: 0.8 }],
};
const planOf = (m: Montage) => soundPlan(m, timeline(m, mediaIndex(m.sources)));

describe('fades', () => {
  it('run straight from silence to the gain and back, at the very ends of what is heard', () => {
    const music = planOf(changeMusic('a', { out: 4.2, fadeIn: 0.4, fadeOut: 0.2 })(montage)).at(-1)!;
    expect(music).toMatchObject({ at: 0.5, in: 3, out: 4.2, fadeIn: 0.4, fadeOut: 0.2 });
    const at = (seconds: number): number => segmentGain(music, seconds);
    expect(at(0)).toBe(0);
    expect(at(0.1)).toBeCloseTo(0.2, 9);
    expect(at(0.4)).toBeCloseTo(0.8, 9);
    expect(at(0.7)).toBeCloseTo(0.8, 9);
    expect(at(1.1)).toBeCloseTo(0.4, 9);
    expect(at(1.2)).toBeCloseTo(0, 9);
  });

  it('are none where none are set, and music is cut off where the montage ends', () => {
    const music = planOf(montage).at(-1)!;
    expect(music.out).toBeCloseTo(3 + 1.5, 9);
    expect(segmentGain(music, 0)).toBe(0.8);
    expect(segmentGain(music, 1.49)).toBe(0.8);
  });
});
