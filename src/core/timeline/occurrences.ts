/** Where the montage shows hits. */
import type { Hit, Montage } from '../document/types.ts';
import { lowerBound } from '../base/search.ts';
import { musicTime } from './music.ts';
import type { Timeline } from './timeline.ts';

/** A hit where the montage shows it. */
export interface Occurrence {
  /**
   * Hit, and the clip or music item that shows it: a clip by the one it was cut from, so that a cut leaves the key as
   * it was. Where both halves show the hit again the later one is named by itself.
   */
  readonly key: string;
  readonly hit: Hit;
  readonly frame: number;
}

export const placementKey = (rule: string, occurrence: string): string => `${rule}|${occurrence}`;

export const joinId = (before: string, after: string): string => `join:${before}:${after}`;

/** Seconds before and after a clip in which its hits are looked for. */
const SLACK = 2;

/** Every join as a hit, with the decision made on it, if any. Joins stand as kept until rejected. */
export function joinHits(montage: Pick<Montage, 'clips' | 'hits'>): Hit[] {
  const joins: Hit[] = [];
  const decisions = new Map(montage.hits.filter(({ kind }) => kind === 'join').map((hit) => [hit.id, hit]));
  for (let i = 1; i < montage.clips.length; i++) {
    const before = montage.clips[i - 1]!;
    const after = montage.clips[i]!;
    const id = joinId(before.id, after.id);
    const decided = decisions.get(id);
    joins.push(
      decided ?? {
        id,
        source: after.source,
        t: after.in,
        kind: 'join',
        strength: 1,
        confidence: 1,
        evidence: [],
        state: 'kept',
      },
    );
  }
  return joins;
}

/** One occurrence per clip or music item that shows the hit, in montage order. */
export function occurrences(
  montage: Pick<Montage, 'clips' | 'music' | 'hits'>,
  hits: readonly Hit[],
  line: Timeline,
): Occurrence[] {
  const result: Occurrence[] = [];
  const bySource = new Map<string, Hit[]>();
  for (const hit of hits) {
    if (hit.kind === 'join') continue;
    const list = bySource.get(hit.source);
    if (list) list.push(hit);
    else bySource.set(hit.source, [hit]);
  }
  for (const list of bySource.values()) list.sort((a, b) => a.t - b.t);
  const taken = new Set<string>();
  for (const span of line.spans) {
    const hits = bySource.get(span.clip.source) ?? [];
    // A frame's slack to each side: whether the clip shows a hit is the timeline's to say.
    const last = lowerBound(hits, span.clip.out + SLACK, ({ t }) => t);
    for (let i = lowerBound(hits, span.clip.in - SLACK, ({ t }) => t); i < last; i++) {
      const hit = hits[i]!;
      const frame = line.frameOf(span, hit.t);
      if (frame === null) continue;
      const key = `${hit.id}@${span.clip.lineage ?? span.clip.id}`;
      result.push({ key: taken.has(key) ? `${hit.id}@${span.clip.id}` : key, hit, frame });
      taken.add(key);
    }
  }
  for (const item of montage.music) {
    for (const hit of bySource.get(item.source) ?? []) {
      const at = musicTime(item, hit.t);
      if (at !== null && at >= 0 && at < line.duration)
        result.push({ key: `${hit.id}@${item.id}`, hit, frame: line.frameAt(at) });
    }
  }
  const byIndex = new Map(line.spans.map((span) => [span.index, span]));
  joinHits(montage).forEach((hit, i) => {
    const span = byIndex.get(i + 1);
    if (span) result.push({ key: hit.id, hit, frame: span.first });
  });
  return result.sort((a, b) => a.frame - b.frame || (a.key < b.key ? -1 : 1));
}
