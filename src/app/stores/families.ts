/** Families of the sounds that the sources repeat: sorted in a worker, cut at a threshold here, at once. */
import { lruMemoize } from 'reselect';
import { create } from 'zustand';
import { decideAll, setFamily, together } from '../../core/document/edits.ts';
import type { Hit, Montage, NamedFamily } from '../../core/document/types.ts';
import {
  countsAsHit,
  familiesOf,
  KIN,
  worthAsking,
  type Family,
  type Kinship,
} from '../../core/finding/families/families.ts';
import type { Occurrence } from '../../core/timeline/occurrences.ts';
import { isCancelled, sentence, startAnalyser } from '../../engine/index.ts';
import { kindName } from '../parts/kinds.ts';
import { choose } from './actions.ts';
import { derivedNow, type Derived } from './derived.ts';
import { jobs } from './jobs.ts';
import { isOpen, useMedia } from './media.ts';
import { editMontage } from './montage.ts';
import { hearFrames, retune, togglePlaying } from './player.ts';
import { notice, useView } from './view.ts';

interface Sorted {
  /** What was sorted: ids of the hits, in order. */
  readonly of: string;
  readonly kinship: Kinship;
}

interface Families {
  /** By source id. */
  readonly sorted: Readonly<Record<string, Sorted>>;
  /** Likeness from which sounds are one family. */
  readonly cut: number;
}

export const useFamilies = create<Families>(() => ({ sorted: {}, cut: KIN }));

/** A family with where the montage shows its members. */
export interface ShownFamily extends Family {
  readonly source: string;
  readonly hits: readonly Hit[];
  readonly shown: readonly Occurrence[];
  /**
   * Members that are still undecided; those of them that are no hits by themselves; an answer's expected changes, 0 when
   * it is no longer worth asking; whether it waits for an answer, since that changes something or hits in sight hang on it.
   */
  readonly open: number;
  readonly faint: number;
  readonly changes: number;
  readonly waits: boolean;
}

/** Heard hits of each source that the montage shows, and attacks that are none by themselves, in order of time. */
function heardBySource({ everywhere, faint }: Derived): Map<string, Hit[]> {
  const bySource = new Map<string, Map<string, Hit>>();
  for (const { hit } of [...everywhere, ...faint]) {
    if (hit.audioT === undefined || hit.kind === 'join' || hit.kind === 'beat' || hit.kind === 'drop') continue;
    const list = bySource.get(hit.source) ?? new Map<string, Hit>();
    bySource.set(hit.source, list.set(hit.id, hit));
  }
  return new Map(
    [...bySource].map(([source, list]) => [source, [...list.values()].sort((a, b) => a.audioT! - b.audioT!)]),
  );
}

const nameOf = (hits: readonly Hit[]): string => hits.map(({ id, audioT }) => `${id}@${audioT!.toFixed(3)}`).join();

/** Families from elsewhere, a profile or another recording, which hits of this one may come to; music has none of them. */
function fromElsewhere({ sources, families }: Montage, hits: readonly Hit[]): NamedFamily[] {
  if (sources.find(({ id }) => id === hits[0]?.source)?.role === 'music') return [];
  const own = new Set(hits.map(({ id }) => id));
  return families.filter(({ members, examples }) => examples.length > 0 && !members.some((id) => own.has(id)));
}

/** Whether the likenesses kept are those of these hits, and hold all families from elsewhere. */
const isSorted = (kept: Sorted | undefined, hits: readonly Hit[], montage: Montage): boolean =>
  kept !== undefined &&
  kept.of === nameOf(hits) &&
  fromElsewhere(montage, hits).every(({ id }) => kept.kinship.examples.includes(id));

/** Sources whose hits have just been found, or that a profile was applied to: what is known by name is answered at once. */
const arrived = new Set<string>();
export const expectAnswers = (source: string): void => void arrived.add(source);

const sorting = new Set<string>();

/** Sorts what has not been sorted as it is now. */
export async function sortFamilies(): Promise<void> {
  const derived = derivedNow();
  if (!derived) return;
  const { montage } = derived;
  for (const [source, hits] of heardBySource(derived)) {
    const sounds = Object.values(useMedia.getState().signals[source]?.sounds ?? {});
    if (!sounds.length || sorting.has(source)) continue;
    if (!isSorted(useFamilies.getState().sorted[source], hits, montage)) {
      sorting.add(source);
      try {
        const name = montage.sources.find((s) => s.id === source)?.name ?? 'a source';
        const kinship = await jobs.run(
          { kind: 'sort', owner: montage.id, label: `Sorting the sounds of ${name}` },
          (job) => job.use(startAnalyser()).kinship(hits, sounds, fromElsewhere(montage, hits)),
        );
        if (!isOpen(montage.id)) return;
        useFamilies.setState((s) => ({ sorted: { ...s.sorted, [source]: { of: nameOf(hits), kinship } } }));
      } catch (error) {
        if (!isCancelled(error)) notice(sentence(error), 'error');
        continue;
      } finally {
        sorting.delete(source);
      }
    }
    if (arrived.delete(source)) await answerKnown(montage.id, source);
  }
}

