/** Opening a media file as a stream, and describing what is in it. */
import {
  ALL_FORMATS,
  BlobSource,
  EncodedPacketSink,
  Input,
  IsobmffInputFormat,
  Mp3InputFormat,
  UrlSource,
  type InputAudioTrack,
  type InputVideoTrack,
} from 'mediabunny';
import { frameTimesOf, regularTimes, type FrameTimes } from '../../core/timeline/frame-times.ts';
import type { AudioTrackInfo, VideoInfo } from '../../core/document/types.ts';
import { EngineError, cancelled } from '../errors.ts';
import { trackEdits } from './isobmff.ts';

/** Where the bytes of a source are: a file or copy on this machine, or an address of the own server. */
export type MediaLocation =
  { readonly blob: Blob; readonly url?: never } | { readonly url: string; readonly blob?: never };

export interface OpenMedia {
  readonly input: Input;
  readonly video: InputVideoTrack | null;
  readonly audio: readonly InputAudioTrack[];
  /** Seconds by which decoded sound lies late: an MP3's encoder and decoder delay. */
  readonly delay: number;
  /** Seconds at which the picture's edit list ends what is shown; Infinity where nothing is cut off. */
  readonly end: number;
  /** The picture may hold fields instead of frames. */
  readonly interlaced: boolean;
  /** Stretches that the picture's edit list puts together; only the first is read. */
  readonly edits: number;
}

/** Samples by which every MPEG layer III decoder is late (LAME technical FAQ, "decoder delay"). */
const MP3_DECODER_DELAY = 529;

/** Encoder delay in samples from the Xing/Info frame of an MP3 (LAME tag, revision 1); 0 where it has none. */
function mp3EncoderDelay(head: Uint8Array): number {
  const text = String.fromCharCode(...head);
  const at = Math.max(text.indexOf('Xing'), text.indexOf('Info'));
  if (at < 0) return 0;
  const flags = head[at + 7]!;
  const tag = at + 8 + (flags & 1 ? 4 : 0) + (flags & 2 ? 4 : 0) + (flags & 4 ? 100 : 0) + (flags & 8 ? 4 : 0);
  return ((head[tag + 21] ?? 0) << 4) | ((head[tag + 22] ?? 0) >> 4);
}

async function soundDelay(input: Input, location: MediaLocation, audio: readonly InputAudioTrack[]): Promise<number> {
  if (!audio[0] || !((await input.getFormat()) instanceof Mp3InputFormat)) return 0;
  const bytes = location.blob
    ? await location.blob.slice(0, 8192).arrayBuffer()
    : await (await fetch(location.url!, { headers: { Range: 'bytes=0-8191' } })).arrayBuffer();
  const delay = mp3EncoderDelay(new Uint8Array(bytes.slice(0, 8192)));
  return delay ? (delay + MP3_DECODER_DELAY) / (await audio[0].getSampleRate()) : 0;
}

const sizeOf = async (location: MediaLocation): Promise<number> =>
  location.blob?.size ?? Number((await fetch(location.url!, { method: 'HEAD' })).headers.get('Content-Length') ?? 0);

/** Opens a file and lists its tracks. The caller disposes `input`. @throws EngineError */
export async function openMedia(location: MediaLocation, name = 'This file'): Promise<OpenMedia> {
  if (location.blob && location.blob.size === 0) throw new EngineError('empty', `${name} is empty (0 bytes).`);
  const input = new Input({
    formats: ALL_FORMATS,
    source: location.blob ? new BlobSource(location.blob) : new UrlSource(location.url!),
  });
  try {
    // Before the library counts up to what a damaged index claims.
    const tracks = await trackEdits(location, await sizeOf(location), name);
    if (!(await input.canRead())) {
      throw new EngineError('not-media', `${name} is not a video or sound file that Akmeon can read.`);
    }
    const [video, audio] = await Promise.all([input.getPrimaryVideoTrack(), input.getAudioTracks()]);
    if (!video && audio.length === 0 && tracks === null && (await input.getFormat()) instanceof IsobmffInputFormat) {
      throw new EngineError(
        'truncated',
        `${name} is cut short: it has no index of tracks (moov), as when a recording was not ended properly.`,
      );
    }
    const edit = tracks?.find((track) => track.handler === 'vide');
    if (!video && audio.length === 0) throw new EngineError('no-tracks', `${name} holds neither picture nor sound.`);
    return {
      input,
      video,
      audio,
      delay: await soundDelay(input, location, audio),
      end: edit?.end ?? Infinity,
      interlaced: edit?.interlaced ?? false,
      edits: edit?.edits ?? 0,
    };
  } catch (error) {
    input.dispose();
    if (error instanceof EngineError) throw error;
    throw new EngineError('truncated', `${name} is damaged or cut short: its index cannot be read.`);
  }
}

