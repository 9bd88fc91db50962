/** What the last change of rules did to placements: which came, which went, how many changed. */
import { lruMemoize } from 'reselect';
import { placements, type Placement } from '../../core/accents/placements.ts';
import type { Montage } from '../../core/document/types.ts';
import type { Timeline } from '../../core/timeline/timeline.ts';
import { useRestedDerived } from './rested.ts';
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
  // What rules that were not changed laid is the very same, and is not looked at.
  const was = new Set(placements(before, line));
  const is = new Set(now);
  const other = now.filter((p) => !was.has(p));
  const old = new Map([...was].filter((p) => !is.has(p)).map((p) => [p.key, p]));
  const keys = new Set(other.map(({ key }) => key));
  return {
    come: other.filter(({ key }) => !old.has(key)),
    gone: [...old.values()].filter(({ key }) => !keys.has(key)),
    changed: other.filter((p) => old.has(p.key) && !same(old.get(p.key)!, p)),
  };
});

/** Null where the last step was about something else than rules. */
export function useRuleChange(): RuleChange | null {
  const derived = useRestedDerived();
  const before = useMontage((s) => s.past.at(-1));
  const now = derived?.montage;
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
