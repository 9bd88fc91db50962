/** Made sounds as they are played: at one level, with the moment that is loudest. */
import { MADE_SOUNDS, type MadeSound } from './sounds.ts';
import { MADE_RATE } from './synthesis.ts';

export { MADE_SOUNDS, type MadeSound, type MadeParam } from './sounds.ts';
export { MADE_RATE } from './synthesis.ts';

export const madeSound = (id: string): MadeSound | undefined => MADE_SOUNDS.find((sound) => sound.id === id);

export interface Made {
  /** Mono at {@link MADE_RATE}, its greatest sample {@link LEVEL}. */
  readonly samples: Float32Array<ArrayBuffer>;
  /** Seconds. */
  readonly duration: number;
  /** Seconds from its beginning to its loudest moment. */
  readonly peak: number;
}

/** Greatest sample of every made sound: 6 dB below full scale. */
export const LEVEL = 0.5;
/** Seconds over which loudness is taken where the loudest moment is sought: shorter than one can tell apart. */
const MOMENT = 0.005;
/** Sounds that are kept. */
const MOST_KEPT = 200;
const kept = new Map<string, Made>();

/** The greatest mean power over a moment; its middle, samples. */
export function loudestMoment(samples: Float32Array, rate: number): number {
  const length = Math.max(1, Math.round(MOMENT * rate));
  let [sum, most, at] = [0, 0, 0];
  for (let i = 0; i < samples.length; i++) {
    sum += samples[i]! ** 2 - (i >= length ? samples[i - length]! ** 2 : 0);
    // What is as loud later is not louder.
    if (sum > most * 1.000001) [most, at] = [sum, i];
  }
  return Math.max(0, at - length / 2);
}

/** A made sound with its parameters, those left out at their defaults, all within their bounds. @throws RangeError for an unknown one */
export function make(id: string, params: Readonly<Record<string, number>>, seed: number): Made {
  const sound = madeSound(id);
  if (!sound) throw new RangeError(`no sound "${id}"`);
  const values = Object.fromEntries(
    Object.entries(sound.params).map(([name, { min, max, default: byDefault }]) => {
      const value = params[name];
      return [name, value === undefined || !Number.isFinite(value) ? byDefault : Math.min(max, Math.max(min, value))];
    }),
  );
  const key = JSON.stringify([id, values, seed]);
  const known = kept.get(key);
  if (known) {
    kept.delete(key);
    kept.set(key, known);
    return known;
  }
  const samples = sound.make(values, seed);
  const top = samples.reduce((most, v) => Math.max(most, Math.abs(v)), 1e-9);
  for (let i = 0; i < samples.length; i++) samples[i]! *= LEVEL / top;
  const made = {
    samples,
    duration: samples.length / MADE_RATE,
    peak: loudestMoment(samples, MADE_RATE) / MADE_RATE,
  };
  kept.set(key, made);
  const [oldest] = kept.keys();
  if (kept.size > MOST_KEPT) kept.delete(oldest!);
  return made;
}
