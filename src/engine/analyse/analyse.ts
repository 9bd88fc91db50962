/** One pass over a source's sound tracks and picture, giving the signals that are kept. */
import { VideoSampleSink, type VideoSample } from 'mediabunny';
import { PictureAnalyser, type PictureState } from '../../core/finding/signals/picture.ts';
import { Shrinker } from '../../core/finding/signals/shrink.ts';
import { gainFor, SoundAnalyser, type SoundState } from '../../core/finding/signals/sound.ts';
import { SIGNALS_VERSION, type Signals } from '../../core/finding/signals/types.ts';
import { cancelled } from '../errors.ts';
import { isShown, openMedia, type MediaLocation, type OpenMedia } from '../media/open.ts';
import { mono, soundBlocks } from '../media/sound.ts';
import { takeFrame, type YuvFrame } from '../media/yuv.ts';

export interface AnalyseOptions {
  readonly name: string;
  /** Sound tracks to listen to. */
  readonly tracks: readonly number[];
  readonly picture: boolean;
  /** Seconds, for progress. */
  readonly duration: number;
}

export interface Analysis {
  readonly signals: Signals;
  /** What could not be read, in sentences. */
  readonly notes: readonly string[];
}

/** Where an analysis stands: plain data, to be stored and gone on from. */
export interface Checkpoint {
  readonly version: number;
  readonly sounds: Readonly<Record<number, SoundState>>;
  readonly picture: PictureState | null;
}

export interface Report {
  progress(share: number): void;
  /** From time to time: what is known so far, and where to go on after an interruption. */
  partial?(signals: Signals, checkpoint: Checkpoint): void;
}

/** Milliseconds from one partial report to the next: at first soon, later rarely, for each copies all that is known. */
const FIRST_PARTIAL = 3000;
const PARTIAL_GROWTH = 1.3;
/** Seconds of sound decoded again before a checkpoint, so that the decoder has settled. */
const RUN_UP = 1;

/** @throws EngineError `cancelled`, or why the file cannot be read at all. */
export async function analyse(
  location: MediaLocation,
  { name, tracks, picture, duration }: AnalyseOptions,
  report: Report,
  signal?: AbortSignal,
  from?: Checkpoint | null,
  firstPartial = FIRST_PARTIAL,
): Promise<Analysis> {
  const media = await openMedia(location, name);
  const notes: string[] = [];
  const resumed = from?.version === SIGNALS_VERSION ? from : null;
  const sounds = new Map<number, SoundAnalyser>();
  const watcher =
    picture && media.video
      ? resumed?.picture
        ? PictureAnalyser.resumed(resumed.picture)
        : new PictureAnalyser()
      : null;
  const shares = new Map<string, number>(tracks.map((track) => [`sound ${track}`, 0]));
  if (watcher) shares.set('picture', 0);
  let interval = firstPartial;
  let due = performance.now() + interval;
  const known = (): Signals => ({
    version: SIGNALS_VERSION,
    sounds: Object.fromEntries([...sounds].map(([track, analyser]) => [track, analyser.finish()])),
    picture: watcher && watcher.frames > 0 ? watcher.finish() : null,
  });
  const reportPart = (part: string, seconds: number): void => {
    shares.set(part, Math.min(1, seconds / Math.max(duration, 1e-3)));
    // The picture takes nearly all of the time.
    let [done, all] = [0, 0];
    for (const [name, share] of shares) {
      const weight = name === 'picture' ? 6 : 1;
      done += share * weight;
      all += weight;
    }
    report.progress(done / all);
    if (!report.partial || performance.now() < due) return;
    const { version, ...rest } = known();
    report.partial(
      { version, ...rest },
      {
        version,
        sounds: Object.fromEntries([...sounds].map(([track, analyser]) => [track, analyser.state()])),
        picture: watcher?.state() ?? null,
      },
    );
    interval *= PARTIAL_GROWTH;
    due = performance.now() + interval;
  };
  try {
    await Promise.all([
      ...tracks
        .filter((track) => media.audio[track])
        .map(async (track) => {
          const state = resumed?.sounds[track];
          if (state) sounds.set(track, SoundAnalyser.resumed(state));
          await analyseSound(
            media,
            track,
            sounds,
            state,
            duration,
            (t) => reportPart(`sound ${track}`, t),
            notes,
            signal,
          );
        }),
      watcher ? analysePicture(media, watcher, (t) => reportPart('picture', t), notes, signal) : null,
    ]);
    return { signals: known(), notes };
  } finally {
    media.input.dispose();
  }
}

