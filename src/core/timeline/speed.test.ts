import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Ramp } from '../document/types.ts';
import { footage } from '../testkit/montages.ts';
import { timeMap, type PlacedRamp } from './speed.ts';
import { mediaIndex, timeline } from './timeline.ts';
import { emptyMontage, type Clip } from '../document/types.ts';

const FPS = 30;
const ramp = (more: Partial<Ramp> = {}): Ramp => ({
  before: 0,
  steps: [0.75, 0.5, 0.25, 0.1].map((speed) => ({ speed, frames: 10 })),
  smooth: false,
  gained: 'kept',
  most: 2,
  between: 'nearest',
  sound: 'follows',
  ...more,
});
const on = (t: number, more?: Partial<Ramp>): PlacedRamp => ({ ramp: ramp(more), t, scale: 1 });
const clip = { in: 2, out: 12 };

describe('a clip at a speed', () => {
  it.each([
    [0.01, 30_000],
    [0.5, 600],
    [1, 300],
    [2, 150],
    [20, 15],
    [-1, 300],
    [-0.25, 1200],
  ])('of %d lasts %d frames', (speed, frames) => {
    const map = timeMap({ ...clip, speed }, [], [], FPS);
    expect(map.frames).toBeCloseTo(frames, 6);
    expect(map.at(0)).toBeCloseTo(speed > 0 ? 2 : 12, 9);
    expect(map.at(frames / 2)).toBeCloseTo(7, 9);
    expect(map.speedAt(frames / 3)).toBeCloseTo(speed, 9);
    expect(map.frameOf(4.5)).toBeCloseTo((speed > 0 ? 2.5 : 7.5) * (FPS / Math.abs(speed)), 6);
    expect(map.frameOf(1.9)).toBeNull();
    expect(map.frameOf(12.1)).toBeNull();
  });

  it('keeps its place over three hours to a thousandth of a frame', () => {
    const map = timeMap({ in: 0, out: 10_800, speed: 0.7 }, [], [], 59.94);
    for (const frame of [0, 1, 500_000, 924_000]) expect(map.frameOf(map.at(frame))).toBeCloseTo(frame, 3);
  });
});