export interface MediaDescription {
  readonly duration: number;
  readonly video: VideoInfo | null;
  readonly audio: readonly AudioTrackInfo[];
  /** Frame starts of a variable-rate picture; null where the rate is constant. */
  readonly starts: Float64Array | null;
  readonly lastDuration: number;
  /** Sentences for the person: what was noticed but does not stop the work. */
  readonly notes: readonly string[];
}

const HDR_TRANSFERS = new Set(['pq', 'hlg', 'smpte2084', 'arib-std-b67']);

/** How many packets the first look reads to see whether the rate is constant. */
const PROBE_PACKETS = 300;

/** @throws EngineError for what cannot be used, naming the reason. */
export async function describeMedia(
  location: MediaLocation,
  name: string,
  signal?: AbortSignal,
  /** Every packet is looked at, also where the first lie on a regular grid. */
  whole = false,
): Promise<MediaDescription> {
  const media = await openMedia(location, name);
  try {
    const notes: string[] = [];
    const described = await Promise.all(media.audio.map(describeAudio));
    const audio = described.map(({ damaged: _, ...track }): AudioTrackInfo => track);
    const damaged = described.find((track) => track.damaged)?.damaged;
    if (damaged && !media.video)
      throw new EngineError('truncated', `${name} is damaged: its sound is said to have ${damaged}.`);
    if (damaged) notes.push(`One of its sound tracks is damaged and left out: it is said to have ${damaged}.`);
    audio.forEach((track, i) => {
      if (!track.readable)
        notes.push(`Sound track ${i + 1} (${track.codec}) cannot be decoded by this browser and stays silent.`);
    });
    let picture: Awaited<ReturnType<typeof describeVideo>> | null = null;
    if (media.video) {
      picture = await describeVideo(media, media.video, name, signal, whole);
      if (picture.video.rotation) notes.push(`Turned by ${picture.video.rotation}° as the file says.`);
      if (picture.video.variable) notes.push('Variable frame rate: every frame keeps its own time.');
      if (picture.video.width % 2 || picture.video.height % 2)
        notes.push(`Odd size ${picture.video.width}x${picture.video.height}: the export rounds it to even numbers.`);
      if (picture.video.count === 1) notes.push('Holds a single frame.');
      if (media.interlaced) notes.push('Interlaced: lines of two moments in one frame show as combs in movement.');
      if (media.edits > 1) notes.push(`Put together of ${media.edits} stretches: only the first is read.`);
      if (await media.video.canBeTransparent().catch(() => false))
        notes.push('Has transparency, which is not used: the picture is shown without it.');
    }
    if (!media.audio.length) notes.push('No sound: hits can only come from the picture.');
    if (!media.video) notes.push('No picture: used as sound.');
    if (!picture && !audio.some((track) => track.readable)) {
      throw new EngineError(
        'audio-codec',
        `${name}: the sound is coded as ${audio[0]?.codec ?? 'something unknown'}, which this browser cannot decode.`,
      );
    }
    const ends = await Promise.all(
      media.audio.map((track) => track.computeDuration({ metadataOnly: true }).catch(() => 0)),
    );
    const duration = Math.max(picture?.end ?? 0, ...ends);
    if (!(duration > 0)) throw new EngineError('no-frames', `${name} holds no frames and no sound.`);
    const late = (await media.audio[0]?.getFirstTimestamp().catch(() => 0)) ?? 0;
    // What begins late as a whole has its picture late, too.
    const gap = late - Math.max(0, picture?.video.first ?? 0);
    if (gap > 0.05) notes.push(`The sound begins ${gap.toFixed(2)} s after the picture, and is kept there.`);
    return {
      duration,
      video: picture?.video ?? null,
      audio,
      starts: picture?.starts ?? null,
      lastDuration: picture?.lastDuration ?? 0,
      notes,
    };
  } catch (error) {
    if (error instanceof EngineError) throw error;
    throw new EngineError(
      'truncated',
      `${name} is damaged or cut short: ${error instanceof Error ? error.message : 'it cannot be read'}.`,
    );
  } finally {
    media.input.dispose();
  }
}

/** Of sound that a document can hold: schema.ts. */
const SAMPLE_RATES = { min: 1000, max: 768_000 };
const MOST_CHANNELS = 64;

