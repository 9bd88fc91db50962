/**
 * Probabilities fitted to the recording. In music, where most strokes are drums, the next doubtful one is
 * more likely a drum too. Source: M. Saerens, P. Latinne and C. Decaestecker, "Adjusting the outputs of a
 * classifier to new a priori probabilities", Neural Computation 14(1), 2002 (their EM procedure,
 * held back, since a recording may change its contents). What has no beat has no drums and notes, and
 * nothing is known beforehand of how many shots and impacts it has; little of what has a beat is no
 * hit (common practice, no source).
 */
import { hasBeat } from '../beats/track.ts';
import { SOUND_CLASSES, type SoundClass, type SoundSignals } from '../signals/types.ts';
import { trainedFrequencies } from './model.ts';

const CLASSES = SOUND_CLASSES.length;
const ROUNDS = 9;
/** Attacks that the expectation counts for. */
const HELD_BACK = 30;
/** Share of what the recording says that is believed, as a power. */
const TRUST = 0.5;
/** How much rarer what is no hit is in music. */
const OTHER_IN_MUSIC = 0.3;

/** Frequencies expected before the recording was heard. */
function expected(music: boolean): Float64Array {
  const out = Float64Array.from(SOUND_CLASSES, (name: SoundClass, k) => {
    const played = name !== 'shot' && name !== 'impact' && name !== 'other';
    if (!music) return played ? 0 : 1;
    return trainedFrequencies[k]! * (name === 'other' ? OTHER_IN_MUSIC : 1);
  });
  const sum = out.reduce((a, b) => a + b, 0);
  return out.map((v) => v / sum);
}

const cache = new WeakMap<SoundSignals, Float32Array>();

/** One row of probabilities for each attack. */
export function adapted(sound: SoundSignals): Float32Array {
  const known = cache.get(sound);
  if (known) return known;
  const { attackKinds } = sound;
  const count = attackKinds.length / CLASSES;
  const music = hasBeat(sound);
  const start = expected(music);
  let prior = start;
  const out = new Float32Array(attackKinds.length);
  for (let round = 0; round < ROUNDS; round++) {
    const sums = new Float64Array(CLASSES);
    for (let i = 0; i < count; i++) {
      let total = 1e-9;
      for (let k = 0; k < CLASSES; k++) total += out[i * CLASSES + k] = (attackKinds[i * CLASSES + k]! / 255) * (prior[k]! / trainedFrequencies[k]!);
      for (let k = 0; k < CLASSES; k++) sums[k]! += out[i * CLASSES + k]! /= total;
    }
    if (!music) break;
    const next = start.map((s, k) => ((sums[k]! + HELD_BACK * s) / (count + HELD_BACK)) ** TRUST * s ** (1 - TRUST));
    const sum = next.reduce((a, b) => a + b, 0);
    prior = next.map((v) => v / sum);
  }
  cache.set(sound, out);
  return out;
}
