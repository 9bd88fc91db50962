import type { PathPoint, RegionShape } from '../document/types.ts';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { maskAt, maskValue, MOST_SEGMENTS, outline, pathAt, smoothed, withPath } from './region.ts';

const shape = (change: Partial<RegionShape> = {}): RegionShape => ({
  id: 's',
  kind: 'box',
  combine: 'add',
  invert: false,
  params: { w: 60, h: 40, soft: 10 },
  ...change,
});
const at = (region: RegionShape[], x: number, y: number, age = 0): number =>
  maskValue(maskAt(region, age), x / 100, y / 100);
const corner = (x: number, y: number, smooth = false): PathPoint => ({ x, y, smooth });
const square = [corner(-30, -30), corner(30, -30), corner(30, 30), corner(-30, 30)];

describe('regions', () => {
  it('are one inside, nothing outside and a half on their edge', () => {
    for (const kind of ['box', 'ellipse'] as const) {
      expect(at([shape({ kind })], 0, 0)).toBe(1);
      expect(at([shape({ kind })], 80, 0)).toBe(0);
      expect(at([shape({ kind })], 30, 0)).toBeCloseTo(0.5, 6);
    }
    expect(at([shape({ kind: 'path', path: [{ at: 0, points: square }], params: { soft: 10 } })], 30, 0)).toBeCloseTo(
      0.5,
      6,
    );
    expect(at([shape({ kind: 'path', path: [{ at: 0, points: square }], params: { soft: 10 } })], 0, 10)).toBe(1);
  });

  it('grow soft over their softness, from full to nothing without steps', () => {
    const across = Array.from({ length: 41 }, (_, i) => at([shape()], 20 + i / 2, 0));
    expect(across[0]).toBe(1);
    expect(across.at(-1)).toBe(0);
    across.slice(1).forEach((v, i) => expect(across[i]! - v).toBeLessThan(0.1));
    expect(across.slice(1).every((v, i) => v <= across[i]! + 1e-12)).toBe(true);
  });

  it('a band has a softness of its own on each side', () => {
    const band = [shape({ kind: 'band', params: { w: 400, h: 40, softTop: 0, softBottom: 30 } })];
    expect(at(band, 0, -19)).toBeCloseTo(1, 2);
    expect(at(band, 0, -21)).toBe(0);
    expect(at(band, 0, 10)).toBeGreaterThan(at(band, 0, 18));
    expect(at(band, 0, 30)).toBeGreaterThan(0);
  });

  it('turn, move and change over frames', () => {
    const keys = [
      { at: 0, value: 0, ease: 'linear' as const },
      { at: 10, value: 100, ease: 'linear' as const },
    ];
    expect(at([shape({ params: { w: 20, h: 20, x: keys } })], 50, 0, 5)).toBe(1);
    expect(at([shape({ params: { w: 20, h: 20, x: keys } })], 0, 0, 5)).toBe(0);
    expect(at([shape({ params: { w: 100, h: 4, turn: 90, soft: 0 } })], 0, 40)).toBe(1);
    expect(at([shape({ params: { w: 100, h: 4, turn: 90, soft: 0 } })], 40, 0)).toBe(0);
  });

  it('invert and combine: added, taken away, intersected', () => {
    const [left, right] = [
      shape({ params: { x: -20, w: 60, h: 60, soft: 0 } }),
      shape({ id: 't', params: { x: 20, w: 60, h: 60, soft: 0 } }),
    ];
    const three = (combine: RegionShape['combine']) =>
      [-40, 0, 40].map((x) => Math.round(at([left, { ...right, combine }], x, 0)));
    expect(three('add')).toEqual([1, 1, 1]);
    expect(three('subtract')).toEqual([1, 0, 0]);
    expect(three('intersect')).toEqual([0, 1, 0]);
    expect(at([{ ...left, invert: true }], 80, 0)).toBe(1);
    // The first shape is always what the others work on, whatever it says itself.
    expect(at([{ ...left, combine: 'subtract' }], -20, 0)).toBe(1);
  });

  it('of two points, of none, crossing itself or broken are answered', () => {
    const path = (points: PathPoint[]) => [shape({ kind: 'path', path: [{ at: 0, points }], params: {} })];
    expect(at(path([corner(-30, 0), corner(30, 0)]), 0, 0)).toBe(0);
    expect(at(path([]), 0, 0)).toBe(0);
    const tie = path([corner(-30, -30), corner(30, 30), corner(30, -30), corner(-30, 30)]);
    expect(at(tie, 20, 0)).toBe(1);
    expect(at(tie, 0, 20)).toBe(0);
    expect(Number.isFinite(at([shape({ params: { w: 0, h: 0, x: Number.NaN } })], 0, 0))).toBe(true);
  });

  it('stay within 0 and 1 for any shapes', () => {
    const any = fc.record({
      id: fc.constant('s'),
      kind: fc.constantFrom('box', 'ellipse', 'band' as const),
      combine: fc.constantFrom('add', 'subtract', 'intersect' as const),
      invert: fc.boolean(),
      params: fc.record({
        x: fc.double({ min: -300, max: 300, noNaN: true }),
        w: fc.double({ min: 0, max: 600, noNaN: true }),
        h: fc.double({ min: 0, max: 600, noNaN: true }),
        turn: fc.double({ min: -360, max: 360, noNaN: true }),
        soft: fc.double({ min: 0, max: 200, noNaN: true }),
      }),
    });
    fc.assert(
      fc.property(
        fc.array(any, { minLength: 1, maxLength: 4 }),
        fc.double({ min: -200, max: 200, noNaN: true }),
        fc.double({ min: -100, max: 100, noNaN: true }),
        (region, x, y) => {
          const value = at(region as RegionShape[], x, y);
          expect(value).toBeGreaterThanOrEqual(0);
          expect(value).toBeLessThanOrEqual(1);
        },
      ),
    );
  });
});

