/** One thing that sounds, read on from one decoder for as long as it sounds. */
import { MatroskaInputFormat } from 'mediabunny';
import { Resampler } from '../../core/base/resample.ts';
import { toStereo } from '../../core/sound/downmix.ts';
import type { OpenMedia } from './open.ts';
import { soundBlocks, type SoundBlock } from './sound.ts';

/**
 * Seconds decoded before the first wanted sample after a seek. AAC, MP3 and Opus carry state from packet to packet:
 * RFC 7845, section 4.6, asks for 80 ms of Opus, and of the others one to four packets are not right; a second
 * covers them all.
 */
const RUN_IN = 1;
/** Seconds by which a block may be dated off where the last one ended: containers round times to milliseconds. */
const JITTER = 0.02;
/** Seconds passed over where the decoder gives up, before it is asked again. */
const SKIP = 0.25;
/** Output samples made before the first wanted one, so that the resampler's filter is full. */
const SETTLE = 512;

type Stereo = readonly [Float32Array<ArrayBuffer>, Float32Array<ArrayBuffer>];

/** Left and right of one sound track at another rate, from any source time on. */
export class Voice {
  private blocks: AsyncGenerator<SoundBlock> | null = null;
  /** Source seconds at which the next decoded sample is expected. */
  private expected = 0;
  private sourceRate = 0;
  /** Source seconds at which the track's second block begins, where its container rounds times; null elsewhere. */
  private anchor: number | null | undefined;
  /** Output samples that only fill the filter, still to be dropped. */
  private settling = 0;
  private resamplers: Resampler[] = [];
  /** Stereo at the output's rate that was made and not yet read. */
  private made: { planes: Stereo; at: number }[] = [];
  /** Output samples since `origin` of the next one that is read. */
  private position = Number.NaN;
  private ended = false;
  /** Seconds of this track that could not be decoded. */
  lost = 0;

  /**
   * @param origin source seconds of output sample 0
   * @param rate samples a second of the output, a whole number
   */
  constructor(
    private readonly media: OpenMedia,
    private readonly track: number,
    private readonly origin: number,
    private readonly rate: number,
  ) {}

  /** Adds `count` samples from output sample `from` on to left and right at `to`, each times its gain. */
  async add(out: Stereo, to: number, from: number, count: number, gain: (sample: number) => number): Promise<void> {
    if (from !== this.position) await this.seek(from);
    let done = 0;
    while (done < count) {
      const next = this.made[0];
      if (!next) {
        if (this.ended) break;
        await this.more();
        continue;
      }
      const [left, right] = next.planes;
      const length = Math.min(count - done, left.length - next.at);
      for (let i = 0; i < length; i++) {
        const factor = gain(from + done + i);
        out[0][to + done + i]! += left[next.at + i]! * factor;
        out[1][to + done + i]! += right[next.at + i]! * factor;
      }
      next.at += length;
      done += length;
      if (next.at === left.length) this.made.shift();
    }
    this.position = from + count;
  }

  async close(): Promise<void> {
    const { blocks } = this;
    this.blocks = null;
    await blocks?.return(undefined);
    this.made = [];
    this.position = Number.NaN;
  }

  private timeOf(sample: number): number {
    return this.origin + sample / this.rate;
  }

  private async seek(sample: number): Promise<void> {
    await this.close();
    this.ended = false;
    this.resamplers = [];
    this.position = sample;
    const from = Math.max(0, this.timeOf(sample) - RUN_IN);
    if (from > 0 && this.anchor === undefined) this.anchor = await this.gridAnchor();
    const blocks = soundBlocks(this.media, this.track, from);
    this.blocks = blocks;
    // Of the first block of all that follows a seek the decoder may keep a part back.
    if (from > 0 && !(await blocks.next().catch(() => null)))
      this.blocks = soundBlocks(this.media, this.track, from + SKIP);
  }

