/** Landing hits of the picture on beats of the music: the gentlest speeds between them, within limits. */
import { lowerBound } from '../base/search.ts';
import { together, type Edit } from '../document/edits.ts';
import type { Montage } from '../document/types.ts';
import { carries } from '../document/hits.ts';
import type { Occurrence } from './occurrences.ts';
import { musicTime } from './music.ts';
import { boundsOf, pinClip, trimClip } from './row.ts';
import type { ClipSpan, Timeline } from './timeline.ts';

export type LandingRule = NonNullable<Montage['landing']>;

export interface LandingHit {
  readonly id: string;
  /** Output frames, fractions too, from the clip's first frame to where it is shown at the clip's recorded speed. */
  readonly at: number;
}

export interface LandingLimits {
  /** Least and largest speed, shares of the recorded one. */
  readonly least: number;
  readonly most: number;
}

export interface Landing {
  /** Frames of the clip on which hits land, in their order. */
  readonly pairs: readonly { readonly id: string; readonly at: number; readonly beat: number }[];
  /** Hits that cannot, with the frames from where they are shown then to the nearest beat. */
  readonly missed: readonly { readonly id: string; readonly by: number }[];
}

/** What a hit that does not land costs: more than any speed within limits does. */
const MISSED = 1e6;

/** How far from gentle frames at a speed are: nothing at the recorded one, the same for twice as half as fast. */
const strain = (shown: number, frames: number): number => frames * Math.log(shown / frames) ** 2;

/**
 * Pairs as many hits with beats as limits allow, and of all ways to do so takes the one whose speeds stay nearest to the
 * recorded one: the sum of frames times the squared logarithm of the speed is least. Each beat takes one hit, in their
 * order. Exact, by dynamic programming over pairs (R. Bellman, Dynamic Programming, 1957).
 *
 * @param hits ascending
 * @param beats whole output frames from the clip's first frame, ascending
 * @param fixed beat by the id of a hit that is to land on it; null: it is let go
 */
export function landOn(
  hits: readonly LandingHit[],
  beats: readonly number[],
  { least, most }: LandingLimits,
  fixed: ReadonlyMap<string, number | null> = new Map(),
): Landing {
  interface State {
    readonly cost: number;
    readonly hit: number;
    readonly beat: number;
    readonly before: State | null;
  }
  const begin: State = { cost: 0, hit: -1, beat: -1, before: null };
  const placeOf = ({ hit, beat }: State): { shown: number; frame: number } =>
    hit < 0 ? { shown: 0, frame: 0 } : { shown: hits[hit]!.at, frame: beats[beat]! };
  /** Best way to each pair of the hits so far. */
  const ways: State[] = [begin];
  let best = { cost: hits.length * MISSED, state: begin };
  for (let i = 0; i < hits.length; i++) {
    const wanted = fixed.get(hits[i]!.id);
    if (wanted === null) continue;
    const found = new Map<number, State>();
    for (const way of ways) {
      const { shown, frame } = placeOf(way);
      const stretch = hits[i]!.at - shown;
      // A hit that is fixed and would be left out between makes a way none.
      if (!passable(hits, fixed, way.hit, i)) continue;
      const [soonest, latest] = [frame + stretch / most, frame + stretch / least];
      for (let b = lowestAt(beats, Math.max(soonest - 1e-9, frame + (way.hit < 0 ? 0 : 1))); b < beats.length; b++) {
        const beat = beats[b]!;
        if (beat > latest + 1e-9) break;
        if (wanted !== undefined && beat !== wanted) continue;
        if (beat === frame && stretch > 1e-9) continue;
        const cost =
          way.cost + (i - way.hit - 1) * MISSED + (beat === frame ? 0 : strain(Math.max(stretch, 1e-9), beat - frame));
        const known = found.get(b);
        if (!known || cost < known.cost) found.set(b, { cost, hit: i, beat: b, before: way });
      }
    }
    for (const state of found.values()) {
      ways.push(state);
      const all = state.cost + (hits.length - 1 - i) * MISSED;
      if (all < best.cost && passable(hits, fixed, i, hits.length)) best = { cost: all, state };
    }
  }
  const pairs: { id: string; at: number; beat: number }[] = [];
  for (let state: State | null = best.state; state && state.hit >= 0; state = state.before)
    pairs.unshift({ id: hits[state.hit]!.id, at: beats[state.beat]!, beat: state.beat });
  const landed = new Map(pairs.map(({ id, at }) => [id, at]));
  const pins = hits.flatMap(({ id, at }) => (landed.has(id) ? [{ shown: at, frame: landed.get(id)! }] : []));
  return {
    pairs,
    missed: hits
      .filter(({ id }) => !landed.has(id))
      .map(({ id, at }) => {
        const now = between(pins, at);
        const near = [beats[lowestAt(beats, now) - 1], beats[lowestAt(beats, now)]].flatMap((beat) =>
          beat === undefined ? [] : [beat - now],
        );
        return { id, by: near.sort((a, b) => Math.abs(a) - Math.abs(b))[0] ?? Infinity };
      }),
  };
}

