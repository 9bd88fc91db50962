import { describe, expect, it } from 'vitest';
import { toLinear, yuvToRgb } from '../base/colour.ts';
import { hash, signed } from '../base/hash.ts';
import type { Subject, SubjectKey, SubjectPath } from '../document/types.ts';
import type { Grey } from '../finding/focus/grey.ts';
import { cleans } from '../accents/layers.ts';
import { cleaned } from './clean.ts';
import { withoutSubject } from './fill.ts';
import { applied, fitted } from '../base/similarity.ts';
import { OutlineTracker } from './follow.ts';
import { edged, filled, matteOf, mattePicture, reshaped, subjectPathAt, type Frame } from './matte.ts';

const [W, H] = [64, 36];
const colour = { matrix: 'bt709', fullRange: true } as const;
const frameOf = (luma: (x: number, y: number) => number, u = 128, v = 128): Frame => {
  const area = W * H;
  const data = new Uint8Array(area * 1.5).fill(u, area, area * 1.25).fill(v, area * 1.25);
  for (let i = 0; i < area; i++) data[i] = luma(i % W, Math.floor(i / W));
  return { width: W, height: H, data, colour };
};
const corner = (x: number, y: number) => ({ x, y, smooth: false });
const box = (left: number, top: number, right: number, bottom: number) => [
  corner(left, top),
  corner(right, top),
  corner(right, bottom),
  corner(left, bottom),
];
const path = (points: ReturnType<typeof box>, does: SubjectPath['does'] = 'adds'): SubjectPath => ({
  id: 'p',
  does,
  keys: [{ t: 0, points }],
});
const subject = (...paths: SubjectPath[]): Subject => ({ paths, grow: 0, soft: 0 });
const grey = frameOf(() => 90);

describe('points of an outline', () => {
  const points = box(0.4, 0.4, 0.6, 0.6);
  const all = new Set([0, 1, 2, 3]);

  it('are turned and scaled about their middle, and keep their shape in a wide picture', () => {
    const turned = reshaped(points, all, 2, { turn: Math.PI / 2 });
    // 0.2 wide and 0.2 high at 2:1 stands upright afterwards: half as wide, twice as high.
    expect(turned[0]!.x).toBeCloseTo(0.55, 9);
    expect(turned[0]!.y).toBeCloseTo(0.3, 9);
    const grown = reshaped(points, all, 2, { scale: 2 });
    expect([grown[0]!.x, grown[2]!.y]).toEqual([expect.closeTo(0.3, 9), expect.closeTo(0.7, 9)]);
    expect(reshaped(grown, all, 2, { scale: 0.5 })[1]!.x).toBeCloseTo(0.6, 9);
  });

  it('that are not chosen stay, and one alone is only moved', () => {
    const one = reshaped(points, new Set([1]), 2, { turn: 1, scale: 3, x: 0.1 });
    expect(one[0]).toBe(points[0]);
    expect(one[1]!.x).toBeCloseTo(0.7, 9);
    expect(reshaped(points, new Set(), 2, { scale: 5 })).toEqual(points);
  });
});

