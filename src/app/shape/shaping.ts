/** What is looked at and chosen while shaping; nothing here is part of the montage. */
import { useMemo } from 'react';
import { create } from 'zustand';
import type { Places } from '../../core/accents/prepare.ts';
import type { Accent, EffectUse, Envelope } from '../../core/document/types.ts';
import type { Audition, PlacedAccent } from '../../core/accents/plan.ts';
import { shapingHit, useDerived } from '../stores/derived.ts';
import { useMontage } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';

/** One parameter of one effect of the accent being shaped. */
export interface Row {
  readonly use: string;
  readonly param: string;
}
export const rowId = ({ use, param }: Row): string => `${use}/${param}`;

interface Shaping {
  tab: number;
  /** The effect whose row, region or repeats are shown. */
  use: string | null;
  row: Row | null;
  /** Output frame from the hit. */
  at: number;
  /** Further rows that take what is set on one of them. */
  also: ReadonlySet<string>;
  solo: string | null;
  painting: boolean;
  copied: Envelope | null;
  /** The region shape being edited, and which of its points. */
  shape: string | null;
  points: ReadonlySet<number>;
}

export const useShaping = create<Shaping>(() => ({
  tab: 0,
  use: null,
  row: null,
  at: 0,
  also: new Set(),
  solo: null,
  painting: false,
  copied: null,
  shape: null,
  points: new Set(),
}));

export const chooseRow = (row: Row, at: number): void => useShaping.setState({ row, use: row.use, at });

/** Effects of an accent, those in stacks of others after these. */
export const allUses = (
  uses: readonly EffectUse[],
  parent: EffectUse | null = null,
): { use: EffectUse; parent: EffectUse | null }[] =>
  uses.flatMap((use) => [{ use, parent }, ...allUses(use.stack ?? [], use)]);

export function useChosenAccent(): Accent | null {
  const id = useView((s) => s.accent);
  const accents = useMontage((s) => s.montage?.accents);
  return accents?.find((a) => a.id === id) ?? accents?.[0] ?? null;
}

export function useChosenUse(): EffectUse | null {
  const accent = useChosenAccent();
  const id = useShaping((s) => s.use);
  const uses = accent ? allUses(accent.effects) : [];
  return uses.find(({ use }) => use.id === id)?.use ?? uses[0]?.use ?? null;
}

/** Montage frame of the hit the accent is shaped on: the chosen one, else the first that is kept. */
export function useShapingFrame(): number | null {
  const derived = useDerived();
  const chosen = useView((s) => s.chosen);
  if (!derived) return null;
  return (derived.shown.find((o) => o.key === chosen) ?? shapingHit(derived.shown))?.frame ?? null;
}

/** Only the effect that is heard alone is on. */
const soloed = (accent: Accent, solo: string | null): Accent =>
  solo && accent.effects.some((use) => use.id === solo)
    ? { ...accent, effects: accent.effects.map((use) => ({ ...use, on: use.id === solo })) }
    : accent;

export function useAudition(on: boolean): Audition | undefined {
  const accent = useChosenAccent();
  const frame = useShapingFrame();
  const solo = useShaping((s) => s.solo);
  return useMemo(
    () => (on && accent && frame !== null ? { accent: soloed(accent, solo), frame, intensity: 1 } : undefined),
    [on, accent, frame, solo],
  );
}

/** The chosen accent where it lies on the hit it is shaped on, and where its keys are. */
export function usePlacedAccent(): { accent: Accent; placed: PlacedAccent; places: Places; audition: Audition } | null {
  const derived = useDerived();
  const accent = useChosenAccent();
  const audition = useAudition(true);
  return useMemo(() => {
    if (!derived || !accent || !audition) return null;
    const placed = derived.planner.placed(audition);
    return { accent, placed, places: placed.accent.places, audition };
  }, [derived, accent, audition]);
}
