/** Rules and decided hits to placements: which accent, where, how strong, with which seed. */
import { type Occurrence, occurrences, placementKey } from '../timeline/occurrences.ts';
import { familyByHit } from '../document/families.ts';
import { isOfKind } from '../document/hits.ts';
import { SINGLE_RUN, spreadIntensity, type PlacementContext } from './passes.ts';
import { looksAround, prepare, type Anchors, type Clockwork, type PreparedAccent } from './prepare.ts';
import { HIT_KINDS, type Hit, type HitKind, type Montage, type Override, type Rule } from '../document/types.ts';
import type { Timeline } from '../timeline/timeline.ts';
import { hash, seedOf } from '../base/hash.ts';

export interface Placement extends PlacementContext {
  readonly key: string;
  readonly rule: Rule;
  readonly accent: PreparedAccent;
  readonly occurrence: Occurrence;
  /** Montage frame on which the accent's frame 0 lies. */
  readonly frame: number;
  /** Montage frames it is drawn on, both inclusive. */
  readonly from: number;
  readonly to: number;
  readonly muted: boolean;
}

/** Hits that carry accents: kept and hand-made ones, and joins that were not rejected. */
export const carries = (hit: Hit): boolean => hit.state === 'kept' || hit.state === 'made';

/** Kinds that a rule can lie on: what the hits that carry accents are named after, or surely are besides. */
export const carriedKinds = (hits: readonly Hit[]): HitKind[] =>
  HIT_KINDS.filter((kind) => hits.some((hit) => carries(hit) && isOfKind(hit, kind)));

/** Where these appear in the montage, by frame. */
export const carriers = (montage: Montage, line: Timeline): Occurrence[] =>
  occurrences(montage, montage.hits.filter(carries), line);

/** Whether a rule takes a hit: of one of its kinds, or of one of its families. */
export const matches = (rule: Rule, hit: Hit, families: Montage['families'] = []): boolean =>
  carries(hit) &&
  hit.strength >= rule.minStrength &&
  (rule.kinds.some((kind) => isOfKind(hit, kind)) ||
    rule.families.includes(familyByHit(families).get(hit.id)?.id ?? ''));

/** Ids of hits that are the first or the last carried member of their burst in their source. */
function burstEnds(hits: readonly Hit[]): { first: Set<string>; last: Set<string> } {
  const [first, last] = [new Map<string, Hit>(), new Map<string, Hit>()];
  for (const hit of hits) {
    if (!hit.burst || !carries(hit)) continue;
    if (hit.t < (first.get(hit.burst)?.t ?? Infinity)) first.set(hit.burst, hit);
    if (hit.t > (last.get(hit.burst)?.t ?? -Infinity)) last.set(hit.burst, hit);
  }
  const ids = (ends: Map<string, Hit>): Set<string> => new Set([...ends.values()].map((hit) => hit.id));
  return { first: ids(first), last: ids(last) };
}

/** What an accent's age is on a frame: squeezed where it would reach over a join. */
export function ageOn(placement: Pick<Placement, 'accent' | 'frame' | 'from' | 'to'>, frame: number): number {
  const age = frame - placement.frame;
  if (placement.accent.accent.confine !== 'squeeze') return age;
  const { before, after } = placement.accent;
  const [room, rest] = [placement.frame - placement.from, placement.to - placement.frame];
  return age < 0
    ? room < before
      ? (age * before) / room
      : age
    : rest < after && rest > 0
      ? (age * after) / rest
      : age;
}

/** Frame 0 of an accent that lies on a frame of the row. */
const frameOn = ({ accent, lead, tail }: PreparedAccent, at: number): number =>
  at + (accent.align === 'start' ? lead : accent.align === 'end' ? -tail : 0);

/** What an accent's keys can be tied to where it lies on a frame of the row. */
export function anchorsOf(plain: PreparedAccent, hit: Hit | null, at: number, next: number, line: Timeline): Anchors {
  const span = line.spanAt(at);
  const frame = frameOn(plain, at);
  const distance = (t: number | undefined, otherwise: number): number =>
    t === undefined || !span ? otherwise : (line.frameOf(span, t) ?? span.end - 1) - frame;
  return {
    start: distance(hit?.start, 0),
    end: distance(hit?.end, Infinity),
    clip: span ? span.end - 1 - frame : Infinity,
    next: next - frame,
  };
}

/** Where an accent lies around a frame of the row, and what it is cut to. */
export function placeAccent(
  plain: PreparedAccent,
  hit: Hit | null,
  at: number,
  next: number,
  line: Timeline,
  clock: Clockwork,
): Pick<Placement, 'accent' | 'frame' | 'from' | 'to'> {
  const { accent } = plain;
  const span = line.spanAt(at);
  const frame = frameOn(plain, at);
  // Most accents are the same everywhere.
  const prepared = looksAround(accent) ? prepare(accent, clock, anchorsOf(plain, hit, at, next, line)) : plain;
  const free = accent.confine === 'carry' || !span;
  return {
    accent: prepared,
    frame,
    from: frame - (free ? prepared.before : Math.min(prepared.before, Math.max(0, frame - span.first))),
    to: frame + (free ? prepared.after : Math.min(prepared.after, Math.max(0, span.end - 1 - frame))),
  };
}