  private async gridAnchor(): Promise<number | null> {
    if (!((await this.media.input.getFormat()) instanceof MatroskaInputFormat)) return null;
    for await (const { t, sampleRate, channels } of soundBlocks(this.media, this.track))
      return t + channels[0]!.length / sampleRate;
    return null;
  }

  /** Decodes one more block into what is made. */
  private async more(): Promise<void> {
    let block: SoundBlock | undefined;
    try {
      const next = await this.blocks?.next();
      if (next && !next.done) block = next.value;
    } catch {
      // What is damaged stays silent, as long as it lasts; what comes after it is heard again.
      const from = Math.max(this.expected, this.timeOf(this.position)) + SKIP;
      this.lost += SKIP;
      if (from < (await this.media.audio[this.track]!.computeDuration({ metadataOnly: true }).catch(() => 0)))
        this.blocks = soundBlocks(this.media, this.track, from);
      else this.blocks = null;
      if (this.blocks) return;
    }
    if (!block) {
      this.flush();
      this.ended = true;
      return;
    }
    if (!block.channels[0]?.length) return;
    if (this.resamplers.length && block.sampleRate !== this.sourceRate) this.flush();
    if (!this.resamplers.length) this.begin(block);
    const rate = this.sourceRate;
    const [left, right] = toStereo(block.channels);
    const off = Math.round((block.t - this.expected) * rate);
    if (Math.abs(off) <= JITTER * rate) this.feed(left, right);
    else if (off > 0) {
      // A gap is as long as it is dated; what the file says after it keeps its place.
      for (let rest = off; rest > 0; rest -= rate) this.feed(...silence(Math.min(rest, rate)));
      this.feed(left, right);
    } else if (-off < left.length) this.feed(left.subarray(-off), right.subarray(-off));
  }

  /** Sets the resamplers up so that output sample `position` comes first of all that is kept. */
  private begin(block: SoundBlock): void {
    const { sampleRate: rate } = block;
    const t = gridTime(block, this.anchor ?? null);
    this.sourceRate = rate;
    // The first output sample that lies in the block, some before the wanted one where there are any.
    const first = Math.max(this.position - SETTLE, Math.ceil((t - this.origin) * this.rate - 1e-6));
    const at = (this.timeOf(first) - t) * rate;
    this.resamplers = Array.from(
      { length: block.channels.length === 1 ? 1 : 2 },
      () => new Resampler(rate, this.rate, undefined, Math.max(0, at)),
    );
    this.expected = t;
    // What comes before the block is silence; what is made before the wanted sample is dropped.
    if (first > this.position) this.made.push({ planes: silence(first - this.position), at: 0 });
    this.settling = Math.max(0, this.position - first);
  }

  private feed(left: Float32Array<ArrayBuffer>, right: Float32Array<ArrayBuffer>): void {
    this.expected += left.length / this.sourceRate;
    const [one, other] = this.resamplers;
    const l = one!.all(left);
    const r = other ? other.all(right) : l;
    const drop = Math.min(this.settling, l.length);
    this.settling -= drop;
    if (l.length > drop) this.made.push({ planes: [l, r], at: drop });
  }

  /** Gives out what the filter still holds. */
  private flush(): void {
    if (!this.resamplers.length) return;
    const expected = this.expected;
    this.feed(...silence(Math.ceil((64 * this.sourceRate) / Math.min(this.sourceRate, this.rate))));
    this.expected = expected;
    this.resamplers = [];
  }
}

const silence = (length: number): Stereo => {
  const plane = new Float32Array(length);
  return [plane, plane];
};

/**
 * When the first block after a seek begins. Matroska counts milliseconds, and its writers round more than once; packets
 * of one length lie on a grid, and the place on the grid is exact.
 */
function gridTime({ t, sampleRate, channels }: SoundBlock, anchor: number | null): number {
  if (anchor === null) return t;
  const step = channels[0]!.length / sampleRate;
  const grid = anchor + Math.round((t - anchor) / step) * step;
  return Math.abs(grid - t) < 1.2e-3 ? grid : t;
}
