import type { Detector, Find } from './detector.ts';

/** Seconds within which rises belong to one flash. */
const REFRACTORY = 0.12;

export const flashes: Detector = {
  id: 'flash',
  version: 1,
  name: 'Flashes',
  doc: 'A sudden rise of brightness, of a block (muzzle) or of the whole picture.',
  reference: 'common practice, no source',
  kind: { footage: 'flash', music: 'flash' },
  sensitivity: 0.5,
  find(signals, sensitivity) {
    const picture = signals.picture;
    if (!picture) return [];
    const { rise, times } = picture;
    // A rise of 50 %, 22 % and 10 % of full scale at sensitivity 0, 0.5 and 1.
    const threshold = 0.5 * (0.1 / 0.5) ** sensitivity;
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
      finds.push({ t: times[i]!, strength: Math.min(1, rise[i]! / 0.8), confidence: over / (over + 0.08) });
    }
    return finds;
  },
};
