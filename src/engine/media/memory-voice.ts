/** Sound that is at hand as a whole, read as a voice is. */
import { Resampler } from '../../core/base/resample.ts';
import { MADE_RATE } from '../../core/sound/made/index.ts';
import type { Readable, Stereo } from './source-window.ts';

export class MemoryVoice implements Readable {
  readonly lost = 0;
  private readonly samples: Float32Array;

  /**
   * @param made mono at {@link MADE_RATE}
   * @param origin seconds of output sample 0
   */
  constructor(
    made: Float32Array<ArrayBuffer>,
    private readonly origin: number,
    private readonly rate: number,
  ) {
    this.samples = rate === MADE_RATE ? made : resampled(made, rate);
  }

  async add(out: Stereo, to: number, from: number, count: number, gain: (sample: number) => number): Promise<void> {
    const first = from + Math.round(this.origin * this.rate);
    for (let i = Math.max(0, -first); i < count; i++) {
      const value = this.samples[first + i];
      if (value === undefined) break;
      const v = value * gain(from + i);
      out[0][to + i]! += v;
      out[1][to + i]! += v;
    }
  }

  async close(): Promise<void> {
    return undefined;
  }
}

/** Padded with silence, so that the filter gives its end out. */
function resampled(made: Float32Array<ArrayBuffer>, rate: number): Float32Array {
  const padded = new Float32Array(made.length + 256);
  padded.set(made);
  return new Resampler(MADE_RATE, rate).all(padded);
}
