/**
 * Families: what a recording itself repeats. Found hits that are the same sound again are sorted without being named; a
 * family that a person named takes in what sounds like it, here and, by its examples, in other recordings.
 */
import { fromByteArray, toByteArray } from 'base64-js';
import { hash, signed } from '../../base/hash.ts';
import { familyByHit } from '../../document/families.ts';
import { isBlow } from '../../document/hits.ts';
import type { Hit, HitKind, Kinds, NamedFamily, Within } from '../../document/types.ts';
import { beatGrid, hasBeat } from '../beats/track.ts';
import { hopOf, type SoundSignals } from '../signals/types.ts';
import { averageLinkage, clustersAt, type Merge, type Pair } from './linkage.ts';
import { packedPrint, Prints, printOf, unpackedPrint, type Print } from './prints.ts';
import { satelliteOf } from './satellites.ts';

/** Mean likeness from which attacks are of one family, unless the person sets another. */
export const KIN = 0.5;
/** Attacks up to which every pair is compared; of more, each with so many that its coarse name is nearest to. */
const ALL_PAIRS = 700;
const NEAREST = 16;
/** Seconds within which two attacks are parts of one sound, and never kin. */
const APART = 0.03;
/** Likeness below which nothing is kin, whatever the threshold. */
const LEAST = 0.2;
/** Seconds of an example. */
const EXAMPLE = 0.2;

export interface Family {
  /** The named one's id, else named by its clearest member: the same from run to run. */
  readonly id: string;
  /** Indices into the hits, in order of time; at least two where nobody named it. */
  readonly members: readonly number[];
  /** What its members are likeliest of together, and how likely; what a person named it, and 1. */
  readonly kind: HitKind;
  readonly confidence: number;
  /** Mean probability of each kind. */
  readonly kinds: Kinds;
  /** Index of the clearest member. */
  readonly clearest: number;
  /** Its sound, source seconds. */
  readonly example: { readonly t: number; readonly duration: number };
  /** Of each member, in their order: decibels below full scale; likeness at which it came to the others, 0 where it was put there. */
  readonly loud: readonly number[];
  readonly bonds: readonly number[];
  /** The family that it follows at one distance, as a part of that sound: its id and the seconds. */
  readonly satellite?: { readonly of: string; readonly gap: number };
  /** What a person said of it. */
  readonly named: NamedFamily | null;
}

/** Pairs that may be kin, each once. */
function* candidates(prints: Prints): Generator<readonly [number, number]> {
  const n = prints.list.length;
  if (n <= ALL_PAIRS) {
    for (let a = 0; a < n; a++) for (let b = a + 1; b < n; b++) yield [a, b];
    return;
  }
  prints.name((i) => signed(hash(0x5eed, i)));
  const seen = new Set<number>();
  for (let one = 0; one < n; one++)
    for (const other of prints.nearest(one, NEAREST)) {
      const [a, b] = [Math.min(one, other), Math.max(one, other)];
      if (seen.has(a * n + b)) continue;
      seen.add(a * n + b);
      yield [a, b];
    }
}

/** The likenesses of a recording's hits: made once, whatever threshold of kinship is tried then. */
export interface Kinship {
  /** Indices into the hits of those that are heard; further nodes are the examples of named families. */
  readonly heard: readonly number[];
  /** Of each of them: points that stand out, and decibels below full scale. */
  readonly clear: readonly number[];
  readonly loud: readonly number[];
  /** Ids of named families, one an example. */
  readonly examples: readonly string[];
  /** Seconds of a beat, where one of the sounds has one. */
  readonly beat: number | null;
  /** How they come together, the most alike first. */
  readonly merges: readonly Merge[];
}

/** The print of what is heard at a time, from the track on which its attack is strongest. */
function heardAt(sounds: readonly SoundSignals[], t: number): Print | null {
  let best: { sound: SoundSignals; hop: number; strength: number } | null = null;
  for (const sound of sounds) {
    const hop = hopOf(sound, t);
    let strength = 0;
    for (let h = Math.max(0, hop - 3); h <= hop + 3 && h < sound.onset.length; h++)
      strength = Math.max(strength, sound.onset[h]!);
    if (!best || strength > best.strength) best = { sound, hop, strength };
  }
  return best && printOf(best.sound, best.hop);
}