/** Whether no hit between two is fixed to a beat. */
const passable = (
  hits: readonly LandingHit[],
  fixed: ReadonlyMap<string, number | null>,
  after: number,
  before: number,
): boolean => {
  for (let i = after + 1; i < before; i++) if (typeof fixed.get(hits[i]!.id) === 'number') return false;
  return true;
};

/** Index of the first beat at a moment or after it, in the same unit. */
const lowestAt = (beats: readonly number[], frame: number): number => lowerBound(beats, frame, (beat) => beat);

/** Where a place of the clip is shown between pins; before the first from the clip's beginning, after the last as recorded. */
function between(pins: readonly { readonly shown: number; readonly frame: number }[], at: number): number {
  let from = { shown: 0, frame: 0 };
  for (const pin of pins) {
    if (pin.shown >= at)
      return from.frame + ((at - from.shown) / Math.max(1e-9, pin.shown - from.shown)) * (pin.frame - from.frame);
    from = pin;
  }
  return from.frame + at - from.shown;
}

/** Seconds beside a beat within which a hit is on it: two frames at 30 a second (common practice, no source). */
export const ON_BEAT = 0.07;

/** Ids of kept hits of the footage that lie on a beat where the montage shows them first. */
export function hitsOnBeats(line: Timeline, shown: readonly Occurrence[], beats: readonly number[]): Set<string> {
  const seen = new Set<string>();
  const on = new Set<string>();
  for (const { hit, frame } of shown) {
    const span = line.spanAt(frame);
    if (!carries(hit) || hit.kind === 'join' || span?.clip.source !== hit.source || seen.has(hit.id)) continue;
    seen.add(hit.id);
    const t = line.timeOf(frame);
    const after = lowestAt(beats, t);
    const off = Math.min(...[beats[after - 1], beats[after]].map((beat) => Math.abs((beat ?? Infinity) - t)));
    if (off <= ON_BEAT + 1e-6) on.add(hit.id);
  }
  return on;
}

/** How the hits of one clip land. */
export interface LandedClip extends Landing {
  readonly span: ClipSpan;
  /** By the ids of hits: where each is within the clip, source seconds. */
  readonly times: ReadonlyMap<string, number>;
}

/**
 * Lands the hits of every clip on its own: clips stay as long as they are, so none moves another's. Clips that run
 * backwards or have speeds along them are left out.
 * @param shown where the montage shows hits; those that carry accents and belong to the footage are landed
 * @param beats montage seconds, ascending
 */
