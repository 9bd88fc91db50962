/** An accent with all its times in output frames, for one place in the montage. */
import { envelopesOf, isMoved, replaced, withShaped } from '../document/params.ts';
import { evaluate, scaleFrames } from './envelope.ts';
import { pathAt } from './region.ts';
import type {
  Accent,
  Anchor,
  EffectUse,
  Envelope,
  Generator,
  Key,
  OwnRegions,
  Param,
  PathPoint,
  RegionShape,
  Repeat,
} from '../document/types.ts';
import { everyUse, mapUses, regionOf } from '../document/uses.ts';
import { LIMITS } from '../document/limits.ts';
import { seedOf } from '../base/hash.ts';
import { fps } from '../base/time.ts';

export interface PreparedUse {
  readonly id: string;
  readonly effect: string;
  readonly on: boolean;
  /** Whether its places count from the hit's focus. */
  readonly focus: boolean;
  readonly seed: number;
  readonly params: Readonly<Record<string, Param>>;
  readonly region: readonly RegionShape[];
  readonly repeat: Repeat | undefined;
  readonly stack: readonly PreparedUse[];
  readonly table: EffectUse['table'];
  readonly source: EffectUse['source'];
}

export interface PreparedAccent {
  readonly accent: Accent;
  /** Whole output frames before and after frame 0. */
  readonly lead: number;
  readonly tail: number;
  /** Output frames before and after frame 0 that it is drawn on: its repeats may go on past lead and tail. */
  readonly before: number;
  readonly after: number;
  /** Where its keys lie. */
  readonly places: Places;
  /** Output frames for one frame of the accent's own rate. */
  readonly perFrame: number;
  readonly effects: readonly PreparedUse[];
}

/** Where things lie, in output frames from the accent's frame 0. Infinity: nowhere. */
export type Anchors = Readonly<Record<Exclude<Anchor, 'hit'>, number>>;
const NO_ANCHORS: Anchors = { start: 0, end: Infinity, clip: Infinity, next: Infinity };

export interface Clockwork {
  /** Output frames a second. */
  readonly fps: number;
  readonly bpm: number;
}

/** What is a whole frame but for the rounding of a unit is that frame. */
const snapped = (frames: number): number =>
  Math.abs(frames - Math.round(frames)) < 1e-3 ? Math.round(frames) : frames;

/** Frames in one unit of an accent's time; for frames of its own rate too. */
function framesOf(
  accent: Pick<Accent, 'unit' | 'exact' | 'rate'>,
  amount: number,
  { fps: rate, bpm }: Clockwork,
): number {
  if (accent.unit === 'ms') return snapped((amount * rate) / 1000);
  if (accent.unit === 'beats') return snapped((amount * 60 * rate) / Math.max(1, bpm));
  return accent.exact ? amount : scaleFrames(amount, rate / fps(accent.rate));
}

const anchored = (param: Param): boolean =>
  envelopesOf(param).some((e) => typeof e !== 'number' && e.some((key) => key.anchor && key.anchor !== 'hit'));

const useLooksAround = (use: EffectUse): boolean =>
  Object.values(use.params).some(anchored) ||
  (use.region ?? []).some((shape) =>
    Object.values(shape.params).some((envelope) => envelope !== undefined && anchored(envelope)),
  ) ||
  (use.stack ?? []).some(useLooksAround);

/** True where the accent looks different at each place: it reaches for other things than its hit. */
export const looksAround = (accent: Accent): boolean => accent.until !== 'tail' || accent.effects.some(useLooksAround);

const whole = (frames: number): number => (Number.isFinite(frames) ? Math.max(0, Math.round(frames)) : 0);

/** Where an accent's keys lie, in output frames from its frame 0, and back again. */
export interface Places {
  readonly lead: number;
  readonly tail: number;
  of(key: Pick<Key, 'at' | 'anchor'>): number;
  /** What `at` of a key with this anchor is, to lie on a frame. */
  at(frame: number, anchor?: Anchor): number;
}