function beatOf(sounds: readonly SoundSignals[]): number | null {
  const [tempo] = sounds.filter(hasBeat).flatMap((sound) => beatGrid(sound).tempi);
  return tempo ? 60 / tempo.bpm : null;
}

/** The prints that a family was kept with. */
export const examplesOf = ({ examples }: Pick<NamedFamily, 'examples'>): Print[] =>
  examples.flatMap((packed) => unpackedPrint(toByteArray(packed)) ?? []);

/** Prints of hits as a named family keeps them; of many, those spread evenly from the loudest to the faintest. */
export function takeExamples(hits: readonly Hit[], sounds: readonly SoundSignals[], most = 6): string[] {
  const prints = hits
    .flatMap(({ audioT }) => (audioT === undefined ? [] : (heardAt(sounds, audioT) ?? [])))
    .sort((a, b) => b.loud - a.loud);
  const count = Math.min(most, prints.length);
  return Array.from({ length: count }, (_, i) =>
    fromByteArray(packedPrint(prints[Math.round((i * (prints.length - 1)) / Math.max(1, count - 1))]!)),
  );
}

/**
 * @param sounds of all tracks that are listened to
 * @param named families whose examples are sorted with the hits, so that these come to them
 */
export function kinshipOf(
  hits: readonly Hit[],
  sounds: readonly SoundSignals[],
  named: readonly Pick<NamedFamily, 'id' | 'examples'>[] = [],
): Kinship {
  const heard: number[] = [];
  const list: Print[] = [];
  hits.forEach(({ audioT }, i) => {
    const print = audioT === undefined ? null : heardAt(sounds, audioT);
    if (!print) return;
    heard.push(i);
    list.push(print);
  });
  const examples = named.flatMap((family) => {
    const own = examplesOf(family);
    for (const example of own) list.push(example);
    return own.map(() => family.id);
  });
  const prints = new Prints(list);
  const pairs: Pair[] = [];
  const times = heard.map((i) => hits[i]!.audioT!);
  for (const [a, b] of candidates(prints)) {
    const [one, other] = [examples[a - heard.length], examples[b - heard.length]];
    // Examples of one family are one by what the person said, those of two are two.
    if (one !== undefined && other !== undefined) pairs.push({ a, b, likeness: one === other ? 1 : 0 });
    else if (one !== undefined || other !== undefined || Math.abs(times[a]! - times[b]!) >= APART)
      pairs.push({ a, b, likeness: prints.likeness(a, b) });
  }
  return {
    heard,
    clear: list.slice(0, heard.length).map(({ clear }) => clear),
    loud: list.slice(0, heard.length).map(({ loud }) => loud),
    examples,
    beat: beatOf(sounds),
    merges: averageLinkage(list.length, pairs, LEAST),
  };
}

/** How strongly something is seen with a hit, 0-1. */
export const seenWith = ({ evidence }: Pick<Hit, 'evidence'>): number =>
  Math.max(0, ...evidence.filter(({ detector }) => detector === 'flash' || detector === 'jolt').map((e) => e.strength));

const isWithin = (value: number, within: Within | undefined): boolean =>
  !within || (value >= within.from && value < within.to);

/** Mean probability of each kind over hits, and the likeliest. */
function nameOf(hits: readonly Hit[]): Pick<Family, 'kind' | 'confidence' | 'kinds'> {
  const kinds: Partial<Record<HitKind, number>> = {};
  for (const hit of hits)
    for (const [kind, p] of Object.entries(hit.kinds ?? { [hit.kind]: hit.confidence }) as [HitKind, number][])
      kinds[kind] = (kinds[kind] ?? 0) + p / hits.length;
  const [kind, confidence] = (Object.entries(kinds) as [HitKind, number][])
    // What it is besides, a match or a sign, is no name for what is heard.
    .filter(([name]) => name !== 'match' && name !== 'popup')
    .reduce((best, one) => (one[1] > best[1] ? one : best), ['impact', 0] as [HitKind, number]);
  return { kind, confidence: Math.round(confidence * 1000) / 1000, kinds };
}

