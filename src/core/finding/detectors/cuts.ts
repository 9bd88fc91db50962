import type { PictureSignals } from '../signals/types.ts';
import type { Detector, Find } from './detector.ts';

/** 0.16, 0.075 and 0.035 of full scale at sensitivity 0, 0.5 and 1. */
export const cutThreshold = (sensitivity: number): number => 0.16 * (0.035 / 0.16) ** sensitivity;

/** Whether the picture is another one from frame `i` on. */
export function isCut(
  { change, histogram, mean, times, shiftX, shiftY }: PictureSignals,
  i: number,
  threshold = cutThreshold(0.5),
): boolean {
  if (i < 1 || i >= change.length || change[i]! < threshold || histogram[i]! < 0.08) return false;
  // The change must stand alone: neighbours within two frames are far smaller.
  let around = 0;
  for (const k of [i - 2, i - 1, i + 1, i + 2]) if (k >= 1) around = Math.max(around, change[k] ?? 0);
  if (change[i]! < around * 2) return false;
  // A flash comes back: brightness returns within a quarter second to what it was.
  let back = Infinity;
  for (let k = i + 1; k < mean.length && times[k]! - times[i]! < 0.3; k++)
    back = Math.min(back, Math.abs(mean[k]! - mean[i - 1]!));
  const jump = Math.abs(mean[i]! - mean[i - 1]!);
  if (jump > 0.015 && back < jump * 0.3 && mean[i]! > mean[i - 1]!) return false;
  // A jump of the same picture keeps its histogram; a little more is asked where a shift explains it.
  return histogram[i]! >= (shiftX[i] || shiftY[i] ? 0.1 : 0.08);
}

export const cuts: Detector = {
  id: 'cut',
  version: 2,
  name: 'Hard cuts',
  doc: 'One frame to the next the whole picture is another one, and stays so.',
  reference: 'common practice, no source (frame difference against its neighbourhood, and histogram distance)',
  kinds: ['cut'],
  find({ picture }, sensitivity) {
    if (!picture) return [];
    const threshold = cutThreshold(sensitivity('cut'));
    const finds: Find[] = [];
    picture.change.forEach((change, i) => {
      if (isCut(picture, i, threshold))
        finds.push({
          t: picture.times[i]!,
          kind: 'cut',
          strength: Math.min(1, change / 0.3),
          confidence: change / (change + 0.05),
        });
    });
    return finds;
  },
};
