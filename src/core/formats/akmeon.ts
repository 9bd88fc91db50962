/** Reading and writing `.akmeon` files: parse, migrate, check against the schema, check references. */
import type { Montage } from '../montage/types.ts';
import { MONTAGE_VERSION, PLAIN_GRID } from '../montage/types.ts';
import validate from './generated/validate-akmeon.js';

/** Why a project file was refused. */
export type FormatProblem = 'not-json' | 'not-akmeon' | 'newer-version' | 'invalid' | 'broken-reference';

export class FormatError extends Error {
  constructor(readonly problem: FormatProblem, message: string) {
    super(message);
    this.name = 'FormatError';
  }
}

/** Each step turns a document of its version into one of the next. */
export const MIGRATIONS: Readonly<Record<number, (document: Record<string, unknown>) => Record<string, unknown>>> = {
  // Version 0 was used before the first release: one sensitivity for all detectors.
  0: ({ sensitivity, ...rest }) => ({
    ...rest, version: 1,
    sensitivity: typeof sensitivity === 'number' ? { onset: sensitivity, flash: sensitivity, cut: sensitivity } : (sensitivity ?? {}),
  }),
  // Version 1 listened to one sound track, and had one sensitivity for all sounds.
  1: (document) => {
    const { onset, ...others } = (document['sensitivity'] ?? {}) as Record<string, unknown>;
    const list = (name: string): Record<string, unknown>[] => (Array.isArray(document[name]) ? (document[name] as Record<string, unknown>[]) : []);
    return {
      ...document, version: 2,
      settings: { fusionWindow: 0.08, ...(document['settings'] as object | undefined) },
      sources: list('sources').map((source) => ({
        tracks: (Array.isArray(source['audio']) ? source['audio'] : []).map((_, i) => (source['role'] === 'music' ? 'music' : i === source['listen'] ? 'game' : 'off')),
        delay: null, grid: PLAIN_GRID, ...source,
      })),
      rules: list('rules').map((rule) => ({ burst: 'each', ...rule })),
      sensitivity: typeof onset === 'number' ? { ...others, ...Object.fromEntries(['shot', 'impact', 'kick', 'snare', 'hat', 'note'].map((kind) => [kind, onset])) } : others,
      watches: [], examples: [], forgotten: [],
    };
  },
};

export const writeMontage = (montage: Montage): string => `${JSON.stringify(montage, null, 1)}\n`;

/** @throws FormatError with a sentence for the person. */
export function readMontage(text: string): Montage {
  let document: Record<string, unknown>;
  try {
    document = JSON.parse(text) as Record<string, unknown>;
  } catch {
    throw new FormatError('not-json', 'This is not an Akmeon project: the file is not JSON.');
  }
  if (typeof document !== 'object' || document === null || document['format'] !== 'akmeon' || typeof document['version'] !== 'number') {
    throw new FormatError('not-akmeon', 'This is not an Akmeon project: it does not say "format": "akmeon" and a version.');
  }
  let version = document['version'] as number;
  if (version > MONTAGE_VERSION) {
    throw new FormatError('newer-version', `This project was saved by a newer Akmeon (version ${version}; this one reads up to ${MONTAGE_VERSION}).`);
  }
  while (version < MONTAGE_VERSION) {
    const migrate = MIGRATIONS[version];
    if (!migrate) throw new FormatError('not-akmeon', `This project has a version that never was: ${version}.`);
    document = migrate(document);
    version = document['version'] as number;
  }
  if (!validate(document)) {
    // Of several reasons the one deepest in the document names the place.
    const first = [...(validate.errors ?? [])].sort((a, b) => b.instancePath.length - a.instancePath.length)[0];
    throw new FormatError('invalid', `This project cannot be read: ${first?.instancePath || 'the document'} ${first?.message ?? 'is wrong'}.`);
  }
  const montage = document as unknown as Montage;
  checkReferences(montage);
  return { ...montage, accents: montage.accents.map((accent) => ({ ...accent, effects: accent.effects.map(orderKeys) })) };
}

/** Keys in order of frames, one a frame. */
function orderKeys(use: Montage['accents'][number]['effects'][number]): typeof use {
  const params = Object.entries(use.params).map(([name, envelope]) => {
    if (typeof envelope === 'number') return [name, envelope] as const;
    const sorted = [...envelope].sort((a, b) => a.at - b.at);
    return [name, sorted.filter((key, i) => sorted[i + 1]?.at !== key.at)] as const;
  });
  return { ...use, params: Object.fromEntries(params) };
}

function checkReferences(montage: Montage): void {
  const sources = new Map(montage.sources.map((source) => [source.id, source]));
  const need = (id: string, what: string): void => {
    if (!sources.has(id)) throw new FormatError('broken-reference', `This project cannot be read: ${what} names a source "${id}" that is not in it.`);
  };
  montage.clips.forEach((clip, i) => {
    need(clip.source, `clip ${i + 1}`);
    if (!(clip.out > clip.in)) throw new FormatError('invalid', `This project cannot be read: clip ${i + 1} ends at ${clip.out} s, before it begins at ${clip.in} s.`);
  });
  montage.music.forEach((item, i) => need(item.source, `music ${i + 1}`));
  montage.hits.forEach((hit, i) => need(hit.source, `hit ${i + 1}`));
  for (const [name, list] of Object.entries({ sources: montage.sources, clips: montage.clips, hits: montage.hits, accents: montage.accents, rules: montage.rules, watches: montage.watches, examples: montage.examples })) {
    if (new Set(list.map((item) => item.id)).size !== list.length) throw new FormatError('invalid', `This project cannot be read: two ${name} have the same id.`);
  }
}