describe('a drawn matte', () => {
  it('holds the area of its outline to a thousandth, and nothing for two points or beside the picture', () => {
    const sum = (mask: Float32Array): number => mask.reduce((a, b) => a + b, 0);
    expect(
      sum(
        filled(
          [
            [3.25, 2.5],
            [20.75, 2.5],
            [20.75, 10],
            [3.25, 10],
          ],
          W,
          H,
        ),
      ),
    ).toBeCloseTo(17.5 * 7.5, 2);
    const circle = Array.from({ length: 200 }, (_, i) => {
      const a = (i / 100) * Math.PI;
      return [30 + 12 * Math.cos(a), 18 + 12 * Math.sin(a)] as const;
    });
    expect(sum(filled(circle, W, H)) / (Math.PI * 144)).toBeCloseTo(1, 2);
    expect(
      sum(
        filled(
          [
            [1, 1],
            [9, 9],
          ],
          W,
          H,
        ),
      ),
    ).toBe(0);
    expect(
      sum(
        filled(
          [
            [-50, -50],
            [-20, -50],
            [-20, -20],
          ],
          W,
          H,
        ),
      ),
    ).toBe(0);
    // One that crosses itself is filled by the even-odd rule.
    expect(
      sum(
        filled(
          [
            [0, 0],
            [10, 10],
            [10, 0],
            [0, 10],
          ],
          W,
          H,
        ),
      ),
    ).toBeCloseTo(50, 0);
  });

  it('runs evenly from key to key, and keeps the earlier points where counts differ', () => {
    const moving: SubjectPath = {
      ...path(box(0, 0, 0.2, 0.2)),
      keys: [
        { t: 1, points: box(0, 0, 0.2, 0.2) },
        { t: 2, points: box(0.4, 0, 0.6, 0.2) },
        { t: 3, points: box(0.4, 0, 0.6, 0.2).slice(1) },
      ],
    };
    const left = (t: number): number => subjectPathAt(moving, t)[0]!.x;
    expect([0, 1, 1.25, 2].map(left)).toEqual([0, 0, 0.1, 0.4]);
    expect(subjectPathAt(moving, 2.5)).toHaveLength(4);
    expect(subjectPathAt(moving, 9)).toHaveLength(3);
  });

  it('adds, takes and keeps within, lies upright in a turned picture, and grows and softens by what is asked', () => {
    const at = (s: Subject, x: number, y: number, rotation: 0 | 90 | 180 | 270 = 0): number =>
      matteOf(s, grey, 0, rotation)[y * W + x]!;
    const half = path(box(0, 0, 0.5, 1));
    expect([at(subject(half), 10, 9), at(subject(half), 50, 9)]).toEqual([1, 0]);
    const hole = subject(half, { ...path(box(0.1, 0.1, 0.3, 0.5), 'takes'), id: 'q' });
    expect([at(hole, 12, 9), at(hole, 28, 9)]).toEqual([0, 1]);
    const within = subject(half, { ...path(box(0.25, 0, 1, 1), 'keeps within'), id: 'q' });
    expect([at(within, 5, 9), at(within, 24, 9), at(within, 40, 9)]).toEqual([0, 1, 0]);
    // The left half of the upright picture is at the bottom, right and top of the stored one.
    expect([at(subject(half), 9, 33, 90), at(subject(half), 9, 3, 90)]).toEqual([1, 0]);
    expect([at(subject(half), 60, 9, 180), at(subject(half), 5, 9, 180)]).toEqual([1, 0]);
    expect([at(subject(half), 9, 3, 270), at(subject(half), 9, 33, 270)]).toEqual([1, 0]);
    const grown = { ...subject(half), grow: 4 / H };
    expect([at(grown, 34, 18), at(grown, 38, 18)]).toEqual([1, 0]);
    const soft = { ...subject(half), soft: 8 / H };
    expect(at(soft, 29, 18)).toBeGreaterThan(at(soft, 31, 18));
    expect(at(soft, 31, 18)).toBeGreaterThan(at(soft, 34, 18));
    const step = new Float32Array(W * H).map((_, i) => (i % W < 32 ? 1 : 0));
    edged(step, W, H, 0, 8);
    // Even across its edge: an eighth a pixel, within a tenth of a step.
    for (let x = 29; x < 35; x++) expect(step[18 * W + x]).toBeCloseTo((36 - x - 0.5) / 8, 1);
  });
});

