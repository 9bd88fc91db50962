/**
 * Ramps of accents on the row. Which hits take them is asked of the row as it is without any, so that a ramp cannot move
 * itself; the row with them is what is shown, and everything else lies on that.
 */
import { once } from '../base/once.ts';
import type { Montage } from '../document/types.ts';
import type { PlacedRamp } from '../timeline/speed.ts';
import { timeline, type ClipRamps, type MediaIndex, type Ramps, type Timeline } from '../timeline/timeline.ts';
import { fps } from '../base/time.ts';
import { carriers, placements } from './placements.ts';

/** By clip, for all that lie on it. */
function rampsOf(montage: Montage, base: Timeline): Ramps {
  const ramped = new Set(montage.accents.filter(({ ramp }) => ramp).map(({ id }) => id));
  const shown = once(() => carriers(montage, base));
  const own = {
    ...montage,
    rules: montage.rules.filter((rule) => rule.accents.some(({ accent }) => ramped.has(accent))),
    byHand: montage.byHand.filter(({ accent }) => ramped.has(accent)),
  };
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
    list.push({ ramp, t, scale: exact ? 1 : base.fps / fps(rate) });
    found.set(span.clip.id, list);
  }
  return new Map(
    [...found].map(([clip, ramps]): [string, ClipRamps] => {
      const paid = ramps.some(({ ramp }) => ramp.gained === 'paid back');
      const span = base.spans.find((one) => one.clip.id === clip)!;
      const within = ({ hit, frame }: ReturnType<typeof shown>[number]): boolean =>
        frame >= span.first && frame < span.end && hit.source === span.clip.source && hit.kind !== 'join';
      return [
        clip,
        {
          ramps,
          marks: paid
            ? shown()
                .filter(within)
                .map(({ hit }) => hit.t)
            : [],
        },
      ];
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
