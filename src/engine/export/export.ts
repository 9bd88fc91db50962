/** Montage to a file. Untouched frames go to the encoder as they were decoded. */
import {
  AudioSample,
  AudioSampleSource,
  EncodedVideoPacketSource,
  Mp4OutputFormat,
  Output,
  StreamTarget,
  VideoSample,
  VideoSampleSource,
  WebMOutputFormat,
  canEncodeAudio,
  canEncodeVideo,
  type StreamTargetChunk,
} from 'mediabunny';
import { OUTPUT_COLOUR } from '../../core/base/colour.ts';
import { LoudnessMeter, type Loudness } from '../../core/sound/loudness.ts';
import { soundPlan, type SoundSegment } from '../../core/sound/sound-plan.ts';
import type { FramePlan } from '../../core/accents/plan.ts';
import type { Montage, Timing } from '../../core/document/types.ts';
import { everyUse } from '../../core/document/uses.ts';
import { EngineError, cancelled } from '../errors.ts';
import {
  bitrateFor,
  EXPORT_KINDS,
  exportKind,
  isCopied,
  SOUND_BITS,
  type ExportKind,
  type Quality,
  type SoundChoice,
} from './kinds.ts';
import { missingFiles } from './missing.ts';
import type { MediaLocation } from '../media/open.ts';
import type { ListedStarts } from '../media/starts.ts';
import type { Mixer } from '../media/mixer.ts';
import { Copier, CopyingWriter, encoderBeside } from './copying.ts';
import { DrawPool, threadsFor } from './draw-pool.ts';
import { FrameServer } from '../preview/frame-server.ts';
import type { RendererChoice } from '../render/choose.ts';
import type { FrameRenderer, Picture } from '../render/frame-renderer.ts';

export interface ExportOptions {
  /** Even pixels. */
  readonly width: number;
  readonly height: number;
  readonly timing: Timing;
  readonly sound: SoundChoice;
  /** Id of one of {@link EXPORT_KINDS}; the first where absent. */
  readonly kind?: string | undefined;
  readonly quality?: Quality | undefined;
  /** Bits a second of the picture, in place of a quality. */
  readonly bitrate?: number | undefined;
  /** Output frames, the last one exclusive; all of them where absent. */
  readonly range?: { readonly from: number; readonly to: number } | undefined;
  /** Groups of pictures that nothing touches are taken over as they came, where the source is what is written. */
  readonly copy?: boolean | undefined;
  /** Without the accents, for comparison. */
  readonly plain?: boolean;
  readonly renderer?: RendererChoice | undefined;
}

export interface ExportProgress {
  readonly frame: number;
  readonly count: number;
  /** Seconds, once it can be told. */
  readonly left: number | null;
}

export interface ExportResult {
  readonly frames: number;
  readonly rendered: number;
  readonly passedThrough: number;
  /** Of those passed through, how many were taken over without being encoded again. */
  readonly copied: number;
  /** Why some sources could not be taken over, in sentences; empty where that was not asked. */
  readonly notCopied: readonly string[];
  readonly duration: number;
  readonly drawnBy: FrameRenderer['kind'];
  /** How loud its sound is, and the most that was taken off its peaks, decibels; null without sound. */
  readonly loudness: (Loudness & { readonly limited: number }) | null;
  /** What of the sources could not be read, by their names: frames shown as the one before, seconds of silence. */
  readonly damaged: readonly { readonly source: string; readonly frames: number; readonly seconds: number }[];
}

export interface ExportJob {
  readonly montage: Montage;
  readonly locations: ReadonlyMap<string, MediaLocation>;
  readonly listed: ListedStarts;
  readonly options: ExportOptions;
}

const SOUND_RATE = 48000;
/** Samples mixed and encoded at once, whatever the frame rate. */
const SOUND_BLOCK = 24000;
/**
 * Samples of silence that the AAC encoder puts before the sound (FFmpeg's native encoder: one frame).
 * Its packets are dated that much earlier, and the file's edit list takes them away again.
 */
const AAC_PRIMING = 1024;

