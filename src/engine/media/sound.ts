/** Decoded sound as float channels, in blocks or stretches. */
import { AudioSampleSink, type AudioSample } from 'mediabunny';
import type { OpenMedia } from './open.ts';

export interface SoundBlock {
  /** Source seconds of the first sample. */
  readonly t: number;
  readonly sampleRate: number;
  readonly channels: readonly Float32Array<ArrayBuffer>[];
}

function takeBlock(sample: AudioSample): SoundBlock {
  try {
    const channels = Array.from({ length: sample.numberOfChannels }, (_, plane) => {
      const data = new Float32Array(sample.numberOfFrames);
      sample.copyTo(data, { planeIndex: plane, format: 'f32-planar' });
      return data;
    });
    return { t: sample.timestamp, sampleRate: sample.sampleRate, channels };
  } finally {
    sample.close();
  }
}

/** Blocks of one track from `from` to `to` in source seconds; the first may begin earlier. */
export async function* soundBlocks(
  { audio, delay }: OpenMedia,
  track: number,
  from = 0,
  to = Infinity,
): AsyncGenerator<SoundBlock> {
  for await (const sample of new AudioSampleSink(audio[track]!).samples(from + delay, to + delay)) {
    const block = takeBlock(sample);
    const t = block.t - delay;
    // What the encoder's delay puts before the beginning is not part of the sound.
    const early = delay > 0 ? Math.min(block.channels[0]!.length, Math.max(0, Math.round(-t * block.sampleRate))) : 0;
    yield early === 0
      ? { ...block, t }
      : { ...block, t: t + early / block.sampleRate, channels: block.channels.map((channel) => channel.slice(early)) };
  }
}

/** Mean of all channels. */
export function mono({ channels }: SoundBlock): Float32Array {
  const first = channels[0]!;
  if (channels.length === 1) return first;
  const last = channels.at(-1)!;
  const between = channels.slice(1, -1);
  const sums = between.length ? first.slice() : first;
  for (const channel of between) for (let i = 0; i < sums.length; i++) sums[i]! += channel[i]!;
  const out = new Float32Array(first.length);
  for (let i = 0; i < out.length; i++) out[i] = (sums[i]! + last[i]!) / channels.length;
  return out;
}
