/** Plays the sound plan into stereo blocks; the same for preview and export. */
import type { SoundSegment } from '../../core/sound/sound-plan.ts';
import { mixResampled } from '../../core/base/resample.ts';
import { openMedia, type MediaLocation, type OpenMedia } from './open.ts';
import { soundBlocks } from './sound.ts';

export class Mixer {
  private readonly open = new Map<string, Promise<OpenMedia>>();

  constructor(
    private readonly segments: readonly SoundSegment[],
    private readonly locate: (source: string) => MediaLocation | undefined,
    readonly sampleRate: number,
  ) {}

  /** Left and right from `from` (montage seconds) for `frames` samples. */
  async read(from: number, frames: number): Promise<[Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>]> {
    const out: [Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>] = [
      new Float32Array(frames),
      new Float32Array(frames),
    ];
    const to = from + frames / this.sampleRate;
    for (const segment of this.segments) {
      const length = segment.out - segment.in;
      const begin = Math.max(from, segment.at);
      const end = Math.min(to, segment.at + length);
      if (end <= begin) continue;
      const location = this.locate(segment.source);
      if (!location) continue;
      let media = this.open.get(segment.source);
      if (!media) this.open.set(segment.source, (media = openMedia(location, segment.source)));
      const opened = await media;
      if (!opened.audio[segment.track]) continue;
      const first = Math.round((begin - from) * this.sampleRate);
      const last = Math.min(frames, Math.round((end - from) * this.sampleRate));
      // A few milliseconds more on both sides, so that filters and block borders see real neighbours.
      const inFrom = segment.in + begin - segment.at;
      const stretch = await this.stretch(
        opened,
        segment.track,
        inFrom - 0.01,
        inFrom + (last - first) / this.sampleRate + 0.01,
      );
      if (!stretch) continue;
      const offset = (inFrom - stretch.t) * stretch.sampleRate;
      const aligned = stretch.sampleRate === this.sampleRate ? Math.round(offset) : offset;
      for (let c = 0; c < 2; c++) {
        const channel = stretch.channels[Math.min(c, stretch.channels.length - 1)]!;
        mixResampled(
          channel,
          stretch.sampleRate,
          out[c]!.subarray(first, last),
          this.sampleRate,
          aligned,
          segment.gain,
        );
      }
    }
    for (const channel of out) for (let i = 0; i < frames; i++) channel[i] = Math.max(-1, Math.min(1, channel[i]!));
    return out;
  }

  private async stretch(media: OpenMedia, track: number, from: number, to: number) {
    let t: number | null = null;
    let sampleRate = 0;
    let channels: Float32Array<ArrayBuffer>[] = [];
    try {
      for await (const block of soundBlocks(media, track, Math.max(0, from), to)) {
        if (t === null) {
          t = block.t;
          sampleRate = block.sampleRate;
          const size = Math.ceil((to - t) * sampleRate) + 8192;
          channels = block.channels.map(() => new Float32Array(size));
        }
        const at = Math.round((block.t - t) * sampleRate);
        block.channels.forEach((data, c) => {
          const room = channels[c]!.length - at;
          if (room > 0 && at >= 0) channels[c]!.set(room < data.length ? data.subarray(0, room) : data, at);
        });
      }
    } catch {
      // A damaged stretch of sound is silent; what was decoded before it is kept.
    }
    return t === null ? null : { t, sampleRate, channels: channels.slice(0, 2) };
  }

  async close(): Promise<void> {
    for (const media of this.open.values()) (await media.catch(() => null))?.input.dispose();
    this.open.clear();
  }
}
