/** Cases worked out by hand from the definition in WCAG 2.2, "general flash and red flash thresholds". */
import { describe, expect, it } from 'vitest';
import { fromLinear } from '../base/colour.ts';
import { FlashCounter, tooMany } from './flashes.ts';

const [COLUMNS, ROWS, FRAME_RATE] = [30, 18, 30];
/** Displayed grey of a relative luminance. */
const grey = (luminance: number): [number, number, number] => [
  255 * fromLinear(luminance),
  255 * fromLinear(luminance),
  255 * fromLinear(luminance),
];

/** Counts frames whose cells are coloured by `at`. */
function count(frames: number, at: (frame: number, x: number, y: number) => readonly [number, number, number]) {
  const counter = new FlashCounter(COLUMNS, ROWS);
  for (let frame = 0; frame < frames; frame++) {
    const rgba = new Float64Array(COLUMNS * ROWS * 4);
    for (let y = 0; y < ROWS; y++) for (let x = 0; x < COLUMNS; x++) rgba.set(at(frame, x, y), (y * COLUMNS + x) * 4);
    counter.add({ time: frame / FRAME_RATE, rgba });
  }
  return counter.count();
}

const blinking =
  (low: number, high: number, every: number) =>
  (frame: number): [number, number, number] =>
    grey(Math.floor(frame / every) % 2 ? high : low);

describe('general flashes', () => {
  it('counts pairs of opposing changes: 5 Hz over two seconds are five within a second', () => {
    // Up or down every three frames of thirty: ten changes a second.
    const result = count(60, blinking(0.2, 0.6, 3));
    expect(result.general).toBe(5);
    expect(tooMany(result)).toBe(true);
  });

  it('allows three a second', () => {
    // A change every five frames: six a second are three pairs.
    const result = count(90, blinking(0.1, 0.9, 5));
    expect(result.general).toBe(3);
    expect(tooMany(result)).toBe(false);
  });

  it('needs a change of 10 % of the greatest relative luminance', () => {
    expect(count(60, blinking(0.3, 0.395, 3)).general).toBe(0);
    expect(count(60, blinking(0.3, 0.405, 3)).general).toBe(5);
  });

  it('does not count changes whose darker state is 0.80 or more', () => {
    expect(count(60, blinking(0.81, 0.99, 3)).general).toBe(0);
    expect(count(60, blinking(0.79, 0.99, 3)).general).toBe(5);
  });

  it('needs more than a quarter of a field of a third of each side', () => {
    // The field is 10x6 cells; 15 cells are its quarter.
    const part = (cells: number) =>
      count(60, (frame, x, y) => (x < 5 && y * 5 + x < cells ? blinking(0.1, 0.9, 3)(frame) : grey(0.1)));
    expect(part(15).general).toBe(0);
    expect(part(16).general).toBe(5);
  });

  it('are counted over the whole screen, too: a quarter of it, as ITU-R BT.1702 has it', () => {
    // 30x18 cells: 135 are a quarter.
    const part = (cells: number) =>
      count(60, (frame, x, y) => (y * COLUMNS + x < cells ? blinking(0.1, 0.9, 3)(frame) : grey(0.1)));
    expect(part(135)).toMatchObject({ general: 5, screen: 0 });
    expect(part(136)).toMatchObject({ general: 5, screen: 5 });
  });

  it('counts one lift and one fall as one flash, however long they take, and says where', () => {
    const result = count(90, (frame) =>
      grey(frame < 30 ? 0.1 : frame < 40 ? 0.1 + (frame - 30) * 0.08 : frame < 55 ? 0.9 : 0.1),
    );
    expect(result.general).toBe(1);
    expect(result.at).toBeCloseTo(31 / 30, 1);
  });

  it('counts areas that flash against each other once, side by side or mixed', () => {
    const opposed = (part: (x: number, y: number) => boolean) =>
      count(60, (frame, x, y) => blinking(part(x, y) ? 0.1 : 0.9, part(x, y) ? 0.9 : 0.1, 3)(frame)).general;
    expect(opposed((x) => x < COLUMNS / 2)).toBe(5);
    expect(opposed((x, y) => (x + y) % 2 === 0)).toBe(5);
  });

  it('counts areas that flash one after the other by themselves', () => {
    // Each of both halves three times in the second, never at once: three, not six.
    const turns = count(30, (frame, x) => grey((x < COLUMNS / 2 ? frame + 5 : frame + 3) % 10 < 2 ? 0.9 : 0.1));
    expect(turns.general).toBe(3);
  });

  it('takes a steady rise for no flash', () => {
    expect(count(60, (frame) => grey(frame / 60)).general).toBe(0);
  });
});

describe('red flashes', () => {
  it('counts changes to and from a saturated red, at equal luminance too', () => {
    // Red at 0.2126 against a grey of that luminance: no general flash, u\'v\' apart by 0.25.
    const g = 255 * fromLinear(0.2126);
    const result = count(60, (frame) => (Math.floor(frame / 3) % 2 ? [255, 0, 0] : [g, g, g]));
    expect(result).toMatchObject({ general: 0, red: 5 });
  });

  it('does not count a pale red', () => {
    const g = 255 * fromLinear(0.4);
    expect(count(60, (frame) => (Math.floor(frame / 3) % 2 ? [255, 160, 160] : [g, g, g])).red).toBe(0);
  });

  it('does not count nothing at all', () => {
    expect(count(1, () => grey(0.5))).toEqual({ general: 0, red: 0, screen: 0, at: null });
  });
});
