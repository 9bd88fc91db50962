import { describe, expect, it } from 'vitest';
import { hash, signed } from '../../base/hash.ts';
import { appearances, changes, learn, likeness, patchSize, type Patch, type WatchSignal } from './watch.ts';

const SIZE = 24;

/** A patch with a background that moves and, where asked, a cross or a ring over it. */
function patch(i: number, sign: 'cross' | 'ring' | null): Patch {
  const value = (f: (x: number, y: number) => number): Uint8Array =>
    new Uint8Array(SIZE * SIZE).map((_, p) => f(p % SIZE, Math.floor(p / SIZE)));
  const on = (x: number, y: number): boolean => {
    const [dx, dy] = [x - 11.5, y - 11.5];
    if (sign === 'cross') return (Math.abs(dx) < 2.6 || Math.abs(dy) < 2.6) && Math.max(Math.abs(dx), Math.abs(dy)) < 9;
    return sign === 'ring' && Math.abs(Math.hypot(dx, dy) - 7) < 2;
  };
  const ground = (x: number, y: number): number =>
    110 + 70 * signed(hash(5, Math.floor((x + 3 * i) / 5), Math.floor(y / 5)));
  return {
    width: SIZE,
    height: SIZE,
    y: value((x, y) => (on(x, y) ? 225 : ground(x, y))),
    u: value((x, y) => (on(x, y) ? 90 : 128)),
    v: value((x, y) => (on(x, y) ? 170 : 128)),
  };
}

const sequence = (count: number, sign: (i: number) => 'cross' | 'ring' | null): Patch[] =>
  Array.from({ length: count }, (_, i) => patch(i, sign(i)));
const scored = (patches: readonly Patch[], score: (patch: Patch, i: number) => number): WatchSignal => ({
  times: Float64Array.from(patches, (_, i) => i / 30),
  scores: Uint8Array.from(patches, (p, i) => Math.round(255 * score(p, i))),
});

describe('region watch', () => {
  const patches = sequence(200, (i) =>
    i >= 20 && i < 45 ? 'cross' : i >= 70 && i < 90 ? 'ring' : i >= 120 && i < 150 ? 'cross' : null,
  );

  it("learns which pixels are the icon's, over a background that moves", () => {
    const sought = learn(patches.slice(8, 56), 30 - 8);
    const weight = (x: number, y: number): number => sought.weight[y * SIZE + x]!;
    expect(weight(11, 5)).toBeGreaterThan(200);
    expect(weight(2, 2)).toBeLessThan(60);
  });

  it('finds every appearance to the frame, and not another icon in the same place', () => {
    const sought = learn(patches.slice(8, 56), 30 - 8);
    const found = appearances(
      scored(patches, (p) => likeness(sought, p)),
      0.5,
    );
    expect(found.map((f) => Math.round(f.t * 30))).toEqual([20, 120]);
    expect(found[0]!.strength).toBeGreaterThan(0.9);
  });

  it('counts a flicker of one frame as one appearance', () => {
    const signal = scored(patches.slice(0, 12), (_, i) => (i < 3 ? 0.1 : i === 6 ? 0.6 : 0.95));
    expect(appearances(signal, 0.5).map((f) => Math.round(f.t * 30))).toEqual([3]);
  });

  it('watches for any change, out of what usually changes', () => {
    const signal = scored(patches.slice(0, 60), (_, i) => (i === 30 ? 0.3 : i === 31 ? 0.2 : 0.02));
    expect(changes(signal, 0.5).map((f) => Math.round(f.t * 30))).toEqual([30]);
    expect(
      changes(
        scored(patches.slice(0, 60), () => 0.1),
        0.5,
      ),
    ).toHaveLength(1);
  });

  it('says 1 for the same picture (Lewis 1995: the coefficient of a patch with itself), and little for a plain or another one', () => {
    const sought = learn([patch(0, 'cross')], 0);
    expect(likeness(sought, patch(0, 'cross'))).toBeCloseTo(1, 6);
    const plain = { ...patch(0, null), y: new Uint8Array(SIZE * SIZE).fill(120) };
    expect(likeness(sought, plain)).toBe(0);
    expect(likeness(sought, patch(3, 'ring'))).toBeLessThan(0.5);
    // A change of brightness and contrast alone changes nothing.
    expect(likeness(sought, { ...sought, y: sought.y.map((v) => 20 + v * 0.8) })).toBeGreaterThan(0.99);
  });

  it('compares at a size that keeps the shape', () => {
    expect(patchSize(480, 120)).toEqual({ width: 48, height: 12 });
    expect(patchSize(20, 10)).toEqual({ width: 20, height: 10 });
    expect(patchSize(900, 4)).toEqual({ width: 48, height: 6 });
  });
});
