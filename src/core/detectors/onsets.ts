import { hasBeat } from '../beats/track.ts';
import { adapted } from '../kinds/adapt.ts';
import type { HitKind } from '../montage/types.ts';
import { SOUND_CLASSES, type SoundClass } from '../signals/types.ts';
import type { Detector, Find } from './detector.ts';

/** Peak picking of the paper named below, in hops of 10 ms. */
const MEAN_BEFORE = 10;
const MEAN_AFTER = 7;
const LEAST_GAP = 0.03;

/** Shots and impacts are told from the rest by their kind, so that fainter ones are let through. */
const FAINTER = 0.4;

/** Flux over its local mean at sensitivity 0, 0.5 and 1: 12, 3 and 0.75 (a geometric scale), less for shots and impacts. */
export const onsetThreshold = (sensitivity: number, kind: HitKind): number => 12 * (0.75 / 12) ** sensitivity * (kind === 'shot' || kind === 'impact' ? FAINTER : 1);

/** Probability of being no hit that is still let through, at sensitivity 0, 0.5 and 1: 0.03, 0.5 and 1. */
const mostOther = (sensitivity: number): number => (sensitivity > 0.5 ? sensitivity : 0.03 * (0.5 / 0.03) ** (2 * sensitivity));

/** Flux over the mean at which an onset counts as of full strength. */
const FULL_STRENGTH = 24;

const overs = new WeakMap<Float32Array, Float32Array>();

/** The onset function over its local mean, one value a hop; computed once for each. */
export function overMean(onset: Float32Array): Float32Array {
  const known = overs.get(onset);
  if (known) return known;
  // Running sum, so that the local mean of each hop costs two reads.
  const sums = new Float64Array(onset.length + 1);
  for (let h = 0; h < onset.length; h++) sums[h + 1] = sums[h]! + onset[h]!;
  const over = onset.map((value, h) => {
    const from = Math.max(0, h - MEAN_BEFORE);
    const to = Math.min(onset.length, h + MEAN_AFTER + 1);
    return value - (sums[to]! - sums[from]!) / (to - from);
  });
  overs.set(onset, over);
  return over;
}

const PLAYED: ReadonlySet<string> = new Set(['kick', 'snare', 'hat', 'note']);
const OTHER = SOUND_CLASSES.indexOf('other');

export const onsets: Detector = {
  id: 'onset',
  version: 2,
  name: 'Onsets',
  doc: 'Sudden new energy in many bands at once, told apart by a small trained model: shots, impacts, drums, notes.',
  reference: 'S. Boeck and G. Widmer, "Maximum filter vibrato suppression for onset detection", DAFx 2013; kinds: docs/detection.md',
  kinds: ['shot', 'impact', 'kick', 'snare', 'hat', 'note'],
  find({ sound }, sensitivity) {
    if (!sound) return [];
    const { onset, attacks, attackHops } = sound;
    const over = overMean(onset);
    const probabilities = adapted(sound);
    const music = hasBeat(sound);
    const finds: Find[] = [];
    attackHops.forEach((hop, i) => {
      const p = probabilities.subarray(i * SOUND_CLASSES.length, (i + 1) * SOUND_CLASSES.length);
      let best = 0;
      for (let k = 1; k < SOUND_CLASSES.length; k++) if (k !== OTHER && p[k]! > p[best]!) best = k;
      const kind = SOUND_CLASSES[best] as Exclude<SoundClass, 'other'>;
      const asked = sensitivity(kind);
      if (over[hop]! < onsetThreshold(asked, kind)) return;
      const last = finds.at(-1);
      const t = attacks[i]!;
      // In music with a beat every stroke that stands out is one; elsewhere most of what is heard is no hit.
      const none = p[OTHER]! > mostOther(asked) && !(music && PLAYED.has(kind));
      const find: Find = {
        t, kind, ...(none ? { faint: true } : {}), strength: Math.min(1, over[hop]! / FULL_STRENGTH), confidence: Math.max(1 - p[OTHER]!, music && PLAYED.has(kind) ? over[hop]! / (over[hop]! + 6) : 0),
        kinds: Object.fromEntries(SOUND_CLASSES.flatMap((name, k) => (name !== 'other' && p[k]! >= 0.02 ? [[name, Math.round(p[k]! * 1000) / 1000]] : []))),
      };
      if (last && t - last.t < LEAST_GAP) {
        // A hit before what is none, the stronger before the weaker.
        if (Boolean(find.faint) === Boolean(last.faint) ? find.strength > last.strength : last.faint) finds[finds.length - 1] = find;
      } else finds.push(find);
    });
    return finds;
  },
};
