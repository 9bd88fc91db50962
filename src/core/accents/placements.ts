/** Rules and decided hits to placements: which accent, where, how strong, with which seed. */
import { type Occurrence, occurrences, placementKey } from '../timeline/occurrences.ts';
import { lowerBound } from '../base/search.ts';
import { carries, isOfKind } from '../document/hits.ts';
import { companyOf, pickOf, taken } from './selection.ts';
import { SINGLE_RUN, spreadIntensity, type PlacementContext } from './passes.ts';
import { looksAround, prepare, type Anchors, type Clockwork, type PreparedAccent } from './prepare.ts';
import {
  HIT_KINDS,
  type HandPlacement,
  type Hit,
  type HitKind,
  type Montage,
  type Override,
  type OwnRegions,
  type Rule,
} from '../document/types.ts';
import type { Timeline } from '../timeline/timeline.ts';
import { hash, seedOf } from '../base/hash.ts';

/** An accent where it lies, by a rule, by hand or as a bed. */
export interface PlacedAccent extends PlacementContext {
  readonly accent: PreparedAccent;
  /** Montage frame on which the accent's frame 0 lies. */
  readonly frame: number;
  /** Montage frames it is drawn on, both inclusive. */
  readonly from: number;
  readonly to: number;
  /** Frames after which it begins again; absent where it does not. */
  readonly period?: number;
}

export interface Placement extends PlacedAccent {
  readonly key: string;
  /** What laid it: a rule, or a hand. */
  readonly rule: Rule | null;
  readonly hand: HandPlacement | null;
  readonly occurrence: Occurrence;
  readonly muted: boolean;
}

/** Kinds that a rule can lie on: what the hits that carry accents are named after, or surely are besides. */
export const carriedKinds = (hits: readonly Hit[]): HitKind[] =>
  HIT_KINDS.filter((kind) => hits.some((hit) => carries(hit) && isOfKind(hit, kind)));

type Carried = Pick<Montage, 'hits' | 'clips' | 'music'>;
/** The last carriers on each timeline: rules, accents and overrides are changed without any of them moving. */
const carried = new WeakMap<Timeline, Carried & { readonly list: readonly Occurrence[] }>();

/** Where these appear in the montage, by frame. */
export function carriers({ hits, clips, music }: Carried, line: Timeline): readonly Occurrence[] {
  const known = carried.get(line);
  if (known?.hits === hits && known.clips === clips && known.music === music) return known.list;
  const list = occurrences({ hits, clips, music }, hits.filter(carries), line);
  carried.set(line, { hits, clips, music, list });
  return list;
}

/** What an accent's age is on a frame: squeezed where it would reach over a join, begun again where it repeats. */
export function ageOn(
  placement: Pick<PlacedAccent, 'accent' | 'frame' | 'from' | 'to' | 'period'>,
  frame: number,
): number {
  const { accent, before, after } = placement.accent;
  const since = frame - placement.frame;
  const age = placement.period ? ((since + before) % placement.period) - before : since;
  if (accent.confine !== 'squeeze') return age;
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
  regions?: OwnRegions,
): Pick<Placement, 'accent' | 'frame' | 'from' | 'to'> {
  const { accent } = plain;
  const span = line.spanAt(at);
  const frame = frameOn(plain, at);
  // Most accents are the same everywhere.
  const prepared = looksAround(accent) ? prepare(accent, clock, anchorsOf(plain, hit, at, next, line), regions) : plain;
  const free = accent.confine === 'carry' || !span;
  return {
    accent: prepared,
    frame,
    from: frame - (free ? prepared.before : Math.min(prepared.before, Math.max(0, frame - span.first))),
    to: frame + (free ? prepared.after : Math.min(prepared.after, Math.max(0, span.end - 1 - frame))),
  };
}

/** What a placement of a rule has whatever frame it lies on. */
interface Lot {
  readonly key: string;
  readonly override: Override;
  /** By the hit's strength, before it is spread. */
  readonly intensity: number;
  /** What its seed is drawn from. */
  readonly drawn: number;
  /** Its accent where it has regions of its own. */
  own?: { readonly of: PreparedAccent; readonly accent: PreparedAccent };
}

type Overrides = Montage['overrides'];
interface Drawn {
  readonly overrides: Overrides;
  readonly lots: Map<string, Lot & { readonly hit: Hit }>;
}
/** While clips are trimmed and moved, rules, changed cells and hits are the same objects, and so is what follows from them. */
const drawnLots = new WeakMap<Rule, Drawn>();

