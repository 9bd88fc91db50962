import { describe, expect, it } from 'vitest';
import { evened, i420Size, type YuvFrame } from './yuv.ts';

const frame = (width: number, height: number): YuvFrame => ({
  width,
  height,
  // Each row of brightness holds its own number.
  data: new Uint8Array(i420Size(width, height)).map((_, i) => (i < width * height ? Math.floor(i / width) : 128)),
  colour: { matrix: 'bt709', fullRange: false },
});
const rowOf = ({ width, data }: YuvFrame, y: number): number[] => [...data.subarray(y * width, (y + 1) * width)];

describe('a picture that is only rounded to another size', () => {
  it('loses or repeats lines and is otherwise as it was, so that it needs neither bars nor drawing', () => {
    const less = evened(frame(64, 36), 64, 34);
    expect([less.width, less.height, less.data.length]).toEqual([64, 34, i420Size(64, 34)]);
    expect(rowOf(less, 33)[0]).toBe(33);
    const more = evened(frame(63, 35), 64, 36);
    expect([rowOf(more, 34)[63], rowOf(more, 35)[0]]).toEqual([34, 34]);
    expect(more.data.at(-1)).toBe(128);
  });

  it('of another shape comes back as it is', () => {
    const other = frame(64, 36);
    expect(evened(other, 64, 48)).toBe(other);
    expect(evened(other, 64, 36)).toBe(other);
  });
});