describe('a keyed matte', () => {
  const key: SubjectKey = {
    by: 'brightness',
    low: 0.5,
    high: 1,
    red: 0,
    green: 0,
    blue: 0,
    near: 0.1,
    soft: 0.1,
    invert: false,
  };
  const of = (k: SubjectKey, frame: Frame): Float32Array =>
    matteOf({ paths: [], key: k, grow: 0, soft: 0 }, frame, 0, 0);

  it('is exact on flat fields and even over its soft edge', () => {
    const steps = of(
      key,
      frameOf((x) => [0, 102, 115, 128, 255][Math.floor(x / 13)]!),
    );
    expect([0, 13, 26, 39, 52].map((x) => Number(steps[x]!.toFixed(2)))).toEqual([0, 0, 0.51, 1, 1]);
    expect(
      of(
        { ...key, invert: true },
        frameOf(() => 255),
      )[0],
    ).toBe(0);
  });

  it('takes a colour, in the shade too, and no other', () => {
    const green = frameOf(() => 120, 70, 60);
    const [red, g, blue] = yuvToRgb(120, 70, 60, colour);
    const byColour: SubjectKey = { ...key, by: 'colour', red, green: g, blue, near: 0.15, soft: 0.05 };
    expect(of(byColour, green)[0]).toBe(1);
    expect(
      of(
        byColour,
        frameOf(() => 90, 70, 60),
      )[0],
    ).toBe(1);
    expect(
      of(
        byColour,
        frameOf(() => 120, 150, 150),
      )[0],
    ).toBe(0);
  });

  it('is made of the picture as the key sees it: steeper, brighter, without its noise', () => {
    const sees = { contrast: 1, gamma: 1, saturation: 1, blur: 0 };
    const grey = (luma: number) => frameOf(() => luma);
    // 0.4 is 0.3 at twice the contrast, and 0.63 at a gamma of 2.
    const half = { ...key, low: 0.35, soft: 0.0001 };
    expect(of(half, grey(102))[0]).toBe(1);
    expect(of({ ...half, sees: { ...sees, contrast: 2 } }, grey(102))[0]).toBe(0);
    expect(of({ ...key, soft: 0.0001, sees: { ...sees, gamma: 2 } }, grey(102))[0]).toBe(1);
    const noise = frameOf((x, y) => ((x + y) % 2 ? 160 : 110));
    expect(new Set(of(key, noise)).size).toBeGreaterThan(1);
    const smooth = of({ ...key, low: 0.5, soft: 0.0001, sees: { ...sees, blur: 0.06 } }, noise);
    expect(smooth.every((share) => share === 1)).toBe(true);
    // Colours that are seen paler are nearer to each other, and the one that is looked for stays the one found.
    const [red, g, blue] = yuvToRgb(120, 70, 60, colour);
    const green: SubjectKey = { ...key, by: 'colour', red, green: g, blue, near: 0.1, soft: 0.01 };
    const pale = frameOf(() => 120, 90, 85);
    expect(of(green, pale)[0]).toBe(0);
    const paler = { ...green, sees: { ...sees, saturation: 0.3, contrast: 1.5 } };
    expect(of(paler, pale)[0]).toBe(1);
    expect(
      of(
        paler,
        frameOf(() => 120, 70, 60),
      )[0],
    ).toBe(1);
  });

  it('is kept as light in its picture', () => {
    const picture = mattePicture(new Float32Array(W * H).fill(0.25), grey);
    expect(toLinear(picture.data[0]! / 255)).toBeCloseTo(0.25, 2);
    expect(picture.data[W * H]).toBe(128);
  });
});

describe('what is behind a subject', () => {
  it('is filled in from around it: a slope goes on, what is known stays to the bit', () => {
    const slope = (x: number): number => 40 + 3 * x;
    const mask = matteOf(subject(path(box(0.4, 0.3, 0.6, 0.7))), grey, 0, 0);
    const frame = frameOf((x, y) => (mask[y * W + x]! > 0 ? 255 : slope(x)));
    const filledIn = withoutSubject(frame, mask);
    for (let i = 0; i < W * H; i++)
      if (mask[i]! > 0.02) expect(Math.abs(filledIn.data[i]! - slope(i % W))).toBeLessThan(22);
      else expect(filledIn.data[i]).toBe(frame.data[i]);
    expect(withoutSubject(frame, mask.fill(0))).toBe(frame);
    expect(withoutSubject(frame, mask.fill(1))).toBe(frame);
  });
});

describe('a cleaned subject', () => {
  const [red, green, blue] = yuvToRgb(120, 70, 60, colour);
  const screen: SubjectKey = {
    ...{ by: 'colour' as const, low: 0, high: 1, red, green, blue, near: 0.1, soft: 0.1 },
    ...{ invert: true, spill: 1 },
  };
  const all = new Float32Array(W * H).fill(1);
  const shown = (u: number, v: number, key: SubjectKey): [number, number] => {
    const { data } = cleaned(
      frameOf(() => 120, u, v),
      all,
      { paths: [], key, grow: 0, soft: 0 },
    );
    expect(data[0]).toBe(120);
    return [data[W * H]!, data[W * H * 1.25]!];
  };

  it('loses the hue of what is behind it, and keeps every other', () => {
    expect(shown(70, 60, screen)).toEqual([128, 128]);
    expect(shown(128, 128, screen)).toEqual([128, 128]);
    // The opposite hue, and one at a right angle.
    expect(shown(170, 177, screen)).toEqual([170, 177]);
    expect(shown(162, 99, screen)).toEqual([162, 99]);
    const [u, v] = shown(70, 60, { ...screen, spill: 0.5 });
    expect(Math.abs(u - 99) + Math.abs(v - 94)).toBeLessThanOrEqual(1);
    expect(cleans({ paths: [], key: screen, grow: 0, soft: 0 })).toBe(true);
    expect(cleans({ paths: [], key: { ...screen, invert: false }, grow: 0, soft: 0 })).toBe(false);
  });

  it('takes its edge from within it', () => {
    // A dark subject before light, with an edge that is half of both.
    const mask = new Float32Array(W * H).map((_, i) => (i % W < 30 ? 1 : i % W < 33 ? 0.5 : 0));
    const frame = frameOf((x) => (x < 30 ? 40 : x < 33 ? 130 : 220));
    const edge = (clean: number): number => cleaned(frame, mask, { paths: [], grow: 0, soft: 0, clean }).data[31]!;
    expect(edge(1)).toBe(40);
    expect(edge(0.5)).toBe(85);
    expect(edge(0)).toBe(130);
    expect(cleaned(frame, mask, { paths: [], grow: 0, soft: 0, clean: 1 }).data[5]).toBe(40);
  });
});

