/** Plays the sound plan into stereo blocks; the same for preview and export. */
import { segmentGain, type SoundSegment } from '../../core/sound/sound-plan.ts';
import { openMedia, type MediaLocation, type OpenMedia } from './open.ts';
import { Voice } from './voice.ts';
import { StretchedVoice } from './stretched-voice.ts';
import { WarpedVoice } from './warped-voice.ts';

type Stereo = [Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>];

/** Samples of mixed sound that are kept, so that a loop's second round decodes nothing. */
const MOST_KEPT = 30 * 48000;

type Heard = Voice | WarpedVoice | StretchedVoice;

/** Sound that could not be read: how much of which source. */
export interface LostSound {
  readonly source: string;
  readonly seconds: number;
}

export class Mixer {
  private readonly open = new Map<string, Promise<OpenMedia>>();
  private readonly voices = new Map<SoundSegment, Heard>();
  /** Mixed blocks by where they lie, oldest first. */
  private readonly kept = new Map<string, Stereo>();
  private keptSamples = 0;
  private readonly lostBefore = new Map<string, number>();
  private queue: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly segments: readonly SoundSegment[],
    private readonly locate: (source: string) => MediaLocation | undefined,
    readonly sampleRate: number,
  ) {}

  /**
   * Left and right from `from` (montage seconds) for `frames` samples. Blocks that follow one another are read on; any
   * other order costs a seek. @throws EngineError when a source cannot be opened
   */
  read(from: number, frames: number): Promise<Stereo> {
    const job = this.queue.then(() => this.mix(Math.round(from * this.sampleRate), frames));
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

  private async mix(from: number, frames: number): Promise<Stereo> {
    const key = `${from} ${frames}`;
    const kept = this.kept.get(key);
    // Handed over to another thread they are gone: what is kept stays here.
    if (kept) return [kept[0].slice(), kept[1].slice()];
    const out: Stereo = [new Float32Array(frames), new Float32Array(frames)];
    const to = from + frames;
    for (const segment of this.segments) {
      const begin = Math.round(segment.at * this.sampleRate);
      const end = begin + Math.round((segment.out - segment.in) * this.sampleRate);
      const [first, last] = [Math.max(from, begin), Math.min(to, end)];
      if (last <= first) {
        // Behind what is played: a new round of a loop opens it again.
        if (end <= from || begin > to + this.sampleRate) await this.drop(segment);
        continue;
      }
      const voice = await this.voiceOf(segment);
      const steady = !segment.fadeIn && !segment.fadeOut;
      await voice?.add(out, first - from, first - begin, last - first, (sample) =>
        steady ? segment.gain : segmentGain(segment, sample / this.sampleRate),
      );
    }
    for (const channel of out) for (let i = 0; i < frames; i++) channel[i] = Math.max(-1, Math.min(1, channel[i]!));
    this.keep(key, out);
    return [out[0].slice(), out[1].slice()];
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

  private async voiceOf(segment: SoundSegment): Promise<Heard | null> {
    const known = this.voices.get(segment);
    if (known) return known;
    const location = this.locate(segment.source);
    if (!location) return null;
    let media = this.open.get(segment.source);
    if (!media) this.open.set(segment.source, (media = openMedia(location, segment.source)));
    const opened = await media;
    if (!opened.audio[segment.track]) return null;
    const { runs } = segment;
    const whole = (from: number): Voice => new Voice(opened, segment.track, from, this.sampleRate);
    const voice = !runs
      ? whole(segment.in)
      : segment.pitch === 'kept'
        ? new StretchedVoice(whole(0), runs, this.sampleRate)
        : new WarpedVoice(whole(0), runs, this.sampleRate);
    this.voices.set(segment, voice);
    return voice;
  }

  private async drop(segment: SoundSegment): Promise<void> {
    const voice = this.voices.get(segment);
    if (!voice) return;
    this.voices.delete(segment);
    if (voice.lost) this.lostBefore.set(segment.source, (this.lostBefore.get(segment.source) ?? 0) + voice.lost);
    await voice.close();
  }
}
