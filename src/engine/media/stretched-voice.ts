/** A voice at another speed or another pitch, each by itself: slowed it is as high as it was, forwards or backwards. */
import { SourceWindow, type Readable, type Stereo } from './source-window.ts';
import { Stretcher } from './stretch.ts';
import { STILL } from './warped-voice.ts';

/** Samples made at once; they lie on a grid from the voice's beginning on. */
const BLOCK = 256;
/** Steps made and thrown away after a seek, until what is made no longer begins. */
const RUN_IN = 3;

export class StretchedVoice implements Readable {
  private readonly source: SourceWindow;
  private stretcher: Stretcher | null = null;
  /** Output sample that `block` begins with, NaN before anything was made. */
  private made = Number.NaN;
  private block: Stereo = [new Float32Array(BLOCK), new Float32Array(BLOCK)];

  /**
   * @param voice whose sample 0 is the source's beginning
   * @param runs source seconds heard so many seconds after its own beginning
   * @param semitones by which it is higher than it was recorded
   */
  constructor(
    voice: Readable,
    private readonly runs: (seconds: number) => number,
    private readonly rate: number,
    private readonly semitones = 0,
  ) {
    this.source = new SourceWindow(voice);
  }

  get lost(): number {
    return this.source.lost;
  }

  close(): Promise<void> {
    return this.source.close();
  }

  /** Adds `count` samples from output sample `from` on to left and right at `to`, each times its gain. */
  async add(out: Stereo, to: number, from: number, count: number, gain: (sample: number) => number): Promise<void> {
    for (let done = 0; done < count;) {
      const begin = Math.floor((from + done) / BLOCK) * BLOCK;
      await this.make(begin);
      const at = from + done - begin;
      const length = Math.min(BLOCK - at, count - done);
      for (let i = 0; i < length; i++) {
        const factor = gain(from + done + i) * this.loudness(from + done + i);
        out[0][to + done + i]! += this.block[0][at + i]! * factor;
        out[1][to + done + i]! += this.block[1][at + i]! * factor;
      }
      done += length;
    }
  }

  /** Source samples a sample, negative backwards. */
  private speed(sample: number): number {
    const here = sample / this.rate;
    return (this.runs(here + 1e-3) - this.runs(here)) / 1e-3;
  }

  /** What stands still has no sound. */
  private loudness(sample: number): number {
    return Math.min(1, Math.abs(this.speed(sample)) / STILL);
  }

  /** Has the block that begins with a sample. */
  private async make(begin: number): Promise<void> {
    if (this.made === begin) return;
    const stretcher = (this.stretcher ??= await Stretcher.make());
    if (this.made !== begin - BLOCK) {
      stretcher.reset();
      const settled = Math.ceil((RUN_IN * stretcher.delay) / BLOCK) * BLOCK;
      for (let at = begin - settled; at < begin; at += BLOCK) await this.step(stretcher, at);
    }
    const [left, right] = await this.step(stretcher, begin);
    this.block[0].set(left);
    this.block[1].set(right);
    this.made = begin;
  }

  private async step(stretcher: Stretcher, begin: number): Promise<readonly [Float32Array, Float32Array]> {
    const later = begin + stretcher.delay;
    const speed = this.speed(later);
    const back = speed < 0;
    const { reads, ahead } = stretcher;
    const place = Math.round(this.runs(later / this.rate) * this.rate);
    // Backwards the same is read from the other end.
    const first = back ? place - ahead + 1 : place + ahead - reads;
    await this.source.hold(Math.max(0, first), Math.max(0, first + reads));
    const { from, planes } = this.source;
    return stretcher.next(
      (...channels) =>
        channels.forEach((channel, c) => {
          for (let i = 0; i < reads; i++) channel[back ? reads - 1 - i : i] = planes[c]![first + i - from] ?? 0;
        }),
      Math.abs(speed),
      this.semitones,
      BLOCK,
    );
  }
}
