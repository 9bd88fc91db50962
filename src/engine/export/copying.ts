/**
 * Taking groups of pictures over as they came as far as nothing touches them, and encoding only the others.
 * H.264 in MP4: the file describes its samples once, by the first source's parameter sets; whatever follows another
 * encoder's pictures begins with its own sets in its stream (ISO/IEC 14496-10, Annex B, and 14496-15, 5.3; in-band sets
 * under one sample description are read by decoders, common practice, no source).
 * VP9 in WebM: every key frame says all that a decoder needs (VP9 Bitstream & Decoding Process Specification, 6.2).
 */
import { EncodedPacket, EncodedPacketSink, type EncodedVideoPacketSource } from 'mediabunny';
import type { FramePlan, Planner } from '../../core/accents/plan.ts';
import type { Montage } from '../../core/document/types.ts';
import type { MediaIndex } from '../../core/timeline/timeline.ts';
import { OUTPUT_COLOUR } from '../../core/base/colour.ts';
import { EngineError } from '../errors.ts';
import { COPIED, EXPORT_KINDS, type CopiedCodec } from './kinds.ts';
import { openMedia, type MediaLocation, type OpenMedia } from '../media/open.ts';
import { colourOf } from '../media/yuv.ts';

const DELIMITER = 9;

/** A source whose pictures can be taken over. */
interface Copyable {
  readonly media: OpenMedia;
  readonly sink: EncodedPacketSink;
  readonly config: VideoDecoderConfig;
  /** What stands before its pictures where others came before: parameter sets, each with its length before it. */
  readonly sets: Uint8Array<ArrayBuffer>;
}

/** Output frames that a group of a source shows, or the first of it, with their packets in decoding order and montage times. */
export interface CopiedGroup {
  readonly source: string;
  readonly count: number;
  readonly packets: AsyncIterable<EncodedPacket>;
}

/** Fewest frames for which a group that is touched later is begun: what follows costs a key frame. */
const WORTH_A_KEY = 8;

/** NAL units with their lengths before them. */
function withLengths(units: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(units.reduce((sum, { length }) => sum + 4 + length, 0));
  const view = new DataView(bytes.buffer);
  let at = 0;
  for (const unit of units) {
    view.setUint32(at, unit.length);
    bytes.set(unit, at + 4);
    at += 4 + unit.length;
  }
  return bytes;
}

/** NAL units of a stream with start codes. */
export function unitsOf(stream: Uint8Array): Uint8Array[] {
  const units: Uint8Array[] = [];
  let from = -1;
  for (let i = 0; i + 2 < stream.length; i++) {
    if (stream[i] !== 0 || stream[i + 1] !== 0 || stream[i + 2] !== 1) continue;
    // A fourth zero belongs to the start code.
    if (from >= 0) units.push(stream.subarray(from, stream[i - 1] === 0 ? i - 1 : i));
    from = i + 3;
    i += 2;
  }
  if (from >= 0) units.push(stream.subarray(from));
  return units.filter(({ length }) => length > 0);
}

/** The parameter sets of a decoder configuration record; null where its lengths are not of four bytes. */
export function setsOf(record: Uint8Array): Uint8Array<ArrayBuffer> | null {
  if (record.length < 7 || record[0] !== 1 || (record[4]! & 3) !== 3) return null;
  const units: Uint8Array[] = [];
  let at = 5;
  for (const mask of [31, 255]) {
    const count = record[at++]! & mask;
    for (let i = 0; i < count; i++) {
      if (at + 2 > record.length) return null;
      const length = (record[at]! << 8) | record[at + 1]!;
      units.push(record.subarray(at + 2, at + 2 + length));
      at += 2 + length;
    }
  }
  return withLengths(units);
}

/** Sources of a montage that can be taken over at a size, and why the others cannot. */
export class Copier {
  private readonly sources = new Map<string, Copyable>();
  /** Reasons, for people, each once. */
  readonly refused = new Set<string>();
  /** The source whose parameter sets describe the file's samples. */
  lead: { readonly source: string; readonly config: VideoDecoderConfig } | null = null;

  private constructor(
    private readonly planner: Planner,
    private readonly index: MediaIndex,
    private readonly plain: boolean | undefined,
    private readonly codec: CopiedCodec,
  ) {}

