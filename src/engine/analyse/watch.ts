/** Reads a source's picture again for watched rectangles. */
import { VideoSampleSink } from 'mediabunny';
import type { Region } from '../../core/document/types.ts';
import {
  changed,
  learn,
  likeness,
  patchSize,
  type Patch,
  type Sought,
  type WatchSignal,
} from '../../core/finding/watch/watch.ts';
import { cancelled, EngineError } from '../errors.ts';
import { isShown, openMedia, type MediaLocation } from '../media/open.ts';
import { i420Size, takeFrame, type YuvFrame } from '../media/yuv.ts';

/** Seconds before and after the example from which its pixels are learnt. */
const AROUND = 0.8;

/** Box average of a rectangle of a frame, its sides in stored pixels. */
function cut({ width, height, data }: YuvFrame, region: Region, size: { width: number; height: number }): Patch {
  const average = (from: number, stride: number, w: number, h: number): Uint8Array => {
    const out = new Uint8Array(size.width * size.height);
    for (let y = 0; y < size.height; y++) {
      const y0 = Math.min(h - 1, Math.floor((region.y + (region.h * y) / size.height) * h));
      const y1 = Math.max(y0 + 1, Math.min(h, Math.floor((region.y + (region.h * (y + 1)) / size.height) * h)));
      for (let x = 0; x < size.width; x++) {
        const x0 = Math.min(w - 1, Math.floor((region.x + (region.w * x) / size.width) * w));
        const x1 = Math.max(x0 + 1, Math.min(w, Math.floor((region.x + (region.w * (x + 1)) / size.width) * w)));
        let sum = 0;
        for (let row = y0; row < y1; row++)
          for (let i = from + row * stride + x0, end = from + row * stride + x1; i < end; i++) sum += data[i]!;
        out[y * size.width + x] = Math.round(sum / ((y1 - y0) * (x1 - x0)));
      }
    }
    return out;
  };
  const [cw, ch] = [(width + 1) >> 1, (height + 1) >> 1];
  const luma = width * height;
  return {
    ...size,
    y: average(0, width, width, height),
    u: average(luma, cw, cw, ch),
    v: average(luma + cw * ch, cw, cw, ch),
  };
}

/** The rectangle as it lies in the stored frame, before the turn by which it is shown. */
export function unturned({ x, y, w, h }: Region, rotation: number): Region {
  if (rotation === 90) return { x: y, y: 1 - x - w, w: h, h: w };
  if (rotation === 180) return { x: 1 - x - w, y: 1 - y - h, w, h };
  if (rotation === 270) return { x: 1 - y - h, y: x, w: h, h: w };
  return { x, y, w, h };
}

async function opened(location: MediaLocation, name: string, region: Region) {
  const media = await openMedia(location, name);
  if (!media.video) {
    media.input.dispose();
    throw new EngineError('no-frames', `${name} has no picture to watch.`);
  }
  const video = media.video;
  const stored = unturned(region, await video.getRotation());
  const size = patchSize(stored.w * (await video.getCodedWidth()), stored.h * (await video.getCodedHeight()));
  return { media, video, stored, size };
}

/**
 * Learns what is sought from the frame at `t` and those around it.
 * @throws EngineError where the source has no frame there
 */
export async function takeExample(location: MediaLocation, name: string, region: Region, t: number): Promise<Sought> {
  const { media, video, stored, size } = await opened(location, name, region);
  try {
    const patches: Patch[] = [];
    let at = -1;
    for await (const sample of new VideoSampleSink(video).samples(Math.max(0, t - AROUND), t + AROUND)) {
      // The last frame that has begun at t.
      if (sample.timestamp <= t + 1e-4) at = patches.length;
      patches.push(cut(await takeFrame(sample), stored, size));
    }
    if (at < 0) throw new EngineError('no-frames', `${name} has no frame at ${t.toFixed(2)} s.`);
    return learn(patches, at);
  } finally {
    media.input.dispose();
  }
}

/** One score a frame for each watched rectangle. @param sought null: how much changes there */
export async function watch(
  location: MediaLocation,
  { name, duration }: { name: string; duration: number },
  region: Region,
  sought: Sought | null,
  progress: (share: number) => void,
  signal?: AbortSignal,
): Promise<WatchSignal> {
  const { media, video, stored, size: natural } = await opened(location, name, region);
  // An example from another recording keeps its own size.
  const size = sought ? { width: sought.width, height: sought.height } : natural;
  const times: number[] = [];
  const scores: number[] = [];
  let buffer: YuvFrame['data'] = new Uint8Array(i420Size(2, 2));
  let before: Patch | null = null;
  try {
    for await (const sample of new VideoSampleSink(video).samples()) {
      const { timestamp } = sample;
      if (!isShown(sample, media.end)) {
        sample.close();
        continue;
      }
      const frame = await takeFrame(sample, buffer);
      if (signal?.aborted) throw cancelled();
      buffer = frame.data;
      const patch = cut(frame, stored, size);
      times.push(timestamp);
      scores.push(Math.round(255 * (sought ? likeness(sought, patch) : before ? changed(before, patch) : 0)));
      before = patch;
      if (times.length % 8 === 0) progress(Math.min(1, timestamp / Math.max(duration, 1e-3)));
    }
  } finally {
    media.input.dispose();
  }
  return { times: Float64Array.from(times), scores: Uint8Array.from(scores) };
}
