/** Found hits, the decisions made on them, and where they show in the montage. */
import { lowerBound } from '../units/search.ts';
import type { Timeline } from '../plan/timeline.ts';
import type { Hit, HitKind, Montage } from '../montage/types.ts';
import { BLOWS } from '../signals/types.ts';

/** How far, in seconds, a decision may lie from a found hit and still mean it. */
const MATCH_WINDOW: Partial<Record<HitKind, number>> = { note: 0.05, hat: 0.05, snare: 0.05, kick: 0.05, beat: 0.07 };
const DEFAULT_WINDOW = 0.12;

const windowOf = (kind: HitKind): number => MATCH_WINDOW[kind] ?? DEFAULT_WINDOW;

/** Beats, drops and what sounds alike stand beside the moments that fall on them: a decision on one says nothing of the other. */
const layerOf = ({ kind, evidence }: Hit): string => {
  const detector = evidence[0]?.detector ?? '';
  return detector === 'beat' || detector === 'drop' || detector.startsWith('like:') ? detector : kind === 'beat' || kind === 'drop' || kind === 'match' ? kind : 'moment';
};

/** A decision's time where the finder saw it, not where it was nudged to. */
const foundTime = (hit: Hit): number => hit.evidence[0]?.t ?? hit.t;

/**
 * All hits of one source in order of time: the decisions as they are, and every found hit that no
 * decision stands for. A decision stands for the nearest found hit in its window, whatever its
 * kind; each found hit is claimed once. Beats, drops and sounds alike are matched among themselves. Decisions without a match stay.
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
      if (found.source === decision.source && layerOf(found) === layerOf(decision)) pairs.push({ distance: found.id === decision.id ? -1 : Math.abs(found.t - t), f, d });
    }
  });
  pairs.sort((a, b) => a.distance - b.distance);
  const taken = new Set<number>();
  const settled = new Set<number>();
  for (const { f, d } of pairs) {
    if (taken.has(f) || settled.has(d)) continue;
    taken.add(f);
    settled.add(d);
  }
  return [...decisions, ...ordered.filter((_, f) => !taken.has(f))].sort((a, b) => a.t - b.t);
}

/** Probability from which a hit counts as of a kind besides its own. */
const ALSO = 0.5;

/** Whether a hit is of a kind, by its name or by what else it surely is: a flash that was heard as a shot is both. */
export const isOfKind = (hit: Pick<Hit, 'kind' | 'kinds'>, kind: HitKind): boolean => hit.kind === kind || (hit.kinds?.[kind] ?? 0) >= ALSO;

/** Whether a hit is one thing that strikes, not a stroke of music. */
export const isBlow = ({ kind }: Pick<Hit, 'kind'>): boolean => BLOWS.some((blow) => blow === kind);

/** A hit where the montage shows it. */
export interface Occurrence {
  /** Stable over edits: hit and the clip or music item that shows it. */
  readonly key: string;
  readonly hit: Hit;
  readonly frame: number;
}

export const placementKey = (rule: string, occurrence: string): string => `${rule}|${occurrence}`;

export const joinId = (before: string, after: string): string => `join:${before}:${after}`;

/** Every join as a hit, with the decision made on it, if any. Joins stand as kept until rejected. */
export function joinHits(montage: Pick<Montage, 'clips' | 'hits'>): Hit[] {
  const joins: Hit[] = [];
  for (let i = 1; i < montage.clips.length; i++) {
    const before = montage.clips[i - 1]!;
    const after = montage.clips[i]!;
    const id = joinId(before.id, after.id);
    const decided = montage.hits.find((hit) => hit.id === id);
    joins.push(decided ?? {
      id, source: after.source, t: after.in, kind: 'join', strength: 1, confidence: 1, evidence: [], state: 'kept',
    });
  }
  return joins;
}

/** One occurrence per clip or music item that shows the hit, in montage order. */
export function occurrences(montage: Pick<Montage, 'clips' | 'music' | 'hits'>, hits: readonly Hit[], line: Timeline): Occurrence[] {
  const result: Occurrence[] = [];
  const bySource = new Map<string, Hit[]>();
  for (const hit of hits) {
    if (hit.kind === 'join') continue;
    const list = bySource.get(hit.source);
    if (list) list.push(hit);
    else bySource.set(hit.source, [hit]);
  }
  for (const span of line.spans) {
    for (const hit of bySource.get(span.clip.source) ?? []) {
      const frame = line.frameOf(span, hit.t);
      if (frame !== null) result.push({ key: `${hit.id}@${span.clip.id}`, hit, frame });
    }
  }
  for (const item of montage.music) {
    for (const hit of bySource.get(item.source) ?? []) {
      if (hit.t < item.in || hit.t >= item.out) continue;
      const at = item.at + hit.t - item.in;
      if (at >= 0 && at < line.duration) result.push({ key: `${hit.id}@${item.id}`, hit, frame: line.frameAt(at) });
    }
  }
  joinHits(montage).forEach((hit, i) => {
    const span = line.spans.find((s) => s.index === i + 1);
    if (span) result.push({ key: hit.id, hit, frame: span.first });
  });
  return result.sort((a, b) => a.frame - b.frame || (a.key < b.key ? -1 : 1));
}
