/**
 * Probabilities fitted to the recording: where most attacks are drums, the next doubtful one is more
 * likely a drum too. Source: M. Saerens, P. Latinne and C. Decaestecker, "Adjusting the outputs of a
 * classifier to new a priori probabilities", Neural Computation 14(1), 2002 (their EM procedure,
 * held back, since a recording may change its contents). What has no beat has no drums and notes, and
 * little of what has one is none (common practice, no source).
 */
import { hasBeat } from '../beats/track.ts';
import { SOUND_CLASSES, type SoundClass, type SoundSignals } from '../signals/types.ts';
import { trainedFrequencies } from './model.ts';

const CLASSES = SOUND_CLASSES.length;
const ROUNDS = 9;
/** Attacks that the expectation counts for. */
const HELD_BACK = 30;
/** Share of what the recording says that is believed, and of evenness in what is expected, as powers. */
const TRUST = 0.5;
const EVENNESS = 0.5;
/** How much rarer what is no hit is in music. */
const OTHER_IN_MUSIC = 0.3;

/** Frequencies expected before the recording was heard. */
function expected(music: boolean): Float64Array {
  const out = Float64Array.from(SOUND_CLASSES, (name: SoundClass, k) => {
    const played = name !== 'shot' && name !== 'impact' && name !== 'other';
    const usual = trainedFrequencies[k]! ** (1 - EVENNESS) * (1 / CLASSES) ** EVENNESS;
    return played && !music ? 0 : name === 'other' && music ? usual * OTHER_IN_MUSIC : usual;
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
  const start = expected(hasBeat(sound));
  let prior = start;
  const out = new Float32Array(attackKinds.length);
  for (let round = 0; round < ROUNDS; round++) {
    const sums = new Float64Array(CLASSES);
    for (let i = 0; i < count; i++) {
      let total = 1e-9;
      for (let k = 0; k < CLASSES; k++) total += out[i * CLASSES + k] = (attackKinds[i * CLASSES + k]! / 255) * (prior[k]! / trainedFrequencies[k]!);
      for (let k = 0; k < CLASSES; k++) sums[k]! += out[i * CLASSES + k]! /= total;
    }
    const next = start.map((s, k) => ((sums[k]! + HELD_BACK * s) / (count + HELD_BACK)) ** TRUST * s ** (1 - TRUST));
    const sum = next.reduce((a, b) => a + b, 0);
    prior = next.map((v) => v / sum);
  }
  cache.set(sound, out);
  return out;
}
