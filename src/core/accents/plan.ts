/**
 * What one output frame is made of. The only place that knows the time logic: preview, frame
 * strip, export and tests all ask here.
 */
import type { Occurrence } from '../timeline/occurrences.ts';
import type { EffectRegistry } from './effect-spec.ts';
import { FrameLayers, fadePass, type PlannedPicture, type SubjectLook } from './layers.ts';
import { accentPasses, SINGLE_RUN, type Pass } from './passes.ts';
import { placesOf, prepare, steadied, type PreparedAccent } from './prepare.ts';
import type { Accent, Bed, Hit, Montage, Source, Stretch, Subject } from '../document/types.ts';
import {
  ageOn,
  anchorsOf,
  carriers,
  placeAccent,
  placements,
  type PlacedAccent,
  type Placement,
} from './placements.ts';
import { isOfKind } from '../document/hits.ts';
import { hash, seedOf } from '../base/hash.ts';
import { lowerBound } from '../base/search.ts';
import { enlargement, enlargementPass } from './cover.ts';
import { once } from '../base/once.ts';
import { eased } from './easing.ts';
import { framer } from './framer.ts';
import { sectionStarts } from '../timeline/sections.ts';
import { joinAt, joinsOf } from '../timeline/joins.ts';
import type { ClipSpan, MediaIndex, Timeline } from '../timeline/timeline.ts';
import { rampedTimeline } from './ramps.ts';
import { applied, scaleOf, turnOf, type Similarity } from '../base/similarity.ts';
import { turns } from '../timeline/pins.ts';
import { titlePlanner, type PlannedTitle, type TitleOnFrame } from './titles.ts';

export type { PlannedPicture } from './layers.ts';
export type { Pass } from './passes.ts';
export type { PlacedAccent } from './placements.ts';

export interface FramePlan {
  readonly frame: number;
  /** Montage seconds. */
  readonly time: number;
  readonly duration: number;
  /** The source frame to show; null where the montage is empty. */
  readonly picture: PlannedPicture | null;
  /** Other source frames that passes lay over it. */
  readonly others: readonly PlannedPicture[];
  /** In drawing order. Empty: the frame is shown as it was decoded. */
  readonly passes: readonly Pass[];
  /** In drawing order: over all of it, but for those below accents, which passes lay over the picture. */
  readonly titles: readonly PlannedTitle[];
}

/** An accent being shaped, drawn as if it lay on `frame` whatever the rules say. */
export interface Audition {
  readonly accent: Accent;
  readonly frame: number;
  readonly intensity: number;
}

export interface PlanOptions {
  /** Leaves every accent and bed out, for comparison. */
  readonly plain?: boolean | undefined;
  readonly audition?: Audition | undefined;
  /** Shows the subject by itself, in place of all. */
  readonly subject?: SubjectLook | undefined;
  /** What is left out for looking, by the ids of {@link Planner.layersAt}. */
  readonly hidden?: readonly string[] | undefined;
}

/** One of the things that a frame is made of. */
export interface FrameLayer {
  /** The same on every frame: `accent:`, `bed:` or `title:` with the id of it, `subject`, `shields` or `clip`. */
  readonly id: string;
  readonly kind: 'title' | 'accent' | 'bed' | 'subject' | 'shields' | 'clip';
  /** Its name in the montage; nothing where it has none. */
  readonly name: string;
}

export interface Planner {
  readonly timeline: Timeline;
  /** In order of their first frames; none is longer than `reach` frames. */
  readonly placements: readonly Placement[];
  readonly reach: number;
  at(frame: number, options?: PlanOptions): FramePlan;
  /** What a frame is made of, the topmost first. */
  layersAt(frame: number): readonly FrameLayer[];
  /** Output frames that each title is seen on, both inclusive. */
  titleStretches(): readonly { readonly id: string; readonly from: number; readonly to: number }[];
  /** All that lies on the row and may be heard, with the frames of the hits; an audition in place of all placements. */
  sounding(
    audition?: Audition,
  ): readonly { readonly placed: PlacedAccent; readonly hit: number; readonly bed: boolean }[];
  /** Where an accent lies when it is auditioned, with all its times in output frames. */
  placed(audition: Audition): PlacedAccent;
}

