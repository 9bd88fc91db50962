/** Rules and decided hits to placements: which accent, where, how strong, with which seed. */
import { scaleEnvelope, scaleFrames, type Envelope } from '../envelopes/envelope.ts';
import { isOfKind, occurrences, placementKey, type Occurrence } from '../hits/hits.ts';
import type { Accent, Hit, Montage, Rule } from '../montage/types.ts';
import type { Timeline } from '../plan/timeline.ts';
import { hash, seedOf } from '../random/hash.ts';
import { fps } from '../units/time.ts';

export interface Placement {
  readonly key: string;
  readonly rule: Rule;
  readonly accent: ScaledAccent;
  readonly occurrence: Occurrence;
  /** Montage frame on which the accent's frame 0 lies. */
  readonly frame: number;
  readonly intensity: number;
  readonly seed: number;
  readonly muted: boolean;
}

/** An accent with its frame counts at the montage's rate. */
export interface ScaledAccent {
  readonly accent: Accent;
  readonly lead: number;
  readonly tail: number;
  readonly effects: readonly { effect: string; on: boolean; params: Readonly<Record<string, Envelope>> }[];
}

export function scaleAccent(accent: Accent, montageFps: number): ScaledAccent {
  const factor = montageFps / fps(accent.rate);
  return {
    accent,
    lead: scaleFrames(accent.lead, factor),
    tail: scaleFrames(accent.tail, factor),
    effects: accent.effects.map(({ effect, on, params }) => ({
      effect, on,
      params: Object.fromEntries(Object.entries(params).map(([name, value]) => [name, scaleEnvelope(value, factor)])),
    })),
  };
}

/** Hits that carry accents: kept and hand-made ones, and joins that were not rejected. */
export const carries = (hit: Hit): boolean => hit.state === 'kept' || hit.state === 'made';

export const matches = (rule: Rule, hit: Hit): boolean =>
  carries(hit) && rule.kinds.some((kind) => isOfKind(hit, kind)) && hit.strength >= rule.minStrength;

/** Ids of hits that are the first or the last carried member of their burst in their source. */
function burstEnds(hits: readonly Hit[]): { first: Set<string>; last: Set<string> } {
  const [first, last] = [new Map<string, Hit>(), new Map<string, Hit>()];
  for (const hit of hits) {
    if (!hit.burst || !carries(hit)) continue;
    if (hit.t < (first.get(hit.burst)?.t ?? Infinity)) first.set(hit.burst, hit);
    if (hit.t > (last.get(hit.burst)?.t ?? -Infinity)) last.set(hit.burst, hit);
  }
  const ids = (ends: Map<string, Hit>): Set<string> => new Set([...ends.values()].map((hit) => hit.id));
  return { first: ids(first), last: ids(last) };
}

/** All placements, muted ones included, by first frame; rules in their order on one hit. */
export function placements(montage: Montage, line: Timeline): Placement[] {
  const accents = new Map(montage.accents.map((accent) => [accent.id, scaleAccent(accent, line.fps)]));
  const shown = occurrences(montage, montage.hits.filter(carries), line);
  const result: Placement[] = [];
  const ends = burstEnds(montage.hits);
  for (const occurrence of shown) {
    for (const rule of montage.rules) {
      const accent = accents.get(rule.accent);
      if (!rule.on || !accent || !matches(rule, occurrence.hit)) continue;
      if (occurrence.hit.burst && rule.burst !== 'each' && !ends[rule.burst].has(occurrence.hit.id)) continue;
      const key = placementKey(rule.id, occurrence.key);
      const override = montage.overrides[key] ?? {};
      result.push({
        key, rule, accent, occurrence,
        frame: occurrence.frame + (override.nudge ?? 0),
        intensity: override.intensity ?? 1 - rule.follow * (1 - occurrence.hit.strength),
        seed: override.seed ?? hash(rule.seed, accent.accent.seed, seedOf(occurrence.key)),
        muted: override.mute ?? false,
      });
    }
  }
  return result.sort((a, b) => a.frame - b.frame);
}
