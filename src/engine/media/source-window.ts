/** Samples of a voice in any order: what is asked for again is at hand. */
import type { Voice } from './voice.ts';

export type Stereo = readonly [Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>];

/** What is read beside what is asked for by sounds that run backwards. */
const MARGIN = 24_000;

/** What can be read from any sample on. */
export type Readable = Pick<Voice, 'add' | 'close' | 'lost'>;

export class SourceWindow {
  /** The first sample that is at hand. */
  from = 0;
  planes: Stereo = [new Float32Array(), new Float32Array()];

  /**
   * @param voice whose sample 0 is the source's beginning
   * @param margin samples read beside what is asked for, where that goes backwards
   */
  constructor(
    private readonly voice: Readable,
    private readonly margin = MARGIN,
  ) {}

  get lost(): number {
    return this.voice.lost;
  }

  close(): Promise<void> {
    return this.voice.close();
  }

  /** Reads the source from sample `from` to before `to`, but for what is at hand already. `from` is not negative. */
  async hold(from: number, to: number): Promise<void> {
    const end = this.from + this.planes[0].length;
    if (from >= this.from && to <= end) return;
    // Backwards each stretch comes before the last one: it is read with what is asked for next.
    if (from < this.from && to > this.from - this.margin) return this.read(Math.max(0, from - this.margin), to);
    return this.read(from, to);
  }

  private async read(from: number, to: number): Promise<void> {
    const end = this.from + this.planes[0].length;
    const known = from >= this.from && from <= end ? Math.min(end, to) : from;
    const planes: Stereo = [new Float32Array(to - from), new Float32Array(to - from)];
    if (known > from)
      planes.forEach((plane, c) => plane.set(this.planes[c]!.subarray(from - this.from, known - this.from)));
    if (to > known) await this.voice.add(planes, known - from, known, to - known, () => 1);
    this.from = from;
    this.planes = planes;
  }
}
