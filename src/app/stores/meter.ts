/** How loud what is heard now is, for the meter: peaks of short stretches, shown as they are played. */
import { create } from 'zustand';

/** Samples of a stretch: a fiftieth of a second. */
const STRETCH = 960;
/** Decibels that the meter falls in a stretch. */
const FALL = 0.8;
const SILENT = -60;

/** Decibels below full scale; `held` is the greatest since playing began. */
export const useMeter = create(() => ({ left: SILENT, right: SILENT, held: SILENT }));

const peaks = new Map<number, readonly [number, number]>();
let shown = -1;

const decibels = (peak: number): number => Math.max(SILENT, 20 * Math.log10(Math.max(1e-6, peak)));

export const meter = {
  /** Takes sound that is heard so many samples after playing began. */
  put(from: number, left: Float32Array, right: Float32Array): void {
    for (let at = 0; at < left.length; at += STRETCH) {
      let [l, r] = [0, 0];
      for (let i = at; i < Math.min(left.length, at + STRETCH); i++) {
        l = Math.max(l, Math.abs(left[i]!));
        r = Math.max(r, Math.abs(right[i]!));
      }
      peaks.set(Math.floor((from + at) / STRETCH), [l, r]);
    }
  },
  /** Shows what is heard after so many samples. */
  show(samples: number): void {
    const at = Math.floor(samples / STRETCH);
    if (at === shown) return;
    const before = useMeter.getState();
    let { left, right, held } = before;
    for (const stretch of [...peaks.keys()].filter((one) => one <= at)) {
      const [l, r] = peaks.get(stretch)!;
      peaks.delete(stretch);
      left = Math.max(left - FALL, decibels(l));
      right = Math.max(right - FALL, decibels(r));
      held = Math.max(held, left, right);
    }
    shown = at;
    useMeter.setState({ left, right, held });
  },
  clear(): void {
    peaks.clear();
    shown = -1;
    useMeter.setState({ left: SILENT, right: SILENT, held: SILENT });
  },
};
