/** What made sounds are made of: noise, envelopes, tones whose pitch moves, filters that move. Times are seconds. */
import { Biquad, bandPass, highPass, lowPass } from '../biquad.ts';
import { pcg } from '../../base/hash.ts';

/** Samples a second that sounds are made at. */
export const MADE_RATE = 48_000;

/** Even numbers in -1 to 1, the same for the same seed. */
export function random(seed: number): () => number {
  let state = pcg(seed) || 1;
  return () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state | 0) / 2147483648;
  };
}

/** A sound of so many seconds, each sample made from its time. */
export function rendered(seconds: number, at: (t: number, i: number) => number): Float32Array<ArrayBuffer> {
  return Float32Array.from({ length: Math.max(1, Math.round(seconds * MADE_RATE)) }, (_, i) => at(i / MADE_RATE, i));
}

/** Falls to a thousandth of itself in so many seconds, after it came in. */
export const decay = (t: number, seconds: number, attack = 0.001): number =>
  t < 0 ? 0 : Math.min(1, t / attack) * Math.exp((-6.9 * Math.max(0, t - attack)) / seconds);

/** Rises from 0 to 1 until a time, ever faster with `bend` above 1. */
export const rise = (t: number, until: number, bend = 2): number => Math.min(1, Math.max(0, t / until)) ** bend;

/** From one value to another in equal ratios. */
export const glide = (from: number, to: number, share: number): number =>
  from * (to / from) ** Math.min(1, Math.max(0, share));

/** A tone whose pitch may move: its phase is summed, so that it never jumps. Called once a sample, in order. */
export function tone(shape: (phase: number) => number = sine): (hertz: number) => number {
  let phase = 0;
  return (hertz) => {
    phase = (phase + hertz / MADE_RATE) % 1;
    return shape(phase);
  };
}
export const sine = (phase: number): number => Math.sin(2 * Math.PI * phase);
export const saw = (phase: number): number => 2 * phase - 1;

/** How often a moving filter is set anew, samples. */
const SET_EVERY = 16;
const SHAPES = { low: lowPass, high: highPass, band: bandPass };

/** A filter whose frequency may move. Called once a sample, in order. */
export function filter(kind: keyof typeof SHAPES, q?: number): (x: number, hertz: number) => number {
  const biquad = new Biquad(SHAPES[kind](1000, MADE_RATE, q));
  let count = 0;
  return (x, hertz) => {
    if (count++ % SET_EVERY === 0) biquad.by = SHAPES[kind](hertz, MADE_RATE, q);
    return biquad.next(x);
  };
}

/** Rounds off what is loud. */
export const driven = (x: number, drive: number): number => Math.tanh(x * drive) / Math.tanh(drive);

/** Backwards. */
export const backwards = (samples: Float32Array<ArrayBuffer>): Float32Array<ArrayBuffer> => samples.slice().reverse();
