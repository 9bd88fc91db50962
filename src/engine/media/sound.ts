/** Decoded sound as float channels, in blocks or stretches. */
import { AudioSampleSink, type AudioSample, type InputAudioTrack } from 'mediabunny';

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

/** Blocks from `from` to `to` in source seconds; the first may begin earlier. */
export async function* soundBlocks(track: InputAudioTrack, from = 0, to = Infinity): AsyncGenerator<SoundBlock> {
  for await (const sample of new AudioSampleSink(track).samples(from, to)) yield takeBlock(sample);
}

/** Mean of all channels. */
export function mono({ channels }: SoundBlock): Float32Array {
  const first = channels[0]!;
  if (channels.length === 1) return first;
  const out = new Float32Array(first.length);
  for (const channel of channels) for (let i = 0; i < out.length; i++) out[i]! += channel[i]!;
  for (let i = 0; i < out.length; i++) out[i]! /= channels.length;
  return out;
}
