/** The accent being shaped, heard and seen on the chosen hit whatever the rules say. */
import { useMemo } from 'react';
import type { Accent } from '../../core/montage/types.ts';
import type { Audition } from '../../engine/index.ts';
import { shapingHit, useDerived } from '../stores/derived.ts';
import { useMontage } from '../stores/montage.ts';
import { useSession } from '../stores/session.ts';

export function useChosenAccent(): Accent | null {
  const id = useSession((s) => s.accent);
  const accents = useMontage((s) => s.montage?.accents);
  return accents?.find((a) => a.id === id) ?? accents?.[0] ?? null;
}

/** Montage frame of the hit the accent is shaped on: the chosen one, else the first that is kept. */
export function useShapingFrame(): number | null {
  const derived = useDerived();
  const chosen = useSession((s) => s.chosen);
  if (!derived) return null;
  return (derived.shown.find((o) => o.key === chosen) ?? shapingHit(derived.shown))?.frame ?? null;
}

export function useAudition(on: boolean): Audition | undefined {
  const accent = useChosenAccent();
  const frame = useShapingFrame();
  return useMemo(() => (on && accent && frame !== null ? { accent, frame, intensity: 1 } : undefined), [on, accent, frame]);
}
