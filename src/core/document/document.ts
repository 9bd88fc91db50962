/** What all of Akmeon's own files share: JSON with a format and a version, migrated and checked against a schema. */

import { LIMITS } from './limits.ts';

/** Why a file was refused. */
export type FormatProblem = 'not-json' | 'not-akmeon' | 'newer-version' | 'invalid' | 'broken-reference';

export class FormatError extends Error {
  constructor(
    readonly problem: FormatProblem,
    message: string,
  ) {
    super(message);
    this.name = 'FormatError';
  }
}

/** Each step turns a document of its version into one of the next. */
export type Migrations = Readonly<Record<number, (document: Record<string, unknown>) => Record<string, unknown>>>;

interface Validator {
  (data: unknown): boolean;
  errors?: { instancePath: string; message?: string }[] | null;
}

export interface DocumentKind {
  /** "project", "profile": for sentences. */
  readonly what: string;
  readonly format: string;
  readonly version: number;
  readonly migrations?: Migrations;
  readonly validate: Validator;
}

/** How deeply brackets are nested, strings left out; without parsing, which such a text could bring down. */
function depthOf(text: string): number {
  let [depth, most] = [0, 0];
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i);
    if (c === 34) {
      for (i++; i < text.length && text.charCodeAt(i) !== 34; i++) if (text.charCodeAt(i) === 92) i++;
    } else if (c === 91 || c === 123) most = Math.max(most, ++depth);
    else if (c === 93 || c === 125) depth--;
  }
  return most;
}

/** @throws FormatError with a sentence for the person. */
export function readDocument(
  text: string,
  { what, format, version: current, migrations = {}, validate }: DocumentKind,
): unknown {
  let document: Record<string, unknown>;
  if (text.length > LIMITS.fileText || depthOf(text) > LIMITS.jsonDepth)
    throw new FormatError('invalid', `This ${what} cannot be read: it is too large or nested too deeply.`);
  try {
    // A byte-order mark is no part of JSON (RFC 8259, section 8.1), but some editors write one.
    document = JSON.parse(text.replace(/^\uFEFF/, '')) as Record<string, unknown>;
  } catch {
    throw new FormatError('not-json', `This is not an Akmeon ${what}: the file is not JSON.`);
  }
  if (
    typeof document !== 'object' ||
    document === null ||
    document['format'] !== format ||
    typeof document['version'] !== 'number'
  ) {
    throw new FormatError(
      'not-akmeon',
      `This is not an Akmeon ${what}: it does not say "format": "${format}" and a version.`,
    );
  }
  let version = document['version'] as number;
  if (version > current)
    throw new FormatError(
      'newer-version',
      `This ${what} was saved by a newer Akmeon (version ${version}; this one reads up to ${current}).`,
    );
  while (version < current) {
    const migrate = migrations[version];
    if (!migrate) throw new FormatError('not-akmeon', `This ${what} has a version that never was: ${version}.`);
    document = migrate(document);
    version = document['version'] as number;
  }
  if (!validate(document)) {
    // Of several reasons the one deepest in the document names the place.
    const first = [...(validate.errors ?? [])].sort((a, b) => b.instancePath.length - a.instancePath.length)[0];
    throw new FormatError(
      'invalid',
      `This ${what} cannot be read: ${first?.instancePath || 'the document'} ${first?.message ?? 'is wrong'}.`,
    );
  }
  return document;
}
