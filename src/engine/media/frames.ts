/** Exact frames by number, in any order, with a cache around the playhead. */
import { EncodedPacketSink, VideoSampleSink, type VideoSample } from 'mediabunny';
import type { FrameTimes } from '../../core/timeline/frame-times.ts';
import { EngineError } from '../errors.ts';
import { openMedia, type MediaLocation, type OpenMedia } from './open.ts';
import { takeFrame, type YuvFrame } from './yuv.ts';

/** How far ahead of the decoder a wanted frame may lie before seeking is cheaper. */
const RUN_ON = 240;

export class FrameReader {
  private readonly cache = new Map<number, YuvFrame>();
  private bytes = 0;
  /** Where decoding from a key frame broke off last. */
  private broken: { start: number; index: number } | null = null;
  /** The frame that was decoded last: shown for what is damaged where no earlier one is kept. */
  private last: YuvFrame | null = null;
  /** Frames that were asked for and could not be decoded. */
  readonly unreadable = new Set<number>();
  private decoder: { iterator: AsyncGenerator<VideoSample, void, unknown>; next: number; start: number } | null = null;
  private queue: Promise<unknown> = Promise.resolve();
  private closed = false;

  private constructor(
    private readonly media: OpenMedia,
    private readonly times: FrameTimes,
    /** Bytes of copied-out frames that may be kept. */
    private readonly budget: number,
  ) {}

  /** Frames that its source has. */
  get count(): number {
    return this.times.count;
  }

  /** @throws EngineError */
  static async open(
    location: MediaLocation,
    times: FrameTimes,
    name: string,
    budget = 256 << 20,
  ): Promise<FrameReader> {
    const media = await openMedia(location, name);
    if (!media.video) {
      media.input.dispose();
      throw new EngineError('no-frames', `${name} has no picture.`);
    }
    return new FrameReader(media, times, budget);
  }

  has(index: number): boolean {
    return this.cache.has(index);
  }

  /**
   * The frame with this number; where a damaged file cannot give it, the nearest one before it.
   * @throws EngineError when nothing can be decoded.
   */
  get(index: number): Promise<YuvFrame> {
    const kept = this.cache.get(index);
    if (kept) return Promise.resolve(kept);
    const job = this.queue.then(() => this.read(index));
    this.queue = job.catch(() => undefined);
    return job;
  }

  private async read(index: number): Promise<YuvFrame> {
    const kept = this.cache.get(index);
    if (kept) return kept;
    if (this.closed) throw new EngineError('cancelled', 'The source was closed.');
    const video = this.media.video!;
    const run = this.decoder;
    if (!run || index < run.next || index - run.next > RUN_ON) {
      await this.stop();
      const packet = await new EncodedPacketSink(video).getKeyPacket(this.times.timeOf(index) + 1e-4, {
        metadataOnly: true,
      });
      const from = packet ? Math.min(packet.timestamp, this.times.timeOf(index)) : this.times.timeOf(0);
      const start = this.times.indexAt(from + 1e-4);
      // What could not be read from this key frame on before is not tried again for every frame.
      if (this.broken && start === this.broken.start && index >= this.broken.index) return this.instead(index);
      this.decoder = { iterator: new VideoSampleSink(video).samples(from), next: start, start };
    }
    const decoder = this.decoder!;
    let nearest: YuvFrame | null = null;
    try {
      while (decoder.next <= index) {
        const { value: sample, done } = await decoder.iterator.next();
        if (done) break;
        // Frames that the list leaves out are only decoded because others build on them.
        if (!this.listed(sample.timestamp)) {
          sample.close();
          continue;
        }
        const at = this.times.indexAt(sample.timestamp + 1e-4);
        const frame = await takeFrame(sample);
        this.last = frame;
        this.keep(at, frame, index);
        decoder.next = at + 1;
        nearest = frame;
        if (at > index && !this.cache.has(index)) this.unreadable.add(index);
        if (at >= index) return this.cache.get(index) ?? frame;
      }
    } catch (error) {
      return this.broke(decoder.start, index, nearest, error instanceof Error ? error.message : 'the file is damaged');
    }
    return this.broke(decoder.start, index, nearest, 'the file ends before it');
  }

  private async broke(start: number, index: number, nearest: YuvFrame | null, why: string): Promise<YuvFrame> {
    await this.stop();
    this.broken = { start, index };
    return this.instead(index, nearest, why);
  }

  /** The nearest frame before one that cannot be read. @throws EngineError where there is none */
  private instead(index: number, nearest = this.nearestBefore(index), why = 'the file is damaged'): YuvFrame {
    this.unreadable.add(index);
    const frame = nearest ?? this.nearestBefore(index) ?? this.last;
    if (!frame) throw new EngineError('unreadable', `Frame ${index} cannot be decoded: ${why}.`);
    return frame;
  }

  private listed(timestamp: number): boolean {
    const step = this.times.rate.den / this.times.rate.num;
    return timestamp >= this.times.timeOf(0) - step / 2 && timestamp < this.times.end + step / 2;
  }

  private nearestBefore(index: number): YuvFrame | null {
    let best = -1;
    for (const at of this.cache.keys()) if (at <= index && at > best) best = at;
    return this.cache.get(best) ?? null;
  }

  /** Keeps a frame, dropping those farthest from the wanted one when over budget. */
  private keep(at: number, frame: YuvFrame, wanted: number): void {
    if (this.cache.has(at)) return;
    this.cache.set(at, frame);
    this.bytes += frame.data.length;
    while (this.bytes > this.budget && this.cache.size > 1) {
      let farthest = at;
      for (const index of this.cache.keys())
        if (Math.abs(index - wanted) > Math.abs(farthest - wanted)) farthest = index;
      this.bytes -= this.cache.get(farthest)!.data.length;
      this.cache.delete(farthest);
      if (farthest === at) break;
    }
  }

  private async stop(): Promise<void> {
    const run = this.decoder;
    this.decoder = null;
    await run?.iterator.return();
  }

  async close(): Promise<void> {
    this.closed = true;
    await this.queue.catch(() => undefined);
    await this.stop();
    this.cache.clear();
    this.media.input.dispose();
  }
}
