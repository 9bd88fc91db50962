import { sameShape } from '../base/shape.ts';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { focusAt, framingPath, inOutput, inPicture, keptIn, windowOf } from './framing.ts';

const point = fc.record({
  x: fc.double({ min: 0, max: 1, noNaN: true }),
  y: fc.double({ min: 0, max: 1, noNaN: true }),
});
const aspect = fc.double({ min: 0.2, max: 5, noNaN: true });
const fit = fc.constantFrom('fit' as const, 'fill' as const, 'focus' as const);

describe('how a picture lies in an output', () => {
  it('leads from the output to the picture and back', () => {
    fc.assert(
      fc.property(point, point, fit, aspect, aspect, (at, centre, how, shape, out) => {
        const there = inOutput(at, { fit: how, centre }, shape, out);
        const back = inPicture(there, { fit: how, centre }, shape, out);
        expect(back.x).toBeCloseTo(at.x, 9);
        expect(back.y).toBeCloseTo(at.y, 9);
      }),
    );
  });

  it('never shows anything beside the picture when it fills, and all of it when it fits', () => {
    fc.assert(
      fc.property(point, fit, aspect, aspect, (centre, how, shape, out) => {
        const { centre: at, width, height } = windowOf({ fit: how, centre }, shape, out);
        // The window has the output's shape.
        expect((width * shape) / height / out).toBeCloseTo(1, 9);
        if (how === 'fit' && !sameShape(shape, out)) {
          expect(Math.min(width, height)).toBeCloseTo(1, 9);
          expect(Math.max(width, height)).toBeGreaterThan(1);
        } else {
          expect(at.x - width / 2).toBeGreaterThanOrEqual(-1e-9);
          expect(at.x + width / 2).toBeLessThanOrEqual(1 + 1e-9);
          expect(at.y - height / 2).toBeGreaterThanOrEqual(-1e-9);
          expect(at.y + height / 2).toBeLessThanOrEqual(1 + 1e-9);
        }
      }),
    );
  });

  it('makes no bars for a few lines: 640x360 in 640x356', () => {
    expect(windowOf({ fit: 'fit' }, 640 / 360, 640 / 356).height).toBeLessThan(1);
    expect(windowOf({ fit: 'fit' }, 640 / 360, 640 / 480).height).toBeGreaterThan(1);
  });

  it('cuts a tall picture out of a wide one around the focus, as far as there is picture', () => {
    // 9:16 out of 16:9: a window of 0.316 of the width.
    const framed = { fit: 'focus' as const, centre: { x: 0.7, y: 0.4 } };
    expect(inOutput({ x: 0.7, y: 0.4 }, framed, 16 / 9, 9 / 16).x).toBeCloseTo(0.5);
    expect(windowOf({ fit: 'focus', centre: { x: 0.98, y: 0 } }, 16 / 9, 9 / 16).centre.x).toBeCloseTo(
      1 - 0.3164 / 2,
      3,
    );
  });
});

describe('the way of the framing', () => {
  const keys = fc.array(
    fc.record({
      at: fc.double({ min: 0, max: 60, noNaN: true }),
      x: fc.double({ min: 0, max: 1, noNaN: true }),
      y: fc.double({ min: 0, max: 1, noNaN: true }),
    }),
    { maxLength: 30 },
  );

  it('never moves faster than it may, however near the keys are', () => {
    fc.assert(
      fc.property(keys, fc.double({ min: 0.05, max: 3, noNaN: true }), (list, speed) => {
        const path = framingPath(list, speed);
        const step = 1 / 60;
        for (let t = -1; t < 61; t += step) {
          const [a, b] = [path(t), path(t + step)];
          expect(Math.abs(b.x - a.x)).toBeLessThanOrEqual(speed * step + 1e-6);
          expect(Math.abs(b.y - a.y)).toBeLessThanOrEqual(speed * step + 1e-6);
        }
      }),
      { numRuns: 40 },
    );
  });

  it('is on each focus at its moment where there is time, and stands still between far ones', () => {
    const path = framingPath(
      [
        { at: 1, x: 0.2, y: 0.5 },
        { at: 3, x: 0.8, y: 0.5 },
        { at: 13, x: 0.5, y: 0.3 },
      ],
      1,
    );
    expect(path(1).x).toBeCloseTo(0.2, 6);
    expect(path(3).x).toBeCloseTo(0.8, 6);
    expect(path(6).x).toBeCloseTo(0.8, 6);
    expect(path(13)).toMatchObject({ x: expect.closeTo(0.5, 6) as number });
    expect(path(-5).x).toBeCloseTo(0.2);
    expect(framingPath([], 1)(5)).toEqual({ x: 0.5, y: 0.5 });
  });
});

describe('a focus that moves', () => {
  it('runs straight between its places and stands still before and after', () => {
    const hit = {
      focus: { x: 0.5, y: 0.5 },
      track: [
        { t: 1, x: 0.2, y: 0.4 },
        { t: 2, x: 0.4, y: 0.8 },
      ],
    };
    expect(focusAt(hit, 0)).toEqual({ x: 0.2, y: 0.4 });
    const half = focusAt(hit, 1.5)!;
    expect(half.x).toBeCloseTo(0.3);
    expect(half.y).toBeCloseTo(0.6);
    expect(focusAt(hit, 9)).toEqual({ x: 0.4, y: 0.8 });
    expect(focusAt({ focus: { x: 0.1, y: 0.2 } }, 5)).toEqual({ x: 0.1, y: 0.2 });
    expect(focusAt({}, 5)).toBeNull();
  });
});

describe('what is kept beside a focus', () => {
  const tall = { width: 81 / 256, height: 1 };

  it('is whole within the window where there is room, the focus seen in it', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0.01, max: 1, noNaN: true }),
        (x, from, w) => {
          const around = { x: from, y: 0.2, w: Math.min(w, 1 - from) || 0.01, h: 0.5 };
          const half = tall.width / 2;
          const at = keptIn({ x, y: 0.5 }, around, tall).x;
          // The focus is seen, a tenth of the window from its edges.
          expect(Math.abs(at - x)).toBeLessThanOrEqual(0.8 * half + 1e-9);
          const [left, right] = [Math.min(x - 0.2 * half, around.x), Math.max(x + 0.2 * half, around.x + around.w)];
          if (right - left > tall.width) return;
          expect(at - half).toBeLessThanOrEqual(around.x + 1e-9);
          expect(at + half).toBeGreaterThanOrEqual(around.x + around.w - 1e-9);
        },
      ),
    );
  });

  it('leaves a focus in the middle where all of it is seen anyway', () => {
    expect(keptIn({ x: 0.5, y: 0.5 }, { x: 0.45, y: 0.4, w: 0.1, h: 0.1 }, tall)).toEqual({ x: 0.5, y: 0.5 });
  });
});