export function placesOf(accent: Accent, clock: Clockwork, anchors: Anchors = NO_ANCHORS): Places {
  // Lead and tail of a % accent are frames; its keys are shares of them.
  const reach = accent.unit === '%' ? { ...accent, unit: 'frames' as const } : accent;
  const lead = whole(framesOf(reach, accent.lead, clock));
  const own = whole(framesOf(reach, accent.tail, clock));
  const until =
    accent.until === 'tail' ? own : { end: anchors.end, clip: anchors.clip, next: anchors.next - 1 }[accent.until];
  const tail = Number.isFinite(until) ? whole(until) : own;
  const known = (frame: number): number => (Number.isFinite(frame) ? frame : tail);
  const from: Record<Anchor, number> = {
    hit: 0,
    start: anchors.start,
    end: known(anchors.end),
    clip: known(anchors.clip),
    next: known(anchors.next),
  };
  const round = (v: number): number => Math.round(v * 1e6) / 1e6;
  return {
    lead,
    tail,
    of: (key) =>
      from[key.anchor ?? 'hit'] +
      (accent.unit === '%' ? snapped((key.at / 100) * (key.at < 0 ? lead : tail)) : framesOf(accent, key.at, clock)),
    at(frame, anchor = 'hit') {
      const frames = frame - from[anchor];
      if (accent.unit === 'ms') return round((frames * 1000) / clock.fps);
      if (accent.unit === 'beats') return round((frames * clock.bpm) / (60 * clock.fps));
      if (accent.unit === '%') return round((frames * 100) / Math.max(1, frames < 0 ? lead : tail));
      return accent.exact ? frames : round((frames * fps(accent.rate)) / clock.fps);
    },
  };
}

/** The key that lies on a frame: the nearest to it, the last of those that fall together, which is the one that counts. */
export function keyOn(envelope: Envelope, places: Places, frame: number): Key | undefined {
  if (typeof envelope === 'number') return undefined;
  let best: Key | undefined;
  let off = 0.5;
  for (const key of envelope) {
    const by = Math.abs(places.of(key) - frame);
    if (by < 0.5 && by <= off + TOGETHER) [best, off] = [key, by];
  }
  return best;
}

/** Frames apart at which two keys fall together: shares of a reach that the accent does not have. */
const TOGETHER = 1e-6;

/** The envelope with one key changed, null taking it away, and without others that fall together with it. */
const withOne = (envelope: readonly Key[], places: Places, old: Key, change: (key: Key) => Key | null): Key[] =>
  envelope
    .flatMap((key) =>
      key === old ? (change(key) ?? []) : Math.abs(places.of(key) - places.of(old)) < TOGETHER ? [] : key,
    )
    .sort((a, b) => places.of(a) - places.of(b));

/** Sets the value on a frame, making a steady value into keys. A new key eases like its forerunner. */
export function keyedOn(envelope: Envelope, places: Places, frame: number, value: number): readonly Key[] {
  const keys = typeof envelope === 'number' ? [] : envelope;
  const old = keyOn(envelope, places, frame);
  if (old) return withOne(keys, places, old, (key) => ({ ...key, value }));
  const before = keys.filter((key) => places.of(key) < frame).at(-1);
  return [...keys, { at: places.at(frame), value, ease: before?.ease ?? ('linear' as const) }].sort(
    (a, b) => places.of(a) - places.of(b),
  );
}

/** Changes the key on a frame; null takes it away. The last one leaves its value behind. */
export function rekeyedOn(
  envelope: Envelope,
  places: Places,
  frame: number,
  change: (key: Key) => Key | null,
): Envelope {
  const old = keyOn(envelope, places, frame);
  if (!old || typeof envelope === 'number') return envelope;
  const keys = withOne(envelope, places, old, change);
  return keys.length ? keys : old.value;
}

/** How the times of an effect become others: of an envelope's keys, of a path's, and counts of frames. */
interface Retiming {
  envelope(envelope: Envelope): Envelope;
  at(key: Pick<Key, 'at' | 'anchor'>): number;
  count(frames: number): number;
}

