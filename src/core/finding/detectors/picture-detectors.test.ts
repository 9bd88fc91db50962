import { describe, expect, it } from 'vitest';
import { LUMA_WIDTH } from '../signals/picture.ts';
import { box, frames, ofPicture, pictures, atDefault } from '../../testkit/signals.ts';
import { cuts } from './cuts.ts';
import { flashes } from './flashes.ts';
import { findHits } from './index.ts';
import { jolts } from './jolts.ts';
import { strikes } from './strikes.ts';

const SOURCE = { id: 's', role: 'footage', tracks: [], delay: null } as const;
const other = (luma: Uint8Array): void => {
  for (let p = 0; p < luma.length; p++) luma[p] = 40 + ((p * 7 + Math.floor(p / LUMA_WIDTH) * 13) % 150);
};

describe('flashes and cuts', () => {
  it('finds a local and a whole flash to the frame, and no cut there', () => {
    const picture = pictures(90, (luma, i) => {
      if (i === 30 || i === 31) box(luma, 60, 30, 30, 30, 140);
      if (i === 60 || i === 61) box(luma, 0, 0, LUMA_WIDTH, 90, 150);
    });
    expect(frames(flashes.find({ picture }, atDefault))).toEqual([30, 60]);
    expect(cuts.find({ picture }, atDefault)).toEqual([]);
  });

  it('finds a hard cut to the frame, also right beside a flash, and takes no flash or jolt from it', () => {
    const picture = pictures(90, (luma, i) => {
      if (i >= 45) other(luma);
      if (i === 36 || i === 37) box(luma, 20, 20, 40, 40, 140);
    });
    const { hits } = findHits(SOURCE, ofPicture(picture));
    expect(hits.map((h) => [h.kind, Math.round(h.t * 30)])).toEqual([
      ['flash', 36],
      ['cut', 45],
    ]);
  });

  it('finds nothing in a steady pan, nor where a bright thing merely moves', () => {
    const picture = pictures(90, (luma, i) => box(luma, 2 * i - 20, 40, 20, 20, 110));
    expect(flashes.find({ picture }, atDefault)).toEqual([]);
    expect(cuts.find({ picture }, atDefault)).toEqual([]);
  });

  it('finds a fainter flash with more sensitivity only', () => {
    const picture = pictures(60, (luma, i) => i === 30 && box(luma, 60, 30, 30, 30, 35));
    expect(flashes.find({ picture }, () => 0.2)).toEqual([]);
    expect(frames(flashes.find({ picture }, () => 0.9))).toEqual([30]);
  });
});

describe('jolts', () => {
  /** Offsets in pixels of a picture 160 wide. */
  const jolted = (offsets: Readonly<Record<number, readonly [number, number]>>, pan = (_: number) => 0) =>
    pictures(
      120,
      () => undefined,
      (i) => [pan(i) + (offsets[i]?.[0] ?? 0), offsets[i]?.[1] ?? 0],
    );

  it('finds them to the frame, on a still picture and during a pan', () => {
    expect(
      frames(
        jolts.find({ picture: jolted({ 40: [5, -3], 41: [-4, 4], 42: [2, -2], 80: [0, 6], 81: [0, -5] }) }, atDefault),
      ),
    ).toEqual([40, 80]);
    expect(frames(jolts.find({ picture: jolted({ 60: [4, 5], 61: [-4, -4] }, (i) => 2 * i) }, atDefault))).toEqual([
      60,
    ]);
  });

  it('finds none in pans, however fast they begin and end', () => {
    // Still, then 4 pixels a frame at once, then still.
    expect(jolts.find({ picture: jolted({}, (i) => 4 * Math.min(40, Math.max(0, i - 30))) }, atDefault)).toEqual([]);
    // Swinging to and fro.
    expect(jolts.find({ picture: jolted({}, (i) => 30 * Math.sin(i / 12)) }, atDefault)).toEqual([]);
  });

  it('finds none where a picture stood still and jumps on, or is cut', () => {
    expect(jolts.find({ picture: jolted({}, (i) => (i < 40 ? i : i < 49 ? 40 : i)) }, atDefault)).toEqual([]);
    expect(jolts.find({ picture: pictures(60, (luma, i) => i >= 30 && other(luma)) }, atDefault)).toEqual([]);
  });
});

describe('strikes', () => {
  /** A bright square whose place is given; the camera may move. */
  const moving = (place: (i: number) => number, camera = 0) =>
    pictures(
      90,
      (luma, i) => box(luma, Math.round(place(i)), 34, 16, 22, 120),
      (i) => [camera * i, 0],
    );

  it.each([0, 1])('finds where a fast movement stops, with the camera at %i pixels a frame', (camera) => {
    const found = strikes.find(
      { picture: moving((i) => (i < 40 ? 30 : i <= 46 ? 30 + (i - 40) * 9 : 84), camera) },
      atDefault,
    );
    expect(found.length).toBe(1);
    expect(Math.abs(frames(found)[0]! - 46)).toBeLessThanOrEqual(1);
    // Where it landed, in shares of the picture.
    expect(Math.abs(found[0]!.focus!.x - 92 / 160)).toBeLessThan(0.1);
    expect(Math.abs(found[0]!.focus!.y - 0.5)).toBeLessThan(0.1);
  });

  it('finds where a ball turns round', () => {
    const found = strikes.find({ picture: moving((i) => 20 + 8 * Math.max(0, i < 45 ? i - 35 : 55 - i)) }, atDefault);
    expect(frames(found).some((f) => Math.abs(f - 45) <= 1)).toBe(true);
  });

  it('finds none in slow or steady movement', () => {
    expect(strikes.find({ picture: moving((i) => i * 0.8) }, atDefault)).toEqual([]);
    expect(
      strikes.find(
        {
          picture: pictures(
            90,
            () => undefined,
            (i) => [3 * i, i],
          ),
        },
        atDefault,
      ),
    ).toEqual([]);
  });
});
