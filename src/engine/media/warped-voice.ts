/** A voice that runs at another speed than it was recorded at, forwards or backwards: its pitch goes with it. */
import { SourceWindow, type Readable, type Stereo } from './source-window.ts';

/** Zero crossings of the windowed sinc to each side, and the most samples to each side where much is heard in little time. */
const CROSSINGS = 16;
const MOST_REACH = 320;
/** Speed below which sound fades away: what stands still has none. */
export const STILL = 0.05;
/** Values of the kernel between two zero crossings. */
const FINE = 256;

/** Half of a sinc in a Hann window. Source: J. O. Smith, Digital Audio Resampling, CCRMA 2002 ("bandlimited interpolation"). */
const KERNEL = Float32Array.from({ length: CROSSINGS * FINE + 2 }, (_, i) => {
  const x = i / FINE;
  if (x === 0) return 1;
  if (x >= CROSSINGS) return 0;
  return (Math.sin(Math.PI * x) / (Math.PI * x)) * (0.5 + 0.5 * Math.cos((Math.PI * x) / CROSSINGS));
});

export class WarpedVoice implements Readable {
  private readonly source: SourceWindow;

  /**
   * @param voice whose sample 0 is the source's beginning
   * @param runs source seconds heard so many seconds after its own beginning
   */
  constructor(
    voice: Readable,
    private readonly runs: (seconds: number) => number,
    private readonly rate: number,
  ) {
    this.source = new SourceWindow(voice);
  }

  get lost(): number {
    return this.source.lost;
  }

  /** Adds `count` samples from output sample `from` on to left and right at `to`, each times its gain. */
  async add(out: Stereo, to: number, from: number, count: number, gain: (sample: number) => number): Promise<void> {
    const places = Float64Array.from({ length: count + 1 }, (_, i) => this.runs((from + i) / this.rate) * this.rate);
    let [least, most, fastest] = [Infinity, -Infinity, 0];
    for (let i = 0; i <= count; i++) {
      least = Math.min(least, places[i]!);
      most = Math.max(most, places[i]!);
      if (i > 0) fastest = Math.max(fastest, Math.abs(places[i]! - places[i - 1]!));
    }
    const widest = this.reach(fastest);
    await this.source.hold(Math.max(0, Math.floor(least) - widest), Math.ceil(most) + widest + 1);
    const { from: first, planes } = this.source;
    const last = planes[0].length - 1;
    for (let i = 0; i < count; i++) {
      const speed = Math.abs(places[i + 1]! - places[i]!);
      const loudness = gain(from + i) * Math.min(1, speed / STILL);
      if (loudness === 0) continue;
      const reach = this.reach(speed);
      // What is too high for the output's rate is left out where much is heard in little time.
      const narrow = Math.min(1, CROSSINGS / reach);
      const at = places[i]! - first;
      let [left, right] = [0, 0];
      for (let k = Math.max(0, Math.ceil(at - reach)), end = Math.min(last, Math.floor(at + reach)); k <= end; k++) {
        const x = Math.abs(k - at) * narrow * FINE;
        const low = Math.floor(x);
        const weight = KERNEL[low]! + (KERNEL[low + 1]! - KERNEL[low]!) * (x - low);
        left += planes[0][k]! * weight;
        right += planes[1][k]! * weight;
      }
      out[0][to + i]! += left * narrow * loudness;
      out[1][to + i]! += right * narrow * loudness;
    }
  }

  close(): Promise<void> {
    return this.source.close();
  }

  /** Samples to each side that the kernel takes at a speed. */
  private reach(speed: number): number {
    return Math.min(MOST_REACH, Math.ceil(CROSSINGS * Math.max(1, speed)));
  }
}
