/** Families of the sounds that the sources repeat: sorted in a worker, cut at a threshold here, at once. */
import { create } from 'zustand';
import { decideAll } from '../../core/document/edits.ts';
import type { Hit, HitKind, HitState } from '../../core/document/types.ts';
import { familiesOf, KIN, worthAsking, type Family, type Kinship } from '../../core/finding/families/families.ts';
import type { Occurrence } from '../../core/timeline/occurrences.ts';
import { isCancelled, sentence, startAnalyser } from '../../engine/index.ts';
import { kindName } from '../parts/kinds.ts';
import { choose, seekLike } from './actions.ts';
import { derivedNow, type Derived } from './derived.ts';
import { jobs } from './jobs.ts';
import { useMedia } from './media.ts';
import { edit } from './montage.ts';
import { hearFrames } from './player.ts';
import { notice, useView } from './view.ts';

interface Sorted {
  /** What was sorted: ids of the hits, in order. */
  readonly of: string;
  readonly kinship: Kinship;
}

/** By source id. */
export const useFamilies = create<{ sorted: Readonly<Record<string, Sorted>>; cut: number }>(() => ({
  sorted: {},
  cut: KIN,
}));

/** A family with where the montage shows its members. */
export interface ShownFamily extends Family {
  readonly hits: readonly Hit[];
  readonly shown: readonly Occurrence[];
  /** Members that are still undecided, and answers' expected changes; 0 when it is no longer worth asking. */
  readonly open: number;
  readonly changes: number;
}

/** Heard hits of each source that the montage shows, in order of time. */
function heardBySource({ everywhere }: Derived): Map<string, Hit[]> {
  const bySource = new Map<string, Map<string, Hit>>();
  for (const { hit } of everywhere) {
    if (hit.audioT === undefined || hit.kind === 'join' || hit.kind === 'beat' || hit.kind === 'drop') continue;
    const list = bySource.get(hit.source) ?? new Map<string, Hit>();
    bySource.set(hit.source, list.set(hit.id, hit));
  }
  return new Map(
    [...bySource].map(([source, list]) => [source, [...list.values()].sort((a, b) => a.audioT! - b.audioT!)]),
  );
}

const nameOf = (hits: readonly Hit[]): string => hits.map(({ id, audioT }) => `${id}@${audioT!.toFixed(3)}`).join();

const sorting = new Set<string>();

/** Sorts what has not been sorted as it is now. */
export async function sortFamilies(): Promise<void> {
  const derived = derivedNow();
  if (!derived) return;
  for (const [source, hits] of heardBySource(derived)) {
    const of = nameOf(hits);
    const sounds = Object.values(useMedia.getState().signals[source]?.sounds ?? {});
    if (!sounds.length || sorting.has(source) || useFamilies.getState().sorted[source]?.of === of) continue;
    sorting.add(source);
    try {
      const name = derived.montage.sources.find((s) => s.id === source)?.name ?? 'a source';
      const kinship = await jobs.run(
        { kind: 'sort', owner: derived.montage.id, label: `Sorting the sounds of ${name}` },
        (job) => job.use(startAnalyser()).kinship(hits, sounds),
      );
      useFamilies.setState((s) => ({ sorted: { ...s.sorted, [source]: { of, kinship } } }));
    } catch (error) {
      if (!isCancelled(error)) notice(sentence(error), 'error');
    } finally {
      sorting.delete(source);
    }
  }
}

/** Families in the order in which they are asked: those still worth an answer first, then the others by size. */
export function shownFamilies(
  derived: Derived,
  { sorted, cut }: ReturnType<typeof useFamilies.getState>,
): ShownFamily[] {
  const result: ShownFamily[] = [];
  for (const [source, hits] of heardBySource(derived)) {
    const kept = sorted[source];
    // Another order of hits has other members under the same numbers.
    if (!kept || kept.of !== nameOf(hits)) continue;
    const families = familiesOf(hits, kept.kinship, cut);
    const asked = new Map(worthAsking(hits, families).map(({ family, changes }) => [family.id, changes]));
    for (const family of families) {
      const members = family.members.map((i) => hits[i]!);
      const ids = new Set(members.map(({ id }) => id));
      result.push({
        ...family,
        hits: members,
        shown: derived.everywhere.filter((o) => ids.has(o.hit.id)),
        open: members.filter(({ state }) => state === 'found').length,
        changes: asked.get(family.id) ?? 0,
      });
    }
  }
  return result.sort((a, b) => b.changes - a.changes || b.open - a.open || b.hits.length - a.hits.length);
}

const nowShown = (): ShownFamily[] => {
  const derived = derivedNow();
  return derived ? shownFamilies(derived, useFamilies.getState()) : [];
};

/** The family that keys act on: the one of the chosen hit, else the first that is asked. */
export function currentFamily(families: readonly ShownFamily[]): ShownFamily | undefined {
  const { chosen } = useView.getState();
  return families.find((family) => family.shown.some((o) => o.key === chosen)) ?? families[0];
}

/** Answers for all members at once, and goes on to the next family that is worth an answer. */
export function answerFamily(family: ShownFamily | undefined, state: HitState, kind?: HitKind): void {
  if (!family) return notice('There is no family of sounds here yet: find hits first.', 'error');
  const named = kind ? family.hits.map((hit) => ({ ...hit, kind, kinds: undefined })) : family.hits;
  edit(decideAll(named, state));
  const said =
    state === 'kept'
      ? `kept${kind ? ` as ${kindName(kind)}` : ''}`
      : state === 'rejected'
        ? 'rejected'
        : 'left undecided';
  notice(`${family.hits.length} hits of one sound ${said}. Undo takes it back.`);
  const next = nowShown().find((other) => other.id !== family.id && other.changes > 0);
  if (next?.shown[0]) choose(next.shown[0]);
}

/** Looks for more of a sound below the sensitivity, by its clearest member; what is a hit already is not found twice. */
export function moreOfFamily(family: ShownFamily | undefined): void {
  const [first] = family?.hits ?? [];
  if (!family || !first) return;
  const { t, duration } = family.example;
  seekLike(first.source, Math.max(0, t - 0.02), t + duration, `${kindName(family.kind)} at ${t.toFixed(1)} s`);
}

/** Plays the members one after another, a moment of each. */
export const hearFamily = (family: ShownFamily | undefined): void =>
  hearFrames((family?.shown ?? []).slice(0, 24).map((o) => o.frame));

export const answerCurrent = (state: HitState): void => answerFamily(currentFamily(nowShown()), state);
export const hearCurrent = (): void => hearFamily(currentFamily(nowShown()));
