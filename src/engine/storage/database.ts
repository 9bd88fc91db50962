/** What is kept between visits, in the browser's database. */
import Dexie, { type EntityTable, type Table } from 'dexie';
import type { Montage } from '../../core/montage/types.ts';
import { SIGNALS_VERSION, type Signals } from '../../core/signals/types.ts';
import { EngineError } from '../errors.ts';

export interface StoredMontage {
  id: string;
  name: string;
  /** Milliseconds since 1970. */
  updated: number;
  montage: Montage;
}

/** How a source's bytes are found again. */
export type StoredMedia = { fingerprint: string; name: string } & (
  | { kind: 'handle'; handle: FileSystemFileHandle }
  /** A copy in the origin's private file system. */
  | { kind: 'copy'; file: string }
  | { kind: 'url'; url: string }
);

export interface StoredStarts { fingerprint: string; starts: Float64Array; lastDuration: number }
interface StoredSignals { fingerprint: string; track: number; signals: Signals }
interface StoredThumb { key: string; blob: Blob }

class Database extends Dexie {
  montages!: EntityTable<StoredMontage, 'id'>;
  media!: EntityTable<StoredMedia, 'fingerprint'>;
  starts!: EntityTable<StoredStarts, 'fingerprint'>;
  signals!: Table<StoredSignals, [string, number]>;
  thumbs!: EntityTable<StoredThumb, 'key'>;

  constructor() {
    super('akmeon');
    this.version(1).stores({ montages: 'id, updated', media: 'fingerprint', starts: 'fingerprint', signals: '[fingerprint+track]', thumbs: 'key' });
  }
}

export const database = new Database();

/** @throws EngineError that says whether storage is full or refused. */
export async function stored<T>(work: () => PromiseLike<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    const name = error instanceof Error ? `${error.name} ${(error as { inner?: Error }).inner?.name ?? ''}` : '';
    if (/Quota/.test(name)) throw new EngineError('storage-full', 'The browser storage is full. Your montage is still open: save it to a file, then free some space.');
    if (/Missing|Security|InvalidState|OpenFailed|UnknownError|DatabaseClosed|NotAllowed/.test(name)) {
      throw new EngineError('storage-refused', 'The browser refuses to store anything for this page. Your montage is still open: save it to a file to keep it.');
    }
    throw error;
  }
}

/** Track number under which a source without listened-to sound is kept. */
const NO_TRACK = -1;

export const keepSignals = (fingerprint: string, signals: Signals): Promise<unknown> =>
  stored(() => database.signals.put({ fingerprint, track: signals.track ?? NO_TRACK, signals }));

export async function keptSignals(fingerprint: string, track: number | null): Promise<Signals | null> {
  const kept = await stored(() => database.signals.get([fingerprint, track ?? NO_TRACK]));
  return kept && kept.signals.version === SIGNALS_VERSION ? kept.signals : null;
}
