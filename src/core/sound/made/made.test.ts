import { describe, expect, it } from 'vitest';
import { LEVEL, loudestMoment, make, MADE_RATE, MADE_SOUNDS } from './index.ts';

const corners = (id: string): Record<string, number>[] => {
  const params = Object.entries(MADE_SOUNDS.find((one) => one.id === id)!.params);
  return [
    {},
    Object.fromEntries(params.map(([name, { min }]) => [name, min])),
    Object.fromEntries(params.map(([name, { max }]) => [name, max])),
  ];
};
/** Seconds at which each lies loudest at its defaults, and how far off it may be for any seed. */
const PEAKS: Record<string, readonly [number, number]> = {
  boom: [0.03, 0.06],
  drop: [0.01, 0.03],
  knock: [0.006, 0.01],
  snap: [0.004, 0.006],
  ring: [0.004, 0.02],
  'whoosh-in': [0.58, 0.04],
  'whoosh-by': [0.315, 0.08],
  riser: [1.95, 0.1],
  swell: [1.38, 0.03],
  burst: [0.06, 0.12],
  stutter: [0.006, 0.06],
  stop: [0.1, 0.3],
  crackle: [0.3, 0.35],
  shutter: [0.006, 0.01],
  blast: [0.01, 0.06],
  heart: [0.015, 0.02],
};

describe('made sounds', () => {
  it('are at least sixteen, each with two to four parameters and words of its own', () => {
    expect(MADE_SOUNDS.length).toBeGreaterThanOrEqual(16);
    expect(new Set(MADE_SOUNDS.map(({ id }) => id)).size).toBe(MADE_SOUNDS.length);
    expect(new Set(MADE_SOUNDS.map(({ name }) => name)).size).toBe(MADE_SOUNDS.length);
    for (const { params, doc } of MADE_SOUNDS) {
      expect(Object.keys(params).length).toBeGreaterThanOrEqual(2);
      expect(Object.keys(params).length).toBeLessThanOrEqual(4);
      expect(doc.length).toBeGreaterThan(10);
    }
  });

  it.each(MADE_SOUNDS.map(({ id }) => id))(
    '%s is at its level, as long as it says, without a jump at its ends',
    (id) => {
      for (const params of corners(id))
        for (const seed of [1, 2, 3]) {
          const { samples, duration, peak } = make(id, params, seed);
          expect(samples.every(Number.isFinite)).toBe(true);
          expect(samples.reduce((top, v) => Math.max(top, Math.abs(v)), 0)).toBeCloseTo(LEVEL, 6);
          expect(duration).toBeCloseTo(samples.length / MADE_RATE, 9);
          expect(peak).toBeGreaterThanOrEqual(0);
          expect(peak).toBeLessThan(duration);
          // It begins and ends in what nobody hears as a click.
          expect(Math.abs(samples[0]!)).toBeLessThan(0.12 * LEVEL);
          expect(Math.abs(samples.at(-1)!)).toBeLessThan(0.12 * LEVEL);
        }
      const length = MADE_SOUNDS.find((one) => one.id === id)!.params['length'];
      if (length) expect(Math.abs(make(id, {}, 1).duration - length.default)).toBeLessThan(0.06);
    },
  );

  it.each(Object.entries(PEAKS))('%s lies loudest where it should, whatever its seed', (id, [at, off]) => {
    for (const seed of [1, 2, 3, 4, 5]) expect(Math.abs(make(id, {}, seed).peak - at)).toBeLessThan(off);
  });

  it('are the same for the same seed, and others for another', () => {
    expect(make('boom', {}, 5).samples).toEqual(make('boom', { pitch: 48 }, 5).samples);
    expect(make('boom', {}, 6).samples).not.toEqual(make('boom', {}, 5).samples);
    // Out of bounds is the bound.
    expect(make('boom', { length: 900 }, 1).duration).toBeCloseTo(4, 6);
    expect(() => make('nothing', {}, 1)).toThrow(RangeError);
  });
});

it('the loudest moment of a knock in silence is the knock', () => {
  const samples = new Float32Array(48000);
  for (let i = 0; i < 480; i++) samples[24000 + i] = Math.sin(i / 3) * Math.exp(-i / 100);
  expect(Math.abs(loudestMoment(samples, 48000) - 24000)).toBeLessThan(240);
});
