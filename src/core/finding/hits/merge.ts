/** Found hits and the decisions made on them. */
import { LIMITS } from '../../document/limits.ts';
import { lowerBound } from '../../base/search.ts';
import type { Hit, HitKind } from '../../document/types.ts';

/** How far, in seconds, a decision may lie from a found hit and still mean it. */
const MATCH_WINDOW: Partial<Record<HitKind, number>> = { note: 0.05, hat: 0.05, snare: 0.05, kick: 0.05, beat: 0.07 };
const DEFAULT_WINDOW = 0.12;

const windowOf = (kind: HitKind): number => MATCH_WINDOW[kind] ?? DEFAULT_WINDOW;

/** Whether it was sought by an example or by a family. */
const isSought = (detector: string): boolean => detector.startsWith('like:') || detector.startsWith('family:');

/** Beats, drops and what sounds alike stand beside the moments that fall on them: a decision on one says nothing of the other. */
const layerOf = ({ kind, evidence }: Hit): string => {
  const detector = evidence[0]?.detector ?? '';
  return detector === 'beat' || detector === 'drop' || isSought(detector)
    ? detector
    : kind === 'beat' || kind === 'drop' || kind === 'match'
      ? kind
      : 'moment';
};

/** A decision's time where the finder saw it, not where it was nudged to. */
const foundTime = (hit: Hit): number => hit.evidence[0]?.t ?? hit.t;

/**
 * All hits of one source in order of time: the decisions as they are, and every found hit that no
 * decision stands for. A decision stands for the nearest found hit in its window, whatever its
 * kind; each found hit is claimed once, and says when and how loud the decision's is heard, where that does not. Beats,
 * drops and sounds alike are matched among themselves. Decisions without a match stay.
 */
export function mergeHits(found: readonly Hit[], decisions: readonly Hit[]): Hit[] {
  const ordered = [...found].sort((a, b) => a.t - b.t);
  const pairs: { distance: number; f: number; d: number }[] = [];
  decisions.forEach((decision, d) => {
    const t = foundTime(decision);
    const reach = windowOf(decision.kind);
    let f = lowerBound(ordered, t - reach, (hit) => hit.t);
    for (; f < ordered.length && ordered[f]!.t <= t + reach; f++) {
      const found = ordered[f]!;
      // The very same find before any other that is as near.
      if (found.source === decision.source && layerOf(found) === layerOf(decision))
        pairs.push({ distance: found.id === decision.id ? -1 : Math.abs(found.t - t), f, d });
    }
  });
  pairs.sort((a, b) => a.distance - b.distance);
  const taken = new Set<number>();
  const settled = new Map<number, Hit>();
  for (const { f, d } of pairs) {
    if (taken.has(f) || settled.has(d)) continue;
    taken.add(f);
    settled.set(d, ordered[f]!);
  }
  const decided = decisions.map((decision, d) => {
    const found = settled.get(d);
    const [audioT, loud] = [decision.audioT ?? found?.audioT, decision.loud ?? found?.loud];
    return audioT === decision.audioT && loud === decision.loud ? decision : { ...decision, audioT, loud };
  });
  return joinedAlike([...decided, ...ordered.filter((_, f) => !taken.has(f))].sort((a, b) => a.t - b.t));
}

/** Seconds within which a sound like an example and a hit are one moment. */
const ONE_MOMENT = 0.05;
/** Seconds from which two attacks can be told apart. */
const TWO_ATTACKS = 0.03;

const isAlike = ({ state, evidence }: Hit): boolean => state === 'found' && isSought(evidence[0]?.detector ?? '');

/**
 * Of what sounds like an example, what is a hit already, decided or not, joins it: as evidence, and as something that
 * it is besides. There are never two hits for one moment.
 */
function joinedAlike(hits: readonly Hit[]): Hit[] {
  const moments = hits.filter((hit) => layerOf(hit) === 'moment');
  const heard = moments.map((hit) => hit.audioT ?? hit.t);
  const order = [...moments.keys()].sort((a, b) => heard[a]! - heard[b]!);
  const joined = new Map<Hit, Hit[]>();
  const found = new Map<string, number[]>();
  for (const hit of hits.filter(isAlike)) {
    const { detector } = hit.evidence[0]!;
    found.set(detector, [...(found.get(detector) ?? []), hit.t]);
  }
  const rest = hits.filter((hit) => {
    if (!isAlike(hit)) return true;
    let best: number | null = null;
    for (let i = lowerBound(order, hit.t - ONE_MOMENT, (at) => heard[at]!); i < order.length; i++) {
      const at = order[i]!;
      if (heard[at]! > hit.t + ONE_MOMENT) break;
      if (best === null || Math.abs(heard[at]! - hit.t) < Math.abs(heard[best]! - hit.t)) best = at;
    }
    if (best === null) return true;
    // Two shots of one family so close are two, where the other is that hit.
    if (
      Math.abs(heard[best]! - hit.t) > TWO_ATTACKS &&
      found.get(hit.evidence[0]!.detector)?.some((t) => Math.abs(t - heard[best]!) <= TWO_ATTACKS)
    )
      return true;
    joined.set(moments[best]!, [...(joined.get(moments[best]!) ?? []), hit]);
    return false;
  });
  return rest.map((hit) => {
    const alike = joined.get(hit);
    if (!alike) return hit;
    const kinds: Partial<Record<HitKind, number | undefined>> = { ...(hit.kinds ?? { [hit.kind]: hit.confidence }) };
    for (const { kind, confidence } of alike) kinds[kind] = Math.max(kinds[kind] ?? 0, confidence);
    return {
      ...hit,
      kinds,
      evidence: [...hit.evidence, ...alike.flatMap(({ evidence }) => evidence)].slice(0, LIMITS.evidence),
    };
  });
}
