/** What all of Akmeon's own files share: JSON with a format and a version, migrated and checked against a schema. */

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

/** @throws FormatError with a sentence for the person. */
export function readDocument(
  text: string,
  { what, format, version: current, migrations = {}, validate }: DocumentKind,
): unknown {
  let document: Record<string, unknown>;
  try {
    document = JSON.parse(text) as Record<string, unknown>;
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
