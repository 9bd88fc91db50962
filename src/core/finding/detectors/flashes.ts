import { isCut } from './cuts.ts';
import type { Detector, Find } from './detector.ts';

/** Seconds within which rises belong to one flash. */
const REFRACTORY = 0.12;

/** A rise of 45 %, 17 % and 6.4 % of full scale at sensitivity 0, 0.5 and 1. */
export const flashThreshold = (sensitivity: number): number => 0.45 * (0.064 / 0.45) ** sensitivity;

export const flashes: Detector = {
  id: 'flash',
  version: 2,
  name: 'Flashes',
  doc: 'A sudden rise of brightness, of a block (muzzle) or of the whole picture.',
  reference: 'common practice, no source (block brightness over its neighbourhood in the frame before)',
  kinds: ['flash'],
  find({ picture }, sensitivity) {
    if (!picture) return [];
    const { rise, times } = picture;
    const threshold = flashThreshold(sensitivity('flash'));
    const finds: Find[] = [];
    for (let i = 1; i < rise.length; i++) {
      if (rise[i]! < threshold) continue;
      // Steady motion gives rises too: a flash stands out of the quarter second before it.
      let before = 0;
      let n = 0;
      for (let k = i - 1; k >= 1 && times[i]! - times[k]! < 0.25; k--, n++) before += Math.min(rise[k]!, threshold);
      const over = rise[i]! - (n ? (before / n) * 1.5 : 0);
      if (over < threshold * 0.7) continue;
      const last = finds.at(-1);
      if (last && times[i]! - last.t < REFRACTORY) continue;
      // The new picture after a cut is no flash, brighter or not.
      if (isCut(picture, i)) continue;
      finds.push({
        t: times[i]!,
        kind: 'flash',
        strength: Math.min(1, rise[i]! / 0.8),
        confidence: over / (over + 0.08),
      });
    }
    return finds;
  },
};
