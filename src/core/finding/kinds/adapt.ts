/**
 * Probabilities fitted to the recording. A game has mostly shots and a hall mostly impacts, so what is clearly one of
 * the two says which it is: how many of them are shots has Jeffreys' prior, Beta(1/2, 1/2) (H. Jeffreys, "An invariant
 * form for the prior probability in estimation problems", Proc. R. Soc. A 186, 1946), and the probabilities of an attack
 * are means over what the recording leaves of it. What has no music has no drums and notes; what has some is expected
 * to hold what the examples held; what recurs with the beat is hardly a shot or an impact, and what is said to be music
 * holds none; what falls between the strokes of the music, or goes on evenly from shots, is likelier one (common practice,
 * no source).
 */
import type { Content } from '../../document/types.ts';
import { beatGrid, hasBeat } from '../beats/track.ts';
import { localProminence } from '../signals/local-prominence.ts';
import { BLOWS, PLAYED, SOUND_CLASSES, type SoundSignals } from '../signals/types.ts';
// Written when Akmeon is built, so that whoever asks for them does not load the weights.
import trainedFrequencies from './generated/frequencies.js';
import { strokesAt, unlikeness } from './recurring.ts';
import { due } from './rows.ts';

const CLASSES = SOUND_CLASSES.length;
const BLOWS_AT = BLOWS.map((name) => SOUND_CLASSES.indexOf(name));
const [SHOT, IMPACT] = BLOWS_AT as [number, number];
const OTHER = SOUND_CLASSES.indexOf('other');
const PLAYED_AT = PLAYED.map((name) => SOUND_CLASSES.indexOf(name));
/** Added to what was kept as a byte, since nothing is ruled out for certain. */
const LEAST = 0.25;
/** Where there is no music: how many attacks are expected to be shots or impacts. */
const BLOWS_EXPECTED = 0.5;
/** Flux over its mean from which an attack says what the recording holds. */
const CLEAR = 3;
/**
 * What a person said of a recording, as counts of shots and of impacts that were as good as heard in it already:
 * Jeffreys' half of each where nothing is known, and of a mixture; by common practice, no source, where it is.
 */
const HEARD: Readonly<Record<Content, readonly [shots: number, impacts: number]>> = {
  unsaid: [0.5, 0.5],
  mixed: [0.5, 0.5],
  drums: [0.5, 0.5],
  firearms: [12, 0.5],
  blows: [0.5, 12],
  ball: [0.5, 12],
};
/** Shares of shots among shots and impacts that are weighed against each other. */
const SHARES = Array.from({ length: 25 }, (_, k) => (k + 0.5) / 25);
/** Share of clear attacks, and least number, that are surely drums or notes where there is music whose beat is hidden by what is shot over it. */
const PLAYED_SHARE = 0.1;
const PLAYED_LEAST = 5;
const SURELY = 0.8;
/** Confidence of a beat that is hidden, but there; blows at random have less. */
const HALF_A_BEAT = 0.2;

/** Whether there is music in a sound: a beat that can be followed, or half of one and strokes and notes that are nothing else (common practice, no source). */
export function holdsMusic(sound: SoundSignals): boolean {
  if (hasBeat(sound)) return true;
  if (beatGrid(sound).confidence < HALF_A_BEAT) return false;
  const { attackKinds, attackHops } = sound;
  const over = localProminence(sound.onset);
  let [clear, played] = [0, 0];
  attackHops.forEach((hop, i) => {
    if (over[hop]! < CLEAR) return;
    clear++;
    if (PLAYED_AT.reduce((sum, k) => sum + attackKinds[i * CLASSES + k]!, 0) > SURELY * 255) played++;
  });
  return played >= Math.max(PLAYED_LEAST, PLAYED_SHARE * clear);
}

/** Frequencies expected before the recording was heard; of shots and of impacts, each as if there were none of the other. */
function expected(music: boolean, said: boolean): number[] {
  return SOUND_CLASSES.map((_, k) => {
    if (said) return BLOWS_AT.includes(k) ? 0 : trainedFrequencies[k]!;
    if (music)
      return BLOWS_AT.includes(k) ? trainedFrequencies[SHOT]! + trainedFrequencies[IMPACT]! : trainedFrequencies[k]!;
    return BLOWS_AT.includes(k) ? BLOWS_EXPECTED : k === OTHER ? 1 - BLOWS_EXPECTED : 0;
  });
}

const caches = new Map<string, WeakMap<SoundSignals, Float32Array>>();

/**
 * One row of probabilities for each attack.
 * @param music whether a person said that this is music
 * @param content what a person said that the recording holds; drums are music
 */
