/** Decoded frames copied out into packed 8-bit I420, so that the decoder's own can be closed at once. */
import type { VideoSample } from 'mediabunny';
import { SAME_SHAPE } from '../../core/base/shape.ts';
import { rgbaToI420, type Matrix, type YuvColour } from '../../core/base/colour.ts';

export interface YuvFrame {
  /** Stored size, before rotation. */
  readonly width: number;
  readonly height: number;
  /** Y rows, then U and V rows of (width+1)>>1 by (height+1)>>1, without gaps. */
  readonly data: Uint8Array<ArrayBuffer>;
  readonly colour: YuvColour;
}

/** Frames taken from the decoder and not yet closed; tests read it to find leaks. */
export const openFrames = { count: 0, taken: 0 };

/** As the browser plays it: it reads footage that does not say as limited-range BT.709, whatever its size. */
export function colourOf(space: { matrix?: string | null; fullRange?: boolean | null }): YuvColour {
  const matrix: Matrix =
    space.matrix === 'bt470bg' || space.matrix === 'smpte170m'
      ? 'bt601'
      : space.matrix?.startsWith('bt2020')
        ? 'bt2020'
        : 'bt709';
  return { matrix, fullRange: space.fullRange ?? false };
}

const half = (n: number): number => (n + 1) >> 1;
export const i420Size = (width: number, height: number): number => width * height + 2 * half(width) * half(height);

/**
 * Takes a sample, copies it out and closes it. `into` is used again where it has the right size, by
 * callers that keep no frame. @throws RangeError for an unknown pixel format.
 */
export async function takeFrame(sample: VideoSample, into?: YuvFrame['data']): Promise<YuvFrame> {
  openFrames.count++;
  openFrames.taken++;
  try {
    const { width, height } = sample.visibleRect;
    const format = sample.format;
    const colour = colourOf(sample.colorSpace);
    const size = i420Size(width, height);
    const data = into?.length === size ? into : new Uint8Array(size);
    if (format === 'I420') {
      await sample.copyTo(data);
      return { width, height, data, colour };
    }
    // Planes that hold red, green and blue themselves are left to the browser to convert.
    const rgbPlanes = format?.startsWith('I444') && (sample.colorSpace.matrix ?? 'rgb') === 'rgb';
    if (
      rgbPlanes ||
      format === 'RGBA' ||
      format === 'RGBX' ||
      format === 'BGRA' ||
      format === 'BGRX' ||
      format === null
    ) {
      const even = { width: width & ~1, height: height & ~1 };
      const rgba = new Uint8Array(width * height * 4);
      await sample.copyTo(rgba, { format: 'RGBA' });
      const cropped = even.width === width ? rgba : cropRows(rgba, width, even.width, even.height);
      const out = new Uint8Array(i420Size(even.width, even.height));
      rgbaToI420(cropped, even.width, even.height, out);
      return { ...even, data: out, colour: { matrix: 'bt709', fullRange: false } };
    }
    const raw = new Uint8Array(sample.allocationSize());
    const layout = await sample.copyTo(raw);
    unpack(format, raw, layout, width, height, data);
    return { width, height, data, colour };
  } finally {
    sample.close();
    openFrames.count--;
  }
}

/** Pixels a side that are repeated where a picture is smaller than the montage's frame: sizes are made even. */
const ROUNDING = 2;

/**
 * A picture that is only rounded to another size, as that size: lines cut off around it, or repeated at the right and
 * the bottom, so that it needs neither bars nor drawing. Others come back as they are.
 */
export function evened(frame: YuvFrame, width: number, height: number): YuvFrame {
  const near = (has: number, wanted: number): boolean =>
    has >= wanted ? has - wanted <= Math.max(ROUNDING, has * SAME_SHAPE) : wanted - has <= ROUNDING;
  const same = frame.width === width && frame.height === height;
  if (same || !near(frame.width, width) || !near(frame.height, height)) return frame;
  const data = new Uint8Array(i420Size(width, height));
  // Whole samples of colour are cut off.
  const cut = (has: number, wanted: number): number => Math.max(0, (has - wanted) >> 2);
  const [left, top] = [cut(frame.width, width), cut(frame.height, height)];
  let [from, to] = [0, 0];
  const plane = (w: number, h: number, outW: number, outH: number, x: number, y: number): void => {
    const length = Math.min(w - x, outW);
    for (let row = 0; row < outH; row++) {
      const at = from + Math.min(row + y, h - 1) * w + x;
      data.set(frame.data.subarray(at, at + length), to + row * outW);
      if (outW > length) data.fill(frame.data[at + length - 1]!, to + row * outW + length, to + (row + 1) * outW);
    }
    from += w * h;
    to += outW * outH;
  };
  plane(frame.width, frame.height, width, height, 2 * left, 2 * top);
  for (let i = 0; i < 2; i++) plane(half(frame.width), half(frame.height), half(width), half(height), left, top);
  return { width, height, data, colour: frame.colour };
}

function cropRows(rgba: Uint8Array, from: number, width: number, height: number): Uint8Array {
  const out = new Uint8Array(width * height * 4);
  for (let y = 0; y < height; y++) out.set(rgba.subarray(y * from * 4, y * from * 4 + width * 4), y * width * 4);
  return out;
}

/** NV12, 4:2:0 / 4:2:2 / 4:4:4 planar in 8, 10 or 12 bits, with or without alpha. */
function unpack(
  format: string,
  raw: Uint8Array<ArrayBuffer>,
  layout: readonly { offset: number; stride: number }[],
  width: number,
  height: number,
  out: Uint8Array,
): void {
  const planar = /^I(420|422|444)A?(?:P(10|12))?$/.exec(format);
  const cw = half(width);
  const ch = half(height);
  const uAt = width * height;
  const vAt = uAt + cw * ch;
  if (format === 'NV12') {
    for (let y = 0; y < height; y++)
      out.set(
        raw.subarray(layout[0]!.offset + y * layout[0]!.stride, layout[0]!.offset + y * layout[0]!.stride + width),
        y * width,
      );
    for (let y = 0; y < ch; y++) {
      for (let x = 0, i = layout[1]!.offset + y * layout[1]!.stride; x < cw; x++, i += 2) {
        out[uAt + y * cw + x] = raw[i]!;
        out[vAt + y * cw + x] = raw[i + 1]!;
      }
    }
    return;
  }
  if (!planar) throw new RangeError(`pixel format ${format} is not supported`);
  const bytes = planar[2] ? 2 : 1;
  const shift = planar[2] ? Number(planar[2]) - 8 : 0;
  const stepX = planar[1] === '444' ? 2 : 1;
  const stepY = planar[1] === '420' ? 1 : 2;
  const plane = (p: number, w: number, h: number, sx: number, sy: number, at: number): void => {
    const { offset, stride } = layout[p]!;
    for (let y = 0; y < h; y++) {
      for (let x = 0, i = offset + y * sy * stride; x < w; x++, i += sx * bytes, at++) {
        out[at] = bytes === 1 ? raw[i]! : (raw[i]! | (raw[i + 1]! << 8)) >> shift;
      }
    }
  };
  plane(0, width, height, 1, 1, 0);
  plane(1, cw, ch, stepX, stepY, uAt);
  plane(2, cw, ch, stepX, stepY, vAt);
}