describe('paths', () => {
  it('run straight between corners and through smooth points', () => {
    expect(outline(square)).toEqual([-0.3, -0.3, 0.3, -0.3, 0.3, 0.3, -0.3, 0.3]);
    const round = outline(square.map((p) => ({ ...p, smooth: true })));
    expect(round.length / 2).toBe(MOST_SEGMENTS);
    // Catmull-Rom at the middle of an edge: (9 (p1 + p2) - p0 - p3) / 16 (E. Catmull and R. Rom, 1974).
    const n = MOST_SEGMENTS / 4;
    expect(round[2 * (n / 2) + 1]).toBeCloseTo((9 * (-0.3 - 0.3) - 0.3 - 0.3) / 16, 9);
  });

  it('never have more segments than the shader holds', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            x: fc.double({ noNaN: true, min: -100, max: 100 }),
            y: fc.double({ noNaN: true, min: -100, max: 100 }),
            smooth: fc.boolean(),
          }),
          { maxLength: 120 },
        ),
        (points) => {
          expect(outline(points).length / 2).toBeLessThanOrEqual(MOST_SEGMENTS);
        },
      ),
    );
  });

  it('move from key to key; with another count of points all keys take it', () => {
    const keys = withPath(
      [{ at: 0, points: square }],
      10,
      square.map((p) => ({ ...p, x: p.x + 20 })),
    );
    expect(pathAt(keys, 5)[0]).toEqual(corner(-20, -30));
    expect(withPath(keys, 10, square.slice(0, 3)).map((key) => key.points.length)).toEqual([3, 3]);
  });

  it('smooths chosen points towards the middle of their neighbours', () => {
    const points = [corner(0, 0), corner(10, 20), corner(20, 0)];
    expect(smoothed(points, new Set([1]))).toEqual([points[0], { x: 10, y: 10, smooth: true }, points[2]]);
  });
});
