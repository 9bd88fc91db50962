/** Everything that follows from the montage and the kept signals, computed once per change. */
import { type Occurrence, occurrences } from '../../core/timeline/occurrences.ts';
import { mergeHits } from '../../core/finding/hits/merge.ts';
import { isOfKind } from '../../core/document/hits.ts';
import { findHits, type Found } from '../../core/finding/detectors/index.ts';
import { learnFrom, type Lessons } from '../../core/finding/hits/lessons.ts';
import { HIT_KINDS, type Hit, type HitKind, type Montage, type Source } from '../../core/document/types.ts';
import { planner, type Planner } from '../../core/accents/plan.ts';
import { mediaIndex, timeline, type MediaIndex, type Timeline } from '../../core/timeline/timeline.ts';
import { EFFECTS } from '../../effects/index.ts';
import { listedIndex, type ListedStarts } from '../../engine/index.ts';
import type { Signals } from '../../core/finding/signals/types.ts';
import type { WatchSignal } from '../../core/finding/watch/watch.ts';
import { useMedia } from './media.ts';
import { useMontage } from './montage.ts';
import { useView } from './view.ts';

/** Keeps the result for the last arguments. */
function last<A extends readonly unknown[], R>(work: (...args: A) => R): (...args: A) => R {
  let kept: { args: A; result: R } | null = null;
  return (...args) => {
    if (!kept || kept.args.some((arg, i) => arg !== args[i])) kept = { args, result: work(...args) };
    return kept.result;
  };
}

const media = last((sources: Montage['sources'], listed: ListedStarts): MediaIndex =>
  mediaIndex(sources, listedIndex(listed)),
);
const line = last((clips: Montage['clips'], settings: Montage['settings'], index: MediaIndex): Timeline =>
  timeline({ clips, settings }, index),
);

/** Found hits by source; a source is only looked at again when its signals or what is asked of it change. */
const foundBySource = new Map<
  string,
  (
    source: Source,
    signals: Signals,
    sensitivity: Montage['sensitivity'],
    window: number,
    watches: Montage['watches'],
    examples: Montage['examples'],
    watched: Watched | undefined,
  ) => Found
>();
type Watched = Readonly<Record<string, WatchSignal>>;
const find = (): NonNullable<ReturnType<typeof foundBySource.get>> =>
  last((source, signals, sensitivity, fusionWindow, watches, examples, watched) =>
    findHits(source, signals, {
      sensitivity,
      fusionWindow,
      examples,
      watches: watches.flatMap((watch) => (watched?.[watch.id] ? [{ watch, signal: watched[watch.id]! }] : [])),
    }),
  );

const found = last(
  (
    montage: Pick<Montage, 'sources' | 'sensitivity' | 'watches' | 'examples'>,
    window: number,
    signals: Readonly<Record<string, Signals>>,
    watched: Readonly<Record<string, Watched>>,
  ): ReadonlyMap<string, Found> =>
    new Map(
      montage.sources.flatMap((source) => {
        const kept = signals[source.id];
        if (!kept) return [];
        const work = foundBySource.get(source.id) ?? find();
        foundBySource.set(source.id, work);
        return [
          [
            source.id,
            work(source, kept, montage.sensitivity, window, montage.watches, montage.examples, watched[source.id]),
          ],
        ];
      }),
    ),
);
/** The part of a montage that finding depends on, the same object while none of it changes. */
const asked = last(
  (
    sources: Montage['sources'],
    sensitivity: Montage['sensitivity'],
    watches: Montage['watches'],
    examples: Montage['examples'],
  ) => ({ sources, sensitivity, watches, examples }),
);
const hits = last((finds: ReadonlyMap<string, Found>, sources: Montage['sources'], decisions: Montage['hits']): Hit[] =>
  sources.flatMap((source) =>
    mergeHits(
      finds.get(source.id)?.hits ?? [],
      decisions.filter((hit) => hit.source === source.id && hit.kind !== 'join'),
    ),
  ),
);
const taught = last((decisions: Montage['hits'], forgotten: Montage['forgotten']): Lessons | null =>
  learnFrom(decisions, forgotten),
);
const shown = last(
  (
    all: Hit[],
    at: Timeline,
    clips: Montage['clips'],
    music: Montage['music'],
    decisions: Montage['hits'],
  ): Occurrence[] => occurrences({ clips, music, hits: decisions }, all, at),
);
const visible = last((all: readonly Occurrence[], hidden: readonly HitKind[]): Occurrence[] =>
  all.filter((o) => HIT_KINDS.some((kind) => !hidden.includes(kind) && isOfKind(o.hit, kind))),
);
const plans = last((montage: Montage, index: MediaIndex): Planner => planner(montage, index, EFFECTS));

export interface Derived {
  readonly montage: Montage;
  readonly media: MediaIndex;
  readonly line: Timeline;
  /** Hits where the montage shows them, in order, of every kind. */
  readonly everywhere: readonly Occurrence[];
  /** The same without those all of whose kinds are hidden. */
  readonly shown: readonly Occurrence[];
  readonly planner: Planner;
  /** By source id. */
  readonly found: ReadonlyMap<string, Found>;
  readonly lessons: Lessons | null;
}

export function derive(
  montage: Montage,
  { listed, signals, watched }: Pick<ReturnType<typeof useMedia.getState>, 'listed' | 'signals' | 'watched'>,
  hidden: readonly HitKind[],
): Derived {
  const index = media(montage.sources, listed);
  const at = line(montage.clips, montage.settings, index);
  const finds = found(
    asked(montage.sources, montage.sensitivity, montage.watches, montage.examples),
    montage.settings.fusionWindow,
    signals,
    watched,
  );
  const all = hits(finds, montage.sources, montage.hits);
  const everywhere = shown(all, at, montage.clips, montage.music, montage.hits);
  return {
    montage,
    media: index,
    line: at,
    everywhere,
    shown: visible(everywhere, hidden),
    planner: plans(montage, index),
    found: finds,
    lessons: taught(montage.hits, montage.forgotten),
  };
}

/** The hit an accent is shaped on when none is chosen: the first that is kept, else the first. */
export const shapingHit = (shown: readonly Occurrence[]): Occurrence | undefined =>
  shown.find((o) => o.hit.state === 'kept' && o.hit.kind !== 'join') ?? shown[0];

export function useDerived(): Derived | null {
  const montage = useMontage((s) => s.montage);
  const media = useMedia();
  const hidden = useView((s) => s.hidden);
  return montage ? derive(montage, media, hidden) : null;
}

/** The same outside of components. */
export function derivedNow(): Derived | null {
  const { montage } = useMontage.getState();
  return montage ? derive(montage, useMedia.getState(), useView.getState().hidden) : null;
}
