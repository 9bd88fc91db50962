/** Gathering: from kept hits to a row of clips, by rules that can be run again. Times are seconds. */
import type { Edit } from '../document/edits.ts';
import type { Clip, Hit, Source } from '../document/types.ts';
import { lowerBound } from '../base/search.ts';
import { frameToSeconds, type Rate } from '../base/time.ts';
import { boundsOf, leastLength } from './row.ts';
import { clipFrames } from './timeline.ts';

export interface Gathering {
  /** Seconds of the source before and after each hit. */
  readonly before: number;
  readonly after: number;
  /** As they come in their sources, sources in the montage's order; or the strongest first. */
  readonly order: 'time' | 'strength';
  /** Most clips, and most seconds of them all; null: no limit. The strongest are taken. */
  readonly most: number | null;
  readonly longest: number | null;
  /**
   * Montage seconds of the music's beats, ascending, where the first hit of each clip is to fall on one; null: wherever it
   * falls. The seconds before a hit are then the nearest to `before` that do it, after what was gathered before it.
   */
  readonly beats: readonly number[] | null;
  /** Of the montage, whose clips are whole frames long. */
  readonly rate: Rate;
}

/** A stretch of a source with the hits that it was taken for, in order of time. */
export interface Gathered {
  readonly source: string;
  readonly in: number;
  readonly out: number;
  readonly hits: readonly string[];
  /** The strongest of them. */
  readonly strength: number;
}

export interface Gather {
  readonly clips: readonly Gathered[];
  /** Ids of hits that no clip shows, in order of time: they can be swapped in. */
  readonly left: readonly string[];
  /** Seconds of all clips. */
  readonly length: number;
}

const clipSeconds = (clip: Pick<Clip, 'in' | 'out'>, rate: Rate): number =>
  frameToSeconds(clipFrames(clip, rate), rate);

/** Least seconds of a clip before a hit that lies on a beat. */
const LEAST_LEAD = 0.1;

/** The surroundings of hits, those that overlap as one stretch. */
function stretches(source: Source, hits: readonly Hit[], { before, after }: Gathering): Gathered[] {
  const { from, to } = boundsOf(source);
  const out: (Gathered & { hits: string[]; out: number; strength: number })[] = [];
  for (const hit of [...hits].sort((a, b) => a.t - b.t)) {
    if (hit.t < from || hit.t >= to) continue;
    const begin = Math.max(from, hit.t - before);
    const end = Math.min(to, Math.max(hit.t + after, begin + leastLength(source)));
    const last = out.at(-1);
    if (last && begin <= last.out) {
      last.out = Math.max(last.out, end);
      last.hits.push(hit.id);
      last.strength = Math.max(last.strength, hit.strength);
    } else out.push({ source: source.id, in: begin, out: end, hits: [hit.id], strength: hit.strength });
  }
  return out;
}

/** The clip with its first hit on a beat, where its source has enough before it; the clip begins at `at` in the montage. */
function onBeat(clip: Gathered, first: number, at: number, source: Source, { before, beats }: Gathering): Gathered {
  if (!beats?.length) return clip;
  const lead = first - boundsOf(source).from;
  const wanted = at + before;
  let best: number | null = null;
  for (let i = lowerBound(beats, at + LEAST_LEAD, (beat) => beat); i < beats.length && beats[i]! - at <= lead; i++) {
    if (best === null || Math.abs(beats[i]! - wanted) < Math.abs(best - wanted)) best = beats[i]!;
    if (beats[i]! > wanted) break;
  }
  return best === null ? clip : { ...clip, in: first - (best - at) };
}

/** @param hits those that are to be gathered, of any sources, in any order */
export function gather(sources: readonly Source[], hits: readonly Hit[], rules: Gathering): Gather {
  const times = new Map(hits.map(({ id, t }) => [id, t]));
  const all = sources
    .filter(({ video }) => video)
    .flatMap((source) =>
      stretches(
        source,
        hits.filter((hit) => hit.source === source.id),
        rules,
      ),
    );
  const byStrength = [...all].sort((a, b) => b.strength - a.strength || all.indexOf(a) - all.indexOf(b));
  const taken = new Set<Gathered>();
  let seconds = 0;
  for (const clip of byStrength) {
    if (taken.size >= (rules.most ?? Infinity)) break;
    // A shorter one may still have room.
    if (seconds + clip.out - clip.in > (rules.longest ?? Infinity) + 1e-9) continue;
    taken.add(clip);
    seconds += clip.out - clip.in;
  }
  const ordered = (rules.order === 'time' ? all : byStrength).filter((clip) => taken.has(clip));
  const clips: Gathered[] = [];
  let at = 0;
  for (const clip of ordered) {
    const source = sources.find(({ id }) => id === clip.source)!;
    const placed = onBeat(clip, times.get(clip.hits[0]!)!, at, source, rules);
    clips.push(placed);
    // What comes after it begins where its last frame ends.
    at += clipSeconds(placed, rules.rate);
  }
  const shown = new Set(clips.flatMap((clip) => clip.hits));
  return {
    clips,
    left: [...hits]
      .filter(({ id }) => !shown.has(id))
      .sort((a, b) => a.t - b.t)
      .map(({ id }) => id),
    length: at,
  };
}

/** Whether a clip was gathered and is as gathering left it. */
const isAsGathered = ({ gathered, in: from, out }: Clip): boolean =>
  gathered !== undefined && Math.abs(gathered.in - from) < 1e-6 && Math.abs(gathered.out - out) < 1e-6;

/**
 * Makes the row of what was gathered. What was gathered before and then changed by hand stays as it is, in its new place;
 * what was never gathered goes, or stays at the end of the row.
 */
export const setGathered =
  (clips: readonly Gathered[], newId: () => string, others: 'drop' | 'keep' = 'drop'): Edit =>
  (m) => {
    const changed = new Map(
      m.clips.filter((clip) => clip.gathered && !isAsGathered(clip)).map((clip) => [clip.gathered!.hits[0]!, clip]),
    );
    const same = new Map(m.clips.filter(isAsGathered).map((clip) => [clip.gathered!.hits[0]!, clip]));
    const used = new Set<Clip>();
    const row = clips.map(({ source, in: from, out, hits }): Clip => {
      const hand = hits.map((id) => changed.get(id)).find((clip) => clip && !used.has(clip));
      if (hand) {
        used.add(hand);
        return hand;
      }
      const before = same.get(hits[0]!);
      // Its id stays, so that what was set by hand on its placements stays too.
      return {
        fit: 'fit',
        ...before,
        id: before?.id ?? newId(),
        source,
        in: from,
        out,
        gathered: { hits, in: from, out },
      };
    });
    const rest = m.clips.filter(
      (clip) => !used.has(clip) && (clip.gathered ? changed.get(clip.gathered.hits[0]!) === clip : others === 'keep'),
    );
    return { ...m, clips: [...row, ...rest] };
  };
