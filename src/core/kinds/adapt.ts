/**
 * Probabilities fitted to the recording: where most attacks are drums, the next doubtful one is more
 * likely a drum too. Source: M. Saerens, P. Latinne and C. Decaestecker, "Adjusting the outputs of a
 * classifier to new a priori probabilities", Neural Computation 14(1), 2002 (their EM procedure,
 * held back towards the trained frequencies, since a recording may change its contents).
 */
import { SOUND_CLASSES, type SoundSignals } from '../signals/types.ts';

const CLASSES = SOUND_CLASSES.length;
const ROUNDS = 8;
/** Attacks that the trained frequencies count for. */
const HELD_BACK = 60;
/** Share of the adjustment that is applied, as a power. */
const TRUST = 0.5;

const cache = new WeakMap<SoundSignals, Float32Array>();

/** One row of probabilities for each attack. */
export function adapted(sound: SoundSignals): Float32Array {
  const known = cache.get(sound);
  if (known) return known;
  const { attackKinds } = sound;
  const count = attackKinds.length / CLASSES;
  const trained = new Float64Array(CLASSES).fill(1 / CLASSES);
  const prior = trained.slice();
  const out = new Float32Array(attackKinds.length);
  for (let round = 0; round <= ROUNDS; round++) {
    const sums = new Float64Array(CLASSES);
    for (let i = 0; i < count; i++) {
      let total = 1e-9;
      for (let k = 0; k < CLASSES; k++) total += out[i * CLASSES + k] = (attackKinds[i * CLASSES + k]! / 255) * (prior[k]! / trained[k]!) ** TRUST;
      for (let k = 0; k < CLASSES; k++) sums[k]! += out[i * CLASSES + k]! /= total;
    }
    for (let k = 0; k < CLASSES; k++) prior[k] = (sums[k]! + HELD_BACK * trained[k]!) / (count + HELD_BACK);
  }
  cache.set(sound, out);
  return out;
}
