/** The mix by itself: how loud it is, and as a WAV file, whole or lane by lane. */
import {
  AudioSample,
  AudioSampleSource,
  Output,
  StreamTarget,
  WavOutputFormat,
  type StreamTargetChunk,
} from 'mediabunny';
import { LoudnessMeter, type Loudness } from '../../core/sound/loudness.ts';
import { soundPlan } from '../../core/sound/sound-plan.ts';
import { DEFAULT_MASTER, LANES, type Lane, type Montage } from '../../core/document/types.ts';
import { EngineError, cancelled } from '../errors.ts';
import { missingFiles } from './missing.ts';
import type { MediaLocation } from '../media/open.ts';
import type { ListedStarts } from '../media/starts.ts';
import type { Mixer } from '../media/mixer.ts';
import { FrameServer } from '../preview/frame-server.ts';

export interface SoundJob {
  readonly montage: Montage;
  readonly locations: ReadonlyMap<string, MediaLocation>;
  readonly listed: ListedStarts;
}

export interface Levels {
  readonly mix: Loudness;
  /** Each by itself, before the gain of the whole is limited; without those that nothing sounds of. */
  readonly lanes: Partial<Record<Lane, Loudness>>;
  /** The most that the limiter takes off, decibels, and seconds in which it takes off any. */
  readonly limited: { readonly most: number; readonly seconds: number };
}

const RATE = 48_000;
/** Samples mixed at once. */
const BLOCK = 48_000;
/** Loudness units that a target is reached within, and how often it is tried. */
const NEAR = 0.05;
const MOST_TRIES = 5;

/** Opens what a montage sounds like. @throws EngineError where something that is heard is missing */
async function opened({ montage, locations, listed }: SoundJob): Promise<FrameServer> {
  const server = new FrameServer('cpu');
  await server.setMontage(montage, listed);
  for (const [source, location] of locations) await server.setMedia(source, location);
  const { timeline } = server.planner;
  const heard = soundPlan(montage, timeline, server.planner.sounding());
  const missing = missingFiles(montage, [], heard, locations);
  if (missing.length)
    throw new EngineError(
      'media-missing',
      `${missing.join(', ')} cannot be heard: the file is missing. Bring it in again.`,
    );
  return server;
}

/** All of a mixer's sound, block after block. */
async function* blocksOf(
  mixer: Mixer,
  seconds: number,
  signal?: AbortSignal,
): AsyncGenerator<[Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>]> {
  const end = Math.round(seconds * mixer.sampleRate);
  try {
    for (let from = 0; from < end; from += BLOCK) {
      if (signal?.aborted) throw cancelled();
      yield await mixer.read(from / mixer.sampleRate, Math.min(BLOCK, end - from));
    }
  } finally {
    await mixer.close();
  }
}

async function measured(mixer: Mixer, seconds: number, signal?: AbortSignal): Promise<Loudness> {
  const meter = new LoudnessMeter(mixer.sampleRate);
  for await (const [left, right] of blocksOf(mixer, seconds, signal)) meter.add(left, right);
  return meter.result();
}

/** How loud a montage is, and each of its lanes. @throws EngineError where something that is heard is missing */
export async function levelsOf(job: SoundJob, signal?: AbortSignal): Promise<Levels> {
  const server = await opened(job);
  try {
    const { duration } = server.planner.timeline;
    const whole = server.newMixer(RATE);
    const mix = await measured(whole, duration, signal);
    const lanes: Partial<Record<Lane, Loudness>> = {};
    for (const lane of LANES) {
      const own = await measured(server.newMixer(RATE, lane), duration, signal);
      if (own.momentary > -Infinity) lanes[lane] = own;
    }
    const { most, samples } = whole.limited;
    return { mix, lanes, limited: { most, seconds: samples / RATE } };
  } finally {
    await server.close();
  }
}

/**
 * The gain of the whole, decibels, at which the mix is as loud as is wanted with its peaks limited; null where it is silent.
 * @param target LUFS
 */
export async function gainFor(job: SoundJob, target: number, signal?: AbortSignal): Promise<number | null> {
  const master = job.montage.settings.master ?? DEFAULT_MASTER;
  let { gain } = master;
  for (let round = 0; round < MOST_TRIES; round++) {
    const montage = { ...job.montage, settings: { ...job.montage.settings, master: { ...master, gain } } };
    const server = await opened({ ...job, montage });
    const { integrated } = await measured(server.newMixer(RATE), server.planner.timeline.duration, signal).finally(() =>
      server.close(),
    );
    if (integrated === -Infinity) return null;
    const off = target - integrated;
    if (Math.abs(off) < NEAR) break;
    gain = Math.min(60, Math.max(-96, gain + off));
  }
  return Math.round(gain * 100) / 100;
}

export interface WaveOptions {
  readonly what: 'mix' | Lane;
  readonly bits: 16 | 24 | 32;
  readonly rate: 48_000 | 44_100;
}

/** Writes the mix, or one lane of it, as WAV: whole numbers of 16 or 24 bits, or floats of 32. */
export async function writeWave(
  job: SoundJob,
  { what, bits, rate }: WaveOptions,
  writable: WritableStream<StreamTargetChunk>,
  signal?: AbortSignal,
): Promise<{ readonly seconds: number }> {
  let server: FrameServer | null = null;
  const output = new Output({ format: new WavOutputFormat(), target: new StreamTarget(writable, { chunked: true }) });
  try {
    server = await opened(job);
    const codec = bits === 16 ? 'pcm-s16' : bits === 24 ? 'pcm-s24' : 'pcm-f32';
    const source = new AudioSampleSource({ codec });
    output.addAudioTrack(source);
    await output.start();
    const { duration } = server.planner.timeline;
    let at = 0;
    for await (const [left, right] of blocksOf(
      server.newMixer(rate, what === 'mix' ? undefined : what),
      duration,
      signal,
    )) {
      const data = new Float32Array(2 * left.length);
      data.set(left);
      data.set(right, left.length);
      const sample = new AudioSample({
        data,
        format: 'f32-planar',
        numberOfChannels: 2,
        sampleRate: rate,
        timestamp: at / rate,
      });
      await source.add(sample);
      sample.close();
      at += left.length;
    }
    await output.finalize();
    return { seconds: duration };
  } catch (error) {
    if (output.state !== 'finalized') await output.cancel().catch(() => undefined);
    await writable.abort(error).catch(() => undefined);
    throw signal?.aborted ? cancelled() : error;
  } finally {
    await server?.close();
  }
}