const NO_OVERRIDES: Overrides = {};
const grouped = new WeakMap<Overrides, ReadonlyMap<string, Overrides>>();

/** What is set by hand on placements of one rule: the very same object as long as none of it changes. */
function overridesOf(rule: Rule, overrides: Overrides): Overrides {
  let groups = grouped.get(overrides);
  if (!groups) {
    const made = new Map<string, Record<string, Override>>();
    for (const [key, override] of Object.entries(overrides)) {
      const id = key.slice(0, key.indexOf('|'));
      const group = made.get(id);
      if (group) group[key] = override;
      else made.set(id, { [key]: override });
    }
    grouped.set(overrides, (groups = made));
  }
  const own = groups.get(rule.id) ?? NO_OVERRIDES;
  const before = drawnLots.get(rule)?.overrides;
  const [now, then] = [Object.keys(own), Object.keys(before ?? {})];
  return before && now.length === then.length && now.every((key) => own[key] === before[key]) ? before : own;
}

function lotsOf(rule: Rule, overrides: Overrides): (occurrence: Occurrence) => Lot {
  let drawn = drawnLots.get(rule);
  if (drawn?.overrides !== overrides) drawnLots.set(rule, (drawn = { overrides, lots: new Map() }));
  const { lots } = drawn;
  return ({ key: of, hit }) => {
    let lot = lots.get(of);
    if (lot?.hit !== hit) {
      const key = placementKey(rule.id, of);
      const intensity = 1 - rule.follow * (1 - hit.strength);
      lots.set(of, (lot = { key, override: overrides[key] ?? {}, intensity, drawn: seedOf(of), hit }));
    }
    return lot;
  };
}

/** A placement's accent: the same for all but those with regions of their own, which are kept with their lot. */
function withOwn(
  plain: PreparedAccent,
  { regions }: Pick<Override, 'regions'>,
  clock: Clockwork,
  lot?: Lot,
): PreparedAccent {
  if (!regions) return plain;
  if (lot?.own?.of === plain) return lot.own.accent;
  const accent = prepare(plain.accent, clock, undefined, regions);
  if (lot) lot.own = { of: plain, accent };
  return accent;
}

const preparedOnce = new WeakMap<Montage['accents'], Clockwork & { readonly accents: PreparedAccents }>();
type PreparedAccents = ReadonlyMap<string, PreparedAccent>;

/** All accents by their ids, the same as long as neither they nor the clock change. */
function preparedAccents(list: Montage['accents'], clock: Clockwork): PreparedAccents {
  const known = preparedOnce.get(list);
  if (known?.fps === clock.fps && known.bpm === clock.bpm) return known.accents;
  const accents = new Map(list.map((accent) => [accent.id, prepare(accent, clock)]));
  preparedOnce.set(list, { ...clock, accents });
  return accents;
}

interface Laid {
  readonly shown: readonly Occurrence[];
  readonly line: Timeline;
  readonly accents: PreparedAccents;
  readonly families: Montage['families'];
  readonly overrides: Overrides;
  readonly list: readonly Placement[];
}
/** What each rule laid last: a change of one rule leaves the others alone. */
const laidLast = new WeakMap<Rule, Laid>();

/** All that one rule lays, whatever others do, in order of the hits. */
function laidBy(
  rule: Rule,
  montage: Montage,
  line: Timeline,
  shown: readonly Occurrence[],
  accents: PreparedAccents,
): readonly Placement[] {
  const { families } = montage;
  const overrides = overridesOf(rule, montage.overrides);
  const last = laidLast.get(rule);
  if (
    last?.shown === shown &&
    last.line === line &&
    last.accents === accents &&
    last.families === families &&
    last.overrides === overrides
  )
    return last.list;
  const list = laidAnew(rule, montage, line, shown, accents, overrides);
  laidLast.set(rule, { shown, line, accents, families, overrides, list });
  return list;
}

