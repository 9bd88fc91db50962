/** The tracked grid as the person corrected it. */
import type { GridEdit } from '../../document/types.ts';
import type { SoundSignals } from '../signals/types.ts';
import { beatGrid, hasBeat, type BeatGrid } from './track.ts';

/** Beats of an uncorrected grid are shown only where the sound has a beat; a corrected one always. */
export function editedGrid(
  sound: SoundSignals,
  { bpm, pin, times, shift, bar }: GridEdit,
  sensitivity = 0.5,
): BeatGrid {
  const touched = bpm !== null || pin !== null || times !== 1 || shift !== 0 || bar !== 0;
  if (!touched && !hasBeat(sound, sensitivity)) return { beats: [], downbeats: [], tempi: [], confidence: 0 };
  const tracked = beatGrid(sound, { bpm: bpm ?? undefined, pin: pin ?? undefined });
  if (!touched) return tracked;
  const first = new Set(tracked.downbeats);
  let beats: number[] = [...tracked.beats];
  const downbeat = beats.findIndex((t) => first.has(t));
  if (times === 2) beats = beats.flatMap((t, i) => (i + 1 < beats.length ? [t, (t + beats[i + 1]!) / 2] : [t]));
  // Every second one, so that downbeats stay.
  else if (times === 0.5) beats = beats.filter((_, i) => (i - Math.max(0, downbeat)) % 2 === 0);
  const metre = metreOf(tracked);
  const anchor = Math.max(
    0,
    beats.findIndex((t) => first.has(t)),
  );
  const begins = (i: number): boolean => (((i - anchor - bar) % metre) + metre) % metre === 0;
  return {
    beats: beats.map((t) => t + shift),
    // As tracked where bars were not touched; else counted from the first one.
    downbeats: beats.filter((t, i) => (bar === 0 && times === 1 ? first.has(t) : begins(i))).map((t) => t + shift),
    tempi: tracked.tempi.map(({ t, bpm }) => ({ t: t + shift, bpm: bpm * times })),
    confidence: tracked.confidence,
  };
}

/** Beats a bar: the usual distance of downbeats. */
function metreOf({ beats, downbeats }: BeatGrid): number {
  const counts = downbeats
    .slice(1)
    .map((t, i) => beats.filter((b) => b >= downbeats[i]! - 1e-6 && b < t - 1e-6).length)
    .sort((a, b) => a - b);
  return counts[counts.length >> 1] ?? 4;
}

/** Beats a minute from taps in seconds: the median of their distances; null with fewer than four. */
export function tappedTempo(taps: readonly number[]): number | null {
  if (taps.length < 4) return null;
  const gaps = taps
    .slice(1)
    .map((t, i) => t - taps[i]!)
    .sort((a, b) => a - b);
  const bpm = 60 / gaps[gaps.length >> 1]!;
  return bpm >= 30 && bpm <= 300 ? Math.round(bpm * 10) / 10 : null;
}

/** Middle of the distances of taps from the nearest beat, in seconds; null with fewer than four. */
export function tapOffset(taps: readonly number[], first: number, gap: number): number | null {
  const offsets = taps.map((t) => t - first - Math.round((t - first) / gap) * gap).sort((a, b) => a - b);
  return offsets.length < 4 ? null : offsets[offsets.length >> 1]!;
}