/** What the encoder is told about every frame. */
const COLOUR_SPACE = { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709', fullRange: false } as const;

/** True when the decoded planes are already what the encoder is to see. */
function passable(picture: Picture, width: number, height: number): boolean {
  const { yuv, rotation } = picture;
  return (
    rotation === 0 &&
    yuv.width === width &&
    yuv.height === height &&
    yuv.colour.matrix === OUTPUT_COLOUR.matrix &&
    yuv.colour.fullRange === OUTPUT_COLOUR.fullRange &&
    Math.abs(picture.aspect - width / height) < 0.005
  );
}

/**
 * Writes the montage into `writable`, which is closed at the end and aborted on any failure.
 * @param thread makes one of the threads that draw where the processor does (draw.worker.ts); without it this one draws
 * @throws EngineError `cancelled` after an abort, `encoder` where the codec is missing.
 */
export async function exportMontage(
  { montage, locations, listed, options }: ExportJob,
  writable: WritableStream<StreamTargetChunk>,
  progress: (state: ExportProgress) => void,
  signal?: AbortSignal,
  thread?: () => Worker,
): Promise<ExportResult> {
  const frameServer = new FrameServer(options.renderer);
  const pool =
    thread && frameServer.drawnBy === 'cpu'
      ? new DrawPool(options, threadsFor(options, navigator.hardwareConcurrency), thread)
      : null;
  // As many frames as there are threads, and one that waits for each; the graphics unit draws while one is read back.
  const ahead = pool ? 2 * pool.threads : 1;
  let output: Output | null = null;
  let copier: Copier | null = null;
  let writer: CopyingWriter | null = null;
  try {
    const { width, height } = options;
    await frameServer.setMontage(
      { ...montage, settings: { ...montage.settings, width, height, timing: options.timing } },
      listed,
    );
    for (const [source, location] of locations) await frameServer.setMedia(source, location);
    const { timeline } = frameServer.planner;
    if (timeline.count === 0)
      throw new EngineError('nothing-to-do', 'The montage has no clips: there is nothing to export.');
    const kind = exportKind(options.kind);
    const { from: first, to: end } = rangeOf(options, timeline.count);
    const begin = timeline.timeOf(first);
    const heard = options.sound === 'none' ? [] : soundPlan(montage, timeline, frameServer.planner.sounding());
    checkSources(montage, frameServer, locations, heard);
    const bitrate = options.bitrate ?? bitrateFor(kind, width, height, timeline.fps, options.quality ?? 'usual');
    await checkEncoders(options, kind, bitrate);
    output = new Output({
      format: kind.extension === 'webm' ? new WebMOutputFormat() : new Mp4OutputFormat({ fastStart: false }),
      target: new StreamTarget(writable, { chunked: true, chunkSize: 1 << 20 }),
    });
    const { codec } = kind;
    if (options.copy && isCopied(codec))
      copier = await Copier.open(
        montage,
        locations,
        { planner: frameServer.planner, index: frameServer.index, plain: options.plain },
        options,
        codec,
      );
    const packets = copier?.lead ? new EncodedVideoPacketSource(kind.codec) : null;
    const video = packets ? null : new VideoSampleSource({ codec: kind.codec, bitrate, keyFrameInterval: 2 });
    output.addVideoTrack((packets ?? video)!);
    if (packets && isCopied(codec)) {
      const encoder = await encoderBeside(copier!, codec, { width, height, bitrate, framerate: timeline.fps });
      writer = new CopyingWriter(packets, copier!, begin, encoder);
    }
    const sound = heard.length
      ? new AudioSampleSource({ codec: options.sound === 'opus' ? 'opus' : 'aac', bitrate: SOUND_BITS })
      : null;
    const priming = options.sound === 'aac' ? AAC_PRIMING : 0;
    const mixer = frameServer.mix(SOUND_RATE);
    const meter = new LoudnessMeter(SOUND_RATE);
    const soundBegin = Math.round(begin * SOUND_RATE);
    const soundEnd = Math.round((end < timeline.count ? timeline.timeOf(end) : timeline.duration) * SOUND_RATE);
    if (sound) output.addAudioTrack(sound);
    await output.start();

    const started = performance.now();
    let rendered = 0;
    let soundTo = soundBegin;
    let copied = 0;
    /** Sound is written a little ahead, so that the two stay interleaved in the file. */
    const soundUntil = async (seconds: number): Promise<void> => {
      const to = Math.round((seconds + 1) * SOUND_RATE);
      if (sound) soundTo = await writeSound(mixer, meter, sound, soundTo, to, soundEnd, priming + soundBegin, signal);
    };
    const report = (frame: number): void => {
      const spent = (performance.now() - started) / 1000;
      const done = frame - first + 1;
      progress({ frame: done, count: end - first, left: done > 5 ? (spent / done) * (end - first - done) : null });
    };
    /** Frames on their way to the encoder, in their order. */
    const underway: { readonly plan: FramePlan; readonly data: Promise<Uint8Array<ArrayBuffer>> }[] = [];
    const encode = async ({ plan, data }: (typeof underway)[number]): Promise<void> => {
      await soundUntil(plan.time);
      const sample = new VideoSample(await data, {
        format: 'I420',
        codedWidth: width,
        codedHeight: height,
        timestamp: plan.time - begin,
        duration: plan.duration,
        colorSpace: COLOUR_SPACE,
      });
      if (writer) await writer.add(sample.toVideoFrame());
      else await video!.add(sample);
      sample.close();
      report(plan.frame);
    };
    for (let frame = first; frame < end; frame++) {
      if (signal?.aborted) throw cancelled();
      const group = writer && (await copier!.groupAt(frame, end));
      if (group) {
        for (const earlier of underway.splice(0)) await encode(earlier);
        await soundUntil(timeline.timeOf(frame));
        await writer!.copy(group);
        copied += group.count;
        frame += group.count - 1;
        report(frame);
        continue;
      }
      const plan = frameServer.planner.at(frame, { plain: options.plain });
      const drawing = await frameServer.drawing(plan);
      const { picture } = drawing;
      let data: Promise<Uint8Array<ArrayBuffer>>;
      if (picture && plan.passes.length === 0 && plan.titles.length === 0 && passable(picture, width, height))
        data = Promise.resolve(picture.yuv.data);
      else {
        data = pool ? pool.planes(drawing) : frameServer.planes(drawing, width, height);
        rendered++;
      }
      // One that fails while others are waited for is heard when its turn comes.
      data.catch(() => undefined);
      underway.push({ plan, data });
      while (underway.length > ahead) await encode(underway.shift()!);
    }
    for (const frame of underway) await encode(frame);
    await writer?.endRun();
    if (sound) await writeSound(mixer, meter, sound, soundTo, soundEnd, soundEnd, priming + soundBegin, signal);
    if (signal?.aborted) throw cancelled();
    await output.finalize();
    const [frames, seconds] = [await frameServer.unreadable(), new Map(mixer.lost().map((l) => [l.source, l.seconds]))];
    return {
      frames: end - first,
      rendered,
      passedThrough: end - first - rendered,
      copied,
      notCopied: [...(copier?.refused ?? [])].map((why) => `${why}: it was encoded again.`),
      duration: (soundEnd - soundBegin) / SOUND_RATE,
      drawnBy: frameServer.drawnBy,
      loudness: sound ? { ...meter.result(), limited: mixer.limited.most } : null,
      damaged: montage.sources.flatMap(({ id, name }) =>
        frames.has(id) || seconds.has(id)
          ? [{ source: name, frames: frames.get(id) ?? 0, seconds: seconds.get(id) ?? 0 }]
          : [],
      ),
    };
  } catch (error) {
    if (output && output.state !== 'finalized') await output.cancel().catch(() => undefined);
    await writable.abort(error).catch(() => undefined);
    if (signal?.aborted) throw cancelled();
    if (error instanceof DOMException && error.name === 'QuotaExceededError')
      throw new EngineError(
        'storage-full',
        'The disk or the browser storage is full: the export was stopped and its partial file removed.',
      );
    throw error;
  } finally {
    pool?.close();
    writer?.close();
    copier?.close();
    await frameServer.close();
  }
}

/**
 * Mixes and encodes whole blocks until the sound reaches `to`; the last one, as long as what is left. Gives the sample
 * that comes next.
 * @param shift samples by which the file's own time is earlier
 */
async function writeSound(
  mixer: Mixer,
  meter: LoudnessMeter,
  sound: AudioSampleSource,
  from: number,
  to: number,
  end: number,
  shift: number,
  signal?: AbortSignal,
): Promise<number> {
  while (from < to) {
    if (signal?.aborted) throw cancelled();
    const frames = Math.min(SOUND_BLOCK, end - from);
    if (frames < 1) break;
    const [left, right] = await mixer.read(from / SOUND_RATE, frames);
    meter.add(left, right);
    const data = new Float32Array(frames * 2);
    data.set(left);
    data.set(right, frames);
    const sample = new AudioSample({
      data,
      format: 'f32-planar',
      numberOfChannels: 2,
      sampleRate: SOUND_RATE,
      timestamp: (from - shift) / SOUND_RATE,
    });
    await sound.add(sample);
    sample.close();
    from += frames;
  }
  return from;
}

/** @throws EngineError where a source that shows or sounds is missing, or has no list of its frames */
function checkSources(
  montage: Montage,
  { planner: { timeline } }: FrameServer,
  locations: ExportJob['locations'],
  heard: readonly SoundSegment[],
): void {
  const missing = missingFiles(
    montage,
    [...montage.clips, ...montage.accents.flatMap(({ effects }) => everyUse(effects))].flatMap(
      ({ source }) => source ?? [],
    ),
    heard,
    locations,
  );
  if (missing.length)
    throw new EngineError(
      'media-missing',
      `The export needs ${missing.join(', ')}, whose file is missing. Bring it in again, or take it out of the montage.`,
    );
  const shown = new Set(timeline.spans.map((span) => span.clip.id));
  const unlisted = montage.clips.find((clip) => !shown.has(clip.id) || !timeline.listed(clip.source));
  if (unlisted)
    throw new EngineError(
      'media-missing',
      `The frames of ${montage.sources.find(({ id }) => id === unlisted.source)?.name ?? 'a clip'} are not listed yet: ` +
        'open its montage and wait until it is read.',
    );
}

/** @throws EngineError where the range holds no frame */
function rangeOf({ range }: ExportOptions, count: number): { from: number; to: number } {
  if (!range) return { from: 0, to: count };
  const [from, to] = [Math.max(0, Math.round(range.from)), Math.min(count, Math.round(range.to))];
  if (!(to > from)) throw new EngineError('nothing-to-do', 'No frame of the montage lies in the range to export.');
  return { from, to };
}

async function checkEncoders(
  { width, height, sound }: ExportOptions,
  { codec, codecName, sounds, name, mostSide }: ExportKind,
  bitrate: number,
): Promise<void> {
  if (width % 2 || height % 2)
    throw new EngineError('encoder', `${codecName} needs even sizes; ${width}x${height} was asked for.`);
  if (Math.max(width, height) > mostSide)
    throw new EngineError('encoder', `${codecName} holds at most ${mostSide} pixels a side, not ${width}x${height}.`);
  if (!sounds.includes(sound))
    throw new EngineError('encoder', `${name} cannot hold ${sound === 'aac' ? 'AAC' : sound}: choose another sound.`);
  if (!(await canEncodeVideo(codec, { width, height, bitrate }))) {
    throw new EngineError('encoder', `This browser has no ${codecName} encoder for ${width}x${height}.`);
  }
  if (sound === 'aac') {
    // Always the same encoder, also where the browser has one: only its priming is known.
    const { registerAacEncoder } = await import('@mediabunny/aac-encoder');
    registerAacEncoder();
  }
  if (sound === 'opus' && !(await canEncodeAudio('opus', { numberOfChannels: 2, sampleRate: SOUND_RATE }))) {
    throw new EngineError('encoder', 'This browser has no Opus encoder.');
  }
}

/** Kinds of files that this browser can write at a size. */
export async function writableKinds(width: number, height: number): Promise<readonly string[]> {
  const there = await Promise.all(
    EXPORT_KINDS.map(({ codec }) => canEncodeVideo(codec, { width, height, bitrate: 4e6 })),
  );
  return EXPORT_KINDS.filter((_, i) => there[i]).map(({ id }) => id);
}
