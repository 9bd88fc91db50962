/** The region that is being edited: of an effect of the accent, or of one placement alone. */
import { useMemo } from 'react';
import { keyedOn } from '../../core/accents/prepare.ts';
import type { Placement } from '../../core/accents/placements.ts';
import { SHAPE_PARAMS, withPath } from '../../core/accents/region.ts';
import { changeEffect } from '../../core/document/edits.ts';
import { regionOf } from '../../core/document/uses.ts';
import type { EffectUse, RegionShape, ShapeParam } from '../../core/document/types.ts';
import { changePlacement, setOn } from '../stores/laying.ts';
import { useDerived } from '../stores/derived.ts';
import { edit } from '../stores/montage.ts';
import { useChosenAccent, useChosenUse, useOwnPlacement, usePlacedAccent, useShaping } from './shaping.ts';

export interface EditedRegion {
  readonly use: EffectUse;
  readonly region: readonly RegionShape[];
  /** The placement whose own region it is; null: the accent's, wherever it lies. */
  readonly placement: Placement | null;
  /** Sets all shapes. */
  set(region: readonly RegionShape[], group?: string): void;
  /** Changes one shape. */
  change(shape: string, work: (shape: RegionShape) => RegionShape, group?: string): void;
}

export function useRegion(): EditedRegion | null {
  const accent = useChosenAccent();
  const chosen = useChosenUse();
  const derived = useDerived();
  const own = useOwnPlacement();
  const onlyHere = useShaping((s) => s.onlyHere);
  return useMemo(() => {
    if (!accent || !chosen || !derived) return null;
    const placement = onlyHere ? own : null;
    const regions = placement ? setOn(placement, derived.montage).regions : undefined;
    const region = regionOf(chosen, accent.effects, regions);
    // What is drawn for several effects is changed for all of them.
    const target = chosen.regionOf ?? chosen.id;
    const set: EditedRegion['set'] = (next, group) =>
      edit(
        placement
          ? changePlacement(placement, { regions: { ...regions, [target]: next } })
          : changeEffect(accent.id, target, ({ region: _, ...e }) => (next.length ? { ...e, region: next } : e)),
        group,
      );
    return {
      use: chosen,
      region,
      placement,
      set,
      change: (shape, work, group) =>
        set(
          region.map((one) => (one.id === shape ? work(one) : one)),
          group,
        ),
    };
  }, [accent, chosen, derived, own, onlyHere]);
}

type Where = NonNullable<ReturnType<typeof usePlacedAccent>>['places'];

/** A value at a frame: a key where it is shaped, else the steady value. */
export const withShapeValue = (
  shape: RegionShape,
  name: ShapeParam,
  value: number,
  at: number,
  places: Where,
): RegionShape => {
  const now = shape.params[name] ?? SHAPE_PARAMS[name].default;
  const rounded = Math.round(value * 100) / 100;
  return {
    ...shape,
    params: { ...shape.params, [name]: typeof now === 'number' ? rounded : keyedOn(now, places, at, rounded) },
  };
};

/** The points at a frame. A path with one key moves as a whole until a second one is set on purpose. */
export function withPoints(
  shape: RegionShape,
  points: readonly { x: number; y: number; smooth: boolean }[],
  at: number,
  places: Where,
  keyed = (shape.path?.length ?? 0) > 1,
): RegionShape {
  const keys = shape.path ?? [];
  if (!keyed) return { ...shape, path: [{ at: keys[0]?.at ?? 0, points }] };
  const same = keys.find((key) => Math.abs(places.of(key) - at) < 0.5);
  return { ...shape, path: withPath(keys, same?.at ?? places.at(at), points) };
}
