/**
 * Ramps of accents on the row. Which hits take them is asked of the row as it is without any, so that a ramp cannot move
 * itself; the row with them is what is shown, and everything else lies on that.
 */
import { greatest, least } from '../base/extremes.ts';
import { once } from '../base/once.ts';
import type { Clip, Hit, Montage, Ramp } from '../document/types.ts';
import type { PlacedRamp } from '../timeline/speed.ts';
import {
  timeline,
  type ClipRamps,
  type ClipSpan,
  type MediaIndex,
  type Ramps,
  type Timeline,
} from '../timeline/timeline.ts';
import { fps } from '../base/time.ts';
import { carriers, placements } from './placements.ts';

/** Source seconds at which a ramp is to end; null where its steps say so themselves, or nothing comes. */
function endOf({ until }: Ramp, t: number, hit: Hit, clip: Clip, marks: () => readonly number[]): number | null {
  const back = (clip.speed ?? 1) < 0;
  if (until === 'end') return hit.end !== undefined && hit.end > t && !back ? hit.end : null;
  if (until !== 'next') return null;
  const later = marks().filter((mark) => (back ? mark < t - 1e-6 : mark > t + 1e-6));
  return later.length ? (back ? greatest(later) : least(later)) : null;
}

/** Longest last step, in its own frames. */
const LONGEST = 3600;

/** A ramp whose last step goes on until so many source seconds after its hit are shown; one that comes earlier cuts it short. */
function lasting(ramp: Ramp, after: number, fps: number, scale: number): Ramp {
  let before = ramp.before;
  let left = (after * fps) / scale;
  const steps: Ramp['steps'][number][] = [];
  for (const [i, step] of ramp.steps.entries()) {
    const passed = Math.min(before, step.frames);
    before -= passed;
    const most = step.speed > 0 ? left / step.speed : Infinity;
    const rest = i === ramp.steps.length - 1 && step.speed > 0 ? most : Math.min(most, step.frames - passed);
    left -= rest * step.speed;
    steps.push({ ...step, frames: passed + Math.min(LONGEST, rest) });
    if (left <= 1e-9) break;
  }
  return { ...ramp, steps };
}

/** By clip, for all that lie on it. */
function rampsOf(montage: Montage, base: Timeline): Ramps {
  const ramped = new Set(montage.accents.filter(({ ramp }) => ramp).map(({ id }) => id));
  const shown = once(() => carriers(montage, base));
  const own = {
    ...montage,
    rules: montage.rules.filter((rule) => rule.accents.some(({ accent }) => ramped.has(accent))),
    byHand: montage.byHand.filter(({ accent }) => ramped.has(accent)),
  };
  /** Source seconds of all hits that a clip shows. */
  const marksIn = (span: ClipSpan): number[] =>
    shown().flatMap(({ hit, frame }) =>
      frame >= span.first && frame < span.end && hit.source === span.clip.source && hit.kind !== 'join' ? [hit.t] : [],
    );
  const found = new Map<string, PlacedRamp[]>();
  for (const { accent: prepared, occurrence, muted } of placements(own, base, shown())) {
    const { ramp, rate, exact } = prepared.accent;
    const span = base.spanAt(occurrence.frame);
    if (!ramp || muted || !span) continue;
    const { hit } = occurrence;
    // A beat of the music slows what is shown at that moment.
    const shows = hit.source === span.clip.source && hit.t >= span.clip.in && hit.t < span.clip.out;
    const t = shows ? hit.t : base.sourceTime(span, base.timeOf(occurrence.frame));
    const list = found.get(span.clip.id) ?? [];
    // Of two ramps on one hit the first that was laid counts.
    if (list.some((one) => Math.abs(one.t - t) < 1e-6)) continue;
    const scale = exact ? 1 : base.fps / fps(rate);
    const wanted = endOf(ramp, t, hit, span.clip, () => marksIn(span));
    list.push({ ramp: wanted === null ? ramp : lasting(ramp, Math.abs(wanted - t), base.fps, scale), t, scale });
    found.set(span.clip.id, list);
  }
  return new Map(
    [...found].map(([clip, ramps]): [string, ClipRamps] => {
      const paid = ramps.some(({ ramp }) => ramp.gained === 'paid back');
      const span = base.spans.find((one) => one.clip.id === clip)!;
      return [clip, { ramps, marks: paid ? marksIn(span) : [] }];
    }),
  );
}

/** The last row with ramps on each row without: while nothing of them changes it stays the same. */
const latest = new WeakMap<Timeline, { readonly key: string; readonly line: Timeline }>();

/** The montage's frames, with the ramps of all its accents. */
export function rampedTimeline(montage: Montage, media: MediaIndex): Timeline {
  const base = timeline(montage, media);
  if (!montage.accents.some(({ ramp }) => ramp)) return base;
  const ramps = rampsOf(montage, base);
  if (!ramps.size) return base;
  const key = JSON.stringify([...ramps]);
  const known = latest.get(base);
  if (known?.key === key) return known.line;
  const line = timeline(montage, media, ramps);
  latest.set(base, { key, line });
  return line;
}

/** The montage with every clip at its recorded speed, forwards or backwards, and accents without ramps. */
export const asRecorded = (montage: Montage): Montage => ({
  ...montage,
  clips: montage.clips.map(({ pins: _, speeds: __, speed = 1, ...clip }) => ({ ...clip, speed: Math.sign(speed) })),
  accents: montage.accents.map(({ ramp: _, ...accent }) => accent),
});
