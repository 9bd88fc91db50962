/**
 * Probabilities fitted to the recording. Source: M. Saerens, P. Latinne and C. Decaestecker, "Adjusting the
 * outputs of a classifier to new a priori probabilities", Neural Computation 14(1), 2002 (their EM procedure,
 * held back, since a recording may change its contents). What has no beat has no drums and notes, and little is
 * known beforehand of how many shots and impacts it has; what has one is expected to hold what the examples held,
 * but little that is no hit, and is not fitted, since its drums outnumber all that a game adds; what recurs with
 * the beat, and what is said to be music, is no shot or impact (common practice, no source).
 */
import { hasBeat } from '../beats/track.ts';
import { SOUND_CLASSES, type SoundClass, type SoundSignals } from '../signals/types.ts';
import { trainedFrequencies } from './model.ts';
import { recurring } from './recurring.ts';

const CLASSES = SOUND_CLASSES.length;
const ROUNDS = 9;
/** Attacks that the expectation counts for. */
const HELD_BACK = 30;
/** Added to what was kept as a byte, since nothing is ruled out for certain. */
const LEAST = 0.25;
/** Share of what the recording says that is believed, as a power. */
const TRUST = 0.15;
/** How much rarer what is no hit is in music. */
const OTHER_IN_MUSIC = 0.3;

/** Frequencies expected before the recording was heard. */
function expected(music: boolean, said: boolean): Float64Array {
  const out = Float64Array.from(SOUND_CLASSES, (name: SoundClass, k) => {
    const blow = name === 'shot' || name === 'impact';
    if (blow ? said : name !== 'other' && !music && !said) return 0;
    return music ? trainedFrequencies[k]! * (name === 'other' ? OTHER_IN_MUSIC : 1) : 1;
  });
  const sum = out.reduce((a, b) => a + b, 0);
  return out.map((v) => v / sum);
}

const caches = { said: new WeakMap<SoundSignals, Float32Array>(), heard: new WeakMap<SoundSignals, Float32Array>() };

/**
 * One row of probabilities for each attack.
 * @param said whether a person said that this is music
 */
export function adapted(sound: SoundSignals, said = false): Float32Array {
  const cache = caches[said ? 'said' : 'heard'];
  const known = cache.get(sound);
  if (known) return known;
  const { attackKinds } = sound;
  const count = attackKinds.length / CLASSES;
  const music = hasBeat(sound);
  const start = expected(music, said);
  let prior = start;
  const out = new Float32Array(attackKinds.length);
  for (let round = 0; round < (music ? 1 : ROUNDS); round++) {
    const sums = new Float64Array(CLASSES);
    let told = 0;
    for (let i = 0; i < count; i++) {
      // What was not told apart says nothing.
      if (!attackKinds.subarray(i * CLASSES, (i + 1) * CLASSES).some(Boolean)) continue;
      told++;
      let total = 1e-9;
      for (let k = 0; k < CLASSES; k++) total += out[i * CLASSES + k] = ((attackKinds[i * CLASSES + k]! + LEAST) / 255) * (prior[k]! / trainedFrequencies[k]!);
      for (let k = 0; k < CLASSES; k++) sums[k]! += out[i * CLASSES + k]! /= total;
    }
    const next = start.map((s, k) => ((sums[k]! + HELD_BACK * s) / (told + HELD_BACK)) ** TRUST * s ** (1 - TRUST));
    const sum = next.reduce((a, b) => a + b, 0);
    prior = next.map((v) => v / sum);
  }
  if (music) withoutRecurring(sound, out);
  cache.set(sound, out);
  return out;
}

const BLOWS = ['shot', 'impact'].map((name) => SOUND_CLASSES.indexOf(name as SoundClass));
/** From this probability of being a shot or an impact on, an attack may be one of those that recur. */
const LIKELY = 0.3;

/** Takes the probability of being a shot or an impact from what recurs with the beat. */
function withoutRecurring(sound: SoundSignals, probabilities: Float32Array): void {
  const blow = (i: number): number => BLOWS.reduce((sum, k) => sum + probabilities[i * CLASSES + k]!, 0);
  for (const i of recurring(sound, (attack) => blow(attack) >= LIKELY)) {
    const row = probabilities.subarray(i * CLASSES, (i + 1) * CLASSES);
    for (const k of BLOWS) row[k] = 0;
    const rest = row.reduce((a, b) => a + b, 0) + 1e-9;
    for (let k = 0; k < CLASSES; k++) row[k] = row[k]! / rest;
  }
}
