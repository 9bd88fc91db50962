/**
 * Probabilities fitted to the recording. A game has mostly shots and a hall mostly impacts, so what is clearly one of
 * the two says which it is: how many of them are shots has Jeffreys' prior, Beta(1/2, 1/2) (H. Jeffreys, "An invariant
 * form for the prior probability in estimation problems", Proc. R. Soc. A 186, 1946), and the probabilities of an attack
 * are means over what the recording leaves of it. What has no beat has no drums and notes; what has one is expected to
 * hold what the examples held, but less that is no hit; what recurs with the beat, and what is said to be music, is no
 * shot or impact (common practice, no source).
 */
import { hasBeat } from '../beats/track.ts';
import { overMeanAt } from '../signals/over-mean.ts';
import { SOUND_CLASSES, type SoundSignals } from '../signals/types.ts';
import { trainedFrequencies } from './model.ts';
import { recurring } from './recurring.ts';

const CLASSES = SOUND_CLASSES.length;
/** Added to what was kept as a byte, since nothing is ruled out for certain. */
const LEAST = 0.25;
/** Where there is no beat: how many attacks are expected to be shots or impacts. */
const BLOWS_EXPECTED = 0.5;
/** Flux over its mean from which an attack says what the recording holds. */
const CLEAR = 3;
/** Shares of shots among shots and impacts that are weighed against each other. */
const SHARES = Array.from({ length: 25 }, (_, k) => (k + 0.5) / 25);
/** How much rarer what is no hit is in music. */
const OTHER_IN_MUSIC = 0.6;

/** Frequencies expected before the recording was heard, as odds; of shots and impacts, what they have together where they are told apart by the recording. */
function expected(music: boolean, said: boolean): number[] {
  return SOUND_CLASSES.map((name, k) => {
    const blow = name === 'shot' || name === 'impact';
    if (said && blow) return 0;
    if (music || said) return trainedFrequencies[k]! * (name === 'other' ? OTHER_IN_MUSIC : 1);
    return blow ? BLOWS_EXPECTED : name === 'other' ? 1 - BLOWS_EXPECTED : 0;
  });
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
  const prior = expected(music, said);
  const out = new Float32Array(attackKinds.length);
  // What was not told apart stays nothing.
  for (let i = 0; i < count; i++) {
    if (!attackKinds.subarray(i * CLASSES, (i + 1) * CLASSES).some(Boolean)) continue;
    for (let k = 0; k < CLASSES; k++) out[i * CLASSES + k] = ((attackKinds[i * CLASSES + k]! + LEAST) / 255) * (prior[k]! / trainedFrequencies[k]!);
  }
  if (!music && !said) shared(sound, out);
  else for (let i = 0; i < count; i++) normalise(out.subarray(i * CLASSES, (i + 1) * CLASSES));
  if (music) withoutRecurring(sound, out);
  cache.set(sound, out);
  return out;
}

const SHOT = SOUND_CLASSES.indexOf('shot');
const IMPACT = SOUND_CLASSES.indexOf('impact');
const OTHER = SOUND_CLASSES.indexOf('other');

function normalise(row: Float32Array): void {
  const sum = row.reduce((a, b) => a + b, 1e-9);
  for (let k = 0; k < row.length; k++) row[k]! /= sum;
}

/** From odds of shots and of impacts, each as if there were no others, to probabilities. */
function shared(sound: SoundSignals, odds: Float32Array): void {
  const rows = Array.from(sound.attacks, (_, i) => odds.subarray(i * CLASSES, (i + 1) * CLASSES));
  const weights = SHARES.map((share) => -0.5 * Math.log(share * (1 - share)));
  rows.forEach((row, i) => {
    if (row[SHOT]! + row[IMPACT]! <= row[OTHER]! || overMeanAt(sound.onset, sound.attackHops[i]!) < CLEAR) return;
    SHARES.forEach((share, n) => (weights[n]! += Math.log(row[SHOT]! * share + row[IMPACT]! * (1 - share) + row[OTHER]!)));
  });
  const most = Math.max(...weights);
  const believed = weights.map((w) => Math.exp(w - most));
  const all = believed.reduce((a, b) => a + b);
  for (const row of rows) {
    const means = new Float64Array(CLASSES);
    SHARES.forEach((share, n) => {
      const blows = row[SHOT]! * share + row[IMPACT]! * (1 - share);
      const part = believed[n]! / all / (blows + row[OTHER]! + 1e-9);
      means[SHOT]! += row[SHOT]! * share * part;
      means[IMPACT]! += row[IMPACT]! * (1 - share) * part;
      means[OTHER]! += row[OTHER]! * part;
    });
    row.set(means);
  }
}

const BLOWS = [SHOT, IMPACT];
/** From this probability of being a shot or an impact on, an attack may be one of those that recur. */
const LIKELY = 0.3;

/** Takes the probability of being a shot or an impact from what recurs with the beat. */
function withoutRecurring(sound: SoundSignals, probabilities: Float32Array): void {
  const blow = (i: number): number => BLOWS.reduce((sum, k) => sum + probabilities[i * CLASSES + k]!, 0);
  for (const i of recurring(sound, (attack) => blow(attack) >= LIKELY)) {
    const row = probabilities.subarray(i * CLASSES, (i + 1) * CLASSES);
    for (const k of BLOWS) row[k] = 0;
    normalise(row);
  }
}
