/** Accents for passing on: `.akmeon-accent` files, with a picture of the first one. */
import { isMoved, replaced } from './params.ts';
import { ACCENT_VERSION, type Accent, type AccentFile, type EffectUse, type Param } from './types.ts';
import { mapUses } from './uses.ts';
import { FormatError, readDocument, type Migrations } from './document.ts';
import { LIMITS } from './limits.ts';
import validate from './generated/validate-accent.js';

/** An accent of the first version: what of it lies on the hit had another name. */
export const aligned = ({ lies, ...accent }: Record<string, unknown>): Record<string, unknown> => ({
  ...accent,
  align: lies,
});

const ACCENT_MIGRATIONS: Migrations = {
  1: (document) => ({
    ...document,
    version: 2,
    accents: Array.isArray(document['accents'])
      ? (document['accents'] as Record<string, unknown>[]).map(aligned)
      : document['accents'],
  }),
};

export function writeAccents(accents: readonly Accent[], picture?: string): string {
  const file: AccentFile = { format: 'akmeon-accent', version: ACCENT_VERSION, accents, ...(picture && { picture }) };
  return `${JSON.stringify(file, null, 1)}\n`;
}

/** @throws FormatError with a sentence for the person. Effects that are not known are kept. */
export function readAccents(text: string): AccentFile {
  const file = readDocument(text, {
    what: 'accent',
    format: 'akmeon-accent',
    version: ACCENT_VERSION,
    migrations: ACCENT_MIGRATIONS,
    validate,
  }) as AccentFile;
  file.accents.forEach(checkStacks);
  return { ...file, accents: file.accents.map(inOrder) };
}

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
