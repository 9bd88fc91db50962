/** Mixes voices by lanes into stereo blocks; the same for preview and export. */
import { LaneMoves } from '../../core/sound/lane-moves.ts';
import { limit, LIMIT_AFTER, LIMIT_BEFORE } from '../../core/sound/limiter.ts';
import { make } from '../../core/sound/made/index.ts';
import { segmentGain, type Mix, type SoundSegment } from '../../core/sound/sound-plan.ts';
import { LANES, type Lane } from '../../core/document/words.ts';
import { MemoryVoice } from './memory-voice.ts';
import { openMedia, type MediaLocation, type OpenMedia } from './open.ts';
import { SourceWindow, type Readable } from './source-window.ts';
import { StretchedVoice } from './stretched-voice.ts';
import { Voice } from './voice.ts';
import { WarpedVoice } from './warped-voice.ts';

type Stereo = [Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>];

/** Samples of mixed sound that are kept, so that a loop's second round decodes nothing. */
const MOST_KEPT = 30 * 48000;

/** Sound that could not be read: how much of which source. */
export interface LostSound {
  readonly source: string;
  readonly seconds: number;
}

const empty = (samples: number): Stereo => [new Float32Array(samples), new Float32Array(samples)];

export class Mixer {
  private readonly open = new Map<string, Promise<OpenMedia>>();
  private readonly voices = new Map<SoundSegment, Readable>();
  private readonly moves: ReadonlyMap<Lane, LaneMoves>;
  /** Mixed blocks by where they lie, oldest first. */
  private readonly kept = new Map<string, Stereo>();
  private keptSamples = 0;
  private readonly lostBefore = new Map<string, number>();
  private queue: Promise<unknown> = Promise.resolve();
  /** Mixed and not yet limited, from a sample on: what comes before and after a block is asked again. */
  private readonly raw = new SourceWindow(
    {
      lost: 0,
      add: async (out, to, from, count) => {
        const made = await this.mixed(from, count);
        made.forEach((plane, c) => out[c]!.set(plane, to));
      },
      close: () => Promise.resolve(),
    },
    0,
  );
  /** The most that the limiter took off so far, decibels, and for how many samples it took off any. */
  limited = { most: 0, samples: 0 };

  /**
   * @param only the one lane that is heard, by itself and not limited; all of them where absent
   * @param sampleRate a whole number
   */
  constructor(
    private readonly mix: Mix,
    private readonly locate: (source: string) => MediaLocation | undefined,
    readonly sampleRate: number,
    private readonly only?: Lane,
  ) {
    this.moves = new Map(LANES.map((lane) => [lane, new LaneMoves(mix.moves, lane, sampleRate)]));
  }

  /**
   * Left and right from `from` (montage seconds) for `frames` samples. Blocks that follow one another are read on; any
   * other order costs a seek. @throws EngineError when a source cannot be opened
   */
  read(from: number, frames: number): Promise<Stereo> {
    const job = this.queue.then(() => this.block(Math.round(from * this.sampleRate), frames));
    this.queue = job.catch(() => undefined);
    return job;
  }

  /** What of the sound read so far could not be decoded. */
  lost(): LostSound[] {
    const seconds = new Map(this.lostBefore);
    for (const [{ source }, voice] of this.voices) seconds.set(source, (seconds.get(source) ?? 0) + voice.lost);
    return [...seconds].flatMap(([source, s]) => (s > 0 ? [{ source, seconds: s }] : []));
  }

  async close(): Promise<void> {
    await this.queue.catch(() => undefined);
    for (const segment of [...this.voices.keys()]) await this.drop(segment);
    for (const media of this.open.values()) (await media.catch(() => null))?.input.dispose();
    this.open.clear();
    this.kept.clear();
  }

  private async block(from: number, frames: number): Promise<Stereo> {
    const key = `${from} ${frames}`;
    const kept = this.kept.get(key);
    // Handed over to another thread they are gone: what is kept stays here.
    if (kept) return [kept[0].slice(), kept[1].slice()];
    const out = this.only ? await this.mixed(from, frames) : await this.limitedBlock(from, frames);
    this.keep(key, out);
    return [out[0].slice(), out[1].slice()];
  }

  private async limitedBlock(from: number, frames: number): Promise<Stereo> {
    const [before, after] = [LIMIT_BEFORE, LIMIT_AFTER].map((seconds) => Math.ceil(seconds * this.sampleRate));
    const begin = Math.max(0, from - before!);
    const end = from + frames + after!;
    await this.raw.hold(begin, end);
    const { planes, from: first } = this.raw;
    const [left, right] = planes.map((plane) => plane.slice(begin - first, end - first)) as Stereo;
    const at = from - begin;
    const down = limit(left, right, this.mix.master.ceiling, this.sampleRate, at, at + frames);
    for (let i = at; i < at + frames; i++)
      if (down[i]! < 0) {
        this.limited.samples++;
        this.limited.most = Math.max(this.limited.most, -down[i]!);
      }
    return [left.slice(at, at + frames), right.slice(at, at + frames)];
  }

