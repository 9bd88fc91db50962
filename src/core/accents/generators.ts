/**
 * What makes a parameter move by itself. Every value follows from the seed and the frame alone:
 * rates are summed into phases from the accent's first frame, so any frame can be computed first.
 */
import { isMoved } from '../document/params.ts';
import { LIMITS } from '../document/limits.ts';
import type { Envelope, Generator, GeneratorKind, Moved, Param } from '../document/types.ts';
import { eased } from './easing.ts';
import { evaluate, integral } from './envelope.ts';
import { hash, seedOf, signed, unit, valueNoise } from '../base/hash.ts';

export const GENERATOR_KINDS: readonly GeneratorKind[] = [
  'noise',
  'sine',
  'cadence',
  'hold',
  'pulses',
  'gate',
  'spread',
  'run',
];

export interface Moment {
  /** Frames from the hit; fractions between frames. */
  readonly age: number;
  /** First frame of the accent. */
  readonly first: number;
  /** Output frames a second. */
  readonly fps: number;
  readonly seed: number;
  /** Which hit of the run this is, of how many, and how many frames until the next. */
  readonly run: { readonly index: number; readonly count: number; readonly length: number };
  /** What "plain" means for this parameter. */
  readonly plain: number;
}

/** Random swings of several octaves in -1..1. */
function roughNoise(cycles: number, rough: number, seed: number): number {
  let sum = 0;
  let total = 0;
  let weight = 1;
  for (let octave = 0; octave < 4 && weight > 0.01; octave++) {
    sum += weight * valueNoise(cycles * 2 * 2 ** octave, seed, octave);
    total += weight;
    weight *= rough;
  }
  return sum / total;
}

const inRun = (by: Extract<Generator, { kind: 'run' }>, index: number, count: number, plain: number): number => {
  if (by.values.length) return by.values[Math.min(index, by.values.length - 1)] ?? plain;
  return count < 2 ? by.to : by.from + ((by.to - by.from) * index) / (count - 1);
};

/** Swings since frame `first`: no more than {@link LIMITS.generatorRate} a second, whatever is asked for. */
function swings(rate: Envelope, first: number, age: number, fps: number): number {
  const most = (LIMITS.generatorRate * (age - first)) / fps;
  return Math.min(most, Math.max(-most, integral(rate, first, age) / fps));
}

/** The value of a parameter at a moment. */
export function valueAt(param: Param, moment: Moment): number {
  if (!isMoved(param)) return evaluate(param, moment.age);
  const { base, by } = param;
  const { age, first, fps, plain } = moment;
  const seed = by.clock === undefined ? moment.seed : seedOf(by.clock);
  const value = evaluate(base, age);
  const frames = age - first;
  const step = (every: number): number => Math.floor(frames / Math.max(1, Math.round(every)) + 1e-9);
  switch (by.kind) {
    case 'noise':
      return value + evaluate(by.amount, age) * roughNoise(swings(by.rate, first, age, fps), by.rough, seed);
    case 'sine':
      return value + evaluate(by.amount, age) * Math.sin(2 * Math.PI * (swings(by.rate, first, age, fps) + by.phase));
    case 'cadence': {
      const at = step(by.every);
      if (!by.values.length || (by.once && at >= by.values.length)) return value;
      return by.values[((at % by.values.length) + by.values.length) % by.values.length] ?? plain;
    }
    case 'hold':
      return value + evaluate(by.amount, age) * signed(hash(seed, step(by.every)));
    case 'pulses': {
      // One jump in each unit of the summed rate, at a random place in it; the latest that has begun counts.
      const now = swings(by.rate, first, age, fps);
      const length = (Math.max(1, Math.round(by.length)) / fps) * Math.max(1e-6, evaluate(by.rate, age));
      for (let slot = Math.floor(now); slot >= 0; slot--) {
        const h = hash(seed, slot);
        const since = now - slot - unit(h);
        if (since < 0) continue;
        // Of what began earlier still, all is over too.
        if (since >= length) break;
        const height = 1 - by.spread * unit(hash(h, 1));
        return value + evaluate(by.amount, age) * height * (unit(hash(h, 2)) < 0.5 ? -1 : 1);
      }
      return value;
    }
    case 'gate': {
      const period = Math.max(1, Math.round(by.period));
      const slot = Math.floor(frames / period + 1e-9);
      const into = frames - slot * period;
      const chance = evaluate(by.chance, first + slot * period) / 100;
      return into < by.open - 1e-9 && unit(hash(seed, slot)) < chance ? value + evaluate(by.amount, age) : value;
    }
    case 'spread':
      return value + evaluate(by.amount, age) * signed(hash(seed, 77));
    case 'run': {
      const { index, count, length } = moment.run;
      const from = inRun(by, index, count, plain);
      if (!by.glide || length <= 0 || index + 1 >= count || age <= 0) return from;
      return from + (inRun(by, index + 1, count, plain) - from) * eased(by.glide, age / length);
    }
  }
}