describe('a followed outline', () => {
  const texture = (x: number, y: number): number =>
    128 + 40 * Math.sin(x / 7.3 + Math.sin(y / 11)) + 35 * Math.sin(y / 5.1 + x / 23) + 18 * Math.sin((x + y) / 3.7);
  const [GW, GH] = [480, 270];
  /** A textured box that moves, turns and grows before a wall that moves the other way. */
  const pose = (frame: number) => ({
    x: 140 + 2.1 * frame,
    y: 130 + 0.6 * frame,
    turn: 0.004 * frame,
    size: 1 + 0.003 * frame,
  });
  const scene = (frame: number): Grey => {
    const { x: bx, y: by, turn, size } = pose(frame);
    const data = new Float32Array(GW * GH);
    for (let y = 0; y < GH; y++)
      for (let x = 0; x < GW; x++) {
        const [dx, dy] = [(x - bx) / size, (y - by) / size];
        const [u, v] = [dx * Math.cos(turn) + dy * Math.sin(turn), dy * Math.cos(turn) - dx * Math.sin(turn)];
        const on = Math.abs(u) < 60 && Math.abs(v) < 45;
        data[y * GW + x] =
          (on ? texture(2 * u + 900, 2 * v + 40) : 0.6 * texture(x + 1.5 * frame, y) + 30) +
          2 * signed(hash(x, y, frame));
      }
    return { width: GW, height: GH, data };
  };
  const cornersAt = (frame: number) => {
    const { x, y, turn, size } = pose(frame);
    return box(-60, -45, 60, 45).map((p) => ({
      x: (x + size * (p.x * Math.cos(turn) - p.y * Math.sin(turn)) + 0.5) / GW,
      y: (y + size * (p.x * Math.sin(turn) + p.y * Math.cos(turn)) + 0.5) / GH,
    }));
  };

  it('stays within two pixels of what it surrounds for 30 frames, and says that it is lost at a cut', () => {
    const tracker = new OutlineTracker(scene(0), cornersAt(0));
    let worst = 0;
    for (let frame = 1; frame <= 30; frame++) {
      const moved = tracker.next(scene(frame))!;
      expect(moved, String(frame)).not.toBeNull();
      cornersAt(0).forEach((p, i) => {
        const q = applied(moved, { x: (p.x * GW) / GH, y: p.y });
        const truth = cornersAt(frame)[i]!;
        worst = Math.max(worst, Math.hypot(q.x * GH - truth.x * GW, (q.y - truth.y) * GH));
      });
    }
    expect(worst).toBeLessThan(2);
    const other: Grey = { ...scene(0), data: scene(0).data.map((v, i) => 255 - v + (i % 37)) };
    expect([tracker.next(other), tracker.next(other), tracker.next(other)]).toContain(null);
  });

  it('fits what was turned and grown, and leaves a single point where it is', () => {
    const points = box(0.1, 0.2, 0.5, 0.6);
    const truth = { c: 1.2 * Math.cos(0.3), s: 1.2 * Math.sin(0.3), x: 0.1, y: -0.2 };
    const found = fitted(
      points,
      points.map((p) => applied(truth, p)),
    );
    for (const name of ['c', 's', 'x', 'y'] as const) expect(found[name]).toBeCloseTo(truth[name], 9);
    expect(fitted([{ x: 1, y: 1 }], [{ x: 2, y: 3 }])).toEqual({ c: 1, s: 0, x: 1, y: 2 });
  });
});
