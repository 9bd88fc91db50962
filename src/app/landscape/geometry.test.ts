import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { mediaIndex, timeline } from '../../core/timeline/timeline.ts';
import { twoClips } from '../../core/testkit/montages.ts';
import type { SoundSignals } from '../../core/finding/signals/types.ts';
import {
  boundView,
  crowds,
  frameToX,
  musicWaveform,
  rulerStep,
  snapped,
  waveform,
  wholeView,
  xToFrame,
  zoomView,
} from './geometry.ts';

const view = fc
  .tuple(fc.double({ min: -1e6, max: 1e6, noNaN: true }), fc.double({ min: 1, max: 1e6, noNaN: true }))
  .map(([from, span]) => [from, from + span] as const);
const count = fc.integer({ min: 0, max: 700_000 });

describe('landscape', () => {
  it('gathers pins that would stand on one another, loses none and keeps their order', () => {
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0, max: 500, noNaN: true }), { maxLength: 200 }), (places) => {
        const pins = places.sort((a, b) => a - b);
        const groups = crowds(pins, (x) => x);
        expect(groups.flat()).toEqual(pins);
        for (const group of groups) {
          expect(group.length === 1 || group.length >= 4).toBe(true);
          expect(group.at(-1)! - group[0]!).toBeLessThan(14);
        }
      }),
    );
    expect(crowds([0, 1, 2, 3, 100, 101], (x) => x)).toEqual([[0, 1, 2, 3], [100], [101]]);
  });

  it('never leaves the montage nor comes closer than twelve frames', () => {
    fc.assert(
      fc.property(view, count, (v, n) => {
        const [from, to] = boundView(v, n);
        const [, most] = wholeView(n);
        expect(from).toBeGreaterThanOrEqual(-1e-6);
        expect(to).toBeLessThanOrEqual(most + 1e-6);
        expect(to - from).toBeGreaterThanOrEqual(12 - 1e-6);
      }),
    );
  });

  it('zooms about the frame under the pointer', () => {
    const from = [1000, 2000] as const;
    const closer = zoomView(from, 0.5, 1250, 10_000);
    expect(frameToX(1250, closer, 800)).toBeCloseTo(frameToX(1250, from, 800), 6);
    expect(closer[1] - closer[0]).toBeCloseTo(500);
  });

  it('maps frames to pixels and back', () => {
    fc.assert(
      fc.property(view, fc.double({ min: 0, max: 1280, noNaN: true }), (v, x) => {
        expect(frameToX(xToFrame(x, v, 1280), v, 1280)).toBeCloseTo(x, 3);
      }),
    );
  });

  it('puts ruler marks far enough apart at any zoom', () => {
    for (const span of [12, 100, 1000, 30_000, 640_000]) {
      const step = rulerStep([0, span], 1200, 60);
      if (step < 60 * 1800) expect((step / span) * 1200).toBeGreaterThanOrEqual(90);
    }
    expect(rulerStep([0, 12], 1200, 30)).toBe(1);
  });

  it("draws each clip's own stretch of its sound, and nothing where there is none", () => {
    const m = twoClips();
    const line = timeline(m, mediaIndex(m.sources));
    // Source "one" is loud in its second second only, which is what the first clip shows; "two" is not analysed.
    const peaks = new Uint8Array(600).map((_, i) => (i >= 200 && i < 400 ? 255 : 0));
    const sound = {
      rate: 200,
      start: 0,
      onset: new Float32Array(600),
      soft: new Uint8Array(600),
      peaks,
      bands: new Uint8Array(),
      chroma: new Uint8Array(),
      attacks: new Float64Array(),
      attackHops: new Uint32Array(),
      attackKinds: new Uint8Array(),
    };
    const wave = waveform(line, [0, 60], 120, new Map([['one', sound]]));
    expect([wave[0], wave[58], wave[62], wave[119]]).toEqual([1, 1, 0, 0]);
  });

  it('of music lies where the music does, trimmed as it is', () => {
    const peaks = new Uint8Array(600).map((_, i) => (i >= 200 && i < 400 ? 255 : 0));
    const sound = { rate: 200, start: 0, peaks } as SoundSignals;
    const item = { id: 'i', source: 'tune', at: 0.5, in: 0.5, out: 2.5, gain: 1 };
    // Sixty frames of a thirtieth on 120 pixels: the music begins at pixel 30, is loud from pixel 60 on.
    const { left, columns } = musicWaveform(item, 30, [0, 60], 120, sound);
    expect([left, columns.length]).toEqual([30, 90]);
    expect([columns[0], columns[28], columns[32], columns[88]]).toEqual([0, 0, 1, 1]);
    expect(musicWaveform({ ...item, at: 9 }, 30, [0, 60], 120, sound).columns).toHaveLength(0);
  });

  it('ends rest on the nearest of what is within reach, else on whole frames', () => {
    expect(snapped(10.4, [3, 12, 11], 1)).toBe(11);
    expect(snapped(10.4, [3, 12], 1)).toBe(10);
    expect(snapped(10.4, [], 1)).toBe(10);
    expect(snapped(10.4, [10.6], 0)).toBe(10);
    expect(snapped(1.234, [9], 0.5, 0)).toBe(1.234);
  });
});
