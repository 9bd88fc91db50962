/** What is looked at and chosen while shaping; nothing here is part of the montage. */
import { useMemo } from 'react';
import { create } from 'zustand';
import { changeParam, type Edit } from '../../core/document/edits.ts';
import { withPart, type ShapedPart } from '../../core/document/params.ts';
import type { Places } from '../../core/accents/prepare.ts';
import type { CopiedCells, Relation } from '../../core/accents/cells.ts';
import { mapUses, regionOf } from '../../core/document/uses.ts';
import type { Placement } from '../../core/accents/placements.ts';
import type { Accent, EffectUse, Envelope, OwnRegions } from '../../core/document/types.ts';
import type { Audition, PlacedAccent } from '../../core/accents/plan.ts';
import { seek } from '../stores/actions.ts';
import { shapingHit, useDerived } from '../stores/derived.ts';
import { setOn } from '../stores/laying.ts';
import { useRestedDerived } from '../stores/rested.ts';
import { useMontage } from '../stores/montage.ts';
import { useView } from '../stores/view.ts';

/** One parameter of one effect of the accent being shaped, or what the generator that moves it is shaped by. */
export interface Row {
  readonly use: string;
  readonly param: string;
  readonly part?: ShapedPart | undefined;
}
export const rowId = ({ use, param, part }: Row): string => `${use}/${param}${part ? `:${part}` : ''}`;

/** Changes the envelope of a row. */
export const changeRow = (
  accent: string,
  { use, param, part, spec }: Row & { readonly spec: { readonly default: number } },
  work: (envelope: Envelope) => Envelope,
): Edit =>
  // A row of a generator's part has the part's own limits: what the parameter is without a value is not asked here.
  changeParam(accent, use, param, part ? 0 : spec.default, (now) => withPart(now, part, work));

interface CellPlace {
  readonly row: string;
  readonly at: number;
}

interface Shaping {
  tab: number;
  /** The effect whose row, region or repeats are shown. */
  use: string | null;
  row: Row | null;
  /** The frame that was shaped last, from the accent's frame 0, for as long as the montage plays. */
  at: number;
  /** Cells that are picked, from one corner to the other. */
  picked: { readonly from: CellPlace; readonly to: CellPlace } | null;
  /** Cells that were copied, row by row. */
  copiedCells: readonly CopiedCells[] | null;
  /** Further rows that take what is set on one of them. */
  also: ReadonlySet<string>;
  /** How rows that are set together change. */
  relation: Relation;
  solo: string | null;
  painting: boolean;
  /** Envelopes that were copied, in the order of their rows. */
  copied: readonly Envelope[] | null;
  /** The region shape being edited, and which of its points. */
  shape: string | null;
  points: ReadonlySet<number>;
  /** Effects whose rows are folded away. */
  folded: ReadonlySet<string>;
  /** Regions are edited on the hit that is shaped on alone. */
  onlyHere: boolean;
}

export const useShaping = create<Shaping>(() => ({
  tab: 0,
  use: null,
  row: null,
  at: 0,
  picked: null,
  copiedCells: null,
  also: new Set(),
  relation: 'ratio',
  solo: null,
  painting: false,
  copied: null,
  shape: null,
  points: new Set(),
  folded: new Set(),
  onlyHere: false,
}));

/** Chooses a row and, unless the montage plays, the frame that is shaped, which the picture then shows. */
export function chooseRow(row: Row, at: number, placed: Pick<PlacedAccent, 'frame'>): void {
  useShaping.setState({ row, use: row.use, at });
  const { playing, playhead } = useView.getState();
  if (!playing && playhead !== placed.frame + at) seek(placed.frame + at);
}

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
  return (derived.everywhere.find((o) => o.key === chosen) ?? shapingHit(derived.shown))?.frame ?? null;
}

/** Only the effect that is heard alone is on. */
const soloed = (accent: Accent, solo: string | null): Accent =>
  solo && accent.effects.some((use) => use.id === solo)
    ? { ...accent, effects: accent.effects.map((use) => ({ ...use, on: use.id === solo })) }
    : accent;

/** The placement of the chosen accent on the hit it is shaped on, if it lies there. */
/** @param wanted false: it is not looked for */
export function useOwnPlacement(wanted = true): Placement | null {
  const derived = useRestedDerived();
  const accent = useChosenAccent();
  const frame = useShapingFrame();
  return useMemo(
    () =>
      (wanted &&
        derived?.planner.placements.find(
          (p) => p.accent.accent.id === accent?.id && p.occurrence.frame === frame && !p.muted,
        )) ||
      null,
    [wanted, derived, accent, frame],
  );
}

/** The accent with the regions of its own that a placement has. */
function withRegions(accent: Accent, regions: OwnRegions | undefined): Accent {
  if (!regions) return accent;
  const effects = mapUses(accent.effects, (use) => ({
    ...use,
    regionOf: undefined,
    region: regionOf(use, accent.effects, regions),
  }));
  return { ...accent, effects };
}

export function useAudition(on: boolean): Audition | undefined {
  const accent = useChosenAccent();
  const frame = useShapingFrame();
  const solo = useShaping((s) => s.solo);
  const onlyHere = useShaping((s) => s.onlyHere);
  const own = useOwnPlacement(on && onlyHere);
  const montage = useMontage((s) => s.montage);
  const regions = own && montage ? setOn(own, montage).regions : undefined;
  return useMemo(() => {
    if (!on || !accent || frame === null) return undefined;
    return { accent: withRegions(soloed(accent, solo), regions), frame, intensity: 1 };
  }, [on, accent, frame, solo, regions]);
}

/**
 * The frame that is shaped, from the accent's frame 0: what the picture shows, and while it plays what it showed before.
 * Where the picture is off the accent, the nearest frame of that.
 * @param follow true: while it plays, too, what the picture shows
 */
export function useShapedFrame(follow = false): number {
  const shaped = usePlacedAccent();
  const head = useView((s) => (s.playing && !follow ? null : s.playhead));
  const kept = useShaping((s) => s.at);
  if (!shaped) return 0;
  const { lead, tail } = shaped.places;
  return Math.min(tail, Math.max(-lead, head === null ? kept : head - shaped.placed.frame));
}

/** A frame of the accent as it is called: counted from the hit, wherever the accent's frame 0 lies. */
export function frameName(at: number, { placed, audition }: Pick<ShapedAccent, 'placed' | 'audition'>): string {
  const fromHit = at + placed.frame - audition.frame;
  return fromHit > 0 ? `+${fromHit}` : String(fromHit);
}

export interface ShapedAccent {
  readonly accent: Accent;
  readonly placed: PlacedAccent;
  readonly places: Places;
  readonly audition: Audition;
}

/** The chosen accent where it lies on the hit it is shaped on, and where its keys are. */
export function usePlacedAccent(): ShapedAccent | null {
  const derived = useDerived();
  const accent = useChosenAccent();
  const audition = useAudition(true);
  return useMemo(() => {
    if (!derived || !accent || !audition) return null;
    const placed = derived.planner.placed(audition);
    return { accent, placed, places: placed.accent.places, audition };
  }, [derived, accent, audition]);
}
