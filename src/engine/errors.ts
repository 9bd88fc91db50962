/** Errors that a person reads. They cross worker borders as code and message. */
import * as Comlink from 'comlink';

export const ERROR_CODES = [
  'not-media',
  'empty',
  'truncated',
  'no-tracks',
  'no-frames',
  'video-codec',
  'audio-codec',
  'hdr',
  'unreadable',
  'media-missing',
  'storage-full',
  'storage-refused',
  'graphics',
  'graphics-lost',
  'cancelled',
  'encoder',
  'nothing-to-do',
  'crashed',
  'stuck',
  'deleted',
] as const;
export type ErrorCode = (typeof ERROR_CODES)[number];

export class EngineError extends Error {
  constructor(
    readonly code: ErrorCode,
    message: string,
  ) {
    super(message);
    this.name = 'EngineError';
  }
}

export const cancelled = (): EngineError => new EngineError('cancelled', 'Cancelled.');

export const isCancelled = (error: unknown): boolean => error instanceof EngineError && error.code === 'cancelled';

/** A sentence for anything that was thrown. */
export const sentence = (error: unknown): string =>
  error instanceof Error ? error.message || error.name : String(error);

interface Thrown {
  readonly code: ErrorCode | null;
  readonly message: string;
}

/** Keeps the error's class and code on the way between threads. Call once in each thread. */
export function carryErrors(): void {
  Comlink.transferHandlers.set('throw', {
    canHandle: (value): value is { value: unknown } =>
      typeof value === 'object' &&
      value !== null &&
      'value' in value &&
      Comlink.transferHandlers.get('throw') !== undefined &&
      isThrown(value),
    serialize: ({ value }: { value: unknown }) => [
      { code: value instanceof EngineError ? value.code : null, message: sentence(value) } satisfies Thrown,
      [],
    ],
    deserialize: ({ code, message }: Thrown) => {
      throw code ? new EngineError(code, message) : new Error(message);
    },
  } as Comlink.TransferHandler<{ value: unknown }, Thrown>);
}

const stock = Comlink.transferHandlers.get('throw')!;
const isThrown = (value: unknown): boolean => stock.canHandle(value);