/**
 * Families of two and more, and all that a person named and that have members here; those with most members first.
 * A hit is of the family that it was put into; else of the one that most of those belong to that it sounds like, where
 * it is as loud, and as much is seen with it, as that family asks.
 */
export function familiesOf(
  hits: readonly Hit[],
  { heard, clear, loud, examples, beat, merges }: Kinship,
  cut = KIN,
  named: readonly NamedFamily[] = [],
): Family[] {
  const byId = new Map(named.map((family) => [family.id, family]));
  const put = familyByHit(named);
  const sought = (hit: Hit): NamedFamily | undefined =>
    hit.evidence.map(({ detector }) => byId.get(detector.replace(/^family:/, ''))).find(Boolean);
  const bonds = new Float64Array(heard.length + examples.length);
  for (const { a, b, mean } of merges) for (const node of [a, b]) bonds[node] ||= mean;
  const membersOf = new Map<NamedFamily, number[]>();
  const claim = (family: NamedFamily, i: number): void =>
    void membersOf.set(family, [...(membersOf.get(family) ?? []), i]);
  const nodeOf = new Map(heard.map((i, node) => [i, node]));
  // What was put there or found for it needs no likeness.
  const claimed = hits.map((hit, i) => {
    const family = put.get(hit.id) ?? sought(hit);
    if (family) claim(family, i);
    return family;
  });
  // Of how many it is known what they sound like.
  const known = new Map<string, number>();
  for (const id of [...examples, ...heard.flatMap((i) => claimed[i]?.id ?? [])])
    known.set(id, (known.get(id) ?? 0) + 1);
  const families: Omit<Family, 'satellite'>[] = [];
  const made = (id: string, members: readonly number[], family: NamedFamily | null): Omit<Family, 'satellite'> => {
    const inOrder = [...members].sort((x, y) => hits[x]!.t - hits[y]!.t || x - y);
    const clearness = (i: number): number => clear[nodeOf.get(i) ?? -1] ?? -1;
    const clearest = inOrder.reduce((best, i) => (clearness(i) > clearness(best) ? i : best));
    const own = hits[clearest]!;
    return {
      id,
      members: inOrder,
      ...nameOf(inOrder.map((i) => hits[i]!)),
      ...(family && family.state !== 'open' ? { kind: family.kind, confidence: 1 } : {}),
      clearest,
      example: { t: own.audioT ?? own.t, duration: EXAMPLE },
      loud: inOrder.map((i) => loud[nodeOf.get(i) ?? -1] ?? -120),
      bonds: inOrder.map((i) => bonds[nodeOf.get(i) ?? -1] ?? 0),
      named: family,
    };
  };
  for (const cluster of withSingles(heard.length + examples.length, merges, cut)) {
    const votes = new Map<NamedFamily, number>();
    for (const node of cluster) {
      const family = node < heard.length ? claimed[heard[node]!] : byId.get(examples[node - heard.length]!);
      if (family) votes.set(family, (votes.get(family) ?? 0) + 1);
    }
    const ranked = [...votes]
      // One that was put there though it sounds otherwise brings nothing along.
      .filter(([family, own]) => own >= BRINGS_ALONG * known.get(family.id)!)
      .sort((x, y) => y[1] - x[1] || (x[0].id < y[0].id ? -1 : 1))
      .map(([family]) => family);
    const rest: number[] = [];
    for (const node of cluster) {
      const i = heard[node];
      if (i === undefined || claimed[i]) continue;
      const family = ranked.find((one) => isWithin(loud[node]!, one.loud) && isWithin(seenWith(hits[i]!), one.seen));
      if (family) claim(family, i);
      else rest.push(i);
    }
    if (rest.length < 2) continue;
    const family = made('', rest, null);
    const { source } = hits[family.clearest]!;
    families.push({ ...family, id: `family:${source}:${Math.round(family.example.t * 1000)}` });
  }
  for (const [family, members] of membersOf) families.push(made(family.id, members, family));
  families.sort((x, y) => y.members.length - x.members.length || (x.id < y.id ? -1 : 1));
  return families.map((family) => {
    const satellite = family.named ? null : satelliteOf(hits, family, families, beat);
    return satellite ? { ...family, satellite } : family;
  });
}

