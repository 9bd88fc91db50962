/**
 * Keeps a mix under a ceiling between its samples, too. It looks ahead, so that it is down when a peak comes, and comes up
 * again evenly in decibels; what it does at a sample hangs on what is near it alone, so that any stretch can be asked first.
 */
import { peakFrom, REACH } from './true-peak.ts';

/** Decibels a second down before a peak and up after it; deeper than this it never goes. */
const DOWN = 4000;
const UP = 120;
export const DEEPEST = 36;
/** Decibels that it stays under the ceiling, for a gain that moves changes what lies between samples a little. */
const MARGIN = 0.05;
/** Nepers in a decibel. */
const NEPER = Math.LN10 / 20;
/** Below this share of the ceiling nothing between two samples reaches it. */
const LOW = 0.6;

/** Seconds before a stretch from which it must be heard, and after it. */
export const LIMIT_BEFORE = DEEPEST / UP;
export const LIMIT_AFTER = DEEPEST / DOWN + 1e-3;

/**
 * Limits left and right in place, from one sample to before another; both are turned down alike.
 * @param ceiling decibels below full scale, true peak
 * @returns the decibels taken off each sample, 0 or less
 */
export function limit(
  left: Float32Array,
  right: Float32Array,
  ceiling: number,
  rate: number,
  from = 0,
  to = left.length,
): Float32Array {
  const most = 10 ** ((ceiling - MARGIN) / 20);
  const down = new Float32Array(left.length);
  let any = false;
  const weigh = (i: number, peak: number): void => {
    if (peak <= most) return;
    any = true;
    const wanted = Math.max(-DEEPEST, 20 * Math.log10(most / peak));
    // Held over all that the value between samples is made of.
    for (let k = Math.max(0, i - REACH); k <= Math.min(down.length - 1, i + REACH); k++)
      if (wanted < down[k]!) down[k] = wanted;
  };
  const low = LOW * most;
  for (const channel of [left, right]) {
    let here = Math.abs(channel[0] ?? 0);
    for (let i = 0; i < channel.length; i++) {
      const next = Math.abs(channel[i + 1] ?? 0);
      if (here > low || next > low) weigh(i, peakFrom(channel, i));
      here = next;
    }
  }
  if (!any) return down;
  const [rise, fall] = [UP / rate, DOWN / rate];
  for (let i = 1; i < down.length; i++) down[i] = Math.min(down[i]!, down[i - 1]! + rise);
  for (let i = down.length - 2; i >= 0; i--) down[i] = Math.min(down[i]!, down[i + 1]! + fall);
  for (let i = from; i < to; i++) {
    if (down[i] === 0) continue;
    const gain = Math.exp(down[i]! * NEPER);
    for (const channel of [left, right]) {
      const v = channel[i]! * gain;
      // What is deeper than it goes is cut: louder than full scale nothing is.
      channel[i] = v > 1 ? 1 : v < -1 ? -1 : v;
    }
  }
  return down;
}
