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

/** A stretch of a source that no other clip shows. */
export interface Gathered {
  readonly source: string;
  readonly in: number;
  readonly out: number;
  /** At least one: those it was made for, in order of time, then those of other clips that it shows as well. */
  readonly hits: readonly string[];
  /** The strongest of them. */
  readonly strength: number;
}

export interface Gather {
  readonly clips: readonly Gathered[];
  /** Ids of hits that no clip shows, in order of time: they can be swapped in. */
  readonly left: readonly string[];
  /** Hits that lie in the clip of another hit, and have none of their own. */
  readonly merged: number;
  /** Hits left out since clips beside them leave no footage that is as long as a clip is to last. */
  readonly crowded: number;
  /** Seconds of all clips. */
  readonly length: number;
}

const clipSeconds = (clip: Pick<Clip, 'in' | 'out'>, rate: Rate): number =>
  frameToSeconds(clipFrames(clip, rate), rate);

/** Least seconds of a clip before a hit that lies on a beat. */
const LEAST_LEAD = 0.1;

/** Seconds that a clip of so many hits is about to last, wherever it will lie; Infinity: as long as its surroundings are. */
function usualLength({ bars, sections }: Pick<Gathering, 'bars' | 'sections'>, hits = 1): number {
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
    // A clip shows its hit, whatever is asked for after it.
    const shows = Math.max(leastLength(source), frameToSeconds(1, rules.rate));
    const end = Math.min(to, Math.max(hit.t + after, hit.t + shows));
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
  if (bars && bars.begins.length > bars.count) {
    const { begins, count } = bars;
    // A join that lies on a bar but for rounding is on it.
    const next = lowerBound(begins, at + LEAST_LEAD, (bar) => bar);
    const ends = begins.slice(next + count - 1, next + count + 1);
    const usual = usualLength({ bars });
    const off = (end: number): number => Math.abs(end - at - usual);
    // Between two bars: the end that makes it the more like so many bars, so that no clip is a stub.
    if (ends.length) return ends.reduce((best, end) => (off(end) < off(best) ? end : best)) - at;
  }
  const section = sections?.find(({ from, to }) => at >= from - 1e-6 && at < to - 1e-6);
  return section && section.perMinute > 0 ? (hits * 60) / section.perMinute : null;
}

/** Source seconds; from inclusive, to exclusive. */
interface Room {
  readonly from: number;
  readonly to: number;
}

/** The footage about a moment that no clip shows yet; null where one shows the moment itself. */
function roomAt(t: number, source: Source, shown: readonly Room[]): Room | null {
  let { from, to } = boundsOf(source);
  for (const one of shown) {
    if (t >= one.from && t < one.to) return null;
    if (one.to <= t) from = Math.max(from, one.to);
    else to = Math.min(to, one.from);
  }
  return { from, to };
}

/** The clip made as long as it is to be, about its hits, within the room there is. */
function lasting(clip: Gathered, length: number | null, first: number, { from, to }: Room): Gathered {
  if (length === null) return clip;
  const all = Math.min(length, to - from);
  // The hit stays as far into it as it was, in proportion where there is less room.
  const lead = Math.min(first - clip.in, (all * (first - clip.in)) / (clip.out - clip.in));
  const begin = Math.min(Math.max(from, first - lead), to - all);
  return { ...clip, in: begin, out: begin + all };
}

/** The clip with its first hit on a beat, where there is enough before it; the clip begins at `at` in the montage. */
function onBeat(
  clip: Gathered,
  first: number,
  at: number,
  length: number | null,
  { from, to }: Room,
  { beats }: Gathering,
): Gathered {
  if (!beats?.length) return clip;
  const before = first - clip.in;
  const lead = first - from;
  const wanted = at + before;
  let best: number | null = null;
  for (let i = lowerBound(beats, at + LEAST_LEAD, (beat) => beat); i < beats.length && beats[i]! - at <= lead; i++) {
    if (best === null || Math.abs(beats[i]! - wanted) < Math.abs(best - wanted)) best = beats[i]!;
    if (beats[i]! > wanted) break;
  }
  if (best === null || (length !== null && best - at >= length)) return clip;
  const begin = first - (best - at);
  // What is to last so many bars goes on doing so.
  return { ...clip, in: begin, out: length === null ? clip.out : Math.min(to, begin + length) };
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
  const shown = new Map<string, Room[]>(sources.map(({ id }) => [id, []]));
  let crowded = 0;
  let at = 0;
  for (const clip of ordered) {
    const source = sources.find(({ id }) => id === clip.source)!;
    const there = shown.get(clip.source)!;
    // Hits that a clip before it shows have no clip of their own.
    const own = clip.hits.filter((id) => roomAt(times.get(id)!, source, there));
    if (!own.length) continue;
    const first = times.get(own[0]!)!;
    const room = roomAt(first, source, there)!;
    const length = lengthAt(at, own.length, rules);
    const { from, to } = boundsOf(source);
    // Clips that are to last a set time are not shortened by their neighbours.
    if (length !== null && room.to - room.from < Math.min(length, to - from) - 1e-6) {
      crowded += own.length;
      continue;
    }
    const within = { ...clip, hits: own, in: Math.max(room.from, clip.in), out: Math.min(room.to, clip.out) };
    const placed = onBeat(lasting(within, length, first, room), first, at, length, room, rules);
    clips.push(placed);
    there.push({ from: placed.in, to: placed.out });
    // What comes after it begins where its last frame ends.
    at += clipSeconds(placed, rules.rate);
  }
  const inTime = new Map(
    sources.map(({ id }) => [id, hits.filter(({ source }) => source === id).sort((a, b) => a.t - b.t)]),
  );
  const made = clips.map((clip) => {
    const there = inTime.get(clip.source)!;
    const [from, to] = [clip.in, clip.out].map((t) => lowerBound(there, t, (hit) => hit.t));
    const seen = there.slice(from, to).map(({ id }) => id);
    const own = seen.filter((id) => clip.hits.includes(id));
    const merged = seen.filter((id) => !clip.hits.includes(id));
    return { clip: { ...clip, hits: [...own, ...merged] }, merged: merged.length };
  });
  const visible = new Set(made.flatMap(({ clip }) => clip.hits));
  return {
    clips: made.map(({ clip }) => clip),
    left: [...hits]
      .filter(({ id }) => !visible.has(id))
      .sort((a, b) => a.t - b.t)
      .map(({ id }) => id),
    merged: made.reduce((sum, { merged }) => sum + merged, 0),
    crowded,
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
