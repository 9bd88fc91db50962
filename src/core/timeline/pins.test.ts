import { describe, expect, it } from 'vitest';
import type { Pin } from '../document/types.ts';
import { mended, pinAt } from './pins.ts';

const way = (from: number, to: number, x: (t: number) => number): Pin['track'] =>
  Array.from({ length: to - from + 1 }, (_, i) => ({ t: from + i, x: x(from + i), y: 0.5 }));

describe('a pin that is set right', () => {
  const pin: Pin = { source: 's', at: 10, track: way(0, 30, () => 0.2) };

  it('is the new way on from there, the old one before it began, and bends from one to the other', () => {
    const right = mended(
      pin,
      20,
      way(10, 40, () => 0.4),
    );
    const x = (t: number): number => pinAt(right, t).x;
    expect([0, 5, 10].map(x)).toEqual([0.2, 0.2, 0.2]);
    expect(x(15)).toBeCloseTo(0.3, 9);
    expect([20, 30, 40, 99].map(x)).toEqual([0.4, 0.4, 0.4, 0.4]);
    expect(right.at).toBe(10);
    expect(right.track.map(({ t }) => t)).toEqual(way(0, 40, () => 0).map(({ t }) => t));
  });

  it('bends the other way where it is set right before it began, and over where the old one was lost', () => {
    const back = mended(
      pin,
      5,
      way(0, 8, () => 0.6),
    );
    expect(pinAt(back, 2).x).toBe(0.6);
    expect(pinAt(back, 7.5).x).toBeCloseTo(0.4, 9);
    expect(pinAt(back, 12).x).toBe(0.2);
    const lost = mended(
      pin,
      60,
      way(50, 70, () => 0.7),
    );
    expect(pinAt(lost, 35).x).toBeCloseTo(0.45, 9);
    expect(pinAt(lost, 65).x).toBe(0.7);
  });

  it('on the moment it began is the new one', () => {
    expect(
      pinAt(
        mended(
          pin,
          10,
          way(0, 20, () => 0.9),
        ),
        15,
      ).x,
    ).toBeCloseTo(0.9, 9);
  });

  it('goes on with its turn and size from what they were', () => {
    const turning = (
      from: number,
      to: number,
      turn: (t: number) => number,
      scale: (t: number) => number,
    ): Pin['track'] =>
      way(from, to, () => 0.5).map((place) => ({ ...place, turn: turn(place.t), scale: scale(place.t) }));
    const old: Pin = {
      ...pin,
      track: turning(
        10,
        20,
        (t) => (t - 10) / 10,
        (t) => 1 + (t - 10) / 10,
      ),
    };
    // Counted anew from where it was set right.
    const right = mended(
      old,
      20,
      turning(
        10,
        30,
        (t) => (t - 20) / 5,
        (t) => 1 + (t - 20) / 20,
      ),
    );
    expect(pinAt(right, 10)).toMatchObject({ turn: 0, scale: 1 });
    expect(pinAt(right, 20)).toMatchObject({ turn: 1, scale: 2 });
    expect(pinAt(right, 30).turn).toBeCloseTo(3, 9);
    expect(pinAt(right, 30).scale).toBeCloseTo(3, 9);
    // A place alone, after a box: it stands as it was turned.
    expect(
      pinAt(
        mended(
          old,
          20,
          way(20, 30, () => 0.9),
        ),
        30,
      ),
    ).toMatchObject({ x: 0.9, turn: 1, scale: 2 });
  });

  it('keeps no more than a document may hold', () => {
    const long = mended(
      { ...pin, track: way(0, 9000, () => 0.1) },
      9000,
      way(9000, 13_000, () => 0.2),
    );
    expect(long.track.length).toBe(10_000);
    expect(long.track.some(({ t }) => t === 9000)).toBe(true);
  });
});