/** Stretches of a longer recording that say how loud it is, and seconds of each. */
const HEARD = 24;
const STRETCH = 2;

/** The loudest sample of a track, or of stretches all through it; of what can be read. */
async function peakOf(media: OpenMedia, track: number, duration: number, signal?: AbortSignal): Promise<number> {
  const [starts, seconds] =
    duration <= HEARD * STRETCH
      ? [[0], Infinity]
      : [Array.from({ length: HEARD }, (_, i) => (i * (duration - STRETCH)) / (HEARD - 1)), STRETCH];
  let peak = 0;
  try {
    for (const from of starts) {
      for await (const block of soundBlocks(media, track, from, from + seconds)) {
        if (signal?.aborted) return peak;
        for (const sample of mono(block)) if (Math.abs(sample) > peak) peak = Math.abs(sample);
      }
    }
  } catch {
    // The analysis itself says where it cannot be read.
  }
  return peak;
}

async function analyseSound(
  media: OpenMedia,
  track: number,
  sounds: Map<number, SoundAnalyser>,
  state: SoundState | undefined,
  duration: number,
  report: (t: number) => void,
  notes: string[],
  signal?: AbortSignal,
): Promise<void> {
  const gain = state ? state.gain : gainFor(await peakOf(media, track, duration, signal));
  let analyser = sounds.get(track);
  let rate = state?.sampleRate ?? 0;
  let start = state?.start ?? 0;
  // Samples given to the analyser, gaps filled in.
  let written = state?.taken ?? 0;
  /** Still at sound that was heard before. */
  let again = state !== undefined;
  try {
    for await (const block of soundBlocks(media, track, state ? Math.max(0, start + written / rate - RUN_UP) : 0)) {
      if (signal?.aborted) throw cancelled();
      if (!analyser) {
        rate = block.sampleRate;
        start = block.t;
        sounds.set(track, (analyser = new SoundAnalyser(rate, start, undefined, gain)));
      }
      // Gaps in the sound are filled with silence, so that later attacks stay where they are.
      const place = Math.round((block.t - start) * rate);
      const gap = place - written;
      if (gap > rate * 0.02) {
        analyser.push(new Float32Array(gap));
        written += gap;
      }
      let samples = mono(block);
      // What was heard before the checkpoint.
      if (again) {
        if (gap < 0) samples = samples.subarray(Math.min(samples.length, -gap));
        again = samples.length === 0;
      }
      analyser.push(samples);
      written += samples.length;
      report(block.t);
    }
  } catch (error) {
    if (signal?.aborted) throw cancelled();
    notes.push(
      `The sound can be read only up to ${(start + (rate ? written / rate : 0)).toFixed(1)} s: ${error instanceof Error ? error.message : 'damaged'}`,
    );
  }
}

async function analysePicture(
  media: OpenMedia,
  analyser: PictureAnalyser,
  report: (t: number) => void,
  notes: string[],
  signal?: AbortSignal,
): Promise<void> {
  let shrinker = null as Shrinker | null;
  const after = analyser.lastTime;
  let last = Math.max(0, after);
  let count = 0;
  let asked = 0;
  // While one frame is copied out, the next is asked for; two places take turns.
  let waiting: { sample: Pick<VideoSample, 'timestamp' | 'duration'>; frame: Promise<YuvFrame> } | null = null;
  const settle = async (): Promise<void> => {
    if (!waiting) return;
    const {
      sample: { timestamp, duration },
      frame,
    } = waiting;
    waiting = null;
    const { data, width, height, colour } = await frame;
    if (shrinker?.width !== width || shrinker.height !== height) shrinker = new Shrinker(width, height, data.length);
    analyser.push(shrinker.take(data, colour.fullRange), timestamp, duration);
    last = timestamp;
    if (++count % 8 === 0) report(timestamp);
  };
  try {
    for await (const sample of new VideoSampleSink(media.video!).samples(Number.isFinite(after) ? after : undefined)) {
      if (sample.timestamp <= after || !isShown(sample, media.end)) {
        sample.close();
        continue;
      }
      const { timestamp, duration } = sample;
      const frame = takeFrame(sample, shrinker?.frames[asked++ & 1]);
      frame.catch(() => undefined);
      await settle();
      waiting = { sample: { timestamp, duration }, frame };
      if (signal?.aborted) throw cancelled();
    }
    await settle();
  } catch (error) {
    if (signal?.aborted) throw cancelled();
    notes.push(
      `The picture can be read only up to ${last.toFixed(1)} s: ${error instanceof Error ? error.message : 'damaged'}`,
    );
  }
}