/** Passes by what they act on, in the order they are drawn. */
interface SortedPasses {
  readonly behind: Pass[];
  readonly subject: Pass[];
  readonly all: Pass[];
  /** On shielded areas, too. */
  readonly over: Pass[];
}

/** Frames of one accent that its enlargement is found on. */
const MOST_COVERED = 4000;

/** A number that tells a subject from others: kept, since a brushed one is long. */
const numbers = new WeakMap<Subject, number>();
function numberOf(subject: Subject): number {
  const known = numbers.get(subject) ?? seedOf(JSON.stringify(subject));
  numbers.set(subject, known);
  return known;
}

interface Frames {
  readonly from: number;
  readonly to: number;
}

/** First and last montage frames of what a bed lies on; none where its clip or its hits are not there. */
function stretchesOf(stretch: Stretch, shown: readonly Occurrence[], line: Timeline): Frames[] {
  const ofSpan = ({ first, end }: Timeline['spans'][number]): Frames => ({ from: first, to: end - 1 });
  switch (stretch.kind) {
    case 'all':
      return [{ from: 0, to: line.count - 1 }];
    case 'clip':
      return line.spans.filter(({ clip }) => clip.id === stretch.clip).map(ofSpan);
    case 'clips': {
      const held = shown.filter(({ hit }) =>
        stretch.kinds.length ? stretch.kinds.some((kind) => isOfKind(hit, kind)) : hit.kind !== 'join',
      );
      return line.spans
        .filter(({ first, end }) => {
          const next = held[lowerBound(held, first, ({ frame }) => frame)];
          return next !== undefined && next.frame < end;
        })
        .map(ofSpan);
    }
    case 'between': {
      const ends = shown.filter(({ hit }) => isOfKind(hit, stretch.to));
      return shown
        .filter(({ hit }) => isOfKind(hit, stretch.from))
        .flatMap(({ frame }) => {
          const next = ends[lowerBound(ends, frame + 1, (end) => end.frame)];
          return next ? [{ from: frame, to: next.frame - 1 }] : [];
        });
    }
    case 'sections': {
      const starts = sectionStarts(shown);
      return starts.flatMap((from, i) =>
        stretch.sections.length && !stretch.sections.includes(i)
          ? []
          : [{ from, to: (starts[i + 1] ?? line.count) - 1 }],
      );
    }
    case 'hits': {
      const frameOf = (id: string): number | undefined => shown.find((o) => o.hit.id === id)?.frame;
      const [a, b] = [frameOf(stretch.from), frameOf(stretch.to)];
      return a === undefined || b === undefined ? [] : [{ from: Math.min(a, b), to: Math.max(a, b) }];
    }
  }
}

function placedBeds(
  montage: Montage,
  shown: readonly Occurrence[],
  line: Timeline,
): { bed: Bed; placed: PlacedAccent }[] {
  const clock = { fps: line.fps, bpm: montage.settings.bpm };
  return montage.beds.flatMap((bed) => {
    const accent = bed.on && montage.accents.find((a) => a.id === bed.accent);
    if (!accent) return [];
    return stretchesOf(bed.stretch, shown, line).flatMap(({ from, to }, i) => {
      if (to < from) return [];
      const tail = to - from;
      const anchors = { start: 0, end: tail, clip: tail, next: tail + 1 };
      const { lasts = 'once' } = bed;
      const plain = prepare(lasts === 'hold' ? steadied(accent, clock) : { ...accent, until: 'end' }, clock, anchors);
      // Once or held, a bed fills its stretch whatever its accent's own tail is.
      const again = lasts === 'repeat' ? prepare({ ...accent, until: 'tail' }, clock) : null;
      const placed: PlacedAccent = {
        accent: again ?? { ...plain, lead: 0, tail, before: 0, after: tail },
        frame: from + (again?.before ?? 0),
        ...(again && { period: again.before + again.after + 1 }),
        from,
        to,
        intensity: bed.intensity,
        // Each of several stretches draws its own lots.
        seed: i === 0 ? bed.seed : hash(bed.seed, i),
        fps: line.fps,
        mirror: false,
        run: SINGLE_RUN,
      };
      return [{ bed, placed }];
    });
  });
}