/** Gives the answers that are known by name to what has just come to these families, and takes away parts of other sounds. */
async function answerKnown(owner: string, source: string): Promise<void> {
  const families = nowShown().filter((family) => family.source === source);
  const known = families.filter(({ named, open }) => named && named.state !== 'open' && open > 0);
  const undecided = ({ hits }: ShownFamily): Hit[] => hits.filter(({ state }) => state === 'found');
  const faint = new Set(derivedNow()?.faint.map(({ hit }) => hit.id));
  // Of parts of other sounds only those that are taken for hits need an answer.
  const parts = families
    .filter(({ satellite }) => satellite)
    .map((family) => undecided(family).filter(({ id }) => !faint.has(id)))
    .filter(({ length }) => length);
  const edits = [
    ...known.flatMap((family) => [
      decideAll(asNamed(undecided(family), family.named!), family.named!.state === 'kept' ? 'kept' : 'rejected'),
      setFamily({
        ...family.named!,
        members: [...new Set([...family.named!.members, ...family.hits.map(({ id }) => id)])],
      }),
    ]),
    ...parts.map((hits) => decideAll(hits, 'rejected')),
  ];
  if (!edits.length) return;
  await editMontage(owner, together(edits));
  const count = (list: readonly ShownFamily[]): number => list.reduce((sum, { open }) => sum + open, 0);
  const kept = known.filter(({ named }) => named!.state === 'kept');
  const rejected = known.filter(({ named }) => named!.state === 'rejected');
  notice(
    [
      ...kept.map((family) => `${family.open} ${familyName(family)} kept`),
      ...(rejected.length ? [`${count(rejected)} known sounds rejected`] : []),
      ...(parts.length ? [`${parts.flat().length} parts of other sounds rejected`] : []),
    ].join(', ') + '. Undo takes it back.',
  );
}

/** Hits as members of a family that was kept: they count as its kind. */
export const asNamed = (hits: readonly Hit[], { state, kind }: Pick<NamedFamily, 'state' | 'kind'>): Hit[] =>
  hits.map((hit) => (state === 'kept' && hit.kind !== kind ? { ...hit, kind, kinds: undefined } : hit));

/** Families in the order in which they are asked: those still worth an answer first, then the others by size. */
export const shownFamilies = lruMemoize((derived: Derived, { sorted, cut }: Families): readonly ShownFamily[] => {
  const result: ShownFamily[] = [];
  const { families: named } = derived.montage;
  const faint = new Set(derived.faint.map(({ hit }) => hit.id));
  const everywhere = [...derived.everywhere, ...derived.faint];
  const inSight = new Set(derived.shown.map(({ hit }) => hit.id));
  for (const [source, hits] of heardBySource(derived)) {
    const kept = sorted[source];
    // Another order of hits has other members under the same numbers.
    if (!kept || kept.of !== nameOf(hits)) continue;
    const families = familiesOf(hits, kept.kinship, cut, named);
    const asked = new Map(
      worthAsking(hits, families, (hit) => countsAsHit(hit) && !faint.has(hit.id)).map(({ family, changes }) => [
        family.id,
        changes,
      ]),
    );
    for (const family of families) {
      const members = family.members.map((i) => hits[i]!);
      const ids = new Set(members.map(({ id }) => id));
      result.push({
        ...family,
        source,
        hits: members,
        shown: everywhere.filter((o) => ids.has(o.hit.id)).sort((a, b) => a.frame - b.frame),
        open: members.filter(({ state }) => state === 'found').length,
        faint: members.filter(({ id }) => faint.has(id)).length,
        changes: asked.get(family.id) ?? 0,
        waits: asked.has(family.id) || members.some(({ id, state }) => state === 'found' && inSight.has(id)),
      });
    }
  }
  return result.sort(
    (a, b) =>
      Number(b.waits) - Number(a.waits) || b.changes - a.changes || b.open - a.open || b.hits.length - a.hits.length,
  );
});

export const nowShown = (): readonly ShownFamily[] => {
  const derived = derivedNow();
  return derived ? shownFamilies(derived, useFamilies.getState()) : [];
};

/** The family that keys act on: the one of the chosen hit, else the first that is asked. */
export function currentFamily(families: readonly ShownFamily[]): ShownFamily | undefined {
  const { chosen } = useView.getState();
  return families.find((family) => family.shown.some((o) => o.key === chosen)) ?? families[0];
}

/** What a person called it, else the kind that it is likeliest of. */
export const familyName = ({ named, kind }: Pick<Family, 'named' | 'kind'>): string => named?.name || kindName(kind);

/** Plays the members one after another, a moment of each. */
export const hearFamily = (family: ShownFamily | undefined): void =>
  hearFrames((family?.shown ?? []).slice(0, 24).map((o) => o.frame));

/** Chooses the clearest member, and loops it. */
export function loopClearest(family: ShownFamily | undefined): void {
  const clearest = family?.shown.find(({ hit }) => hit.audioT === family.example.t) ?? family?.shown[0];
  if (!clearest) return;
  choose(clearest);
  retune({ looping: true });
  if (!useView.getState().playing) togglePlaying();
}