describe('a ramp', () => {
  it('shows ten frames at each of its speeds from the hit on, and goes on as before', () => {
    const map = timeMap(clip, [on(5)], [], FPS);
    expect(map.at(90)).toBeCloseTo(5, 9);
    // 10 frames at 75 %, 50 %, 25 % and 10 % show 16 frames of the source.
    expect(map.at(100)).toBeCloseTo(5 + 7.5 / FPS, 9);
    expect(map.at(130)).toBeCloseTo(5 + 16 / FPS, 9);
    expect(map.at(131)).toBeCloseTo(5 + 17 / FPS, 9);
    expect(map.gained).toBeCloseTo(24, 9);
    expect(map.frames).toBeCloseTo(324, 9);
  });

  it('that begins before its hit shows the hit where that would be shown', () => {
    const map = timeMap(clip, [on(5, { before: 20 })], [], FPS);
    // 12.5 frames of the source are shown in the 20 before the hit.
    expect(map.frameOf(5)).toBeCloseTo(90 - 12.5 + 20, 6);
  });

  it('pays its time back before the next hit, as far as its largest speed goes', () => {
    const paid = timeMap(clip, [on(5, { gained: 'paid back' })], [9], FPS);
    expect(paid.gained).toBeCloseTo(0, 9);
    expect(paid.frames).toBeCloseTo(300, 9);
    expect(paid.frameOf(9)).toBeCloseTo(210, 6);
    expect(Math.max(...paid.pieces.map(({ to }) => to))).toBeLessThanOrEqual(2);
    const slow = timeMap(clip, [on(5, { gained: 'paid back', most: 1.1 })], [], FPS);
    expect(slow.gained).toBeGreaterThan(0);
    expect(slow.gained).toBeLessThan(24);
  });

  it('that is cut leaves the clip as long as it was', () => {
    const map = timeMap(clip, [on(5, { gained: 'cut' })], [], FPS);
    expect(map.frames).toBeCloseTo(300, 9);
    expect(map.at(299.999)).toBeLessThan(12 - 23 / FPS);
  });

  it('stands still at nothing, and the hit is found on its first frame', () => {
    const map = timeMap(clip, [on(5, { steps: [{ speed: 0, frames: 12 }] })], [], FPS);
    expect([90, 95, 102].map((frame) => map.at(frame))).toEqual([5, 5, 5].map((t) => expect.closeTo(t, 9)));
    expect(map.frameOf(5)).toBeCloseTo(90, 6);
    expect(map.frames).toBeCloseTo(312, 9);
  });

  it('shares what lies between it and the next, and passes a hit inside its slow part over', () => {
    const met = timeMap(clip, [on(5, { before: 20 }), on(5.6, { before: 20 })], [], FPS);
    expect(met.at(met.frameOf(5.6)!)).toBeCloseTo(5.6, 6);
    expect(met.at(met.frames)).toBeCloseTo(12, 6);
    const inside = timeMap(clip, [on(5), on(5.3)], [], FPS);
    expect(inside.frames).toBeCloseTo(324, 9);
    expect(inside.frameOf(5.3)).toBeGreaterThan(99);
  });

  it('longer than its clip, or before its first frame, ends with the clip', () => {
    const short = timeMap({ in: 2, out: 2.2 }, [on(2.1, { before: 30 })], [], FPS);
    expect(short.at(short.frames)).toBeCloseTo(2.2, 6);
    expect(short.at(0)).toBeCloseTo(2, 9);
    const first = timeMap(clip, [on(2, { before: 30 })], [], FPS);
    expect(first.at(0)).toBeCloseTo(2, 6);
    expect(first.frameOf(2)).toBeCloseTo(0, 6);
    expect(timeMap(clip, [on(20)], [], FPS).frames).toBeCloseTo(300, 9);
  });

  it('on a pinned clip takes its time from between the pins: hits stay where they were pinned', () => {
    const pins = [
      { t: 4, at: 60 },
      { t: 7, at: 150 },
    ];
    const slow = { steps: [{ speed: 0.5, frames: 10 }], before: 0 };
    const map = timeMap({ ...clip, pins }, [on(4, slow), on(8, slow)], [], FPS);
    expect([map.frames, map.gained]).toEqual([expect.closeTo(300, 9), 0]);
    for (const { t, at } of pins) expect(map.at(at)).toBeCloseTo(t, 9);
    expect(map.speedAt(62)).toBeCloseTo(0.5, 9);
    expect(map.at(70)).toBeCloseTo(4 + 5 / 30, 9);
    expect(map.speedAt(100)).toBeCloseTo(85 / 80, 9);
    // Before a pinned hit it lies in the stretch before, and the hit is slowed after its last pin, too.
    const lead = timeMap({ ...clip, pins }, [on(7, { ...slow, before: 10 })], [], FPS);
    expect([lead.speedAt(145), lead.speedAt(152), lead.at(150)]).toEqual([
      expect.closeTo(0.5, 9),
      expect.closeTo(1, 9),
      expect.closeTo(7, 9),
    ]);
    expect(map.speedAt(map.frameOf(8)! + 1)).toBeCloseTo(0.5, 9);
  });

  it('is shorter on a pinned clip where there is not the time for all of it', () => {
    const pins = [
      { t: 4, at: 60 },
      { t: 5, at: 90 },
    ];
    const map = timeMap({ ...clip, pins }, [on(4, { steps: [{ speed: 0.1, frames: 60 }], most: 2 })], [], FPS);
    expect(map.at(90)).toBeCloseTo(5, 6);
    expect(map.speedAt(61)).toBeCloseTo(0.1, 6);
    expect(map.speedAt(89)).toBeCloseTo(2, 4);
  });

  it('of any kind on a pinned clip moves no pin and makes the clip no longer', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 2, max: 12, noNaN: true }), { maxLength: 6 }),
        fc.array(fc.double({ min: 0.3, max: 2.5, noNaN: true }), { minLength: 1, maxLength: 5 }),
        fc.integer({ min: 0, max: 40 }),
        fc.constantFrom(0, 0.1, 0.5, 3),
        fc.boolean(),
        (hits, gaps, before, speed, smooth) => {
          let t = 2;
          let at = 0;
          const pins = gaps.flatMap((gap, i) => {
            t += 1.5;
            at += Math.max(1, Math.round(45 * gap));
            return i < 5 && t < 11.9 ? [{ t, at }] : [];
          });
          const steps = [{ speed, frames: 12 }];
          const plain = timeMap({ ...clip, pins }, [], [], FPS);
          const map = timeMap(
            { ...clip, pins },
            hits.map((hit) => on(hit, { steps, before, smooth })),
            [],
            FPS,
          );
          expect(map.frames).toBeCloseTo(plain.frames, 4);
          for (const pin of pins) expect(Math.abs(map.at(pin.at) - pin.t)).toBeLessThan(1e-4);
          for (let frame = 1; frame < map.frames; frame++)
            expect(map.at(frame)).toBeGreaterThanOrEqual(map.at(frame - 1) - 1e-9);
        },
      ),
    );
  });

  it('of any kind leads from montage time to source time and back within a thousandth of a frame', () => {
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            t: fc.double({ min: 2, max: 12, noNaN: true }),
            before: fc.integer({ min: 0, max: 40 }),
            steps: fc.array(
              fc.record({
                speed: fc.double({ min: 0.01, max: 20, noNaN: true }),
                frames: fc.integer({ min: 1, max: 60 }),
              }),
              { minLength: 1, maxLength: 6 },
            ),
            smooth: fc.boolean(),
            gained: fc.constantFrom('kept' as const, 'paid back' as const),
          }),
          { maxLength: 5 },
        ),
        fc.constantFrom(1, 0.3, 3, -1, -0.5),
        (ramps, speed) => {
          const map = timeMap(
            { ...clip, speed },
            ramps.map(({ t, ...more }) => on(t, more)),
            ramps.map(({ t }) => t),
            FPS,
          );
          let before = map.at(0);
          for (let i = 0; i <= 40; i++) {
            const frame = (map.frames * i) / 40;
            const t = map.at(frame);
            if (speed > 0 ? t < before - 1e-9 : t > before + 1e-9) return false;
            before = t;
            const back = map.frameOf(t);
            if (back === null || Math.abs(back - frame) > 1e-3) return false;
          }
          return Math.abs(map.at(map.frames) - (speed > 0 ? 12 : 2)) < 1e-6;
        },
      ),
      { numRuns: 500, seed: 20_261_129 },
    );
  });
});

