/** How finds are counted against a known truth. */
import type { Hit } from '../../src/core/document/types.ts';

/** Decibels over the bed, in the best band, from which an attack must be found; those from 0 on may be. */
const CLEAR = 3;
/** Seconds beside the truth that count as found. */
export const NEAR = 0.05;

export interface True {
  readonly t: number;
  /** Decibels by which it stands out. */
  readonly out: number;
}

export interface Score {
  found: number;
  wanted: number;
  false: number;
}

export const none = (): Score => ({ found: 0, wanted: 0, false: 0 });

/** Harmonic mean of precision and recall (C. J. van Rijsbergen, "Information Retrieval", 1979). */
export const fOf = ({ found, wanted, false: wrong }: Score): number =>
  found ? (2 * found) / (found + wrong + wanted) : 0;

/** Adds up what was found of the truth, each once, and how many of these hits were nothing. */
export function count(
  score: Score,
  truth: readonly True[],
  hits: readonly Hit[],
  named: (hit: Hit) => boolean = () => true,
): void {
  const used = new Set<Hit>();
  for (const { t, out } of truth) {
    const hit = hits.find((one) => named(one) && !used.has(one) && Math.abs(one.t - t) <= NEAR);
    if (hit) used.add(hit);
    if (out < CLEAR) continue;
    score.wanted++;
    if (hit) score.found++;
  }
  score.false += hits.filter((hit) => !used.has(hit) && !truth.some(({ t }) => Math.abs(t - hit.t) <= NEAR)).length;
}
