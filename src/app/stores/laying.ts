/** Accents laid on hits by hand, and many placements changed at once. */
import { nanoid } from 'nanoid';
import {
  changeByHand,
  decide,
  layByHand,
  override,
  removeByHand,
  together,
  type Edit,
} from '../../core/document/edits.ts';
import type { HandPlacement, Montage, Override } from '../../core/document/types.ts';
import type { Placement } from '../../core/accents/placements.ts';
import { carries } from '../../core/document/hits.ts';
import type { Occurrence } from '../../core/timeline/occurrences.ts';
import { randomSeed } from '../parts/seed.ts';
import { addHitHere, chosenNow } from './actions.ts';
import { derivedNow } from './derived.ts';
import { edit, useMontage } from './montage.ts';
import { notice, useView } from './view.ts';

const byHand = (accent: string, on: string): HandPlacement => ({
  id: nanoid(8),
  accent,
  on,
  intensity: 1,
  seed: randomSeed(),
});

/** Lays an accent on a hit; one that is not decided yet is kept by it. */
export function layOn(accent: string, { hit, key }: Occurrence): void {
  edit(together([...(carries(hit) ? [] : [decide(hit, 'kept')]), layByHand([byHand(accent, key)])]));
  const name = useMontage.getState().montage?.accents.find(({ id }) => id === accent)?.name;
  notice(`${name ?? 'The accent'} lies on this hit by hand. Undo takes it back.`);
}

/** Lays an accent on what lies at a frame: a hit there, else one that is made there. */
export function layAt(accent: string, frame: number, reach = 0): void {
  const near = (derivedNow()?.shown ?? [])
    .filter((o) => Math.abs(o.frame - frame) <= reach && o.hit.state !== 'rejected')
    .sort((a, b) => Math.abs(a.frame - frame) - Math.abs(b.frame - frame))[0];
  if (near) return layOn(accent, near);
  useView.setState({ playhead: frame });
  addHitHere();
  const made = chosenNow();
  if (made?.frame === frame) layOn(accent, made);
}

/** The accent that is worked on, on the chosen hit. */
export function layHere(): void {
  const { montage } = useMontage.getState();
  const wanted = useView.getState().accent;
  const accent = montage?.accents.find(({ id }) => id === wanted) ?? montage?.accents[0];
  const occurrence = chosenNow();
  if (!accent) return notice('Make an accent first, at Shape.', 'error');
  if (!occurrence) return notice('Choose a hit first.', 'error');
  layOn(accent.id, occurrence);
}

/** What is set on a placement by hand now, whatever laid it; the placement itself may be as it was when a drag began. */
export const setOn = (
  { key, hand }: Pick<Placement, 'key' | 'hand'>,
  { overrides, byHand }: Pick<Montage, 'overrides' | 'byHand'>,
): Override => (hand ? (byHand.find(({ id }) => id === hand.id) ?? hand) : (overrides[key] ?? {}));

/** Changes one placement, whatever laid it. */
export const changePlacement = ({ key, hand }: Pick<Placement, 'key' | 'hand'>, change: Override): Edit =>
  hand ? changeByHand(hand.id, change) : override(key, change);

/** Changes many as one step; the same gesture joins its steps. */
export const changePlacements = (
  list: readonly Placement[],
  change: (placement: Placement) => Override,
  gesture?: string,
): void => edit(together(list.map((placement) => changePlacement(placement, change(placement)))), gesture);

/** Mutes those of rules, and takes away those that were laid by hand. */
export function dropPlacements(list: readonly Placement[]): void {
  const hands = list.flatMap(({ hand }) => (hand ? [hand.id] : []));
  edit(
    together([
      removeByHand(hands),
      ...list.filter(({ hand }) => !hand).map((placement) => changePlacement(placement, { mute: true })),
    ]),
  );
}

/** Lays on other hits, by hand, what lies on one. */
export function copyPlacements(from: Occurrence, to: readonly Occurrence[]): void {
  const derived = derivedNow();
  const mine = derived?.planner.placements.filter((p) => p.occurrence.key === from.key && !p.muted) ?? [];
  if (!mine.length) return notice('Nothing lies on that hit.', 'error');
  const others = to.filter(({ key }) => key !== from.key);
  edit(
    layByHand(
      others.flatMap(({ key }) =>
        mine.map((placement) => {
          const { nudge } = setOn(placement, derived!.montage);
          const { accent, intensity, seed } = placement;
          return { ...byHand(accent.accent.id, key), intensity, seed, ...(nudge && { nudge }) };
        }),
      ),
    ),
  );
  notice(`${mine.length === 1 ? 'Its accent lies' : `Its ${mine.length} accents lie`} on ${others.length} more hits.`);
}

/** What a drag of an accent carries. */
export const ACCENT_TYPE = 'application/x-akmeon-accent';
