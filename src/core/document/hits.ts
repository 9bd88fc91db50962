/** What a hit is of, by its name and by what else it may be. */
import type { Hit, HitKind } from './types.ts';

/** Evidence of a watched rectangle is named after it. */
export const watchDetector = (id: string): string => `watch:${id}`;

/** Whether a hit is an appearance of a sign: what a rectangle is watched for. */
export const showsSign = ({ evidence }: Pick<Hit, 'evidence'>, watch: string): boolean =>
  evidence.some(({ detector }) => detector === watchDetector(watch));

/** Hits that carry accents: kept and hand-made ones, and joins that were not rejected. */
export const carries = (hit: Hit): boolean => hit.state === 'kept' || hit.state === 'made';

/** Probability from which a hit counts as of a kind besides its own. */
export const ALSO = 0.5;

/** Whether a hit is of a kind, by its name or by what else it surely is: a flash that was heard as a shot is both. */
export const isOfKind = (hit: Pick<Hit, 'kind' | 'kinds'>, kind: HitKind): boolean =>
  hit.kind === kind || (hit.kinds?.[kind] ?? 0) >= ALSO;

/** Whether a hit is one thing that strikes, not a stroke of music. */
export const isBlow = ({ kind }: Pick<Hit, 'kind'>): boolean => kind === 'shot' || kind === 'impact';
