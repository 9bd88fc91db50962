/** What every accent is brought to, whichever file it comes in. */
import { isMoved, replaced } from './params.ts';
import { FormatError } from './document.ts';
import { LIMITS } from './limits.ts';
import type { Accent, EffectUse, Param } from './types.ts';
import { mapUses } from './uses.ts';

/** An accent of the first version: what of it lies on the hit had another name. */
export const aligned = ({ lies, ...accent }: Record<string, unknown>): Record<string, unknown> => ({
  ...accent,
  align: lies,
});

const sorted = (param: Param): Param =>
  isMoved(param) ? { ...param, base: keysInOrder(param.base) } : keysInOrder(param);
/** Keys in order, one a frame: the last of those that fall together. Anchored ones stay where they are told. */
function keysInOrder(envelope: Exclude<Param, { base: unknown }>): typeof envelope {
  if (typeof envelope === 'number' || envelope.some((key) => key.anchor)) return envelope;
  return replaced(envelope, (key) => key.at);
}

const useInOrder = (use: EffectUse): EffectUse => ({
  ...use,
  params: Object.fromEntries(Object.entries(use.params).map(([name, param]) => [name, sorted(param)])),
});

const stackDepth = (uses: readonly EffectUse[]): number =>
  uses.reduce((most, use) => Math.max(most, use.stack?.length ? 1 + stackDepth(use.stack) : 0), 0);

/** @throws FormatError where stacks lie in stacks deeper than {@link LIMITS.stackDepth} */
export function checkStacks(accent: Accent): void {
  if (stackDepth(accent.effects) > LIMITS.stackDepth)
    throw new FormatError(
      'invalid',
      `This file cannot be read: the accent “${accent.name}” has stacks more than ${LIMITS.stackDepth} deep.`,
    );
}

export const inOrder = (accent: Accent): Accent => ({ ...accent, effects: mapUses(accent.effects, useInOrder) });