  /** All lanes, each with what accents do to it, at the gain of the whole. */
  private async mixed(from: number, frames: number): Promise<Stereo> {
    const out = empty(frames);
    const gain = 10 ** (this.mix.master.gain / 20);
    for (const lane of LANES) {
      if (this.only && lane !== this.only) continue;
      const bus = await this.lane(lane, from, frames);
      if (!bus) continue;
      this.moves.get(lane)!.run(...bus, from);
      for (let c = 0; c < 2; c++) {
        const [to, own] = [out[c]!, bus[c]!];
        for (let i = 0; i < frames; i++) {
          const v = gain * own[i]!;
          // Damaged floats are no numbers: one of them would silence all that follows it.
          if (Number.isFinite(v)) to[i]! += v;
        }
      }
    }
    return out;
  }

  /** What sounds of a lane; null where nothing does. */
  private async lane(lane: Lane, from: number, frames: number): Promise<Stereo | null> {
    let out: Stereo | null = null;
    const to = from + frames;
    for (const segment of this.mix.voices) {
      if (segment.lane !== lane) continue;
      const begin = Math.round(segment.at * this.sampleRate);
      const end = begin + Math.round((segment.out - segment.in) * this.sampleRate);
      const [first, last] = [Math.max(from, begin), Math.min(to, end)];
      if (last <= first) {
        // Behind what is played: a new round of a loop opens it again.
        if (this.voices.has(segment) && (end <= from || begin > to + this.sampleRate)) await this.drop(segment);
        continue;
      }
      const voice = await this.voiceOf(segment);
      if (!voice) continue;
      out ??= empty(frames);
      await this.sound(voice, segment, out, first - from, first - begin, last - first);
    }
    return out;
  }

  private async sound(
    voice: Readable,
    segment: SoundSegment,
    out: Stereo,
    to: number,
    from: number,
    count: number,
  ): Promise<void> {
    const { side = 0, gain } = segment;
    const steady = !segment.fadeIn && !segment.fadeOut && !segment.curve;
    const gainAt = (sample: number): number => (steady ? gain : segmentGain(segment, sample / this.sampleRate));
    if (!side) return voice.add(out, to, from, count, gainAt);
    const own = empty(count);
    await voice.add(own, 0, from, count, gainAt);
    const factors = [Math.min(1, 1 - side), Math.min(1, 1 + side)];
    factors.forEach((factor, c) => {
      for (let i = 0; i < count; i++) out[c]![to + i]! += factor * own[c]![i]!;
    });
  }

  private keep(key: string, block: Stereo): void {
    this.kept.set(key, block);
    this.keptSamples += block[0].length;
    for (const [oldest, { 0: left }] of this.kept) {
      if (this.keptSamples <= MOST_KEPT || oldest === key) break;
      this.kept.delete(oldest);
      this.keptSamples -= left.length;
    }
  }

  private async voiceOf(segment: SoundSegment): Promise<Readable | null> {
    const known = this.voices.get(segment);
    if (known) return known;
    const whole = await this.source(segment);
    if (!whole) return null;
    const { runs } = segment;
    const voice = !runs
      ? whole(segment.in)
      : segment.pitch === 'kept'
        ? new StretchedVoice(whole(0), runs, this.sampleRate, segment.semitones)
        : new WarpedVoice(whole(0), runs, this.sampleRate);
    this.voices.set(segment, voice);
    return voice;
  }

  /** What is heard of a segment, whose sample 0 lies at so many seconds; null where it is missing. */
  private async source(segment: SoundSegment): Promise<((origin: number) => Readable) | null> {
    const { made, source, track } = segment;
    if (made) {
      const { samples } = make(made.made, made.params, made.seed);
      return (origin) => new MemoryVoice(samples, origin, this.sampleRate);
    }
    const location = this.locate(source);
    if (!location) return null;
    let media = this.open.get(source);
    if (!media) this.open.set(source, (media = openMedia(location, source)));
    const opened = await media;
    return opened.audio[track] ? (origin) => new Voice(opened, track, origin, this.sampleRate) : null;
  }

  private async drop(segment: SoundSegment): Promise<void> {
    const voice = this.voices.get(segment);
    if (!voice) return;
    this.voices.delete(segment);
    if (voice.lost) this.lostBefore.set(segment.source, (this.lostBefore.get(segment.source) ?? 0) + voice.lost);
    await voice.close();
  }
}
