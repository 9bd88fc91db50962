/**
 * Keeps a mix under a ceiling between its samples, too. It looks ahead, so that it is down when a peak comes, and comes up
 * again evenly in decibels; what it does at a sample hangs on what is near it alone, so that any stretch can be asked first.
 */
import { peakFrom, REACH } from './true-peak.ts';

/** Decibels a second down before a peak and up after it; deeper than this it never goes. */
const DOWN = 4000;
const UP = 120;
export const DEEPEST = 48;
/** Decibels that it stays under the ceiling, for a gain that moves changes what lies between samples a little. */
const MARGIN = 0.05;
/** Below this share of the ceiling nothing between two samples reaches it. */
const LOW = 0.4;

/** Seconds before a stretch from which it must be heard, and after it. */
export const LIMIT_BEFORE = DEEPEST / UP;
export const LIMIT_AFTER = DEEPEST / DOWN + 1e-3;

/**
 * Limits left and right in place; both are turned down alike.
 * @param ceiling decibels below full scale, true peak
 * @returns the decibels taken off each sample, 0 or less
 */
export function limit(left: Float32Array, right: Float32Array, ceiling: number, rate: number): Float32Array {
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
  for (let i = 0; i < left.length; i++) {
    for (const channel of [left, right]) {
      const near = Math.max(Math.abs(channel[i]!), Math.abs(channel[i + 1] ?? 0));
      if (near > LOW * most) weigh(i, peakFrom(channel, i));
    }
  }
  if (!any) return down;
  const [rise, fall] = [UP / rate, DOWN / rate];
  for (let i = 1; i < down.length; i++) down[i] = Math.min(down[i]!, down[i - 1]! + rise);
  for (let i = down.length - 2; i >= 0; i--) down[i] = Math.min(down[i]!, down[i + 1]! + fall);
  for (let i = 0; i < down.length; i++) {
    if (down[i] === 0) continue;
    const gain = 10 ** (down[i]! / 20);
    left[i]! *= gain;
    right[i]! *= gain;
    // What is deeper than it goes is cut: louder than full scale nothing is.
    left[i] = Math.max(-1, Math.min(1, left[i]!));
    right[i] = Math.max(-1, Math.min(1, right[i]!));
  }
  return down;
}