function laidAnew(
  rule: Rule,
  montage: Montage,
  line: Timeline,
  shown: readonly Occurrence[],
  accents: PreparedAccents,
  overrides: Overrides,
): Placement[] {
  const clock: Clockwork = { fps: line.fps, bpm: montage.settings.bpm };
  const own = { ...rule, accents: rule.accents.filter(({ accent }) => accents.has(accent)) };
  if (!own.accents.length) return [];
  const hits = taken(rule, shown, montage, line, companyOf(montage.hits, shown));
  // Where each lies, nudges included: what reaches to the next one reaches to where that one is.
  const lots = lotsOf(rule, overrides);
  const frames = hits.map((occurrence) => occurrence.frame + (lots(occurrence).override.nudge ?? 0));
  return hits.map((occurrence, i) => {
    const lot = lots(occurrence);
    const { key, override, intensity, drawn } = lot;
    const plain = withOwn(accents.get(own.accents[pickOf(own, i, occurrence.key)]!.accent)!, override, clock, lot);
    const seed = override.seed ?? hash(rule.seed, plain.accent.seed, drawn);
    const next = frames[i + 1] ?? Infinity;
    const place = placeAccent(plain, occurrence.hit, frames[i]!, next, line, clock, override.regions);
    const inRun = rule.run && runOf(rule.run, i, frames, line, place);
    return {
      key,
      rule,
      hand: null,
      occurrence,
      ...place,
      ...inRun?.reach,
      intensity: override.intensity ?? spreadIntensity(intensity, rule.spread, seed),
      seed,
      fps: line.fps,
      mirror: rule.mirror && i % 2 === 1,
      run: inRun?.run ?? SINGLE_RUN,
      muted: override.mute ?? false,
    };
  });
}

/** All placements, muted ones included, by first frame; rules in their order on one hit, what was laid by hand last. */
export function placements(montage: Montage, line: Timeline, shown = carriers(montage, line)): Placement[] {
  const clock: Clockwork = { fps: line.fps, bpm: montage.settings.bpm };
  const accents = preparedAccents(montage.accents, clock);
  const laid = new Meeting();
  for (const rule of montage.rules)
    if (rule.on) for (const placement of laidBy(rule, montage, line, shown, accents)) laid.add(rule, placement);
  const all = laid.all();
  if (montage.byHand.length) {
    const byKey = new Map(shown.map((occurrence) => [occurrence.key, occurrence]));
    for (const hand of montage.byHand) {
      const [occurrence, general] = [byKey.get(hand.on), accents.get(hand.accent)];
      if (!occurrence || !general) continue;
      const plain = withOwn(general, hand, clock);
      const frame = occurrence.frame + (hand.nudge ?? 0);
      const next = shown[lowerBound(shown, frame + 1, (one) => one.frame)]?.frame ?? Infinity;
      all.push({
        key: placementKey(`hand:${hand.id}`, hand.on),
        rule: null,
        hand,
        occurrence,
        ...placeAccent(plain, occurrence.hit, frame, next, line, clock, hand.regions),
        intensity: hand.intensity,
        seed: hand.seed,
        fps: line.fps,
        mirror: false,
        run: SINGLE_RUN,
        muted: hand.mute ?? false,
      });
    }
  }
  return all.sort((a, b) => a.from - b.from);
}

/** Placements that meet others, as their rules will have it. Muted ones are in nobody's way. */
class Meeting {
  private readonly laid: Placement[] = [];
  /** Those of rules that look at others, by first frame, with the longest reach. */
  private near: Placement[] | null = null;
  private reach = 0;

  add(rule: Rule, placement: Placement): void {
    if (!placement.muted && (rule.meet !== 'over' || rule.apart > 0) && !this.agree(rule, placement)) return;
    this.laid.push(placement);
    this.insert(placement);
  }

  all(): Placement[] {
    return this.laid;
  }

  private insert(placement: Placement): void {
    if (!this.near || placement.muted) return;
    this.reach = Math.max(this.reach, placement.to - placement.from);
    this.near.splice(
      lowerBound(this.near, placement.from + 1, ({ from }) => from),
      0,
      placement,
    );
  }

  /** Cuts off what is in the way of a placement; false where it is to give way itself. */
  private agree({ meet, apart }: Rule, placement: Placement): boolean {
    if (!this.near) {
      this.near = [];
      for (const one of this.laid) this.insert(one);
    }
    const { near, reach } = this;
    // Nothing may lie within `apart` frames; without it only what overlaps counts.
    const [from, to] = [placement.from - apart, placement.to + apart];
    for (let i = lowerBound(near, from - reach, (one) => one.from); i < near.length && near[i]!.from <= to; i++) {
      const other = near[i]!;
      if (other.to < from) continue;
      const overlaps = other.to >= placement.from && other.from <= placement.to;
      if (apart > 0 || (meet === 'yield' && overlaps)) return false;
      if (meet === 'cut' && other.from < placement.from) {
        const cut = { ...other, to: placement.from - 1 };
        near[i] = cut;
        this.laid[this.laid.indexOf(other)] = cut;
      }
    }
    return true;
  }
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
