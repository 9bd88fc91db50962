/** What the last change of rules did to placements: which came, which went, how many changed. */
import { lruMemoize } from 'reselect';
import { placements, type Placement } from '../../core/accents/placements.ts';
import type { Montage } from '../../core/document/types.ts';
import type { Timeline } from '../../core/timeline/timeline.ts';
import { useDerived } from './derived.ts';
import { useMontage } from './montage.ts';

export interface RuleChange {
  readonly come: readonly Placement[];
  readonly gone: readonly Placement[];
  /** Of those that stayed: another accent, intensity, seed, place or reach. */
  readonly changed: readonly Placement[];
}

const same = (a: Placement, b: Placement): boolean =>
  a.accent.accent.id === b.accent.accent.id &&
  a.intensity === b.intensity &&
  a.seed === b.seed &&
  a.frame === b.frame &&
  a.from === b.from &&
  a.to === b.to &&
  a.muted === b.muted &&
  a.mirror === b.mirror;

const compared = lruMemoize((before: Montage, now: readonly Placement[], line: Timeline): RuleChange => {
  const old = new Map(placements(before, line).map((p) => [p.key, p]));
  const keys = new Set(now.map(({ key }) => key));
  return {
    come: now.filter(({ key }) => !old.has(key)),
    gone: [...old.values()].filter(({ key }) => !keys.has(key)),
    changed: now.filter((p) => old.has(p.key) && !same(old.get(p.key)!, p)),
  };
});

/** Null where the last step was about something else than rules. */
export function useRuleChange(): RuleChange | null {
  const derived = useDerived();
  const before = useMontage((s) => s.past.at(-1));
  const now = useMontage((s) => s.montage);
  return derived &&
    before &&
    now &&
    before.rules !== now.rules &&
    before.clips === now.clips &&
    before.sources === now.sources &&
    before.settings === now.settings
    ? compared(before, derived.planner.placements, derived.line)
    : null;
}
