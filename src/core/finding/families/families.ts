/** Families: what a recording itself repeats. Found hits that are the same sound again, sorted without being named. */
import { hash, signed } from '../../base/hash.ts';
import type { Hit, HitKind, Kinds } from '../../document/types.ts';
import { hopOf, type SoundSignals } from '../signals/types.ts';
import { averageLinkage, clustersAt, type Merge, type Pair } from './linkage.ts';
import { Prints, printOf, type Print } from './prints.ts';

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
  /** Names it by its clearest member: the same from run to run. */
  readonly id: string;
  /** Indices into the hits, in order of time; at least two. */
  readonly members: readonly number[];
  /** What its members are likeliest of together, and how likely. */
  readonly kind: HitKind;
  readonly confidence: number;
  /** Mean probability of each kind. */
  readonly kinds: Kinds;
  /** Index of the clearest member. */
  readonly clearest: number;
  /** Its sound, source seconds. */
  readonly example: { readonly t: number; readonly duration: number };
  /** The family that it follows at one distance, as a part of that sound: its id and the seconds. */
  readonly satellite?: { readonly of: string; readonly gap: number };
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
  /** Indices into the hits of those that are heard. */
  readonly heard: readonly number[];
  /** How clear each of them stands out: points. */
  readonly clear: readonly number[];
  /** How they come together, the most alike first. */
  readonly merges: readonly Merge[];
}

/** @param sounds of all tracks that are listened to; each hit is taken from the one on which its attack is strongest */
export function kinshipOf(hits: readonly Hit[], sounds: readonly SoundSignals[]): Kinship {
  const heard: number[] = [];
  const list: Print[] = [];
  hits.forEach(({ audioT }, i) => {
    if (audioT === undefined) return;
    let best: { sound: SoundSignals; hop: number; strength: number } | null = null;
    for (const sound of sounds) {
      const hop = hopOf(sound, audioT);
      let strength = 0;
      for (let h = Math.max(0, hop - 3); h <= hop + 3 && h < sound.onset.length; h++)
        strength = Math.max(strength, sound.onset[h]!);
      if (!best || strength > best.strength) best = { sound, hop, strength };
    }
    if (!best) return;
    heard.push(i);
    list.push(printOf(best.sound, best.hop));
  });
  const prints = new Prints(list);
  const pairs: Pair[] = [];
  const times = heard.map((i) => hits[i]!.audioT!);
  for (const [a, b] of candidates(prints)) {
    if (Math.abs(times[a]! - times[b]!) < APART) continue;
    pairs.push({ a, b, likeness: prints.likeness(a, b) });
  }
  return { heard, clear: list.map((print) => print.clear), merges: averageLinkage(list.length, pairs, LEAST) };
}

/** Families of two and more, those with most members first. */
export function familiesOf(hits: readonly Hit[], kinship: Kinship, cut = KIN): Family[] {
  const { heard, clear, merges } = kinship;
  const families = clustersAt(heard.length, merges, cut)
    .filter((members) => members.length > 1)
    .map((members): Family => {
      const clearest = members.reduce((best, m) => (clear[m]! > clear[best]! ? m : best));
      const kinds: Partial<Record<HitKind, number>> = {};
      for (const m of members) {
        const hit = hits[heard[m]!]!;
        for (const [kind, p] of Object.entries(hit.kinds ?? { [hit.kind]: hit.confidence }) as [HitKind, number][])
          kinds[kind] = (kinds[kind] ?? 0) + p / members.length;
      }
      const [kind, confidence] = (Object.entries(kinds) as [HitKind, number][])
        // What it is besides, a match or a sign, is no name for what is heard.
        .filter(([name]) => name !== 'match' && name !== 'popup')
        .reduce((best, one) => (one[1] > best[1] ? one : best), ['impact', 0] as [HitKind, number]);
      const example = hits[heard[clearest]!]!;
      return {
        id: `family:${example.source}:${Math.round(example.audioT! * 1000)}`,
        members: members.map((m) => heard[m]!).sort((x, y) => hits[x]!.audioT! - hits[y]!.audioT!),
        kind,
        confidence: Math.round(confidence * 1000) / 1000,
        kinds,
        clearest: heard[clearest]!,
        example: { t: example.audioT!, duration: EXAMPLE },
      };
    })
    .sort((x, y) => y.members.length - x.members.length || (x.id < y.id ? -1 : 1));
  return withSatellites(hits, families);
}

/** Members from which a family may be a satellite, the share of them that follow, and the seconds they follow by. */
const LEAST_SATELLITES = 6;
const FOLLOWING = 0.85;
const FOLLOWS_FROM = 0.03;
const FOLLOWS_TO = 0.15;
/** Seconds by which the distances differ; share of the followed that have a follower; strength against theirs. */
const GAP_SPREAD = 0.004;
const COVERED = 1 / 3;
const FAINTER = 0.6;

const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1] ?? 0;

/** Says of each family whether it always follows another at one distance: then it is a part of that sound. */
function withSatellites(hits: readonly Hit[], families: readonly Family[]): Family[] {
  return families.map((family) => {
    if (family.members.length < LEAST_SATELLITES) return family;
    const own = family.members.map((i) => hits[i]!);
    for (const other of families) {
      if (other === family) continue;
      const theirs = other.members.map((i) => hits[i]!);
      // Both are in order of time: the latest of theirs before each of its own.
      const gaps: number[] = [];
      for (let i = 0, k = 0; i < own.length; i++) {
        const t = own[i]!.audioT!;
        while (k + 1 < theirs.length && theirs[k + 1]!.audioT! <= t - FOLLOWS_FROM) k++;
        const gap = t - (theirs[k]?.audioT ?? Infinity);
        if (gap >= FOLLOWS_FROM && gap <= FOLLOWS_TO) gaps.push(gap);
      }
      if (gaps.length < FOLLOWING * own.length) continue;
      const gap = median(gaps);
      const following = gaps.filter((g) => Math.abs(g - gap) <= GAP_SPREAD).length;
      if (following < FOLLOWING * own.length || following < COVERED * theirs.length) continue;
      if (median(own.map((h) => h.strength)) > FAINTER * median(theirs.map((h) => h.strength))) continue;
      return { ...family, satellite: { of: other.id, gap } };
    }
    return family;
  });
}

/** Whether a hit counts as one before it is answered. */
const countsNow = (hit: Hit): boolean =>
  hit.state === 'kept' ||
  hit.state === 'made' ||
  (hit.state === 'found' && (hit.kind === 'shot' || hit.kind === 'impact'));

/**
 * Families that are still worth an answer, those first whose answer is expected to change most: with probability p it
 * makes hits of members that count as none, else it takes away those that count.
 */
export function worthAsking(hits: readonly Hit[], families: readonly Family[]): { family: Family; changes: number }[] {
  return families
    .map((family) => {
      const open = family.members.map((i) => hits[i]!).filter((hit) => hit.state === 'found');
      const sum = open.reduce(
        (s, hit) => s + Math.max(hit.kinds?.shot ?? 0, hit.kinds?.impact ?? 0, countsNow(hit) ? hit.confidence : 0),
        0,
      );
      const p = (sum + 0.5) / (open.length + 1);
      const now = open.filter(countsNow).length;
      return { family, changes: open.length ? p * (open.length - now) + (1 - p) * now : 0 };
    })
    .filter(({ changes }) => changes >= 0.5)
    .sort((x, y) => y.changes - x.changes || (x.family.id < y.family.id ? -1 : 1));
}
