/** Everything that follows from the montage and the kept signals, computed once per change. */
import { lruMemoize } from 'reselect';
import { type Occurrence, occurrences } from '../../core/timeline/occurrences.ts';
import { mergeHits } from '../../core/finding/hits/merge.ts';
import { inFormat } from '../../core/document/formats.ts';
import { labelsOf } from '../../core/document/families.ts';
import { findHits, type Found } from '../../core/finding/detectors/index.ts';
import { learnFrom, type Lessons } from '../../core/finding/hits/lessons.ts';
import type { Hit, Montage, Source } from '../../core/document/types.ts';
import { asRecorded, rampedTimeline } from '../../core/accents/ramps.ts';
import { planner, type Planner } from '../../core/accents/plan.ts';
import { mediaIndex, type MediaIndex, type Timeline } from '../../core/timeline/timeline.ts';
import { EFFECTS } from '../../effects/index.ts';
import { listedIndex, type ListedStarts } from '../../engine/index.ts';
import type { Signals } from '../../core/finding/signals/types.ts';
import type { FamilySignal } from '../../core/finding/families/more.ts';
import type { WatchSignal } from '../../core/finding/watch/watch.ts';
import { useMedia } from './media.ts';
import { useMontage } from './montage.ts';
import { useView } from './view.ts';

const media = lruMemoize((sources: Montage['sources'], listed: ListedStarts): MediaIndex =>
  mediaIndex(sources, listedIndex(listed)),
);

type Watched = Readonly<Record<string, WatchSignal>>;
type Alike = Readonly<Record<string, FamilySignal>>;
const findOf = () =>
  lruMemoize(
    (
      source: Source,
      signals: Signals,
      sensitivity: Montage['sensitivity'],
      fusionWindow: number,
      watches: Montage['watches'],
      examples: Montage['examples'],
      families: Montage['families'],
      watched: Watched | undefined,
      alike: Alike | undefined,
    ): Found =>
      findHits(source, signals, {
        sensitivity,
        fusionWindow,
        examples,
        families: families.flatMap((family) =>
          family.more !== null && alike?.[family.id] ? [{ family, alike: alike[family.id]!.tracks }] : [],
        ),
        watches: watches.flatMap((watch) => (watched?.[watch.id] ? [{ watch, signal: watched[watch.id]! }] : [])),
      }),
  );
/** One for each source of the open montage: it is only looked at again when its signals or what is asked of it change. */
const findBySource = new Map<string, ReturnType<typeof findOf>>();

const found = lruMemoize(
  (
    montage: Pick<Montage, 'sources' | 'sensitivity' | 'watches' | 'examples' | 'families'>,
    window: number,
    signals: Readonly<Record<string, Signals>>,
    watched: Readonly<Record<string, Watched>>,
    alike: Readonly<Record<string, Alike>>,
  ): ReadonlyMap<string, Found> => {
    const result = new Map<string, Found>();
    for (const source of montage.sources) {
      const kept = signals[source.id];
      if (!kept) continue;
      const find = findBySource.get(source.id) ?? findOf();
      findBySource.set(source.id, find);
      result.set(
        source.id,
        find(
          source,
          kept,
          montage.sensitivity,
          window,
          montage.watches,
          montage.examples,
          montage.families,
          watched[source.id],
          alike[source.id],
        ),
      );
    }
    // What is found of sources that are gone is let go.
    for (const id of findBySource.keys()) if (!result.has(id)) findBySource.delete(id);
    return result;
  },
);
/** The part of a montage that finding depends on, the same object while none of it changes. */
const asked = lruMemoize(
  (
    sources: Montage['sources'],
    sensitivity: Montage['sensitivity'],
    watches: Montage['watches'],
    examples: Montage['examples'],
    families: Montage['families'],
  ) => ({ sources, sensitivity, watches, examples, families }),
);
interface Hits {
  readonly hits: readonly Hit[];
  /** Attacks that are no hits, but may be of a family that is. */
  readonly faint: readonly Hit[];
}
const hits = lruMemoize(
  (finds: ReadonlyMap<string, Found>, sources: Montage['sources'], decisions: Montage['hits']): Hits => {
    const all: { hits: Hit[]; faint: Hit[] } = { hits: [], faint: [] };
    for (const source of sources) {
      const found = finds.get(source.id);
      const own = decisions.filter((hit) => hit.source === source.id && hit.kind !== 'join');
      const faint = new Set(found?.faint.map(({ id }) => id));
      // What was decided, or sought and found, is a hit, however faint.
      for (const hit of mergeHits([...(found?.hits ?? []), ...(found?.faint ?? [])], own))
        all[faint.has(hit.id) && hit.state === 'found' && hit.evidence.length === 1 ? 'faint' : 'hits'].push(hit);
    }
    return all;
  },
);
const taught = lruMemoize((decisions: Montage['hits'], forgotten: Montage['forgotten']): Lessons | null =>
  learnFrom(decisions, forgotten),
);
const occurrencesOf = () =>
  lruMemoize(
    (
      all: readonly Hit[],
      at: Timeline,
      clips: Montage['clips'],
      music: Montage['music'],
      decisions: Montage['hits'],
    ): Occurrence[] => occurrences({ clips, music, hits: decisions }, all, at),
  );
