import type { PictureSignals } from '../signals/types.ts';
import { isCut } from './cuts.ts';
import type { Detector, Find } from './detector.ts';

/** Seconds before a frame that say how the camera was moving. */
const BEFORE = 0.15;
/** Seconds in which the picture is back. */
const RETURNS = 0.17;
/** Seconds within which changes of movement belong to one jolt. */
const ONE_JOLT = 0.2;
/** Seconds that say how restless the camera is anyway. */
const RESTLESS = 0.7;
/** A jolt is this many times the usual change of movement from frame to frame. */
const OVER_USUAL = 2.5;

const middle = (values: number[]): number => values.sort((a, b) => a - b)[values.length >> 1] ?? 0;

/**
 * How far the whole picture jumps out of its movement at frame `i` and back at the next, in picture
 * heights: a pan begins too, but goes on.
 */
function jump({ shiftX, shiftY, times }: PictureSignals, i: number): number {
  const [xs, ys]: [number[], number[]] = [[], []];
  for (let k = i - 1; k >= 1 && (xs.length < 2 || times[i]! - times[k]! <= BEFORE); k--) {
    xs.push(shiftX[k]!);
    ys.push(shiftY[k]!);
  }
  const dx = shiftX[i]! - middle(xs);
  const dy = shiftY[i]! - middle(ys);
  const out = Math.hypot(dx, dy);
  if (out === 0 || i + 1 >= times.length) return 0;
  // How much of it the next frame takes back, along the same direction.
  const back = -((shiftX[i + 1]! - shiftX[i]!) * dx + (shiftY[i + 1]! - shiftY[i]!) * dy) / out;
  // And it ends about where it would have been without: a picture that stood still and jumps on does not.
  const [mx, my] = [shiftX[i]! - dx, shiftY[i]! - dy];
  let [away, far, near] = [0, 0, Infinity];
  for (let k = i; k < times.length && times[k]! - times[i]! <= RETURNS; k++) {
    away += ((shiftX[k]! - mx) * dx + (shiftY[k]! - my) * dy) / out;
    far = Math.max(far, away);
    if (k > i) near = Math.min(near, Math.max(0, away));
  }
  return near > far * 0.5 ? 0 : Math.min(out, Math.max(0, back));
}

/** 4 %, 1.6 % and 0.64 % of the picture's height at sensitivity 0, 0.5 and 1. */
export const joltThreshold = (sensitivity: number): number => 0.04 * 0.16 ** sensitivity;

export const jolts: Detector = {
  id: 'jolt',
  version: 1,
  name: 'Jolts',
  doc: 'The whole picture jumps suddenly and comes back, apart from pans.',
  reference: 'common practice, no source (shift of the picture from the profiles of its halves)',
  kinds: ['jolt'],
  find({ picture }, sensitivity) {
    if (!picture) return [];
    const { times, shiftX, shiftY } = picture;
    const threshold = joltThreshold(sensitivity('jolt'));
    const finds: Find[] = [];
    for (let i = 2; i < times.length; i++) {
      const size = jump(picture, i);
      if (size < threshold) continue;
      const last = finds.at(-1);
      if (last && times[i]! - last.t < ONE_JOLT) continue;
      if (isCut(picture, i) || isCut(picture, i + 1) || isCut(picture, i - 1)) continue;
      const changes: number[] = [];
      for (let k = i - 1; k >= 2 && times[i]! - times[k]! < RESTLESS; k--)
        changes.push(Math.hypot(shiftX[k]! - shiftX[k - 1]!, shiftY[k]! - shiftY[k - 1]!));
      if (size < OVER_USUAL * middle(changes)) continue;
      finds.push({ t: times[i]!, kind: 'jolt', strength: Math.min(1, size / 0.1), confidence: size / (size + 0.008) });
    }
    return finds;
  },
};