  static async open(
    montage: Montage,
    locations: ReadonlyMap<string, MediaLocation>,
    { planner, index, plain }: { planner: Planner; index: MediaIndex; plain: boolean | undefined },
    { width, height }: { width: number; height: number },
    codec: CopiedCodec,
  ): Promise<Copier> {
    const copier = new Copier(planner, index, plain, codec);
    for (const id of new Set(montage.clips.map(({ source }) => source))) {
      const source = montage.sources.find((one) => one.id === id);
      const location = locations.get(id);
      if (!source?.video || source.still || !location) continue;
      const media = await openMedia(location, source.name);
      const why = await copier.take(id, media, { width, height });
      if (why) {
        copier.refused.add(`${source.name} ${why}`);
        media.input.dispose();
      }
    }
    return copier;
  }

  /** Why a source cannot be taken over; empty where it can. */
  private async take(id: string, media: OpenMedia, size: { width: number; height: number }): Promise<string> {
    const { video } = media;
    if (!video || (await video.getCodec()) !== this.codec)
      return `is not ${EXPORT_KINDS.find(({ codec }) => codec === this.codec)!.codecName}`;
    const [wide, high] = [await video.getCodedWidth(), await video.getCodedHeight()];
    const [shownWide, shownHigh] = [await video.getDisplayWidth(), await video.getDisplayHeight()];
    if (
      (await video.getRotation()) !== 0 ||
      wide !== size.width ||
      high !== size.height ||
      shownWide !== wide ||
      shownHigh !== high
    )
      return 'has another size or stands on its side';
    const colour = colourOf(await video.getColorSpace());
    if (colour.matrix !== OUTPUT_COLOUR.matrix || colour.fullRange !== OUTPUT_COLOUR.fullRange)
      return 'has other colours than the export';
    const config = await video.getDecoderConfig();
    const record = config?.description;
    const sets =
      this.codec === 'vp9'
        ? new Uint8Array(0)
        : record && setsOf(new Uint8Array(record instanceof ArrayBuffer ? record : (record as Uint8Array)));
    if (!config || !sets) return 'keeps its pictures in another way than MP4 does';
    // Eight bits of 4:2:0, as what is encoded beside it.
    if (this.codec === 'vp9' && !/^vp09\.00/.test(config.codec)) return 'has another kind of VP9 than the export';
    this.sources.set(id, { media, sink: new EncodedPacketSink(video), config, sets });
    this.lead ??= { source: id, config };
    return '';
  }

  setsOf(source: string): Uint8Array<ArrayBuffer> {
    return this.sources.get(source)!.sets;
  }

  /** What an output frame shows of a source as it was decoded; null where anything touches it. */
  private untouched(frame: number): FramePlan['picture'] {
    const { picture, passes, titles } = this.planner.at(frame, { plain: this.plain });
    return picture && !passes.length && !titles.length && !picture.mixed && !picture.shows ? picture : null;
  }

  /**
   * The group that begins on an output frame, as far as nothing touches it before another: whole, or as many packets as hold
   * the first of its frames and no other. What comes after them begins with a key, so nothing misses the rest, which in an
   * open group may be all of the file.
   */
  async groupAt(frame: number, end: number): Promise<CopiedGroup | null> {
    const first = this.untouched(frame);
    const own = first && this.sources.get(first.source);
    const times = first && this.index.get(first.source);
    if (!own || !times) return null;
    const begins = times.timeOf(first.frame);
    const half = (times.timeOf(first.frame + 1) - begins) / 2 || 1e-3;
    const key = await own.sink.getKeyPacket(begins + half, { verifyKeyPackets: true });
    if (!key || Math.abs(key.timestamp - begins) > half) return null;
    const next = await own.sink.getNextKeyPacket(key, { verifyKeyPackets: true });
    const { timeline } = this.planner;
    const span = timeline.spanAt(frame);
    /** Which frame of the group a packet holds. */
    const placeOf = ({ timestamp }: EncodedPacket): number => times.indexAt(timestamp + 1e-6) - first.frame;
    const asItCame = (at: number): boolean => {
      if (frame + at >= end || timeline.spanAt(frame + at) !== span) return false;
      const shown = this.untouched(frame + at);
      return shown?.source === first.source && shown.frame === first.frame + at;
    };
    const seen = new Set<number>();
    let [latest, count, whole] = [-1, 0, true];
    for await (const packet of own.sink.packets(key, next ?? undefined, { metadataOnly: true })) {
      const at = placeOf(packet);
      // Pictures before their key are made of the group before, too.
      if (at < 0 || seen.has(at)) return null;
      if (!asItCame(at)) {
        whole = false;
        break;
      }
      seen.add(at);
      latest = Math.max(latest, at);
      if (latest + 1 === seen.size) count = seen.size;
    }
    if (!count || (count < WORTH_A_KEY && !(whole && count === seen.size))) return null;
    const packets = async function* (): AsyncGenerator<EncodedPacket> {
      let left = count;
      for await (const packet of own.sink.packets(key)) {
        if (!left--) return;
        const at = frame + placeOf(packet);
        const timestamp = timeline.timeOf(at);
        yield packet.clone({ timestamp, duration: timeline.timeOf(at + 1) - timestamp });
      }
    };
    return { source: first.source, count, packets: packets() };
  }