/** Frames between two sums that are kept, and how many sums are kept in all. */
const SUM_STEP = 256;
const MOST_SUMS = 1 << 16;
/** Sums up to each {@link SUM_STEP}th frame, by what they are sums of; the oldest go first. */
const keptSums = new Map<string, number[]>();
const written = new WeakMap<Moved, string>();

/**
 * The parameter summed over frames, for rates: generators move a rate too, frame by frame. Sums are always made from
 * the first frame on, so they are the same for whichever frame is asked first, and kept, so that a frame hours later
 * costs no more than the next one.
 */
export function summed(param: Param, moment: Moment): number {
  if (!isMoved(param)) return integral(param, moment.first, moment.age);
  let text = written.get(param);
  if (text === undefined) written.set(param, (text = JSON.stringify(param)));
  const { first, fps, seed, run, plain } = moment;
  const key = `${text} ${first} ${fps} ${seed} ${run.index} ${run.count} ${run.length} ${plain}`;
  let sums = keptSums.get(key);
  if (!sums) {
    keptSums.set(key, (sums = [0]));
    const [oldest] = keptSums.keys();
    if (keptSums.size * SUM_STEP > MOST_SUMS && oldest !== undefined) keptSums.delete(oldest);
  }
  const at = (frame: number): number => valueAt(param, { ...moment, age: first + frame });
  const whole = Math.max(0, Math.floor(moment.age - first));
  while (sums.length <= Math.floor(whole / SUM_STEP)) {
    let sum = sums.at(-1)!;
    for (let i = (sums.length - 1) * SUM_STEP; i < sums.length * SUM_STEP; i++) sum += at(i);
    sums.push(sum);
  }
  const from = Math.floor(whole / SUM_STEP);
  let sum = sums[from]!;
  for (let i = from * SUM_STEP; i < whole; i++) sum += at(i);
  return sum + at(whole) * (moment.age - first - whole);
}

/** A generator of each kind that does something visible at once, for a parameter with this span. */
export function newGenerator(kind: GeneratorKind, span: number, base: number): Generator {
  // Down, so that no setting leaves what the parameter allows.
  const hundredths = (value: number): number => Math.floor(value * 100 + 1e-8) / 100;
  const amount = hundredths(span);
  switch (kind) {
    case 'noise':
      return { kind, amount, rate: 12, rough: 0.3 };
    case 'sine':
      return { kind, amount, rate: 6, phase: 0 };
    case 'cadence':
      return { kind, values: [hundredths(base + amount), null], every: 1, once: false };
    case 'hold':
      return { kind, amount, every: 2 };
    case 'pulses':
      return { kind, amount, rate: 6, length: 1, spread: 0.3 };
    case 'gate':
      return { kind, amount, period: 3, open: 1, chance: 50 };
    case 'spread':
      return { kind, amount };
    case 'run':
      return { kind, values: [], from: base, to: hundredths(base + amount), glide: null };
  }
}