/** `damaged`: what it says of itself that nothing can have. */
async function describeAudio(track: InputAudioTrack): Promise<AudioTrackInfo & { readonly damaged?: string }> {
  const [codec, internal, name, language] = await Promise.all([
    track.getCodec(),
    track.getInternalCodecId(),
    track.getName(),
    track.getLanguageCode(),
  ]);
  const [channels, sampleRate] = [await track.getNumberOfChannels(), await track.getSampleRate()];
  const real =
    channels >= 1 && channels <= MOST_CHANNELS && sampleRate >= SAMPLE_RATES.min && sampleRate <= SAMPLE_RATES.max;
  return {
    codec: (codec ?? (typeof internal === 'string' ? internal : 'unknown')).slice(0, 300),
    channels: real ? channels : 1,
    sampleRate: real ? sampleRate : SAMPLE_RATES.min,
    name: (name ?? (language !== 'und' ? language : '')).slice(0, 1000),
    // What nothing can have is damage: no memory is asked for by such numbers.
    readable: real && (await track.canDecode()),
    ...(!real && { damaged: `${sampleRate} samples a second in ${channels} channels` }),
  };
}

async function describeVideo(
  media: OpenMedia,
  track: InputVideoTrack,
  name: string,
  signal: AbortSignal | undefined,
  whole: boolean,
) {
  const [codec, internal] = await Promise.all([track.getCodec(), track.getInternalCodecId()]);
  const codecName = codec ?? (typeof internal === 'string' ? internal : 'an unknown codec');
  if (!codec || !(await track.canDecode())) {
    throw new EngineError(
      'video-codec',
      `${name}: the picture is coded as ${codecName}, which this browser cannot decode.`,
    );
  }
  const space = await track.getColorSpace();
  if (space.transfer && HDR_TRANSFERS.has(space.transfer)) {
    throw new EngineError(
      'hdr',
      `${name} is HDR footage (${space.transfer.toUpperCase()}). Akmeon works in standard range: convert it to BT.709 first.`,
    );
  }
  const { times, starts, lastDuration } = await indexFrames(track, media.end, name, signal, whole);
  const video: VideoInfo = {
    width: await track.getDisplayWidth(),
    height: await track.getDisplayHeight(),
    rotation: await track.getRotation(),
    codec: codecName,
    rate: times.rate,
    count: times.count,
    first: times.timeOf(0),
    variable: times.variable,
  };
  return { video, starts, lastDuration, end: times.end };
}

/** False for frames that an edit list cuts off: over before zero, or begun only after its end. */
export const isShown = ({ timestamp, duration }: { timestamp: number; duration: number }, end: number): boolean =>
  timestamp < end - 1e-4 && (timestamp >= -1e-4 || timestamp + duration > 1e-4);

/**
 * Frame starts from the packets alone. When the first packets lie on a regular grid and the end
 * agrees with it, the rest is taken as regular; else all packets are read.
 */
async function indexFrames(
  track: InputVideoTrack,
  end: number,
  name: string,
  signal: AbortSignal | undefined,
  all: boolean,
) {
  const sink = new EncodedPacketSink(track);
  const starts: number[] = [];
  let lastDuration = 0;
  for await (const packet of sink.packets(undefined, undefined, { metadataOnly: true })) {
    if (signal?.aborted) throw cancelled();
    lastDuration = packet.duration || lastDuration;
    if (!isShown(packet, end)) continue;
    starts.push(packet.timestamp);
    if (starts.length === PROBE_PACKETS && !all) {
      const whole = await probeRegular(track, starts, lastDuration, end);
      if (whole) return { times: whole, starts: null, lastDuration };
    }
  }
  if (starts.length === 0) throw new EngineError('no-frames', `${name} holds no picture frames.`);
  starts.sort((a, b) => a - b);
  if (starts.length > 1) lastDuration = lastDuration || starts.at(-1)! - starts.at(-2)!;
  const times = frameTimesOf(starts, lastDuration);
  return { times, starts: times.variable ? Float64Array.from(starts) : null, lastDuration };
}

async function probeRegular(
  track: InputVideoTrack,
  probed: readonly number[],
  lastDuration: number,
  editEnd: number,
): Promise<FrameTimes | null> {
  // Packets come in decoding order: the last few may still lack a reordered neighbour.
  const sorted = [...probed].sort((a, b) => a - b).slice(0, -20);
  const head = frameTimesOf(sorted, lastDuration);
  if (head.variable) return null;
  const end = Math.min(editEnd, await track.computeDuration({ metadataOnly: true }));
  const packet = await new EncodedPacketSink(track).getPacket(Math.max(0, end - 1e-3), { metadataOnly: true });
  if (!packet) return null;
  const step = head.rate.den / head.rate.num;
  const exact = (end - sorted[0]!) / step;
  const count = Math.round(exact);
  return Math.abs(exact - count) < 0.2 ? regularTimes(head.rate, count, sorted[0]!) : null;
}
