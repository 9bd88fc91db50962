/** Examples of attacks: the analyser's own candidates in made-up recordings, each with what it may be called. */
import { FEATURES } from '../../src/core/finding/kinds/features.ts';
import { prominence } from '../../src/core/finding/signals/local-prominence.ts';
import { SoundAnalyser, UNTOLD } from '../../src/core/finding/signals/sound.ts';
import { ANALYSIS_RATE } from '../../src/core/finding/signals/spectrum.ts';
import { BARK_BANDS, SOUND_CLASSES, type SoundClass, type SoundSignals } from '../../src/core/finding/signals/types.ts';
import { mixture, type Event } from './mixtures.ts';
import type { Sound } from './sounds.ts';

/** Features -1.5 to 1.5 as bytes, one row after another; beside each row a bit for every class it may be. */
export interface Examples {
  readonly count: number;
  readonly features: Int8Array;
  readonly allowed: Uint8Array;
  /** Flux over its local mean: only stronger ones are ever shown. */
  readonly strength: Float32Array;
}

export const FEATURE_SCALE = 80;

export function analysed(
  samples: Float32Array,
  tell: (features: Float32Array, attack: number) => Uint8Array = () => UNTOLD,
): SoundSignals {
  const analyser = new SoundAnalyser(ANALYSIS_RATE, 0, tell);
  analyser.push(samples);
  return analyser.finish();
}

/** Decibels by which the sound's first 40 ms stand over the loudest bed around, in its best band. */
export function standsOut(event: Pick<Event, 'at' | 'samples'>, bed: SoundSignals): number {
  const padded = new Float32Array(Math.floor(ANALYSIS_RATE * 0.16));
  const lead = Math.floor(ANALYSIS_RATE * 0.06);
  padded.set(event.samples.subarray(0, padded.length - lead), lead);
  const own = analysed(padded);
  const hop = Math.round((event.at / ANALYSIS_RATE) * bed.rate);
  let best = -Infinity;
  for (let b = 0; b < BARK_BANDS; b++) {
    let loud = 0;
    let under = 0;
    for (let h = 4; h < own.onset.length; h++) loud = Math.max(loud, own.bands[h * BARK_BANDS + b]!);
    for (let h = Math.max(0, hop - 8); h < Math.min(bed.onset.length, hop + 8); h++)
      under = Math.max(under, bed.bands[h * BARK_BANDS + b]!);
    if (loud > 30) best = Math.max(best, loud - under);
  }
  return best;
}

const bits = (classes: readonly SoundClass[]): number =>
  classes.reduce((sum, name) => sum | (1 << SOUND_CLASSES.indexOf(name)), 0);

/** Seconds from a sound's beginning to the candidate that stands for it: its own, or the nearest if it has none. */
const OWN = 0.012;
const NEAR = 0.035;
/** Seconds beside a sound in which a candidate that does not stand for it may hold so much of it that nothing is right or wrong. */
const MIXED = 0.05;
/** Flux over its mean from which a candidate is an example. */
const LEAST = 0.65;
/** A candidate after it within this many seconds is its echo. */
const TAIL = 0.5;

export function examples(
  sounds: readonly Sound[],
  recordings: number,
  seed: number,
  tell: (share: number) => void = () => undefined,
): Examples {
  const features: Int8Array[] = [];
  const allowed: number[] = [];
  const strength: number[] = [];
  for (let m = 0; m < recordings; m++) {
    const { bed, whole, events, bedClasses } = mixture(sounds, 24, seed * 100003 + m);
    const bedSound = analysed(bed);
    const rows: Int8Array[] = [];
    const sound = analysed(whole, (row, attack) => {
      rows[attack] = Int8Array.from(row, (v) => Math.max(-127, Math.min(127, Math.round(v * FEATURE_SCALE))));
      return UNTOLD;
    });
    const heard = events.map((event) => ({ event, t: event.at / ANALYSIS_RATE, out: standsOut(event, bedSound) }));
    const stands = Array.from(sound.attackHops, (hop) => prominence(sound.onset, hop));
    const candidates = sound.attacks.filter((_, i) => stands[i]! >= LEAST);
    sound.attacks.forEach((t, i) => {
      const over = stands[i]!;
      if (over < LEAST) return;
      const here = heard.filter((h) => Math.abs(h.t - t) <= MIXED);
      const clear = here.filter((h) => h.out > 3);
      const own = clear.filter((h) => {
        const beside = Math.abs(h.t - t);
        return beside <= OWN || (beside <= NEAR && candidates.every((other) => Math.abs(h.t - other) >= beside));
      });
      let classes: readonly SoundClass[];
      if (own.length) classes = [...new Set(own.flatMap((h) => h.event.classes))];
      else if (clear.length) return;
      // Too faint to be called right or wrong.
      else if (here.some((h) => h.out > -6 && Math.abs(h.t - t) <= NEAR)) return;
      else if (heard.some((h) => h.event.several && t > h.t && t < h.t + h.event.samples.length / ANALYSIS_RATE))
        return;
      else if (heard.some((h) => t > h.t && t - h.t < TAIL && h.out > 0))
        classes = bedClasses.length > 1 ? bedClasses : ['other'];
      else if (bedClasses.length > 1 && over > 6) classes = bedClasses.filter((name) => name !== 'other');
      else classes = bedClasses;
      features.push(rows[i]!);
      allowed.push(bits(classes));
      strength.push(over);
    });
    if (m % 10 === 9) tell((m + 1) / recordings);
  }
  const all = new Int8Array(features.length * FEATURES);
  features.forEach((f, i) => all.set(f, i * FEATURES));
  return {
    count: features.length,
    features: all,
    allowed: Uint8Array.from(allowed),
    strength: Float32Array.from(strength),
  };
}