/** Height of a line that grows with what it is pinned to, frame heights, at the most. */
const MOST_TITLE = 4;

export function planner(montage: Montage, media: MediaIndex, effects: EffectRegistry): Planner {
  const line = rampedTimeline(montage, media);
  const shown = once(() => carriers(montage, line));
  const clock = { fps: line.fps, bpm: montage.settings.bpm };
  const aspect = montage.settings.width / montage.settings.height;
  const sources = new Map(montage.sources.map((source) => [source.id, source]));
  /** By source: a number that tells one subject from another; null where it has none. */
  const subjects = new Map(
    montage.sources.map(({ id, subject }) => [id, once(() => (subject ? numberOf(subject) : null))]),
  );
  const subjectOf = (source: string): number | null => subjects.get(source)?.() ?? null;
  const shared = { sources, media, effects, aspect };
  const { framedAt, focusOn, goneWith } = framer(montage, line, media, shown);
  const focused = <T extends PlacedAccent>(placed: T, hit: Hit | null): T =>
    hit?.focus ? { ...placed, focus: (age: number) => focusOn(hit, placed.frame + age) } : placed;

  /** All that lies on the row, found when it is first asked for: plain pictures need none of it. */
  const laid = once(() => {
    const all = placements(montage, line, shown());
    // Placements sorted by the frame they begin on, with the longest reach, for a short search.
    const starts = all.filter((p) => !p.muted).map((p) => focused(p, p.occurrence.hit));
    const beds = placedBeds(montage, shown(), line);
    const under = beds.filter((b) => !b.bed.above).map((b) => b.placed);
    const over = beds.filter((b) => b.bed.above).map((b) => b.placed);
    const bedOf = new Map(beds.map(({ bed, placed }) => [placed, bed]));
    return {
      all,
      starts,
      begins: starts.map((p) => p.from),
      reach: all.reduce((most, p) => Math.max(most, p.to - p.from), 0),
      under,
      over,
      bedOf,
      /** Placements and beds that ask for one enlargement of the whole shot. */
      shotWide: [...starts, ...under, ...over].filter((p) => p.accent.accent.cover === 'shot'),
    };
  });
  const joined = once(() => joinsOf(line));
  const titled = once(() => titlePlanner(montage, shown(), line, (stretch) => stretchesOf(stretch, shown(), line)));
  const titlesOn = (frame: number): TitleOnFrame[] => (montage.titles?.length ? titled().at(frame) : []);
  /** A title where what it is pinned to has taken it. */
  const pinned = ({ title: { pin }, drawn }: TitleOnFrame, frame: number): PlannedTitle => {
    const gone = pin && goneWith(pin, frame);
    if (!gone) return drawn;
    const size = Math.min(MOST_TITLE, drawn.size * scaleOf(gone));
    return { ...drawn, ...applied(gone, drawn), size, ...(turns(pin) && { turn: turnOf(gone), laid: true }) };
  };
  const accents = new Map(montage.accents.map((accent) => [accent.id, once(() => prepare(accent, clock))]));
  /** What a title's own accents do to it: on its hit or from its first frame on, and up to its last. Its places are theirs. */
  const actingOn = (
    { title, from, to, at, n }: TitleOnFrame,
    { x, y }: PlannedTitle,
    frame: number,
  ): readonly Pass[] => {
    const by = (id: string | undefined, hitOf: (accent: PreparedAccent) => number): readonly Pass[] => {
      const accent = id === undefined ? undefined : accents.get(id)?.();
      if (!accent) return [];
      const gone = (): Similarity => ({ c: 1, s: 0, x, y });
      const seed = hash(accent.accent.seed, n);
      const place = { intensity: 1, seed, fps: line.fps, mirror: false, run: SINGLE_RUN, gone };
      return accentPasses(accent, frame - hitOf(accent), place, effects).passes;
    };
    return [...by(title.comesBy, ({ before }) => at ?? from + before), ...by(title.goesBy, ({ after }) => to - after)];
  };
  const enlargements = new WeakMap<PlacedAccent, number>();
  const shots = new Map<number, number>();

  const resolve = (placed: PlacedAccent, frame: number) => {
    const age = ageOn(placed, frame);
    const pin = laid().bedOf.get(placed)?.pin;
    const context = pin ? { ...placed, gone: (at: number) => goneWith(pin, frame + at - age) } : placed;
    return accentPasses(placed.accent, age, context, effects);
  };

  /** The least enlargement that hides every border of an accent on its frames. */
  const leastOf = (placed: PlacedAccent): number => {
    let most = enlargements.get(placed);
    if (most === undefined) {
      most = 1;
      const [first, last] = [Math.max(0, placed.from), Math.min(placed.to, line.count - 1)];
      // A bed over hours is looked at here and there.
      const step = Math.max(1, Math.floor((last - first) / MOST_COVERED));
      for (let frame = first; frame <= last; frame += step)
        most = Math.max(most, enlargement(resolve(placed, frame).passes, effects, aspect));
      enlargements.set(placed, most);
    }
    return most;
  };

  const between = (frame: number): PlacedAccent[] => {
    const found: PlacedAccent[] = [];
    const { starts, begins, reach } = laid();
    for (let i = lowerBound(begins, frame - reach, (begin) => begin); i < starts.length && begins[i]! <= frame; i++)
      if (starts[i]!.to >= frame) found.push(starts[i]!);
    return found;
  };

  /** Enlargement of a whole shot, for accents and beds that ask for it. */
  const shotOf = (frame: number, auditioned: PlacedAccent | null): number => {
    const span = line.spanAt(frame);
    if (!span) return 1;
    const most = (placed: readonly PlacedAccent[]): number =>
      placed
        .filter((p) => p.accent.accent.cover === 'shot' && p.to >= span.first && p.from < span.end)
        .reduce((m, p) => Math.max(m, leastOf(p)), 1);
    const { under, over, shotWide } = laid();
    if (auditioned) return most([...under, auditioned, ...over]);
    let known = shots.get(span.index);
    if (known === undefined) shots.set(span.index, (known = most(shotWide)));
    return known;
  };

  /** The layer that something placed is part of. */
  const layerOf = (placed: PlacedAccent): FrameLayer => {
    const bed = laid().bedOf.get(placed);
    const { id, name } = placed.accent.accent;
    return bed ? { id: `bed:${bed.id}`, kind: 'bed', name } : { id: `accent:${id}`, kind: 'accent', name };
  };

  const passesOf = (placed: readonly PlacedAccent[], frame: number, sorted: SortedPasses): number => {
    let shift = 0;
    for (const one of placed) {
      const { acts = 'all', overShields } = one.accent.accent;
      const passes = acts !== 'all' ? sorted[acts] : overShields ? sorted.over : sorted.all;
      const resolved = resolve(one, frame);
      shift += resolved.shift;
      const { cover } = one.accent.accent;
      if (cover === 'accent' && leastOf(one) > 1) passes.push(enlargementPass(leastOf(one), effects));
      for (const pass of resolved.passes) passes.push(cover === 'clamp' ? { ...pass, edge: 'clamp' } : pass);
    }
    return shift;
  };

  /** An audition is laid out once, not for every frame. */
  const heard = new WeakMap<Audition, PlacedAccent>();
  const auditioned = (audition: Audition): PlacedAccent => {
    let placed = heard.get(audition);
    if (!placed) {
      const next = shown().find((o) => o.frame > audition.frame)?.frame ?? Infinity;
      const hit = shown().find((o) => o.frame === audition.frame)?.hit ?? null;
      const plain = prepare(audition.accent, clock);
      const own = placeAccent(plain, hit, audition.frame, next, line, clock);
      // Where its keys are is asked of what is shaped.
      const places = placesOf(audition.accent, clock, anchorsOf(plain, hit, audition.frame, next, line));
      const length = Number.isFinite(next) ? next - audition.frame : 0;
      placed = focused(
        {
          ...own,
          accent: { ...own.accent, places },
          intensity: audition.intensity,
          seed: audition.accent.seed,
          fps: line.fps,
          mirror: false,
          run: { index: 0, count: length ? 2 : 1, length },
        },
        hit,
      );
      heard.set(audition, placed);
    }
    return placed;
  };

  return {
    timeline: line,
    get placements() {
      return laid().all;
    },
    get reach() {
      return laid().reach;
    },
    placed: auditioned,
    sounding(audition) {
      const { starts, under, over } = laid();
      const bed = (placed: PlacedAccent) => ({ placed, hit: placed.frame, bed: true });
      const own = audition
        ? [{ placed: auditioned(audition), hit: audition.frame, bed: false }]
        : starts.map((placed) => ({ placed, hit: placed.occurrence.frame, bed: false }));
      return [...own, ...[...under, ...over].map(bed)];
    },
    titleStretches: () => (montage.titles?.length ? titled().stretches : []),
    layersAt(frame) {
      const { under, over } = laid();
      const here = [...under, ...between(frame), ...over].filter(({ from, to }) => frame >= from && frame <= to);
      const of = (...acts: readonly string[]): FrameLayer[] =>
        here
          .filter(({ accent: { accent } }) => acts.includes(accent.overShields ? 'over' : (accent.acts ?? 'all')))
          .map(layerOf)
          .reverse();
      const span = line.spanAt(frame);
      const source = span && sources.get(span.clip.source);
      const list: FrameLayer[] = [
        ...titlesOn(frame)
          .map(({ title: { id, text } }): FrameLayer => ({ id: `title:${id}`, kind: 'title', name: text }))
          .reverse(),
        ...of('over'),
        ...(source?.shields?.length ? [{ id: 'shields', kind: 'shields', name: '' } as const] : []),
        ...of('all'),
        ...of('subject'),
        ...(source?.subject ? [{ id: 'subject', kind: 'subject', name: '' } as const] : []),
        ...of('behind'),
        ...(source ? [{ id: 'clip', kind: 'clip', name: source.name } as const] : []),
      ];
      // Several placements of one accent on one frame are one layer to a person.
      return list.filter(({ id }, i) => list.findIndex((other) => other.id === id) === i);
    },
    at(frame, { plain = false, audition, subject: looked, hidden = [] } = {}) {
      const seen = (placed: PlacedAccent): boolean => !hidden.length || !hidden.includes(layerOf(placed).id);
      const time = line.timeOf(frame);
      const span = line.spanAt(frame);
      const sorted: SortedPasses = { behind: [], subject: [], all: [], over: [] };
      let shift = 0;
      if (!plain && !looked) {
        const { under, over, shotWide } = laid();
        const placed = audition
          ? [auditioned(audition)].filter((l) => frame >= l.from && frame <= l.to)
          : between(frame).filter(seen);
        const enlarged = audition || shotWide.length ? shotOf(frame, audition ? auditioned(audition) : null) : 1;
        if (enlarged > 1) sorted.all.push(enlargementPass(enlarged, effects));
        shift += passesOf(
          under.filter((b) => frame >= b.from && frame <= b.to && seen(b)),
          frame,
          sorted,
        );
        shift += passesOf(placed, frame, sorted);
        shift += passesOf(
          over.filter((b) => frame >= b.from && frame <= b.to && seen(b)),
          frame,
          sorted,
        );
      }
      /** What a clip shows on an output frame, past its ends what would come there. */
      const pictureOf = (of: ClipSpan, at: number): PlannedPicture => ({
        source: of.clip.source,
        // One picture is one frame, however long it is shown.
        frame: sources.get(of.clip.source)?.still ? 0 : line.sourceFrame(of, at),
        ...framedAt(of, Math.min(of.end - 1, Math.max(of.first, at))),
      });
      /** The source frame `by` output frames later, never over a join. */
      const pictureAt = (by: number): PlannedPicture | null => {
        if (!span || !media.has(span.clip.source)) return null;
        const at = Math.min(span.end - 1, Math.max(span.first, Math.round(frame + by)));
        const mixed = sources.get(span.clip.source)?.still ? null : line.mixedWith(span, at);
        return { ...pictureOf(span, at), ...(mixed && { mixed }) };
      };
      const join = joinAt(joined(), frame);
      // While two clips are seen there is no one subject, and neither is as it is.
      const layers = new FrameLayers(
        shared,
        (by) => pictureAt(shift + by),
        span && !join && !hidden.includes('subject') ? subjectOf(span.clip.source) : null,
      );
      const picture = pictureAt(shift);
      const { behind, subject, all, over } = sorted;
      const apart = (looked && layers.lookedAt(picture, looked)) || layers.parted(picture, behind, subject);
      const titles = looked
        ? []
        : titlesOn(frame)
            .filter(({ title }) => !hidden.includes(`title:${title.id}`))
            .map((one) => ({ ...one, drawn: pinned(one, frame) }));
      const laidOver = (below: boolean): Pass[] =>
        titles
          .filter(({ title, drawn }) => drawn.laid && Boolean(title.below) === below)
          .map((one) => layers.titled(one.drawn, actingOn(one, one.drawn, frame)));
      const touched = !looked && !join && apart.passes.length + all.length > 0;
      const plan = {
        frame,
        time,
        duration: line.timeOf(frame + 1) - time,
        picture: apart.picture,
        passes: [
          ...apart.passes,
          ...laidOver(true),
          ...layers.placed(all),
          ...(touched && !hidden.includes('shields') ? layers.shielded(pictureAt(0)) : []),
          ...layers.placed(over),
          ...laidOver(false),
        ],
        titles: titles.map(({ drawn }) => drawn),
        others: layers.others,
      };
      const present = (of: ClipSpan): boolean => media.has(of.clip.source);
      // Another frame that is shown instead of this one is of one clip.
      if (!join || shift !== 0 || !plan.picture || !present(join.before) || !present(join.after)) return plan;
      const share = eased(join.join.ease, (frame + 0.5 - join.first) / (join.end - join.first));
      const [one, other] = [pictureOf(join.before, frame), pictureOf(join.after, frame)];
      const held = Math.min(1, Math.max(0, share));
      if (join.join.kind === 'flow' && flows(sources.get(one.source), sources.get(other.source)))
        return {
          ...plan,
          picture: { ...one, mixed: { source: other.source, frame: other.frame, share: held, moved: true } },
        };
      const later = span === join.after;
      return {
        ...plan,
        passes: [fadePass(layers.place(later ? one : other), later ? 1 - held : held), ...plan.passes],
      };
    },
  };
}

/** Whether frames of two sources have places in common. */
export const flows = (one: Source | undefined, other: Source | undefined): boolean =>
  Boolean(one?.video && other?.video) &&
  !one!.still &&
  !other!.still &&
  one!.video!.width === other!.video!.width &&
  one!.video!.height === other!.video!.height &&
  one!.video!.rotation === other!.video!.rotation;

/** The pure function itself, for a single frame. */
export const plan = (montage: Montage, media: MediaIndex, effects: EffectRegistry, frame: number): FramePlan =>
  planner(montage, media, effects).at(frame);
