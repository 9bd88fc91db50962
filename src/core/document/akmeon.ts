/** Reading and writing `.akmeon` files: parse, migrate, check against the schema, check references. */
import type { Montage } from './types.ts';
import { MONTAGE_VERSION, DEFAULT_ACCENT, DEFAULT_RULE, DEFAULT_GRID } from './types.ts';
import { aligned, checkStacks, inOrder } from './accent-form.ts';
import { LIMITS } from './limits.ts';
import { FormatError, readDocument, type Migrations } from './document.ts';
import { akmeon as validate } from './generated/validators.js';

/** A list of an old document, empty where there is none. */
const listOf = (document: Record<string, unknown>, name: string): Record<string, unknown>[] =>
  Array.isArray(document[name]) ? (document[name] as Record<string, unknown>[]) : [];

export const MIGRATIONS: Migrations = {
  // Version 0 was used before the first release: one sensitivity for all detectors.
  0: ({ sensitivity, ...rest }) => ({
    ...rest,
    version: 1,
    sensitivity:
      typeof sensitivity === 'number'
        ? { onset: sensitivity, flash: sensitivity, cut: sensitivity }
        : (sensitivity ?? {}),
  }),
  // Version 1 listened to one sound track, and had one sensitivity for all sounds.
  1: (document) => {
    const { onset, ...others } = (document['sensitivity'] ?? {}) as Record<string, unknown>;
    return {
      ...document,
      version: 2,
      settings: { fusionWindow: 0.08, ...(document['settings'] as object | undefined) },
      sources: listOf(document, 'sources').map((source) => ({
        tracks: (Array.isArray(source['audio']) ? source['audio'] : []).map((_, i) =>
          source['role'] === 'music' ? 'music' : i === source['listen'] ? 'game' : 'off',
        ),
        delay: null,
        grid: DEFAULT_GRID,
        ...source,
      })),
      rules: listOf(document, 'rules').map((rule) => ({ burst: 'each', ...rule })),
      sensitivity:
        typeof onset === 'number'
          ? {
              ...others,
              ...Object.fromEntries(['shot', 'impact', 'kick', 'snare', 'hat', 'note'].map((kind) => [kind, onset])),
            }
          : others,
      watches: [],
      examples: [],
      forgotten: [],
    };
  },
  // Version 2 had accents in frames around their hit only, and no beds or runs.
  2: (document) => ({
    ...document,
    version: 3,
    settings: { bpm: 120, ...(document['settings'] as object | undefined) },
    accents: listOf(document, 'accents').map((accent) => ({
      ...DEFAULT_ACCENT,
      align: undefined,
      lies: 'peak',
      ...accent,
    })),
    rules: listOf(document, 'rules').map((rule) => ({ mirror: false, spread: 0, run: null, ...rule })),
    beds: [],
  }),
  // Version 3 had no families, and said of accents what of them lies on the hit.
  3: (document) => ({
    ...document,
    version: 4,
    sources: listOf(document, 'sources').map((source) => ({ content: 'unsaid', ...source })),
    accents: listOf(document, 'accents').map(aligned),
    rules: listOf(document, 'rules').map((rule) => ({ families: [], ...rule })),
    families: [],
  }),
  // Version 4 had one shape, pictures cut at their middle only, one accent a rule, and none laid by hand.
  4: (document) => ({
    ...document,
    version: 5,
    rules: listOf(document, 'rules').map(({ accent, ...rule }) => ({
      ...DEFAULT_RULE,
      ...rule,
      accents: [{ accent, weight: 1 }],
    })),
    byHand: [],
    settings: { framingSpeed: 0.5, ...(document['settings'] as object | undefined) },
    formats: [],
  }),
};

export const writeMontage = (montage: Montage): string => `${JSON.stringify(montage, null, 1)}\n`;

/**
 * Checks what is stored in the browser as a file is checked, older versions brought up to this one.
 * @throws FormatError with a sentence for the person.
 */
export const checkedMontage = (stored: unknown): Montage => readMontage(JSON.stringify(stored));

/** @throws FormatError with a sentence for the person. */
export function readMontage(text: string): Montage {
  const montage = readDocument(text, {
    what: 'project',
    format: 'akmeon',
    version: MONTAGE_VERSION,
    migrations: MIGRATIONS,
    validate,
  }) as Montage;
  checkReferences(montage);
  return { ...montage, accents: montage.accents.map(inOrder) };
}

function checkReferences(montage: Montage): void {
  const sources = new Map(montage.sources.map((source) => [source.id, source]));
  const need = (id: string, what: string): void => {
    if (!sources.has(id))
      throw new FormatError(
        'broken-reference',
        `This project cannot be read: ${what} names a source "${id}" that is not in it.`,
      );
  };
  montage.clips.forEach((clip, i) => {
    need(clip.source, `clip ${i + 1}`);
    if (!(clip.out > clip.in))
      throw new FormatError(
        'invalid',
        `This project cannot be read: clip ${i + 1} ends at ${clip.out} s, before it begins at ${clip.in} s.`,
      );
  });
  const seconds = montage.clips.reduce((sum, clip) => sum + (clip.out - clip.in) / Math.abs(clip.speed ?? 1), 0);
  if (seconds > LIMITS.montageSeconds)
    throw new FormatError(
      'invalid',
      `This project cannot be read: its clips are ${Math.round(seconds / 3600)} hours long, and ${LIMITS.montageSeconds / 3600} are the most.`,
    );
  montage.music.forEach((item, i) => need(item.source, `music ${i + 1}`));
  montage.accents.forEach(checkStacks);
  montage.hits.forEach((hit, i) => need(hit.source, `hit ${i + 1}`));
  for (const [name, list] of Object.entries({
    sources: montage.sources,
    clips: montage.clips,
    hits: montage.hits,
    accents: montage.accents,
    rules: montage.rules,
    byHand: montage.byHand,
    beds: montage.beds,
    titles: montage.titles ?? [],
    typefaces: montage.typefaces ?? [],
    watches: montage.watches,
    examples: montage.examples,
    families: montage.families,
    formats: montage.formats,
  })) {
    if (new Set(list.map((item) => item.id)).size !== list.length)
      throw new FormatError('invalid', `This project cannot be read: two ${name} have the same id.`);
  }
}
