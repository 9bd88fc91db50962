import { isCut } from './cuts.ts';
import type { Detector, Find } from './detector.ts';

/** Frames that a movement lasts before it is one. */
const MOVING = 2;
/** Seconds from one strike to the next. */
const LEAST_GAP = 0.15;
/** Seconds for which a flash changes the picture, and by how much of full scale it then fades. */
const LIT = 0.3;
const FADES = 0.006;
/** Seconds that say how much moves anyway. */
const USUAL = 1;

/** 0.18, 0.045 and 0.011 of the most that a neighbourhood can move, at sensitivity 0, 0.5 and 1. */
export const strikeThreshold = (sensitivity: number): number => 0.18 * 0.0625 ** sensitivity;

export const strikes: Detector = {
  id: 'strike',
  version: 1,
  name: 'Strikes',
  doc: 'A limb or a ball moves fast and stops or turns round within one to three frames: where it lands.',
  reference: 'common practice, no source (local movement against that of the whole picture)',
  kinds: ['strike'],
  find({ picture }, sensitivity) {
    if (!picture) return [];
    const { times, mean, motion, motionX, motionY, after } = picture;
    const threshold = strikeThreshold(sensitivity('strike'));
    const finds: Find[] = [];
    for (let i = MOVING + 1; i < times.length - 1; i++) {
      const before = Math.min(motion[i - 1]!, motion[i - 2]!);
      if (before < threshold) continue;
      // It stops: little of it is left where it was, nor does it go on beside.
      const left = Math.max(after[i]!, motion[i]!);
      const stops = left < before * 0.35 && motion[i + 1]! < before * 0.5;
      // It turns round: the way of its centre, which lies between two frames, folds back.
      const [ax, ay] = [motionX[i - 1]! - motionX[i - 2]!, motionY[i - 1]! - motionY[i - 2]!];
      const [bx, by] = [motionX[i + 1]! - motionX[i - 1]!, motionY[i + 1]! - motionY[i - 1]!];
      const [one, two] = [Math.hypot(ax, ay), Math.hypot(bx, by)];
      const turns = one > 0.02 && two > 0.02 && ax * bx + ay * by < -0.6 * one * two && motion[i]! > threshold * 0.6;
      if (!stops && !turns) continue;
      if ([i - 2, i - 1, i, i + 1].some((k) => isCut(picture, k))) continue;
      // Light that goes out is no limb that stops.
      let lit = mean[i]!;
      for (let k = i; k >= 1 && times[i]! - times[k]! < LIT; k--) lit = Math.max(lit, mean[k]!);
      if (lit - mean[i]! > FADES) continue;
      let usual = 0;
      let n = 0;
      for (let k = i - 3; k >= 1 && times[i]! - times[k]! < USUAL; k--, n++) usual += motion[k]!;
      if (n && before < (2 * usual) / n) continue;
      const last = finds.at(-1);
      if (last && times[i]! - last.t < LEAST_GAP) continue;
      // The first frame of what follows is one late: it landed at the end of the movement before.
      const at = i - 1;
      const over = before / threshold;
      finds.push({
        t: times[at]!,
        kind: 'strike',
        strength: Math.min(1, before / 0.5),
        confidence: over / (over + 1.5),
        focus: { x: motionX[i - 1]!, y: motionY[i - 1]! },
      });
    }
    return finds;
  },
};
