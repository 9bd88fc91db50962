/**
 * Streaming spectral flux. Source: S. Boeck and G. Widmer, "Maximum filter vibrato suppression for
 * onset detection", DAFx 2013: 2048-sample windows, 200 frames a second, quarter-tone filterbank
 * (24 bands an octave, 30-17,000 Hz), maximum filter over three bands, difference to the frame
 * before (two frames back at this hop, as the paper's ratio of window overlap gives).
 */
import FFT from 'fft.js';
import type { SoundSignals } from './types.ts';

export const WINDOW = 2048;
export const HOPS_PER_SECOND = 200;
const BANDS_PER_OCTAVE = 24;
const LOWEST_HZ = 30;
const HIGHEST_HZ = 17000;

interface Filterbank {
  readonly bands: number;
  /** First bin, bin count and weights of each band, weights one after another. */
  readonly first: Int32Array;
  readonly length: Int32Array;
  readonly weights: Float64Array;
}

/** Triangular bands between quarter tones, each at least one bin wide; doubled bins are left out. */
export function filterbank(sampleRate: number): Filterbank {
  const top = Math.min(HIGHEST_HZ, sampleRate / 2);
  const bins: number[] = [];
  for (let i = 0; ; i++) {
    const hz = LOWEST_HZ * 2 ** (i / BANDS_PER_OCTAVE);
    if (hz > top) break;
    const bin = Math.round((hz * WINDOW) / sampleRate);
    if (bin !== bins.at(-1) && bin < WINDOW / 2) bins.push(bin);
  }
  const bands = Math.max(0, bins.length - 2);
  const first = new Int32Array(bands);
  const length = new Int32Array(bands);
  const weights: number[] = [];
  for (let b = 0; b < bands; b++) {
    const [from, mid, to] = [bins[b]!, bins[b + 1]!, bins[b + 2]!];
    first[b] = from;
    length[b] = to - from;
    for (let bin = from; bin < to; bin++) {
      weights.push(bin < mid ? (bin - from) / (mid - from) : (to - bin) / (to - mid));
    }
  }
  return { bands, first, length, weights: Float64Array.from(weights) };
}

/**
 * Takes mono samples in blocks of any size and gives the same signals however they are cut.
 * Hop h is centred on sample round(h * sampleRate / 200).
 */
export class SoundAnalyser {
  private readonly fft = new FFT(WINDOW);
  private readonly hann = new Float64Array(WINDOW);
  private readonly input = new Float64Array(WINDOW);
  private readonly spectrum = this.fft.createComplexArray() as number[];
  private readonly bank: Filterbank;
  private readonly history: Float64Array[];
  /** Samples from `base` on; `base` is the absolute index of buffer[0]. */
  private buffer: Float32Array;
  private base: number;
  private filled: number;
  private hop = 0;
  private onset = new Float32Array(4096);
  private peaks = new Uint8Array(4096);
  private readonly attacks: number[] = [];
  private readonly attackHops: number[] = [];
  private finished = false;

