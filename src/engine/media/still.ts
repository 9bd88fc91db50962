/** Still pictures as sources: one frame, shown for as long as a clip of it lasts. */
import { rgbaToI420 } from '../../core/base/colour.ts';
import { STILL } from '../../core/document/edits.ts';
import { EngineError } from '../errors.ts';
import type { MediaDescription, MediaLocation } from './open.ts';
import { i420Size, type YuvFrame } from './yuv.ts';

const NAMES = /\.(png|jpe?g|webp|avif|gif|bmp)$/i;

/** Whether a file is taken as a still picture. */
export const isStill = ({ blob }: MediaLocation, name: string): boolean =>
  blob?.type ? /^image\/(?!svg)/.test(blob.type) : NAMES.test(name);

/** Pixels of the longer side that are kept: more than any output shows. */
const MOST_SIDE = 4096;

/** The picture, upright, no larger than {@link MOST_SIDE}, with the size it has in its file. @throws EngineError */
async function openStill(
  location: MediaLocation,
  name: string,
): Promise<{ canvas: OffscreenCanvas; width: number; height: number }> {
  const blob = location.blob ?? (await (await fetch(location.url)).blob());
  if (blob.size === 0) throw new EngineError('empty', `${name} is empty (0 bytes).`);
  const bitmap = await createImageBitmap(blob).catch(() => {
    throw new EngineError('unreadable', `${name} is no picture that this browser can read, or too large for it.`);
  });
  const { width, height } = bitmap;
  const scale = Math.min(1, MOST_SIDE / Math.max(width, height));
  const canvas = new OffscreenCanvas(Math.max(1, Math.round(width * scale)), Math.max(1, Math.round(height * scale)));
  const pen = canvas.getContext('2d', { alpha: false, willReadFrequently: true })!;
  pen.imageSmoothingQuality = 'high';
  pen.drawImage(bitmap, 0, 0, canvas.width, canvas.height);
  bitmap.close();
  return { canvas, width, height };
}

/** @throws EngineError for what is no picture */
export async function describeStill(location: MediaLocation, name: string): Promise<MediaDescription> {
  const { width, height } = await openStill(location, name);
  if (width > 16384 || height > 16384)
    throw new EngineError('unreadable', `${name} has ${width}x${height} pixels: 16384 a side are the most.`);
  const { rate, seconds } = STILL;
  return {
    duration: seconds,
    video: {
      width,
      height,
      rotation: 0,
      codec: 'still',
      rate,
      count: (seconds * rate.num) / rate.den,
      first: 0,
      variable: false,
    },
    audio: [],
    starts: null,
    lastDuration: 0,
    notes: [
      'A still picture: trim its clip to the length it is shown.',
      ...(Math.max(width, height) > MOST_SIDE
        ? [`Its ${width}x${height} pixels are worked on at ${MOST_SIDE} a side.`]
        : []),
    ],
  };
}

/** A picture that can be seen through in part: its frame, and how far each pixel is seen, 0-1. Even sizes. */
export function seenPicture(
  rgba: Uint8ClampedArray,
  width: number,
  height: number,
): { readonly frame: YuvFrame; readonly seen: Float32Array } {
  const data = new Uint8Array(i420Size(width, height));
  rgbaToI420(rgba, width, height, data);
  const seen = new Float32Array(width * height);
  for (let i = 0; i < seen.length; i++) seen[i] = rgba[4 * i + 3]! / 255;
  return { frame: { width, height, data, colour: { matrix: 'bt709', fullRange: false } }, seen };
}

/** The one frame of a still picture, whatever frame is asked for. */
export class StillReader {
  readonly unreadable: ReadonlySet<number> = new Set();
  readonly count = 1;

  /** @param seen how far each pixel is seen, 0-1 */
  private constructor(
    private readonly frame: YuvFrame,
    readonly seen: Float32Array,
  ) {}

  /** @throws EngineError */
  static async open(location: MediaLocation, name: string): Promise<StillReader> {
    const { canvas } = await openStill(location, name);
    const [width, height] = [Math.max(2, canvas.width & ~1), Math.max(2, canvas.height & ~1)];
    const { data: rgba } = canvas.getContext('2d')!.getImageData(0, 0, width, height);
    const { frame, seen } = seenPicture(rgba, width, height);
    return new StillReader(frame, seen);
  }

  get(): Promise<YuvFrame> {
    return Promise.resolve(this.frame);
  }

  close(): Promise<void> {
    return Promise.resolve();
  }
}