/** All times of one effect, but for those in its stack. */
const retimed = (use: EffectUse, { envelope, at, count }: Retiming): EffectUse => ({
  ...use,
  params: Object.fromEntries(
    Object.entries(use.params).map(([name, param]) => [
      name,
      isMoved(param) ? { base: envelope(param.base), by: generator(param.by, envelope, count) } : envelope(param),
    ]),
  ),
  ...(use.region && {
    region: use.region.map((shape) => ({
      ...shape,
      params: Object.fromEntries(
        Object.entries(shape.params).map(([name, value]) => [name, value === undefined ? value : envelope(value)]),
      ),
      path: shape.path?.map((key) => ({ ...key, at: at(key) })),
    })),
  }),
  ...(use.repeat && { repeat: { ...use.repeat, every: count(use.repeat.every) } }),
});

/** The pace of a repeat's copy number `i` and the frames by which it begins later: its age is (age - later) / pace. */
export const repeatOf = ({ every, length }: Repeat, i: number): { later: number; pace: number } => ({
  later: i * every,
  pace: Math.max(0.01, length ** i),
});

/** Copies of one use beside the first. */
export const repeatCount = (repeat: Repeat | undefined): number => Math.min(64, repeat?.times ?? 0);

/** Frames that a stack with its repeats is drawn on before and after frame 0. */
function drawnReach(uses: readonly PreparedUse[], lead: number, tail: number): { before: number; after: number } {
  let [before, after] = [lead, tail];
  for (const { on, repeat } of uses) {
    if (!on || !repeat) continue;
    for (let i = 1; i <= repeatCount(repeat); i++) {
      const { later, pace } = repeatOf(repeat, i);
      before = Math.max(before, Math.ceil(lead * pace - later));
      after = Math.max(after, Math.floor(later + tail * pace));
    }
  }
  return { before: Math.min(before, LIMITS.frames.max), after: Math.min(after, LIMITS.frames.max) };
}

/** @param own regions of one placement, by the ids of effects, in place of those of the accent */
export function prepare(
  accent: Accent,
  clock: Clockwork,
  anchors: Anchors = NO_ANCHORS,
  own: OwnRegions = {},
): PreparedAccent {
  const places = placesOf(accent, clock, anchors);
  const retiming: Retiming = {
    envelope: (envelope) => replaced(envelope, places.of),
    at: places.of,
    count: (frames) => framesOf({ ...accent, unit: 'frames' }, frames, clock),
  };
  const prepareUse = (plain: EffectUse): PreparedUse => {
    const use = { ...plain, region: regionOf(plain, accent.effects, own) };
    const {
      id,
      effect,
      on,
      focus = false,
      table,
      source,
      params,
      region = [],
      repeat,
      stack = [],
    } = retimed(use, retiming);
    return {
      id,
      effect,
      on,
      focus,
      table,
      source,
      params,
      region,
      repeat,
      seed: seedOf(id),
      stack: stack.map(prepareUse),
    };
  };
  const effects = accent.effects.map(prepareUse);
  return {
    accent,
    places,
    lead: places.lead,
    tail: places.tail,
    // What ends at another place ends there with all its repeats.
    ...(accent.until === 'tail'
      ? drawnReach(effects, places.lead, places.tail)
      : { before: places.lead, after: places.tail }),
    perFrame: accent.exact ? 1 : clock.fps / fps(accent.rate),
    effects,
  };
}

/** The points of a shape's path on a frame of the accent; none where it is no path. */
export const pointsAt = ({ path = [] }: RegionShape, places: Places, frame: number): readonly PathPoint[] =>
  pathAt(
    path.map((key) => ({ ...key, at: places.of(key) })),
    frame,
  );

