/**
 * What decisions teach: traits that kept and rejected hits do not share raise or lower the undecided
 * ones. Naive Bayes on a few traits with add-one counts, held back while there are few; common practice.
 */
import type { Hit } from '../../document/types.ts';
import { isSeen } from './fusion.ts';

/** Decisions from which anything is learnt. */
export const LEAST_LESSONS = 5;
/** Decisions on a trait at which it counts half. */
const HALF = 3;

/** What a person could see in a hit, in words. */
function traitsOf(hit: Hit): string[] {
  return [
    hit.kind,
    hit.strength >= 0.5 ? 'strong' : hit.strength >= 0.2 ? 'of middle strength' : 'weak',
    isSeen(hit) ? (hit.audioT === undefined ? 'seen, not heard' : 'seen and heard') : 'heard only',
    hit.confidence >= 0.8 ? 'surely found' : 'doubtful',
    ...(hit.burst ? ['in a burst'] : []),
  ];
}

export interface Lesson {
  readonly trait: string;
  readonly kept: number;
  readonly rejected: number;
  /** Logarithm of the odds it adds. */
  readonly weight: number;
}

export interface Lessons {
  readonly decisions: number;
  /** By trait, those that say most first. */
  readonly lessons: readonly Lesson[];
}

/** Null before there are enough decisions, or all are alike. */
export function learnFrom(decided: readonly Hit[], forgotten: readonly string[]): Lessons | null {
  const skip = new Set(forgotten);
  const taught = decided.filter(
    (hit) => (hit.state === 'kept' || hit.state === 'rejected') && hit.evidence.length > 0 && !skip.has(hit.id),
  );
  const all = {
    kept: taught.filter((hit) => hit.state === 'kept').length,
    rejected: taught.filter((hit) => hit.state === 'rejected').length,
  };
  if (taught.length < LEAST_LESSONS || !all.kept || !all.rejected) return null;
  const counts = new Map<string, { kept: number; rejected: number }>();
  for (const hit of taught) {
    for (const trait of traitsOf(hit)) {
      const count = counts.get(trait) ?? { kept: 0, rejected: 0 };
      counts.set(trait, count);
      count[hit.state as 'kept' | 'rejected']++;
    }
  }
  const lessons = [...counts].map(([trait, { kept, rejected }]) => {
    const own = Math.log((kept + 1) / (all.kept + 2)) - Math.log((rejected + 1) / (all.rejected + 2));
    return { trait, kept, rejected, weight: own * ((kept + rejected) / (kept + rejected + HALF)) };
  });
  return { decisions: taught.length, lessons: lessons.sort((a, b) => Math.abs(b.weight) - Math.abs(a.weight)) };
}

/** 0-1: how likely a hit is kept, and the traits that moved it from its confidence. */
export function ranked(hit: Hit, taught: Lessons | null): { likely: number; because: readonly Lesson[] } {
  if (!taught) return { likely: hit.confidence, because: [] };
  const traits = new Set(traitsOf(hit));
  const because = taught.lessons.filter(({ trait, weight }) => traits.has(trait) && Math.abs(weight) > 0.1);
  const bounded = Math.min(0.98, Math.max(0.02, hit.confidence));
  const logit = Math.log(bounded / (1 - bounded)) + because.reduce((sum, { weight }) => sum + weight, 0);
  return { likely: 1 / (1 + Math.exp(-logit)), because };
}
