/** The effects of an accent as a family: those in stacks with the rest, and regions that several share. */
import type { EffectUse, OwnRegions, RegionShape } from './types.ts';

/** Effects and those in their stacks, at any depth. */
export const everyUse = (uses: readonly EffectUse[]): EffectUse[] =>
  uses.flatMap((use) => [use, ...everyUse(use.stack ?? [])]);

/**
 * Where an effect of these acts: where it is told to on this placement, else where the effect acts whose region it
 * shares, else in its own region; nowhere said, everywhere.
 * @param own regions of one placement, by the ids of effects
 */
export function regionOf(use: EffectUse, uses: readonly EffectUse[], own: OwnRegions = {}): readonly RegionShape[] {
  const shared = use.regionOf === undefined ? undefined : everyUse(uses).find(({ id }) => id === use.regionOf);
  return own[use.id] ?? (shared && (own[shared.id] ?? shared.region)) ?? use.region ?? [];
}

/** The effect with a region of its own in place of one that it shares. */
export function unshared(use: EffectUse, uses: readonly EffectUse[]): EffectUse {
  const { regionOf: shares, region: _, ...rest } = use;
  if (shares === undefined) return use;
  const region = regionOf(use, uses);
  return { ...rest, ...(region.length && { region }) };
}

/** Each effect changed by `change`, those in stacks too. */
export const mapUses = (uses: readonly EffectUse[], change: (use: EffectUse) => EffectUse): EffectUse[] =>
  uses.map((use) => {
    const changed = change(use);
    return changed.stack ? { ...changed, stack: mapUses(changed.stack, change) } : changed;
  });

/**
 * The same effects under new ids, for another place. What is shared among them stays shared; what they shared with
 * others of `all` becomes their own.
 */
export function copyOf(uses: readonly EffectUse[], all: readonly EffectUse[], newId: () => string): EffectUse[] {
  const ids = new Map(everyUse(uses).map(({ id }) => [id, newId()]));
  return mapUses(uses, (use) => {
    const shares = use.regionOf === undefined ? undefined : ids.get(use.regionOf);
    return { ...(shares ? { ...use, regionOf: shares } : unshared(use, all)), id: ids.get(use.id)! };
  });
}