  close(): void {
    for (const { media } of this.sources.values()) media.input.dispose();
  }
}

/**
 * An encoder for what is put between groups of a codec: as its neighbours are, if it can be; any decoder that has come so far
 * reads the other, too.
 */
export async function encoderBeside(
  { lead }: Copier,
  codec: CopiedCodec,
  config: Omit<VideoEncoderConfig, 'codec'>,
): Promise<VideoEncoderConfig> {
  const like = { ...config, codec: lead!.config.codec };
  const { supported } = await VideoEncoder.isConfigSupported(like).catch(() => ({ supported: false }));
  return supported ? like : { ...config, codec: COPIED[codec] };
}

/** Frames that the encoder may hold. */
const MOST_HELD = 8;

/** Writes groups that are taken over, and frames between them that are encoded, into one track. */
export class CopyingWriter {
  private readonly encoder: VideoEncoder;
  private readonly made: EncodedPacket[] = [];
  private trouble: Error | null = null;
  /** Whose parameter sets a decoder has; null: the encoder's. */
  private sets: string | null;
  private running = false;
  private begun = false;

  /** @param begin seconds of the montage at which the file begins */
  constructor(
    private readonly track: EncodedVideoPacketSource,
    private readonly copier: Copier,
    private readonly begin: number,
    config: VideoEncoderConfig,
  ) {
    this.sets = copier.lead!.source;
    this.encoder = new VideoEncoder({
      output: (chunk) => {
        const bytes = new Uint8Array(chunk.byteLength);
        chunk.copyTo(bytes);
        // Of H.264 the stream's own units, without delimiters, which files do not keep.
        const data = config.codec.startsWith('avc')
          ? withLengths(unitsOf(bytes).filter(([head]) => (head! & 31) !== DELIMITER))
          : bytes;
        this.made.push(new EncodedPacket(data, chunk.type, chunk.timestamp / 1e6, (chunk.duration ?? 0) / 1e6));
      },
      error: (error) => (this.trouble = error),
    });
    this.encoder.configure({ ...config, ...(config.codec.startsWith('avc') && { avc: { format: 'annexb' } }) });
  }

  private async put(packet: EncodedPacket): Promise<void> {
    await this.track.add(packet, this.begun ? undefined : { decoderConfig: this.copier.lead!.config });
    this.begun = true;
  }

  private async drain(): Promise<void> {
    if (this.trouble) throw new EngineError('encoder', `The encoder gave up: ${this.trouble.message}`);
    for (const packet of this.made.splice(0)) await this.put(packet);
  }

  /** A frame that something touches. Frames in order. */
  async add(frame: VideoFrame): Promise<void> {
    this.encoder.encode(frame, { keyFrame: !this.running });
    frame.close();
    this.running = true;
    this.sets = null;
    while (this.encoder.encodeQueueSize > MOST_HELD && !this.trouble)
      await new Promise((resolve) => this.encoder.addEventListener('dequeue', resolve, { once: true }));
    await this.drain();
  }

  /** Ends what is being encoded: a group comes, or nothing more. */
  async endRun(): Promise<void> {
    if (this.running) await this.encoder.flush();
    this.running = false;
    await this.drain();
  }

  async copy({ source, packets }: CopiedGroup): Promise<void> {
    await this.endRun();
    for await (const packet of packets) {
      let data = packet.data;
      if (this.sets !== source) {
        const own = this.copier.setsOf(source);
        data = new Uint8Array(own.length + packet.data.length);
        data.set(own);
        data.set(packet.data, own.length);
        this.sets = source;
      }
      await this.put(packet.clone({ data, timestamp: packet.timestamp - this.begin }));
    }
  }

  close(): void {
    if (this.encoder.state !== 'closed') this.encoder.close();
  }
}
