/**
 * What one output frame is made of. The only place that knows the time logic: preview, frame
 * strip, export and tests all ask here.
 */
import type { Occurrence } from '../timeline/occurrences.ts';
import type { EffectRegistry } from './effect-spec.ts';
import { accentPasses, SINGLE_RUN, type Pass, type PassCopy } from './passes.ts';
import { placesOf, prepare, steadied } from './prepare.ts';
import type { Accent, Bed, Hit, Montage, Source, Stretch } from '../document/types.ts';
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
import { shieldMasks } from './shields.ts';
import { once } from '../base/once.ts';
import { eased } from './easing.ts';
import { framer } from './framer.ts';
import { sectionStarts } from '../timeline/sections.ts';
import type { Framed } from '../timeline/framing.ts';
import { joinAt, joinsOf } from '../timeline/joins.ts';
import type { ClipSpan, MediaIndex, Mixed, Timeline } from '../timeline/timeline.ts';
import { rampedTimeline } from './ramps.ts';
import { titlePlanner, type PlannedTitle } from './titles.ts';

export type { Pass } from './passes.ts';
export type { PlacedAccent } from './placements.ts';

export interface PlannedPicture extends Framed {
  readonly source: string;
  readonly frame: number;
  /** Another frame of the source that is mixed in. */
  readonly mixed?: Mixed;
  /** The matte of its subject instead of it, the picture without its subject, or how far a still is not clear; `of` tells one subject from another. */
  readonly shows?: { readonly what: 'matte' | 'behind' | 'clear'; readonly of: number };
}

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
  /** Over all of it, in drawing order. */
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
  /** Shows the subject's matte, or the subject before black, in place of all. */
  readonly subject?: 'matte' | 'alone' | undefined;
}

