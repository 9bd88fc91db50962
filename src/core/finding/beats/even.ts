/** Beats where no drum plays: between two stretches of one steady tempo they lie on that. */
import { lowerBound } from '../../base/search.ts';
import type { SoundSignals } from '../signals/types.ts';
import { onBeat } from './level.ts';

/** How surely a stroke is a bass drum or a snare, and how far it lies from a beat, seconds, so that the beat is held by it. */
const HELD = 0.4;
const BESIDE = 0.03;
/** Beats on each side whose tempo is asked for, at least so many of them. */
const ASKED = 12;
const LEAST = 4;
/** Shares by which both tempi, and the tempo between, may be apart. */
const ALIKE = 0.01;
const FITS = 0.015;
/** Most beats without a drum, and least. */
const MOST = 64;
const FEWEST = 2;

const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1]!;

/** The beats, evenly spaced where none is held by a drum and those around are of one tempo. */
export function evened(beats: readonly number[], sound: SoundSignals): number[] {
  const { attacks } = sound;
  const held = beats.map((t) => {
    for (let i = lowerBound(attacks, t - BESIDE, (at) => at); i < attacks.length && attacks[i]! <= t + BESIDE; i++)
      if (onBeat(sound, i) >= HELD) return true;
    return false;
  });
  /** The median distance of neighbours that are both held, among the beats from one to another, both inclusive. */
  const periodIn = (from: number, to: number): number | null => {
    const gaps: number[] = [];
    for (let i = Math.max(1, from + 1); i <= Math.min(beats.length - 1, to); i++)
      if (held[i] && held[i - 1]) gaps.push(beats[i]! - beats[i - 1]!);
    return gaps.length >= LEAST ? median(gaps) : null;
  };
  const out: number[] = [];
  for (let i = 0; i < beats.length; i++) {
    out.push(beats[i]!);
    if (!held[i]) continue;
    let next = i + 1;
    while (next < beats.length && !held[next]) next++;
    if (next >= beats.length || next - i <= FEWEST || next - i > MOST) continue;
    const [before, after] = [periodIn(i - ASKED, i), periodIn(next, next + ASKED)];
    if (before === null || after === null || Math.abs(before / after - 1) > ALIKE) continue;
    const whole = beats[next]! - beats[i]!;
    const count = Math.round((2 * whole) / (before + after));
    if (Math.abs((2 * whole) / count / (before + after) - 1) > FITS) continue;
    for (let k = 1; k < count; k++) out.push(beats[i]! + (k * whole) / count);
    i = next - 1;
  }
  return out;
}
