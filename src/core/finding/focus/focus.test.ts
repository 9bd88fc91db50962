import { describe, expect, it } from 'vitest';
import { signed } from '../../base/hash.ts';
import { greyOf, type Grey } from './grey.ts';
import { boxAround, movingForeground, proposeFocus } from './propose.ts';
import { PointTracker } from './track.ts';

/** A smooth texture of endless size. */
const texture = (x: number, y: number): number =>
  128 + 40 * Math.sin(x / 7.3 + Math.sin(y / 11)) + 35 * Math.sin(y / 5.1 + x / 23) + 18 * Math.sin((x + y) / 3.7);

const painted = (width: number, height: number, value: (x: number, y: number) => number): Grey => {
  const data = new Float32Array(width * height);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) data[y * width + x] = value(x, y);
  return { width, height, data };
};
const noise = (x: number, y: number, frame: number): number =>
  3 * signed(Math.imul(x + 977 * y + 65_537 * frame, 2654435761) >>> 0);

describe('the proposed focus', () => {
  const spark = (x: number, y: number): number => 110 * Math.exp(-((x - 118) ** 2 + (y - 31) ** 2) / 30);

  it('is where light flashes up, though the camera turns and the whole picture grows brighter', () => {
    const before = painted(160, 90, (x, y) => texture(x, y) + noise(x, y, 1));
    const at = painted(160, 90, (x, y) => texture(x - 6, y + 3) + noise(x, y, 2) + 20 + spark(x, y));
    const point = proposeFocus(before, at)!;
    expect(point.x * 160).toBeGreaterThan(115);
    expect(point.x * 160).toBeLessThan(122);
    expect(point.y * 90).toBeGreaterThan(28);
    expect(point.y * 90).toBeLessThan(35);
  });

  it('is none where nothing stands out: noise, a pan, a picture that only grows brighter', () => {
    const before = painted(160, 90, (x, y) => texture(x, y) + noise(x, y, 1));
    for (const at of [
      painted(160, 90, (x, y) => texture(x, y) + noise(x, y, 2)),
      painted(160, 90, (x, y) => texture(x - 5, y - 2) + noise(x, y, 3)),
      painted(160, 90, (x, y) => texture(x, y) + 40 + noise(x, y, 4)),
    ])
      expect(proposeFocus(before, at)).toBeNull();
    expect(proposeFocus(before, painted(80, 90, texture))).toBeNull();
  });
});

describe('the foreground that moves', () => {
  /** Something held before the picture, lower right, that recoils while the camera turns. */
  const held = (frame: number): Grey => {
    const back = [0, 0, 6, 3][frame]!;
    return painted(160, 90, (x, y) => {
      const [u, v] = [x - 96 - back, y - 50 - back];
      return (u > 0 && u < 44 && v > 0 ? 60 + 50 * Math.sin(u / 2) : texture(x - 3 * frame, y)) + noise(x, y, frame);
    });
  };

  it('is the box of what moves otherwise than the camera', () => {
    const box = movingForeground([0, 1, 2, 3].map(held))!;
    expect(box.x * 160).toBeGreaterThan(85);
    expect(box.x * 160).toBeLessThan(100);
    expect((box.x + box.w) * 160).toBeGreaterThan(138);
    expect(box.y * 90).toBeGreaterThan(40);
    expect(box.y * 90).toBeLessThan(60);
  });

  it('is none where only the camera moves, or all of the picture changes', () => {
    const pan = [0, 1, 2].map((frame) => painted(160, 90, (x, y) => texture(x - 4 * frame, y) + noise(x, y, frame)));
    expect(movingForeground(pan)).toBeNull();
    const cut = [painted(160, 90, texture), painted(160, 90, (x, y) => texture(y * 3 + 50, 2 * x))];
    expect(movingForeground(cut)).toBeNull();
    expect(boxAround([null, { x: 0.1, y: 0.2, w: 0.2, h: 0.1 }, { x: 0.5, y: 0.1, w: 0.1, h: 0.1 }])).toEqual({
      x: 0.1,
      y: 0.1,
      w: expect.closeTo(0.5, 9),
      h: expect.closeTo(0.2, 9),
    });
    expect(boxAround([null])).toBeNull();
  });
});

describe('a followed point', () => {
  /** Frames of a textured box over another texture, both moving. */
  const scene = (frame: number, gain = 1): Grey => {
    const [bx, by] = [120 + 1.7 * frame, 100 + 25 * Math.sin(frame / 20)];
    return painted(480, 270, (x, y) => {
      const [u, v] = [x - bx, y - by];
      const inside = Math.abs(u) < 26 && Math.abs(v) < 20;
      return gain * (inside ? texture(3 * u + 900, 3 * v + 40) : texture(x + frame, y) * 0.6 + 30);
    });
  };

  it('drifts by less than a pixel in 120 frames, through changes of light', () => {
    const tracker = new PointTracker(scene(0), { x: 120.5 / 480, y: 100.5 / 270 });
    let worst = 0;
    for (let frame = 1; frame <= 120; frame++) {
      const found = tracker.next(scene(frame, 0.75 + 0.25 * Math.cos(frame / 9)))!;
      expect(found).not.toBeNull();
      const [x, y] = [found.x * 480 - 0.5, found.y * 270 - 0.5];
      worst = Math.max(worst, Math.hypot(x - 120 - 1.7 * frame, y - 100 - 25 * Math.sin(frame / 20)));
    }
    expect(worst).toBeLessThan(1);
  });

  it('says within three frames that it was lost: behind a cut, and on nothing', () => {
    const cut = new PointTracker(scene(0), { x: 0.25, y: 0.37 });
    const other = painted(480, 270, (x, y) => 200 - texture(y * 1.7 + 400, x * 2.3));
    const after = [cut.next(other), cut.next(other), cut.next(other)];
    expect(after).toContain(null);
    const flat = painted(480, 270, () => 90);
    expect(new PointTracker(flat, { x: 0.5, y: 0.5 }).next(flat)).toBeNull();
    expect(new PointTracker(scene(0), { x: 0, y: 0 }).next(painted(20, 10, texture))).toBeNull();
  });
});

describe('small grey pictures', () => {
  it('are upright whatever way the picture was stored', () => {
    // A bright corner: stored top left.
    const luma = new Uint8Array(8 * 4);
    luma[0] = 255;
    const at = (rotation: 0 | 90 | 180 | 270): [number, number] => {
      const { width, data } = greyOf(luma, 8, 4, rotation, 8);
      const i = data.indexOf(255);
      return [i % width, Math.floor(i / width)];
    };
    expect(at(0)).toEqual([0, 0]);
    // A quarter clockwise: to the top right of a picture of 4x8.
    expect(at(90)).toEqual([3, 0]);
    expect(at(180)).toEqual([7, 3]);
    expect(at(270)).toEqual([0, 7]);
    expect(greyOf(new Uint8Array(1920 * 1080), 1920, 1080, 90, 160)).toMatchObject({ width: 90, height: 160 });
  });
});
