/** All detectors. To add one: a file beside this one and a line here. */
import { fuse } from '../hits/hits.ts';
import type { Hit, Source } from '../montage/types.ts';
import type { Signals } from '../signals/types.ts';
import { beats } from './beats.ts';
import { cuts } from './cuts.ts';
import type { Detector } from './detector.ts';
import { flashes } from './flashes.ts';
import { onsets } from './onsets.ts';

export const DETECTORS = [onsets, beats, flashes, cuts] as const satisfies readonly Detector[];

/** Found hits of one source at the given sensitivities (detector id to 0-1), sound and picture fused. */
export function findHits(
  source: Pick<Source, 'id' | 'role'>, signals: Signals, sensitivity: Readonly<Record<string, number>>,
): Hit[] {
  const found = (detector: Detector): Hit[] =>
    detector.only && detector.only !== source.role ? [] : detector.find(signals, sensitivity[detector.id] ?? detector.sensitivity).map((find) => ({
      // Milliseconds name a find: the same signals give the same names.
      id: `${source.id}:${detector.id}:${Math.round(find.t * 1000)}`,
      source: source.id, t: find.t, kind: detector.kind[source.role],
      strength: find.strength, confidence: find.confidence,
      evidence: [{ detector: detector.id, t: find.t, strength: find.strength }],
      audioT: detector.id === 'onset' ? find.t : undefined,
      state: 'found',
    }));
  // Beats are a grid of their own: they are not one moment with the strokes that fall on them.
  return [...fuse(found(onsets), found(flashes), found(cuts)), ...found(beats)].sort((a, b) => a.t - b.t);
}
