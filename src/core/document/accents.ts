/** Accents for passing on: `.akmeon-accent` files, with a picture of the first one. */
import { ACCENT_VERSION, type Accent, type AccentFile } from './types.ts';
import { aligned, checkStacks, inOrder } from './accent-form.ts';
import { readDocument, type Migrations } from './document.ts';
import { accent as validate } from './generated/validators.js';

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