describe('the row', () => {
  const row = (one: Partial<Clip>, rate = { num: 30, den: 1 }) => {
    const plain = emptyMontage('m', 'M');
    const montage = {
      ...plain,
      settings: { ...plain.settings, timing: { mode: 'constant' as const, rate } },
      sources: [footage('s', 300)],
      clips: [{ id: 'c', source: 's', in: 1, out: 2, fit: 'fit' as const, ...one }],
    };
    return timeline(montage, mediaIndex(montage.sources));
  };
  it('shows each frame of a clip at half speed twice, backwards from its last one', () => {
    const line = row({ speed: 0.5 });
    const span = line.spans[0]!;
    expect(line.count).toBe(60);
    expect([0, 1, 2, 59].map((f) => line.sourceFrame(span, f))).toEqual([30, 30, 31, 59]);
    const back = row({ speed: -1 });
    expect([0, 1, 29].map((f) => back.sourceFrame(back.spans[0]!, f))).toEqual([59, 58, 30]);
  });

  it('has a hit on the first frame that shows it, whichever way the clip runs', () => {
    for (const speed of [0.5, 1, 2, -1, -0.5]) {
      const line = row({ speed });
      const span = line.spans[0]!;
      const frame = line.frameOf(span, 1.5)!;
      const reached = (f: number): boolean =>
        speed > 0 ? line.sourceFrame(span, f) >= 45 : line.sourceFrame(span, f) <= 45;
      expect(reached(frame), `${speed}`).toBe(true);
      expect(frame === 0 || !reached(frame - 1), `${speed}`).toBe(true);
    }
  });

  it('mixes a frame with the one after it where that is asked, never with one past the clip', () => {
    const line = row({ speed: 0.5, between: 'blended' });
    const span = line.spans[0]!;
    expect(line.mixedWith(span, 0)).toBeNull();
    expect(line.mixedWith(span, 1)).toEqual({ frame: 31, share: expect.closeTo(0.5, 3) });
    expect(line.mixedWith(span, 59)).toBeNull();
    const nearest = row({ speed: 0.5 });
    expect(nearest.mixedWith(nearest.spans[0]!, 1)).toBeNull();
  });
});

describe('speeds along a clip', () => {
  const key = (at: number, speed: number, smooth = false) => ({ at, speed, smooth });

  it('hold, or run smoothly to the next; the last goes on to its end', () => {
    const map = timeMap({ ...clip, speeds: [key(30, 1, true), key(60, 0.5), key(90, 2)] }, [], [], FPS);
    // 30 frames as recorded, 30 at 0.75 in the mean, 30 at a half, the rest of 300 at twice.
    expect(map.frames).toBeCloseTo(90 + (300 - 30 - 22.5 - 15) / 2, 6);
    expect([0, 29.9, 45, 75, 100].map((frame) => map.speedAt(frame))).toEqual([
      1,
      1,
      expect.closeTo(0.75, 9) as number,
      0.5,
      2,
    ]);
    expect(map.frameOf(map.at(45))).toBeCloseTo(45, 3);
  });

  it('may stand still in the middle, and at the end, where no more is shown', () => {
    const middle = timeMap({ ...clip, speeds: [key(0, 1), key(30, 0), key(60, 1)] }, [], [], FPS);
    expect(middle.frames).toBeCloseTo(330, 6);
    expect(middle.at(45)).toBeCloseTo(3, 9);
    const end = timeMap({ ...clip, speeds: [key(0, 1), key(30, 0)] }, [], [], FPS);
    expect(end.frames).toBeCloseTo(30, 6);
    expect(timeMap({ ...clip, speeds: [key(0, 0)] }, [], [], FPS).frames).toBe(1);
  });

  it('are shares of its own speed, backwards too, and take no ramps', () => {
    const map = timeMap({ ...clip, speed: -0.5, speeds: [key(0, 2)] }, [on(7)], [], FPS);
    expect(map.frames).toBeCloseTo(300, 6);
    expect(map.at(100)).toBeCloseTo(12 - 100 / 30, 6);
  });

  it('of any kind run there and back within a thousandth of a frame', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 1, max: 60 }), fc.integer({ min: 1, max: 2000 }), fc.boolean()), {
          minLength: 1,
          maxLength: 8,
        }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (steps, share) => {
          let at = 0;
          const speeds = steps.map(([frames, percent, smooth]) => key((at += frames), percent / 100, smooth));
          const map = timeMap({ ...clip, speeds }, [], [], FPS);
          const frame = share * map.frames;
          expect(Math.abs(map.frameOf(map.at(frame))! - frame)).toBeLessThan(1e-3);
        },
      ),
      { numRuns: 500 },
    );
  });
});
