/** Gathering: from kept hits to a row of clips, by rules that can be run again. Times are seconds. */
import type { Edit } from '../document/edits.ts';
import type { Clip, Hit, Source } from '../document/types.ts';
import { lowerBound } from '../base/search.ts';
import { frameToSeconds, type Rate } from '../base/time.ts';
import { boundsOf, leastLength } from './row.ts';
import { clipFrames } from './timeline.ts';

export interface Around {
  readonly before: number;
  readonly after: number;
}

/** A stretch of the montage in which clips are as long as makes so many hits a minute. */
export interface Section {
  /** Montage seconds; from inclusive, to exclusive. */
  readonly from: number;
  readonly to: number;
  readonly perMinute: number;
}

export interface Gathering extends Around {
  /** Seconds of the source before and after single hits, by their ids, where they are other than of the rest. */
  readonly around?: ReadonlyMap<string, Around> | undefined;
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
  /** Each clip lasts from where it begins to the so-many-th bar after it; bars begin at these montage seconds, ascending. */
  readonly bars?: { readonly begins: readonly number[]; readonly count: number } | undefined;
  readonly sections?: readonly Section[] | undefined;
  /** Hits whose clips are taken before all others. */
  readonly first?: ReadonlySet<string> | undefined;
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

/** Seconds that a clip of so many hits is about to last, wherever it will lie; Infinity: as long as its surroundings are. */
function usualLength({ bars, sections }: Gathering, hits = 1): number {
  const begins = bars?.begins ?? [];
  if (bars && begins.length > 1) return (bars.count * (begins.at(-1)! - begins[0]!)) / (begins.length - 1);
  const rates = (sections ?? []).flatMap(({ perMinute }) => (perMinute > 0 ? [perMinute] : []));
  return rates.length ? (hits * 60) / Math.max(...rates) : Infinity;
}

/** The surroundings of hits, those that overlap as one stretch, no longer than a clip is to last. */
function stretches(source: Source, hits: readonly Hit[], rules: Gathering): Gathered[] {
  const { from, to } = boundsOf(source);
  const out: (Gathered & { hits: string[]; out: number; strength: number })[] = [];
  for (const hit of [...hits].sort((a, b) => a.t - b.t)) {
    if (hit.t < from || hit.t >= to) continue;
    const { before, after } = rules.around?.get(hit.id) ?? rules;
    const last = out.at(-1);
    const cap = (last?.in ?? 0) + usualLength(rules, (last?.hits.length ?? 0) + 1);
    const joins = last !== undefined && hit.t - before <= last.out && hit.t < cap;
    // What no longer has room in the clip before begins after it.
    const begin = Math.max(from, hit.t - before, last && !joins ? Math.min(hit.t, last.out, cap) : from);
    const end = Math.min(to, Math.max(hit.t + after, begin + leastLength(source)));
    if (joins) {
      last.out = Math.max(last.out, end);
      last.hits.push(hit.id);
      last.strength = Math.max(last.strength, hit.strength);
    } else out.push({ source: source.id, in: begin, out: end, hits: [hit.id], strength: hit.strength });
  }
  return out;
}

/** Seconds that a clip is to last which begins at `at` in the montage; null: as long as its surroundings are. */
function lengthAt(at: number, hits: number, { bars, sections }: Gathering): number | null {
  if (bars?.begins.length) {
    const { begins, count } = bars;
    // A join that lies on a bar but for rounding is on it.
    const next = lowerBound(begins, at + LEAST_LEAD, (bar) => bar);
    const end = begins[next + count - 1];
    if (end !== undefined) return end - at;
  }
  const section = sections?.find(({ from, to }) => at >= from - 1e-6 && at < to - 1e-6);
  return section && section.perMinute > 0 ? (hits * 60) / section.perMinute : null;
}

/** The clip made as long as it is to be, about its hits, within its source. */
function lasting(clip: Gathered, length: number | null, first: number, source: Source): Gathered {
  if (length === null) return clip;
  const { from, to } = boundsOf(source);
  const all = Math.min(Math.max(length, leastLength(source)), to - from);
  // The hit stays as far into it as it was, in proportion where there is less room.
  const lead = Math.min(first - clip.in, (all * (first - clip.in)) / (clip.out - clip.in));
  const begin = Math.min(Math.max(from, first - lead), to - all);
  return { ...clip, in: begin, out: begin + all };
}

/** The clip with its first hit on a beat, where its source has enough before it; the clip begins at `at` in the montage. */
function onBeat(
  clip: Gathered,
  first: number,
  at: number,
  length: number | null,
  source: Source,
  { beats }: Gathering,
): Gathered {
  if (!beats?.length) return clip;
  const before = first - clip.in;
  const lead = first - boundsOf(source).from;
  const wanted = at + before;
  let best: number | null = null;
  for (let i = lowerBound(beats, at + LEAST_LEAD, (beat) => beat); i < beats.length && beats[i]! - at <= lead; i++) {
    if (best === null || Math.abs(beats[i]! - wanted) < Math.abs(best - wanted)) best = beats[i]!;
    if (beats[i]! > wanted) break;
  }
  if (best === null || (length !== null && best - at >= length)) return clip;
  const begin = first - (best - at);
  // What is to last so many bars goes on doing so.
  return { ...clip, in: begin, out: length === null ? clip.out : Math.min(boundsOf(source).to, begin + length) };
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
  const chosen = (clip: Gathered): number => (clip.hits.some((id) => rules.first?.has(id)) ? 1 : 0);
  const places = new Map(all.map((clip, i) => [clip, i]));
  const inOrder = (a: Gathered, b: Gathered): number => b.strength - a.strength || places.get(a)! - places.get(b)!;
  const byStrength = [...all].sort(inOrder);
  const taken = new Set<Gathered>();
  let seconds = 0;
  const lasts = (clip: Gathered): number => {
    const usual = usualLength(rules, clip.hits.length);
    return Number.isFinite(usual) ? usual : clip.out - clip.in;
  };
  for (const clip of [...byStrength].sort((a, b) => chosen(b) - chosen(a))) {
    if (taken.size >= (rules.most ?? Infinity)) break;
    // A shorter one may still have room.
    if (seconds + lasts(clip) > (rules.longest ?? Infinity) + 1e-9) continue;
    taken.add(clip);
    seconds += lasts(clip);
  }
  const ordered = (rules.order === 'time' ? all : byStrength).filter((clip) => taken.has(clip));
  const clips: Gathered[] = [];
  let at = 0;
  for (const clip of ordered) {
    const source = sources.find(({ id }) => id === clip.source)!;
    const first = times.get(clip.hits[0]!)!;
    const length = lengthAt(at, clip.hits.length, rules);
    const placed = onBeat(lasting(clip, length, first, source), first, at, length, source, rules);
    // Hits that a shorter clip no longer shows are left out.
    clips.push({
      ...placed,
      hits: placed.hits.filter((id) => times.get(id)! >= placed.in && times.get(id)! < placed.out),
    });
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
