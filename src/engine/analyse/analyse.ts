/** One pass over a source's sound and picture, giving the signals that are kept. */
import { VideoSampleSink } from 'mediabunny';
import { PictureAnalyser, shrinkLuma, LUMA_HEIGHT, LUMA_WIDTH } from '../../core/signals/picture.ts';
import { SoundAnalyser } from '../../core/signals/sound.ts';
import { SIGNALS_VERSION, type PictureSignals, type Signals, type SoundSignals } from '../../core/signals/types.ts';
import { cancelled } from '../errors.ts';
import { openMedia, type MediaLocation, type OpenMedia } from '../media/open.ts';
import { mono, soundBlocks } from '../media/sound.ts';
import { takeFrame, type YuvFrame } from '../media/yuv.ts';

export interface AnalyseOptions {
  readonly name: string;
  /** Sound track to listen to; null leaves the sound out. */
  readonly track: number | null;
  readonly picture: boolean;
  /** Seconds, for progress. */
  readonly duration: number;
}

export interface Analysis {
  readonly signals: Signals;
  /** What could not be read, in sentences. */
  readonly notes: readonly string[];
}

/** @throws EngineError `cancelled`, or why the file cannot be read at all. */
export async function analyse(
  location: MediaLocation, options: AnalyseOptions, progress: (share: number) => void, signal?: AbortSignal,
): Promise<Analysis> {
  const media = await openMedia(location, options.name);
  const notes: string[] = [];
  const parts = { sound: options.track === null ? 1 : 0, picture: options.picture && media.video ? 0 : 1 };
  const tell = (part: keyof typeof parts, seconds: number): void => {
    parts[part] = Math.min(1, seconds / Math.max(options.duration, 1e-3));
    // The picture takes nearly all of the time.
    progress(options.picture && media.video ? parts.sound * 0.15 + parts.picture * 0.85 : parts.sound);
  };
  try {
    const [sound, picture] = await Promise.all([
      options.track === null ? null : analyseSound(media, options.track, (t) => tell('sound', t), notes, signal),
      options.picture && media.video ? analysePicture(media, (t) => tell('picture', t), notes, signal) : null,
    ]);
    return { signals: { version: SIGNALS_VERSION, sound, picture, track: options.track }, notes };
  } finally {
    media.input.dispose();
  }
}

async function analyseSound(media: OpenMedia, track: number, tell: (t: number) => void, notes: string[], signal?: AbortSignal): Promise<SoundSignals | null> {
  if (!media.audio[track]) return null;
  let analyser: SoundAnalyser | null = null;
  let rate = 0;
  let written = 0;
  let start = 0;
  try {
    for await (const block of soundBlocks(media, track)) {
      if (signal?.aborted) throw cancelled();
      if (!analyser) {
        analyser = new SoundAnalyser(block.sampleRate, block.t);
        rate = block.sampleRate;
        start = block.t;
      }
      // Gaps in the sound are filled with silence, so that later attacks stay where they are.
      const gap = Math.round((block.t - start) * rate) - written;
      if (gap > rate * 0.02) {
        analyser.push(new Float32Array(gap));
        written += gap;
      }
      const samples = mono(block);
      analyser.push(samples);
      written += samples.length;
      tell(block.t);
    }
  } catch (error) {
    if (signal?.aborted) throw cancelled();
    notes.push(`The sound can be read only up to ${(start + (rate ? written / rate : 0)).toFixed(1)} s: ${error instanceof Error ? error.message : 'damaged'}`);
  }
  return analyser?.finish() ?? null;
}

async function analysePicture(media: OpenMedia, tell: (t: number) => void, notes: string[], signal?: AbortSignal): Promise<PictureSignals | null> {
  const analyser = new PictureAnalyser();
  const luma = new Uint8Array(LUMA_WIDTH * LUMA_HEIGHT);
  let last = 0;
  let count = 0;
  let buffer: YuvFrame['data'] | undefined;
  try {
    for await (const sample of new VideoSampleSink(media.video!).samples()) {
      const { timestamp, duration } = sample;
      const { data, width, height, colour } = await takeFrame(sample, buffer);
      buffer = data;
      if (signal?.aborted) throw cancelled();
      shrinkLuma(data, width, width, height, colour.fullRange, luma);
      analyser.push(luma, timestamp, duration);
      last = timestamp;
      if (++count % 8 === 0) tell(timestamp);
    }
  } catch (error) {
    if (signal?.aborted) throw cancelled();
    notes.push(`The picture can be read only up to ${last.toFixed(1)} s: ${error instanceof Error ? error.message : 'damaged'}`);
  }
  return count ? analyser.finish() : null;
}