/** What a placement has whatever frame it lies on. */
interface Lot {
  readonly key: string;
  readonly override: Override;
  readonly seed: number;
  readonly intensity: number;
}

interface Drawn {
  readonly accentSeed: number;
  readonly overrides: Montage['overrides'];
  readonly lots: Map<string, Lot & { readonly hit: Hit }>;
}
/** While clips are trimmed and moved, rules, changed cells and hits are the same objects, and so is what follows from them. */
const drawnLots = new WeakMap<Rule, Drawn>();

function lotsOf(rule: Rule, accentSeed: number, { overrides }: Montage): (occurrence: Occurrence) => Lot {
  let drawn = drawnLots.get(rule);
  if (drawn?.accentSeed !== accentSeed || drawn.overrides !== overrides)
    drawnLots.set(rule, (drawn = { accentSeed, overrides, lots: new Map() }));
  const { lots } = drawn;
  return ({ key: of, hit }) => {
    let lot = lots.get(of);
    if (lot?.hit !== hit) {
      const key = placementKey(rule.id, of);
      const override = overrides[key] ?? {};
      const seed = override.seed ?? hash(rule.seed, accentSeed, seedOf(of));
      const intensity = override.intensity ?? spreadIntensity(1 - rule.follow * (1 - hit.strength), rule.spread, seed);
      lots.set(of, (lot = { key, override, seed, intensity, hit }));
    }
    return lot;
  };
}

/** All placements, muted ones included, by first frame; rules in their order on one hit. */
export function placements(montage: Montage, line: Timeline, shown = carriers(montage, line)): Placement[] {
  const clock: Clockwork = { fps: line.fps, bpm: montage.settings.bpm };
  const accents = new Map(montage.accents.map((accent) => [accent.id, prepare(accent, clock)]));
  const ends = burstEnds(montage.hits);
  const result: Placement[] = [];
  for (const rule of montage.rules) {
    const plain = accents.get(rule.accent);
    if (!rule.on || !plain) continue;
    const lots = lotsOf(rule, plain.accent.seed, montage);
    const taken = shown.filter(
      ({ hit }) =>
        matches(rule, hit, montage.families) && !(hit.burst && rule.burst !== 'each' && !ends[rule.burst].has(hit.id)),
    );
    // Where each lies, nudges included: what reaches to the next one reaches to where that one is.
    const frames = taken.map((occurrence) => occurrence.frame + (lots(occurrence).override.nudge ?? 0));
    taken.forEach((occurrence, i) => {
      const { key, override, seed, intensity } = lots(occurrence);
      const own = placeAccent(plain, occurrence.hit, frames[i]!, frames[i + 1] ?? Infinity, line, clock);
      const inRun = rule.run && runOf(rule.run, i, frames, line, own);
      result.push({
        key,
        rule,
        occurrence,
        ...own,
        ...inRun?.reach,
        intensity,
        seed,
        fps: line.fps,
        mirror: rule.mirror && i % 2 === 1,
        run: inRun?.run ?? SINGLE_RUN,
        muted: override.mute ?? false,
      });
    });
  }
  return result.sort((a, b) => a.from - b.from);
}

/**
 * One hit of a run lasts until the next one; the first alone keeps its lead, so that values change
 * within one frame, on the hits: what of the accent lies on them plays no part.
 */
function runOf(
  run: NonNullable<Rule['run']>,
  i: number,
  frames: readonly number[],
  line: Timeline,
  own: ReturnType<typeof placeAccent>,
): { run: PlacementContext['run']; reach: Pick<Placement, 'accent' | 'frame' | 'from' | 'to'> } {
  const size = run.count > 0 ? run.count : frames.length;
  const index = i % size;
  const count = Math.min(size, frames.length - (i - index));
  const frame = frames[i]!;
  const next = frames[i + 1];
  const last = index === count - 1;
  const length = last || next === undefined ? 0 : Math.max(0, next - frame);
  const end = Math.min((line.spanAt(frame)?.end ?? line.count) - 1, (next ?? Infinity) - 1);
  // One that is nudged onto the next or past it lasts for no frame at all.
  const to = !last ? frame + length - 1 : run.after === 'stay' ? Math.max(frame, end) : frame + own.accent.after;
  const lead = index === 0 ? own.accent.lead : 0;
  const tail = Math.max(0, to - frame);
  return {
    run: { index, count, length },
    reach: { accent: { ...own.accent, lead, tail, before: lead, after: tail }, frame, from: frame - lead, to },
  };
}