/** Share of the threshold from which what is alone comes to a family: cores first, then the rest. */
const LOOSER = 0.8;

/** Share of a named family's members and examples that what sounds like these comes to it for. */
const BRINGS_ALONG = 0.25;

/** Clusters at a cut, and to each those alone that come to it, and to no larger one, at a looser one. */
function withSingles(count: number, merges: readonly Merge[], cut: number): number[][] {
  const cores = clustersAt(count, merges, cut);
  const coreOf = new Map(cores.flatMap((core) => core.map((node) => [node, core] as const)));
  for (const wide of clustersAt(count, merges, cut * LOOSER)) {
    const largest = wide
      .map((node) => coreOf.get(node)!)
      .reduce((best, core) => (core.length > best.length ? core : best));
    if (largest.length < 2) continue;
    for (const node of wide) {
      const core = coreOf.get(node)!;
      if (core.length !== 1) continue;
      for (const member of core.splice(0)) largest.push(member);
    }
  }
  return cores.filter(({ length }) => length).map((core) => core.sort((a, b) => a - b));
}

/** The two parts that a family falls into first where more likeness is asked of its members; null where it is one. */
export function partsOf({ members }: Pick<Family, 'members'>, { heard, merges }: Kinship): [number[], number[]] | null {
  const nodes = new Map(heard.map((i, node) => [node, i]));
  const own = new Set(members);
  // Of the cuts at which members part, the lowest; of more than two parts the largest against the rest.
  for (const cut of [...merges].map(({ mean }) => mean).sort((a, b) => a - b)) {
    const parts = clustersAt(
      heard.length,
      merges.filter(({ a, b }) => a < heard.length && b < heard.length),
      cut + 1e-9,
    )
      .map((part) => part.flatMap((node) => nodes.get(node) ?? []).filter((i) => own.has(i)))
      .filter(({ length }) => length);
    if (parts.length < 2) continue;
    const largest = parts.reduce((best, part) => (part.length > best.length ? part : best));
    return [largest, members.filter((i) => !largest.includes(i))];
  }
  return null;
}

/** Whether a hit counts as one before it is answered. */
export const countsAsHit = (hit: Hit): boolean =>
  hit.state === 'kept' || hit.state === 'made' || (hit.state === 'found' && isBlow(hit));

/** Expected changes from which an answer is worth asking for. */
const WORTH = 1;

/** How likely what comes to an answered family is what that is. */
const LIKE_ANSWERED = 0.95;

/**
 * Families that are still worth an answer, those first whose answer is expected to change most: with probability p it
 * makes hits of members that count as none, else it takes away those that count.
 * @param countsNow whether a hit counts as one before it is answered
 */
export function worthAsking(
  hits: readonly Hit[],
  families: readonly Family[],
  countsNow: (hit: Hit) => boolean = countsAsHit,
): { family: Family; changes: number }[] {
  return families
    .map((family) => {
      const open = family.members.map((i) => hits[i]!).filter((hit) => hit.state === 'found');
      const sum = open.reduce(
        (s, hit) =>
          s + Math.max((hit.kinds?.shot ?? 0) + (hit.kinds?.impact ?? 0), countsNow(hit) ? hit.confidence : 0),
        0,
      );
      const answer = family.named?.state ?? 'open';
      const p =
        answer === 'open' ? (sum + 0.5) / (open.length + 1) : answer === 'kept' ? LIKE_ANSWERED : 1 - LIKE_ANSWERED;
      const now = open.filter(countsNow).length;
      return { family, changes: open.length ? p * (open.length - now) + (1 - p) * now : 0 };
    })
    .filter(({ changes }) => changes >= WORTH)
    .sort((x, y) => y.changes - x.changes || (x.family.id < y.family.id ? -1 : 1));
}
