import type { Detector, Find } from './detector.ts';

export const cuts: Detector = {
  id: 'cut',
  version: 1,
  name: 'Hard cuts',
  doc: 'One frame to the next the whole picture is another one, and stays so.',
  reference: 'common practice, no source (frame difference against its neighbourhood, and histogram distance)',
  kind: { footage: 'cut', music: 'cut' },
  sensitivity: 0.5,
  find(signals, sensitivity) {
    const picture = signals.picture;
    if (!picture) return [];
    const { change, histogram, mean, times } = picture;
    const threshold = 0.16 * (0.035 / 0.16) ** sensitivity;
    const finds: Find[] = [];
    for (let i = 1; i < change.length; i++) {
      if (change[i]! < threshold) continue;
      // The change must stand alone: neighbours within two frames are far smaller.
      let around = 0;
      for (const k of [i - 2, i - 1, i + 1, i + 2]) if (k >= 1) around = Math.max(around, change[k] ?? 0);
      if (change[i]! < around * 2) continue;
      // A flash comes back: brightness returns within a quarter second to what it was.
      let back = Infinity;
      for (let k = i + 1; k < mean.length && times[k]! - times[i]! < 0.3; k++) {
        back = Math.min(back, Math.abs(mean[k]! - mean[i - 1]!));
      }
      const jump = Math.abs(mean[i]! - mean[i - 1]!);
      if (jump > 0.015 && back < jump * 0.3 && mean[i]! > mean[i - 1]!) continue;
      if (histogram[i]! < 0.08) continue;
      finds.push({ t: times[i]!, strength: Math.min(1, change[i]! / 0.3), confidence: change[i]! / (change[i]! + 0.05) });
    }
    return finds;
  },
};