export function landRow(
  line: Timeline,
  shown: readonly Occurrence[],
  beats: readonly number[],
  limits: LandingLimits,
  fixed: ReadonlyMap<string, number | null> = new Map(),
): LandedClip[] {
  return line.spans.flatMap((span) => {
    const { clip, first, end } = span;
    if ((clip.speed ?? 1) < 0 || clip.speeds) return [];
    const times = new Map(
      shown
        .filter(({ hit, frame }) => frame >= first && frame < end && hit.source === clip.source)
        .filter(({ hit }) => carries(hit) && hit.kind !== 'join' && hit.t > clip.in)
        .map(({ hit }) => [hit.id, hit.t]),
    );
    if (!times.size) return [];
    const hits = [...times].map(([id, t]) => ({ id, at: (t - clip.in) * line.fps })).sort((a, b) => a.at - b.at);
    const frames = [...new Set(beats.map((seconds) => Math.round(seconds * line.fps) - first))].filter(
      (frame) => frame > 0 && frame < end - first,
    );
    const within = new Map([...fixed].map(([id, frame]) => [id, frame === null ? null : frame - first]));
    return [{ span, times, ...landOn(hits, frames, limits, within) }];
  });
}

/**
 * Pins what lands, and lets each clip end where it ended: with as much of its source as that takes, slower where there
 * is less. Where there is less than the least speed shows the clip ends sooner.
 */
export const land = (
  landed: readonly LandedClip[],
  line: Timeline,
  sources: Montage['sources'],
  { least }: LandingLimits,
): Edit =>
  together(
    landed.flatMap(({ span: { clip, first, end }, pairs, times }) => {
      const last = pairs.at(-1);
      const source = sources.find(({ id }) => id === clip.source);
      if (!last || !source) return clip.pins ? [pinClip(clip.id, [])] : [];
      const [rest, from] = [(end - first - last.at) / line.fps, times.get(last.id)!];
      const { to } = boundsOf(source);
      const out = Math.min(from + rest * (clip.speed ?? 1), to);
      const slower = out === to && to - from < rest * (clip.speed ?? 1) && to - from >= rest * least;
      return [
        trimClip(clip.id, { out }),
        pinClip(clip.id, [
          ...pairs.map(({ id, at }) => ({ t: times.get(id)!, at })),
          ...(slower ? [{ t: to, at: end - first }] : []),
        ]),
      ];
    }),
  );

/** Keeps how hits were landed, or lets all of them go. */
export const setLanding =
  (landing: LandingRule | null): Edit =>
  (m) => {
    const { landing: _, ...rest } = m;
    if (landing) return { ...rest, landing };
    return together(m.clips.flatMap(({ id, pins }) => (pins ? [pinClip(id, [])] : [])))(rest);
  };

/** Montage frames of the moments of music that hits are to land on, by hit; a moment that is not heard fixes nothing. */
export function fixedFrames(
  { fixed }: Pick<LandingRule, 'fixed'>,
  music: Montage['music'],
  fps: number,
): Map<string, number | null> {
  const frames = new Map<string, number | null>();
  for (const [id, moment] of Object.entries(fixed)) {
    if (!moment) frames.set(id, null);
    for (const item of moment ? music : []) {
      const seconds = item.source === moment!.source ? musicTime(item, moment!.t) : null;
      if (seconds !== null) frames.set(id, Math.round(seconds * fps));
    }
  }
  return frames;
}

/**
 * Lands all hits anew, as they were landed before, for music or clips that have moved since.
 * @returns null where everything lies as it would
 */
export function landAgain(
  m: Montage,
  line: Timeline,
  shown: readonly Occurrence[],
  beats: readonly number[],
): Edit | null {
  if (!m.landing) return null;
  const landed = landRow(line, shown, beats, m.landing, fixedFrames(m.landing, m.music, line.fps));
  const placed = ({ clips }: Montage): string => JSON.stringify(clips.map(({ pins, out }) => pins && [pins, out]));
  const edit = land(landed, line, m.sources, m.landing);
  return placed(edit(m)) === placed(m) ? null : edit;
}
