import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { fromLinear, rgbaToI420, toLinear, yuvToRgb } from '../base/colour.ts';
import { frameTimesOf, listedTimes, regularTimes } from './frame-times.ts';

describe('frame times', () => {
  it('finds every frame of a regular source by its own start, also when rounded to milliseconds', () => {
    fc.assert(
      fc.property(
        fc.constantFrom({ num: 30000, den: 1001 }, { num: 60, den: 1 }, { num: 25, den: 1 }),
        fc.integer({ min: 0, max: 500_000 }),
        (rate, i) => {
          const times = regularTimes(rate, 600_000, 1.4);
          expect(times.indexAt(times.timeOf(i))).toBe(i);
          expect(times.indexAt(Math.round(times.timeOf(i) * 1000) / 1000)).toBe(i);
        },
      ),
    );
  });

  it('keeps a variable source as a list and finds the frame on screen', () => {
    const times = frameTimesOf([0, 0.1, 0.15, 0.4], 0.1);
    expect(times.variable).toBe(true);
    expect([0, 0.09, 0.1, 0.16, 0.39, 0.4, 9].map((t) => times.indexAt(t))).toEqual([0, 0, 1, 2, 2, 3, 3]);
    expect(times.end).toBeCloseTo(0.5);
  });

  it('takes millisecond-rounded starts as regular', () => {
    const starts = Array.from({ length: 300 }, (_, i) => Math.round((i / 60) * 1000) / 1000);
    const times = frameTimesOf(starts, 0.017);
    expect(times.variable).toBe(false);
    expect(times.rate).toEqual({ num: 60, den: 1 });
  });

  it('answers for empty and single-frame sources', () => {
    expect(frameTimesOf([0.5], 0.04)).toMatchObject({ count: 1, rate: { num: 25, den: 1 } });
    expect(listedTimes([], 0).count).toBe(0);
  });
});

describe('sRGB transfer, IEC 61966-2-1', () => {
  it.each([
    [0, 0],
    [0.04045, 0.0031308],
    [0.5, 0.21404],
    [1, 1],
  ])('%f is %f in linear light', (encoded, linear) => {
    expect(toLinear(encoded)).toBeCloseTo(linear, 5);
    expect(fromLinear(linear)).toBeCloseTo(encoded, 4);
  });
});

describe("Y'CbCr", () => {
  // 75 % colour bars in BT.709 limited range, as listed with SMPTE RP 219 (values from memory).
  const bars: [string, [number, number, number], [number, number, number]][] = [
    ['yellow', [191, 191, 0], [168, 44, 136]],
    ['cyan', [0, 191, 191], [145, 147, 44]],
    ['green', [0, 191, 0], [134, 63, 52]],
    ['magenta', [191, 0, 191], [63, 193, 204]],
    ['red', [191, 0, 0], [51, 109, 212]],
    ['blue', [0, 0, 191], [28, 212, 120]],
    ['white', [191, 191, 191], [180, 128, 128]],
  ];
  it.each(bars)('%s bar', (_, [r, g, b], [y, u, v]) => {
    const rgba = new Uint8Array(4 * 4).map((_, i) => [r, g, b, 255][i % 4]!);
    const out = new Uint8Array(6);
    rgbaToI420(rgba, 2, 2, out);
    expect(Math.abs(out[0]! - y)).toBeLessThanOrEqual(1);
    expect(Math.abs(out[4]! - u)).toBeLessThanOrEqual(1);
    expect(Math.abs(out[5]! - v)).toBeLessThanOrEqual(1);
  });

  it('comes back within a step of 8 bits', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 255 }),
        fc.integer({ min: 0, max: 255 }),
        fc.integer({ min: 0, max: 255 }),
        (r, g, b) => {
          const rgba = new Uint8Array(16).map((_, i) => [r, g, b, 255][i % 4]!);
          const out = new Uint8Array(6);
          rgbaToI420(rgba, 2, 2, out);
          const back = yuvToRgb(out[0]!, out[4]!, out[5]!, { matrix: 'bt709', fullRange: false });
          [r, g, b].forEach((value, i) => expect(Math.abs(back[i]! * 255 - value)).toBeLessThan(3));
        },
      ),
    );
  });

  it('reads BT.601 and full range by their own matrices', () => {
    // ITU-R BT.601-7: red in full range is Y 76, Cb 85, Cr 255 (JFIF, values from memory).
    const [r, g, b] = yuvToRgb(76, 85, 255, { matrix: 'bt601', fullRange: true });
    expect(r).toBeCloseTo(1, 1);
    expect(Math.abs(g!)).toBeLessThan(0.02);
    expect(Math.abs(b!)).toBeLessThan(0.02);
  });
});