/** The accent as it is on its hit, for as long as it lasts: what was shaped is steady, what moves by itself goes on. */
export function steadied(accent: Accent, clock: Clockwork): Accent {
  const places = placesOf(accent, clock);
  const retiming: Retiming = {
    envelope: (envelope) => evaluate(replaced(envelope, places.of), 0),
    at: ({ at }) => at,
    count: (frames) => frames,
  };
  const still = (shape: RegionShape): RegionShape =>
    shape.path ? { ...shape, path: [{ at: 0, points: pointsAt(shape, places, 0) }] } : shape;
  return {
    ...accent,
    effects: mapUses(accent.effects, (use) => {
      const { region, ...rest } = retimed(use, retiming);
      return { ...rest, ...(region && { region: region.map(still) }) };
    }),
  };
}

/** True where keys lie on the end of an accent or past it, and would be left behind by a longer one. */
export const hasClosingKeys = (accent: Accent): boolean =>
  accent.unit !== '%' &&
  everyUse(accent.effects).some((use) =>
    Object.values(use.params)
      .flatMap(envelopesOf)
      .some((e) => typeof e !== 'number' && e.length > 1 && atHit(e.at(-1)!) && e.at(-1)!.at >= accent.tail),
  );

const atHit = ({ anchor = 'hit' }: Pick<Key, 'anchor'>): boolean => anchor === 'hit';

/**
 * The accent with another tail, and the keys on its end or past it as far from the new end as from the old one; those
 * between that a shorter one leaves no room for go.
 */
export function withTail(accent: Accent, tail: number): Accent {
  const by = tail - accent.tail;
  if (by === 0 || accent.unit === '%') return { ...accent, tail };
  const closes = (key: Pick<Key, 'at' | 'anchor'>): boolean => atHit(key) && key.at >= accent.tail;
  const at = (key: Pick<Key, 'at' | 'anchor'>): number => (closes(key) ? Math.max(0, key.at + by) : key.at);
  const retiming: Retiming = {
    at,
    count: (frames) => frames,
    envelope: (envelope) => {
      if (typeof envelope === 'number' || envelope.length < 2 || !envelope.some(closes)) return envelope;
      return envelope
        .filter((key) => closes(key) || !atHit(key) || by > 0 || key.at < tail)
        .map((key) => ({ ...key, at: at(key) }));
    },
  };
  return { ...accent, tail, effects: mapUses(accent.effects, (use) => retimed(use, retiming)) };
}

/** The generator with its envelopes and frame counts at the output's rate. */
function generator(by: Generator, timed: (e: Envelope) => Envelope, count: (frames: number) => number): Generator {
  const shaped = withShaped(by, timed);
  switch (shaped.kind) {
    case 'cadence':
    case 'hold':
      return { ...shaped, every: count(shaped.every) };
    case 'pulses':
      return { ...shaped, length: count(shaped.length) };
    case 'gate':
      return { ...shaped, period: count(shaped.period), open: count(shaped.open) };
    default:
      return shaped;
  }
}

/**
 * The accent counted in another unit, with the same result at this rate and tempo. Keys on beats or
 * shares of a span keep fractions of frames.
 */
export function inUnit(accent: Accent, unit: Accent['unit'], clock: Clockwork): Accent {
  if (unit === accent.unit) return accent;
  const own = { ...accent, until: 'tail' as const };
  const now = placesOf(own, clock);
  const reach = placesOf({ ...own, unit: unit === '%' ? 'frames' : unit }, clock);
  const next: Accent = { ...accent, unit, lead: -reach.at(-now.lead), tail: reach.at(now.tail) };
  const then = placesOf({ ...next, until: 'tail' }, clock);
  // Distances from an anchor other than the hit are distances all the same.
  const at = (key: Pick<Key, 'at'>): number => then.at(now.of({ at: key.at }));
  const retiming: Retiming = {
    at,
    count: (frames) => frames,
    envelope: (envelope) =>
      typeof envelope === 'number' ? envelope : envelope.map((key) => ({ ...key, at: at(key) })),
  };
  return { ...next, effects: mapUses(accent.effects, (use) => retimed(use, retiming)) };
}