export function adapted(sound: SoundSignals, music = false, content: Content = 'unsaid'): Float32Array {
  const said = music || content === 'drums';
  const name = said ? 'music' : content;
  const cache = caches.get(name) ?? new WeakMap<SoundSignals, Float32Array>();
  caches.set(name, cache);
  const known = cache.get(sound);
  if (known) return known;
  const { attackKinds } = sound;
  const count = attackKinds.length / CLASSES;
  const prior = expected(holdsMusic(sound), said);
  const out = new Float32Array(attackKinds.length);
  // What was not told apart stays nothing.
  for (let i = 0; i < count; i++) {
    if (!attackKinds.subarray(i * CLASSES, (i + 1) * CLASSES).some(Boolean)) continue;
    for (let k = 0; k < CLASSES; k++)
      out[i * CLASSES + k] = ((attackKinds[i * CLASSES + k]! + LEAST) / 255) * (prior[k]! / trainedFrequencies[k]!);
  }
  if (said) for (let i = 0; i < count; i++) normalise(rowOf(out, i));
  else {
    share(sound, out, HEARD[content]);
    if (hasBeat(sound)) {
      betweenStrokes(sound, out);
      withoutRecurring(sound, out);
    }
    inRows(sound, out);
  }
  cache.set(sound, out);
  return out;
}

const rowOf = (probabilities: Float32Array, attack: number): Float32Array =>
  probabilities.subarray(attack * CLASSES, (attack + 1) * CLASSES);
/** Probability of being a shot or an impact, of an attack's row. */
export const blowOf = (row: Float32Array): number => row[SHOT]! + row[IMPACT]!;

/** Odds of these classes, so many times what they were. */
function weigh(row: Float32Array, classes: readonly number[], times: number): void {
  if (times === 1) return;
  for (const k of classes) row[k]! *= times;
  normalise(row);
}

function normalise(row: Float32Array): void {
  const sum = row.reduce((a, b) => a + b, 1e-9);
  for (let k = 0; k < row.length; k++) row[k]! /= sum;
}

/** From odds of shots and of impacts, each as if there were none of the other, to probabilities. */
function share(sound: SoundSignals, odds: Float32Array, [shotsHeard, impactsHeard]: readonly [number, number]): void {
  const over = localProminence(sound.onset);
  const rows = Array.from(sound.attacks, (_, i) => rowOf(odds, i));
  const rests = rows.map((row) => row.reduce((sum, value, k) => (BLOWS_AT.includes(k) ? sum : sum + value), 0));
  const weights = SHARES.map((shots) => (shotsHeard - 1) * Math.log(shots) + (impactsHeard - 1) * Math.log(1 - shots));
  rows.forEach((row, i) => {
    if (row[SHOT]! + row[IMPACT]! <= rests[i]! || over[sound.attackHops[i]!]! < CLEAR) return;
    SHARES.forEach(
      (shots, n) => (weights[n]! += Math.log(row[SHOT]! * shots + row[IMPACT]! * (1 - shots) + rests[i]!)),
    );
  });
  const most = Math.max(...weights);
  const believed = weights.map((w) => Math.exp(w - most));
  const all = believed.reduce((a, b) => a + b);
  rows.forEach((row, i) => {
    let [shot, impact, rest] = [0, 0, 0];
    SHARES.forEach((shots, n) => {
      const [one, other] = [row[SHOT]! * shots, row[IMPACT]! * (1 - shots)];
      const part = believed[n]! / all / (one + other + rests[i]! + 1e-9);
      shot += one * part;
      impact += other * part;
      rest += part;
    });
    for (let k = 0; k < CLASSES; k++) row[k] = k === SHOT ? shot : k === IMPACT ? impact : row[k]! * rest;
  });
}

/** With less probability of being a shot or an impact an attack is never most likely one. */
const LIKELY = 0.08;
/** An attack that differs by so many decibels from its like some beats away is not played; each decibel less takes so much from the logarithm of its odds. */
const UNLIKE = 4.3;
const PER_DECIBEL = 1.5;

/** Takes probability of being a shot or an impact from what recurs with the beat. */
function withoutRecurring(sound: SoundSignals, probabilities: Float32Array): void {
  unlikeness(sound, (i) => blowOf(rowOf(probabilities, i)) >= LIKELY).forEach((decibels, i) => {
    if (decibels < UNLIKE) weigh(rowOf(probabilities, i), BLOWS_AT, Math.exp((decibels - UNLIKE) * PER_DECIBEL));
  });
}

/** Most that an attack's place in the beat takes from its odds of being a shot or an impact, and adds to them: shots may be fired to the music, or it played to them. */
const LEAST_PLACED = 0.3;
const MOST_PLACED = 4;

/** By Bayes' rule: shots and impacts come at any time, strokes of the music where such strokes come. */
function betweenStrokes(sound: SoundSignals, probabilities: Float32Array): void {
  const over = localProminence(sound.onset);
  const played = Array.from(
    sound.attackHops,
    (hop, i) =>
      Math.min(1, Math.max(0, over[hop]! / CLEAR)) * PLAYED_AT.reduce((sum, k) => sum + rowOf(probabilities, i)[k]!, 0),
  );
  strokesAt(sound, played).forEach((often, i) =>
    weigh(rowOf(probabilities, i), BLOWS_AT, Math.max(LEAST_PLACED, Math.min(MOST_PLACED, 1 / often))),
  );
}

/** How many times as likely an attack is a shot when it lies where one is surely due. */
const DUE = 5;

/** Gives probability of being a shot to what lies in a row with shots. */
function inRows({ attacks }: SoundSignals, probabilities: Float32Array): void {
  due(
    attacks,
    Array.from(attacks, (_, i) => rowOf(probabilities, i)[SHOT]!),
  ).forEach((surely, i) => weigh(rowOf(probabilities, i), [SHOT], 1 + (DUE - 1) * surely));
}
