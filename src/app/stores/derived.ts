/** Everything that follows from the montage and the kept signals, computed once per change. */
import { findHits } from '../../core/detectors/index.ts';
import { mergeHits, occurrences, type Occurrence } from '../../core/hits/hits.ts';
import type { Hit, HitKind, Montage } from '../../core/montage/types.ts';
import { planner, type Planner } from '../../core/plan/plan.ts';
import { mediaIndex, timeline, type MediaIndex, type Timeline } from '../../core/plan/timeline.ts';
import { EFFECTS } from '../../effects/index.ts';
import { listedIndex, type ListedStarts } from '../../engine/media/starts.ts';
import type { Signals } from '../../core/signals/types.ts';
import { useMedia } from './media.ts';
import { useMontage } from './montage.ts';
import { useSession } from './session.ts';

/** Keeps the result for the last arguments. */
function last<A extends readonly unknown[], R>(work: (...args: A) => R): (...args: A) => R {
  let kept: { args: A; result: R } | null = null;
  return (...args) => {
    if (!kept || kept.args.some((arg, i) => arg !== args[i])) kept = { args, result: work(...args) };
    return kept.result;
  };
}

const media = last((sources: Montage['sources'], listed: ListedStarts): MediaIndex => mediaIndex(sources, listedIndex(listed)));
const line = last((clips: Montage['clips'], settings: Montage['settings'], index: MediaIndex): Timeline => timeline({ clips, settings }, index));

/** Found hits by source; a source is only looked at again when its signals or a sensitivity change. */
const foundBySource = new Map<string, { signals: Signals; sensitivity: Montage['sensitivity']; hits: Hit[] }>();
const hits = last((sources: Montage['sources'], decisions: Montage['hits'], sensitivity: Montage['sensitivity'], signals: Readonly<Record<string, Signals>>): Hit[] =>
  sources.flatMap((source) => {
    const kept = signals[source.id];
    let entry = foundBySource.get(source.id);
    if (kept && (entry?.signals !== kept || entry.sensitivity !== sensitivity)) {
      entry = { signals: kept, sensitivity, hits: findHits(source, kept, sensitivity) };
      foundBySource.set(source.id, entry);
    }
    return mergeHits(kept && entry ? entry.hits : [], decisions.filter((hit) => hit.source === source.id && hit.kind !== 'join'));
  }));
const shown = last((all: Hit[], at: Timeline, clips: Montage['clips'], music: Montage['music'], decisions: Montage['hits']): Occurrence[] =>
  occurrences({ clips, music, hits: decisions }, all, at));
const visible = last((all: readonly Occurrence[], hidden: readonly HitKind[]): Occurrence[] => all.filter((o) => !hidden.includes(o.hit.kind)));
const plans = last((montage: Montage, index: MediaIndex): Planner => planner(montage, index, EFFECTS));

export interface Derived {
  readonly montage: Montage;
  readonly media: MediaIndex;
  readonly line: Timeline;
  /** Hits where the montage shows them, in order, of every kind. */
  readonly everywhere: readonly Occurrence[];
  /** The same without the hidden kinds. */
  readonly shown: readonly Occurrence[];
  readonly planner: Planner;
}

export function derive(montage: Montage, listed: ListedStarts, signals: Readonly<Record<string, Signals>>, hidden: readonly HitKind[]): Derived {
  const index = media(montage.sources, listed);
  const at = line(montage.clips, montage.settings, index);
  const all = hits(montage.sources, montage.hits, montage.sensitivity, signals);
  const everywhere = shown(all, at, montage.clips, montage.music, montage.hits);
  return {
    montage, media: index, line: at, everywhere,
    shown: visible(everywhere, hidden),
    planner: plans(montage, index),
  };
}

/** The hit an accent is shaped on when none is chosen: the first that is kept, else the first. */
export const shapingHit = (shown: readonly Occurrence[]): Occurrence | undefined =>
  shown.find((o) => o.hit.state === 'kept' && o.hit.kind !== 'join') ?? shown[0];

export function useDerived(): Derived | null {
  const montage = useMontage((s) => s.montage);
  const listed = useMedia((s) => s.listed);
  const signals = useMedia((s) => s.signals);
  const hidden = useSession((s) => s.hidden);
  return montage ? derive(montage, listed, signals, hidden) : null;
}

/** The same outside of components. */
export function derivedNow(): Derived | null {
  const { montage } = useMontage.getState();
  const { listed, signals } = useMedia.getState();
  return montage ? derive(montage, listed, signals, useSession.getState().hidden) : null;
}