export interface Planner {
  readonly timeline: Timeline;
  /** In order of their first frames; none is longer than `reach` frames. */
  readonly placements: readonly Placement[];
  readonly reach: number;
  at(frame: number, options?: PlanOptions): FramePlan;
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

export function planner(montage: Montage, media: MediaIndex, effects: EffectRegistry): Planner {
  const line = rampedTimeline(montage, media);
  const shown = once(() => carriers(montage, line));
  const clock = { fps: line.fps, bpm: montage.settings.bpm };
  const aspect = montage.settings.width / montage.settings.height;
  const sources = new Map(montage.sources.map((source) => [source.id, source]));
  /** By source: a number that tells one subject from another; null where it has none. */
  const subjects = new Map(
    montage.sources.map(({ id, subject }) => [id, once(() => (subject ? seedOf(JSON.stringify(subject)) : null))]),
  );
  const subjectOf = (source: string): number | null => subjects.get(source)?.() ?? null;
  const { framedAt, focusOn } = framer(montage, line, shown);
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
    return {
      all,
      starts,
      begins: starts.map((p) => p.from),
      reach: all.reduce((most, p) => Math.max(most, p.to - p.from), 0),
      under,
      over,
      /** Placements and beds that ask for one enlargement of the whole shot. */
      shotWide: [...starts, ...under, ...over].filter((p) => p.accent.accent.cover === 'shot'),
    };
  });
  const joined = once(() => joinsOf(line));
  const titled = once(() =>
    montage.titles?.length
      ? titlePlanner(montage.titles, shown(), line, (stretch) => stretchesOf(stretch, shown(), line))
      : () => [],
  );
  const enlargements = new WeakMap<PlacedAccent, number>();
  const shots = new Map<number, number>();

  const resolve = (placed: PlacedAccent, frame: number) =>
    accentPasses(placed.accent, ageOn(placed, frame), placed, effects);

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
    at(frame, { plain = false, audition, subject: looked } = {}) {
      const time = line.timeOf(frame);
      const span = line.spanAt(frame);
      const sorted: SortedPasses = { behind: [], subject: [], all: [], over: [] };
      let shift = 0;
      if (!plain && !looked) {
        const { under, over, shotWide } = laid();
        const placed = audition
          ? [auditioned(audition)].filter((l) => frame >= l.from && frame <= l.to)
          : between(frame);
        const enlarged = audition || shotWide.length ? shotOf(frame, audition ? auditioned(audition) : null) : 1;
        if (enlarged > 1) sorted.all.push(enlargementPass(enlarged, effects));
        shift += passesOf(
          under.filter((b) => frame >= b.from && frame <= b.to),
          frame,
          sorted,
        );
        shift += passesOf(placed, frame, sorted);
        shift += passesOf(
          over.filter((b) => frame >= b.from && frame <= b.to),
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
      const others: PlannedPicture[] = [];
      const join = joinAt(joined(), frame);
      // While two clips are seen there is no one subject.
      const own = span && !join ? subjectOf(span.clip.source) : null;
      const ofSubject = (picture: PlannedPicture, what: 'matte' | 'behind'): PlannedPicture => ({
        ...picture,
        shows: { what, of: own! },
      });
      const placed = (list: readonly Pass[]): readonly Pass[] =>
        list.some((pass) => pass.copies)
          ? list.flatMap((pass): readonly Pass[] => {
              if (pass.copies?.[0]?.layer) return layered(pass, pass.copies[0].layer);
              return [pass.copies ? { ...pass, copies: pass.copies.map(copied) } : pass];
            })
          : list;
      /** A copy with its place among the other pictures. */
      const copied = (copy: PassCopy): PassCopy => {
        const picture = pictureAt(shift + copy.shift);
        if (!picture) return copy;
        let at = others.findIndex(
          (o) =>
            o.source === picture.source &&
            o.frame === picture.frame &&
            !o.shows &&
            o.mixed?.share === picture.mixed?.share &&
            o.centre?.x === picture.centre?.x &&
            o.centre?.y === picture.centre?.y,
        );
        if (at < 0) at = others.push(picture) - 1;
        const done = { ...copy, picture: at, passes: placed(copy.passes) };
        return copy.subject && own !== null
          ? { ...done, matte: { picture: others.push(ofSubject(picture, 'matte')) - 1, passes: [] } }
          : done;
      };
      /** A pass that shows another source, with the frame of it and the box it lies in; none where that source is gone. */
      const layered = (pass: Pass, { source: id, seconds, whole }: NonNullable<PassCopy['layer']>): readonly Pass[] => {
        const [of, times] = [sources.get(id), media.get(id)];
        if (!of?.video || !times) return [];
        const from = times.timeOf(0);
        const index = of.still ? 0 : times.indexAt(from + (seconds % Math.max(1e-3, times.end - from)));
        const picture: PlannedPicture = { source: id, frame: index, fit: whole ? 'fit' : 'fill' };
        const shape = of.video.width / of.video.height;
        const [wide, high] = whole ? [Math.min(aspect, shape), Math.min(1, aspect / shape)] : [aspect, 1];
        const clear: PlannedPicture = { ...picture, shows: { what: 'clear', of: 0 } };
        const copy: PassCopy = {
          shift: 0,
          picture: others.push(picture) - 1,
          passes: placed(pass.copies![0]!.passes),
          ...(of.still && { matte: { picture: others.push(clear) - 1, passes: [] } }),
        };
        return [{ ...pass, uniforms: { ...pass.uniforms, box: [wide / 2, high / 2] }, copies: [copy] }];
      };
      /** Passes that show the picture as it is where it is shielded. */
      const shielded = (touched: boolean): Pass[] => {
        const source = span && sources.get(span.clip.source);
        const plainly = pictureAt(0);
        // While two clips are seen, neither is as it is.
        if (!touched || !source?.shields?.length || !source.video || !plainly || join) return [];
        const at = others.push(plainly) - 1;
        return shieldMasks(source.shields, plainly, source.video.width / source.video.height, aspect).map((mask) => ({
          ...fadePass(at, 1),
          mask,
        }));
      };
      const { behind, subject, all, over } = sorted;
      const picture = pictureAt(shift);
      /** What acts on the subject, or on what is behind it, and the subject laid over that. */
      const parted = (): { picture: PlannedPicture | null; passes: readonly Pass[] } => {
        if (!picture || own === null || (!behind.length && !subject.length))
          return { picture, passes: placed([...behind, ...subject]) };
        const moves = (pass: Pass): boolean => effects.get(pass.effect)?.stage !== 'colour';
        const onSubject = placed(subject);
        const laid: Pass = {
          effect: 'matted',
          uniforms: WHOLE,
          copies: [
            {
              shift: 0,
              picture: others.push(picture) - 1,
              passes: onSubject,
              // What moves the subject moves its edge.
              matte: { picture: others.push(ofSubject(picture, 'matte')) - 1, passes: onSubject.filter(moves) },
            },
          ],
        };
        return {
          // Colours stay in their place: nothing of the subject is seen beside it.
          picture: [...behind, ...subject].some(moves) ? ofSubject(picture, 'behind') : picture,
          passes: [...placed(behind), laid],
        };
      };
      const apart = looked && picture && own !== null ? lookedAt(looked, picture, ofSubject, others) : parted();
      const touched = apart.passes.length + all.length > 0;
      const plan = {
        frame,
        time,
        duration: line.timeOf(frame + 1) - time,
        picture: apart.picture,
        passes: [...apart.passes, ...placed(all), ...(looked ? [] : shielded(touched)), ...placed(over)],
        titles: looked ? [] : titled()(frame),
        others,
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
        passes: [fadePass(others.push(later ? one : other) - 1, later ? 1 - held : held), ...plan.passes],
      };
    },
  };
}

/** In its place and size, all of it. */
const WHOLE = { place: [0, 0, 1], opacity: 1 };

/** The matte by itself, or the subject before black: the one times the other. */
function lookedAt(
  looked: 'matte' | 'alone',
  picture: PlannedPicture,
  ofSubject: (picture: PlannedPicture, what: 'matte') => PlannedPicture,
  others: PlannedPicture[],
): { picture: PlannedPicture; passes: readonly Pass[] } {
  const at = looked === 'alone' ? others.push(picture) - 1 : 0;
  const times: Pass = {
    effect: 'overlay',
    uniforms: { place: [0, 0, 1], blend: [1, MULTIPLY] },
    copies: [{ shift: 0, picture: at, passes: [] }],
  };
  return { picture: ofSubject(picture, 'matte'), passes: looked === 'alone' ? [times] : [] };
}
/** Its number among the overlay's blends. */
const MULTIPLY = 5;

/** Another picture over the whole one, in linear light. */
const fadePass = (picture: number, share: number): Pass => ({
  effect: 'overlay',
  uniforms: { place: [0, 0, 1], blend: [share, 0] },
  copies: [{ shift: 0, picture, passes: [] }],
});

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