const shown = occurrencesOf();
const beneath = occurrencesOf();
const visible = lruMemoize(
  (all: readonly Occurrence[], hidden: readonly string[], families: Montage['families']): Occurrence[] =>
    all.filter(({ hit }) => labelsOf(hit, families).some((label) => !hidden.includes(label))),
);
/** Families that more is sought of, the same list while none of these changes: answers alone find nothing else. */
const sought = lruMemoize(
  (families: Montage['families']): Montage['families'] => families.filter(({ more }) => more !== null),
  {
    resultEqualityCheck: (a, b) =>
      a.length === b.length &&
      a.every((family, i) => family.more === b[i]!.more && family.id === b[i]!.id && family.kind === b[i]!.kind),
  },
);
const NONE: readonly Hit[] = [];
/** The montage in the shape that is looked at; the same object while neither changes. */
const shaped = lruMemoize((montage: Montage, format: string | null, recorded: boolean): Montage => {
  const own = inFormat(montage, format);
  return recorded ? asRecorded(own) : own;
});
const plans = lruMemoize((montage: Montage, index: MediaIndex): Planner => planner(montage, index, EFFECTS));

export interface Derived {
  /** In the shape that is looked at. */
  readonly montage: Montage;
  readonly media: MediaIndex;
  readonly line: Timeline;
  /** Hits where the montage shows them, in order, of every kind. */
  readonly everywhere: readonly Occurrence[];
  /** Attacks that are no hits by themselves, where the montage shows them. */
  readonly faint: readonly Occurrence[];
  /** The same without those all of whose kinds are hidden. */
  readonly shown: readonly Occurrence[];
  readonly planner: Planner;
  /** By source id. */
  readonly found: ReadonlyMap<string, Found>;
  readonly lessons: Lessons | null;
}

/** All that follows from these; the very same object while none of them changes. */
const derive = lruMemoize(
  (
    montage: Montage,
    listed: ListedStarts,
    signals: Readonly<Record<string, Signals>>,
    watched: Readonly<Record<string, Watched>>,
    alike: Readonly<Record<string, Alike>>,
    hidden: readonly string[],
  ): Derived => {
    const index = media(montage.sources, listed);
    const at = rampedTimeline(montage, index);
    const finds = found(
      asked(montage.sources, montage.sensitivity, montage.watches, montage.examples, sought(montage.families)),
      montage.settings.fusionWindow,
      signals,
      watched,
      alike,
    );
    const all = hits(finds, montage.sources, montage.hits);
    const everywhere = shown(all.hits, at, montage.clips, montage.music, montage.hits);
    return {
      montage,
      media: index,
      line: at,
      everywhere,
      faint: beneath(all.faint, at, montage.clips, montage.music, NONE),
      shown: visible(everywhere, hidden, montage.families),
      planner: plans(montage, index),
      found: finds,
      lessons: taught(montage.hits, montage.forgotten),
    };
  },
);

/** The hit an accent is shaped on when none is chosen: the first that is kept, else the first. */
export const shapingHit = (shown: readonly Occurrence[]): Occurrence | undefined =>
  shown.find((o) => o.hit.state === 'kept' && o.hit.kind !== 'join') ?? shown[0];

export function useDerived(): Derived | null {
  const montage = useMontage((s) => s.montage);
  const { listed, signals, watched, alike } = useMedia();
  const hidden = useView((s) => s.hidden);
  const format = useView((s) => s.format);
  const recorded = useMontage((s) => s.recorded);
  return montage ? derive(shaped(montage, format, recorded), listed, signals, watched, alike, hidden) : null;
}

/** The same outside of components. */
export function derivedNow(): Derived | null {
  const { montage, recorded } = useMontage.getState();
  const { listed, signals, watched, alike } = useMedia.getState();
  const { hidden, format } = useView.getState();
  return montage ? derive(shaped(montage, format, recorded), listed, signals, watched, alike, hidden) : null;
}
