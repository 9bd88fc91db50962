import type { Detector, Find } from './detector.ts';

/** Peak picking of the paper named below, in hops of 5 ms. */
const MEAN_BEFORE = 20;
const MEAN_AFTER = 14;
const LEAST_GAP = 0.03;

/** Flux over its local mean at sensitivity 0, 0.5 and 1: 14, 3 and 0.65 (a geometric scale). */
export const onsetThreshold = (sensitivity: number): number => 14 * (0.65 / 14) ** sensitivity;

/** Flux over the mean at which an onset counts as of full strength. */
const FULL_STRENGTH = 24;

export const onsets: Detector = {
  id: 'onset',
  version: 1,
  name: 'Onsets',
  doc: 'Sudden new energy in many bands at once: shots, strokes, drums, notes.',
  reference: 'S. Boeck and G. Widmer, "Maximum filter vibrato suppression for onset detection", DAFx 2013',
  kind: { footage: 'impact', music: 'note' },
  sensitivity: 0.5,
  find(signals, sensitivity) {
    const sound = signals.sound;
    if (!sound) return [];
    const { onset, attacks, attackHops } = sound;
    const threshold = onsetThreshold(sensitivity);
    const finds: Find[] = [];
    // Running sum, so that the local mean of each candidate costs two reads.
    const sums = new Float64Array(onset.length + 1);
    for (let h = 0; h < onset.length; h++) sums[h + 1] = sums[h]! + onset[h]!;
    attackHops.forEach((hop, i) => {
      const from = Math.max(0, hop - MEAN_BEFORE);
      const to = Math.min(onset.length, hop + MEAN_AFTER + 1);
      const over = onset[hop]! - (sums[to]! - sums[from]!) / (to - from);
      if (over < threshold) return;
      const last = finds.at(-1);
      const t = attacks[i]!;
      const find = { t, strength: Math.min(1, over / FULL_STRENGTH), confidence: over / (over + 3) };
      if (last && t - last.t < LEAST_GAP) {
        if (find.strength > last.strength) finds[finds.length - 1] = find;
      } else finds.push(find);
    });
    return finds;
  },
};