  constructor(private readonly sampleRate: number, private readonly start = 0) {
    for (let i = 0; i < WINDOW; i++) this.hann[i] = 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / WINDOW);
    this.bank = filterbank(sampleRate);
    this.history = [0, 1, 2].map(() => new Float64Array(this.bank.bands));
    this.buffer = new Float32Array(WINDOW * 16);
    // Half a window of silence before the first sample.
    this.base = -WINDOW / 2;
    this.filled = WINDOW / 2;
  }

  private centre(hop: number): number {
    return Math.round((hop * this.sampleRate) / HOPS_PER_SECOND);
  }

  push(block: Float32Array): void {
    let taken = 0;
    while (taken < block.length) {
      const room = Math.min(block.length - taken, this.buffer.length - this.filled);
      this.buffer.set(block.subarray(taken, taken + room), this.filled);
      this.filled += room;
      taken += room;
      this.run();
      this.compact();
    }
  }

  private run(): void {
    while (this.centre(this.hop) + WINDOW / 2 <= this.base + this.filled) {
      this.analyse(this.hop);
      // Peaks three hops back are decided by then, and their samples still in the buffer.
      if (this.hop >= 4) this.consider(this.hop - 3);
      this.hop++;
    }
  }

  /** Keeps a window and the 60 ms before it that refinement looks at. */
  private compact(): void {
    const keepFrom = this.centre(this.hop) - WINDOW / 2 - Math.round(this.sampleRate * 0.08);
    const drop = keepFrom - this.base;
    if (drop > WINDOW * 4) {
      this.buffer.copyWithin(0, drop, this.filled);
      this.base += drop;
      this.filled -= drop;
    }
  }

  private analyse(hop: number): void {
    const centre = this.centre(hop);
    const from = centre - WINDOW / 2 - this.base;
    const { input, hann, buffer } = this;
    for (let i = 0; i < WINDOW; i++) input[i] = buffer[from + i]! * hann[i]!;
    this.fft.realTransform(this.spectrum, input as unknown as number[]);
    const bands = this.history[hop % 3]!;
    const before = this.history[(hop + 1) % 3]!; // two hops back
    const { first, length, weights } = this.bank;
    let w = 0;
    for (let b = 0; b < this.bank.bands; b++) {
      let sum = 0;
      for (let k = 0, bin = first[b]!; k < length[b]!; k++, bin++) {
        const re = this.spectrum[2 * bin]!;
        const im = this.spectrum[2 * bin + 1]!;
        sum += Math.sqrt(re * re + im * im) * weights[w++]!;
      }
      bands[b] = Math.log10(1 + sum);
    }
    let flux = 0;
    if (hop >= 2) {
      for (let b = 0; b < this.bank.bands; b++) {
        const top = Math.max(before[b]!, before[b - 1] ?? 0, before[b + 1] ?? 0);
        const rise = bands[b]! - top;
        if (rise > 0) flux += rise;
      }
    }
    if (hop >= this.onset.length) {
      this.onset = grown(this.onset, new Float32Array(this.onset.length * 2));
      this.peaks = grown(this.peaks, new Uint8Array(this.peaks.length * 2));
    }
    this.onset[hop] = flux;
    let peak = 0;
    const end = Math.min(this.centre(hop + 1) - this.base, this.filled);
    for (let i = centre - this.base; i < end; i++) peak = Math.max(peak, Math.abs(buffer[i]!));
    this.peaks[hop] = Math.min(255, Math.round(peak * 255));
  }

  /** Keeps hop `h` as a candidate when it is the largest of its neighbours within 30 ms. */
  private consider(h: number): void {
    const value = this.onset[h]!;
    // The first 30 ms: that a recording begins is not a hit.
    if (value < FLOOR || h < 6) return;
    for (let k = -3; k <= 3; k++) {
      const other = this.onset[h + k];
      if (other !== undefined && h + k >= 0 && (k < 0 ? other >= value : other > value)) return;
    }
    this.attacks.push(this.start + this.refine(h) / this.sampleRate);
    this.attackHops.push(h);
  }

  /**
   * The sample at which the attack begins: within 45 ms before and half a window (at least 20 ms) after
   * the flux peak, the
   * 1.5 ms slot whose energy rises most over the mean of the 6 ms before it.
   */
  private refine(hop: number): number {
    const slot = Math.max(8, Math.round(this.sampleRate * 0.0015));
    const centre = this.centre(hop);
    const from = Math.max(this.base, 0, centre - Math.round(this.sampleRate * 0.045));
    const to = Math.min(this.base + this.filled, centre + Math.max(Math.round(this.sampleRate * 0.02), WINDOW / 2));
    const count = Math.floor((to - from) / slot);
    const energy = new Float64Array(Math.max(0, count));
    for (let s = 0; s < count; s++) {
      let sum = 0;
      let last = this.buffer[from - this.base + s * slot]!;
      for (let i = 1; i < slot; i++) {
        // First difference: weighs the click of an attack above a bass that rings through it.
        const now = this.buffer[from - this.base + s * slot + i]!;
        sum += now * now * 0.1 + (now - last) * (now - last);
        last = now;
      }
      energy[s] = sum / slot;
    }
    let best = -1;
    let at = Math.min(count - 1, Math.floor((centre - from) / slot));
    for (let s = 1; s < count; s++) {
      let before = 0;
      const back = Math.min(4, s);
      for (let k = 1; k <= back; k++) before += energy[s - k]!;
      const rise = (energy[s]! - before / back) / Math.sqrt(before / back + 1e-9);
      if (rise > best) {
        best = rise;
        at = s;
      }
    }
    return count > 0 ? from + at * slot : centre;
  }

  finish(): SoundSignals {
    if (!this.finished) {
      this.finished = true;
      // Nothing is made up past the end: cutting off to silence would look like an attack.
      if (this.hop === 0) this.push(new Float32Array(WINDOW));
      for (let h = Math.max(1, this.hop - 3); h < this.hop; h++) this.consider(h);
    }
    return {
      rate: HOPS_PER_SECOND, start: this.start,
      onset: this.onset.slice(0, this.hop), peaks: this.peaks.slice(0, this.hop),
      attacks: Float64Array.from(this.attacks), attackHops: Uint32Array.from(this.attackHops),
    };
  }
}

/** Flux below this is never a candidate, at any sensitivity. */
const FLOOR = 0.3;

function grown<T extends Float32Array | Uint8Array>(from: T, to: T): T {
  to.set(from);
  return to;
}
