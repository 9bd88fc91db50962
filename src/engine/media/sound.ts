/** Decoded sound as float channels, in blocks or stretches. */
import { AudioSampleSink, EncodedPacketSink, type AudioSample, type InputAudioTrack } from 'mediabunny';
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

/**
 * Seconds by which blocks are dated early when decoding begins in the middle. A Vorbis packet sounds only together with
 * the one before it (Vorbis I specification, section 4.3.8): the first gives nothing, and the decoder dates what the
 * second gives like the first.
 */
async function datedEarly(track: InputAudioTrack, from: number): Promise<number> {
  if ((await track.getCodec()) !== 'vorbis' || from <= (await track.getFirstTimestamp())) return 0;
  return (await new EncodedPacketSink(track).getPacket(from, { metadataOnly: true }))?.duration ?? 0;
}

/** Blocks of one track from `from` to `to` in source seconds; the first may begin earlier. */
export async function* soundBlocks(
  { audio, delay }: OpenMedia,
  track: number,
  from = 0,
  to = Infinity,
): AsyncGenerator<SoundBlock> {
  const early = await datedEarly(audio[track]!, from + delay);
  for await (const sample of new AudioSampleSink(audio[track]!).samples(from + delay, to + delay)) {
    const block = takeBlock(sample);
    const t = block.t - delay + early;
    // What the encoder's delay puts before the beginning is not part of the sound.
    const before = delay > 0 ? Math.min(block.channels[0]!.length, Math.max(0, Math.round(-t * block.sampleRate))) : 0;
    yield before === 0
      ? { ...block, t }
      : {
          ...block,
          t: t + before / block.sampleRate,
          channels: block.channels.map((channel) => channel.slice(before)),
        };
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
