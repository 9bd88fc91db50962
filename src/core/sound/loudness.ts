/**
 * How loud a mix is: momentary, short-term and integrated loudness and true peak after ITU-R BS.1770-5, their times and the
 * loudness range after EBU R 128 (Tech 3341 and Tech 3342).
 */
import { Biquad, type Coefficients } from './biquad.ts';
import { TruePeak } from './true-peak.ts';

export interface Loudness {
  /** LUFS; -Infinity for silence, or where it is shorter than what is measured. */
  readonly integrated: number;
  /** The greatest of all moments (0.4 s) and of all short terms (3 s), LUFS. */
  readonly momentary: number;
  readonly shortTerm: number;
  /** Loudness units from quiet to loud parts. */
  readonly range: number;
  /** Decibels below full scale, between samples, too. */
  readonly truePeak: number;
}

/** Both filters of the K-weighting for any rate; at 48 kHz they are tables 1 and 2 of BS.1770. */
export function kWeighting(rate: number): readonly [Coefficients, Coefficients] {
  // Parameters of the analogue filters that the tables follow from, found by B. De Man, "Evaluation of implementations of
  // the EBU R128 loudness measurement", AES 145, 2018 (from memory; the test holds them against the tables).
  const shelf = ((): Coefficients => {
    const k = Math.tan((Math.PI * 1681.974450955533) / rate);
    const v = 10 ** (3.999843853973347 / 20);
    const [q, edge] = [0.7071752369554196, v ** 0.4996667741545416];
    const a0 = 1 + k / q + k * k;
    return {
      b0: (v + (edge * k) / q + k * k) / a0,
      b1: (2 * (k * k - v)) / a0,
      b2: (v - (edge * k) / q + k * k) / a0,
      a1: (2 * (k * k - 1)) / a0,
      a2: (1 - k / q + k * k) / a0,
    };
  })();
  const k = Math.tan((Math.PI * 38.13547087602444) / rate);
  const q = 0.5003270373238773;
  const a0 = 1 + k / q + k * k;
  return [shelf, { b0: 1, b1: -2, b2: 1, a1: (2 * (k * k - 1)) / a0, a2: (1 - k / q + k * k) / a0 }];
}

/** Energies are counted up in tenths of a second. */
const PER_SECOND = 10;
const MOMENT = 4;
const SHORT_TERM = 30;
/** LUFS under which nothing counts, and units under the mean of what is left: for the whole, and for the range. */
const SILENT = -70;
const GATE = 10;
const RANGE_GATE = 20;

const lufs = (power: number): number => (power > 0 ? -0.691 + 10 * Math.log10(power) : -Infinity);
const powerOf = (loudness: number): number => 10 ** ((loudness + 0.691) / 10);
const mean = (list: readonly number[]): number => list.reduce((sum, v) => sum + v, 0) / Math.max(1, list.length);

export class LoudnessMeter {
  private readonly filters: readonly (readonly [Biquad, Biquad])[];
  private readonly peak = new TruePeak();
  private readonly step: number;
  private sum = 0;
  private filled = 0;
  /** Mean power of each tenth of a second. */
  private readonly tenths: number[] = [];

  /** @param rate samples a second */
  constructor(rate: number) {
    const [shelf, high] = kWeighting(rate);
    this.filters = [0, 1].map(() => [new Biquad(shelf), new Biquad(high)] as const);
    this.step = Math.round(rate / PER_SECOND);
  }

  /** Adds samples of left and right, which both count once. */
  add(left: Float32Array, right: Float32Array): void {
    this.peak.add(left, right);
    const [[l1, l2], [r1, r2]] = this.filters as [readonly [Biquad, Biquad], readonly [Biquad, Biquad]];
    for (let i = 0; i < left.length; i++) {
      const l = l2.next(l1.next(left[i]!));
      const r = r2.next(r1.next(right[i]!));
      this.sum += l * l + r * r;
      if (++this.filled === this.step) {
        this.tenths.push(this.sum / this.step);
        [this.sum, this.filled] = [0, 0];
      }
    }
  }

  /** Mean power of each stretch of so many tenths, one beginning at each. */
  private stretches(length: number): number[] {
    const { tenths } = this;
    const list: number[] = [];
    let sum = 0;
    tenths.forEach((power, i) => {
      sum += power - (tenths[i - length] ?? 0);
      if (i >= length - 1) list.push(Math.max(0, sum / length));
    });
    return list;
  }

  result(): Loudness {
    const moments = this.stretches(MOMENT);
    const terms = this.stretches(SHORT_TERM);
    const heard = moments.filter((power) => power > powerOf(SILENT));
    const loud = heard.filter((power) => power > powerOf(lufs(mean(heard)) - GATE));
    const greatest = (list: readonly number[]): number => lufs(list.reduce((top, v) => Math.max(top, v), 0));
    const ranged = terms.filter((power) => power > powerOf(SILENT));
    const between = ranged
      .filter((power) => power > powerOf(lufs(mean(ranged)) - RANGE_GATE))
      .map(lufs)
      .sort((a, b) => a - b);
    const at = (share: number): number => between[Math.round((between.length - 1) * share)]!;
    return {
      integrated: lufs(loud.length ? mean(loud) : 0),
      momentary: greatest(moments),
      shortTerm: greatest(terms),
      range: between.length ? at(0.95) - at(0.1) : 0,
      truePeak: 20 * Math.log10(this.peak.most),
    };
  }
}
