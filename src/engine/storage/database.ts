/** What is kept between visits, in the browser's database. */
import { aligned } from '../../core/document/accent-form.ts';
import { PROFILE_MIGRATIONS } from '../../core/document/profile.ts';
import type { Steps } from '../../core/document/history.ts';
import Dexie, { type EntityTable, type Table } from 'dexie';
import type { Accent, Montage, Profile, Source, Watch } from '../../core/document/types.ts';
import {
  SIGNALS_VERSION,
  type PictureSignals,
  type Signals,
  type SoundSignals,
} from '../../core/finding/signals/types.ts';
import type { WatchSignal } from '../../core/finding/watch/watch.ts';
import type { Checkpoint } from '../analyse/analyse.ts';
import { EngineError } from '../errors.ts';
import { pack, unpack } from './pack.ts';

export interface StoredMontage {
  id: string;
  name: string;
  /** Milliseconds since 1970. */
  updated: number;
  montage: Montage;
  steps?: Steps;
  /** As it was when it was last opened without trouble. */
  opened?: Montage;
  /** When it was deleted, milliseconds since 1970; absent while it is kept. */
  deleted?: number;
}

/** How a source's bytes are found again. */
export type StoredMedia = { fingerprint: string; name: string } & (
  | { kind: 'handle'; handle: FileSystemFileHandle }
  /** A copy in the origin's private file system. */
  | { kind: 'copy'; file: string }
  | { kind: 'url'; url: string }
);

export interface StoredStarts {
  fingerprint: string;
  starts: Float64Array;
  lastDuration: number;
}
/** Of one sound track, or of the picture: analysed together, but a track can be left out later. */
interface StoredSignals {
  fingerprint: string;
  part: string;
  version: number;
  packed: Uint8Array<ArrayBuffer>;
}
interface StoredCheckpoint {
  fingerprint: string;
  packed: Uint8Array<ArrayBuffer>;
}
/** A watched rectangle of a source; `key` says which and how it is sought. */
interface StoredWatch {
  fingerprint: string;
  key: string;
  packed: Uint8Array<ArrayBuffer>;
}
export interface StoredProfile {
  id: string;
  name: string;
  updated: number;
  profile: Profile;
}
/** An accent kept beyond its montage, with a picture of it as a data URL. */
export interface StoredAccent {
  id: string;
  name: string;
  updated: number;
  accent: Accent;
  picture: string;
}
/** A sound file of one's own for accents, kept beyond its montage; its bytes lie with the media. */
export interface StoredSound {
  id: string;
  name: string;
  updated: number;
  source: Source;
  /** Seconds from its beginning to its loudest moment. */
  peak: number;
}
/** An export that waits for its turn; `orders` are the app's. */
export interface StoredExport {
  id: string;
  montage: Montage;
  orders: unknown;
  /** A file that the person picked for it. */
  handle?: FileSystemFileHandle;
}
interface StoredThumb {
  key: string;
  blob: Blob;
}

class Database extends Dexie {
  montages!: EntityTable<StoredMontage, 'id'>;
  media!: EntityTable<StoredMedia, 'fingerprint'>;
  starts!: EntityTable<StoredStarts, 'fingerprint'>;
  kept!: Table<StoredSignals, [string, string]>;
  checkpoints!: EntityTable<StoredCheckpoint, 'fingerprint'>;
  watched!: Table<StoredWatch, [string, string]>;
  profiles!: EntityTable<StoredProfile, 'id'>;
  accents!: EntityTable<StoredAccent, 'id'>;
  thumbs!: EntityTable<StoredThumb, 'key'>;
  sounds!: EntityTable<StoredSound, 'id'>;
  exports!: EntityTable<StoredExport, 'id'>;

  constructor() {
    super('akmeon');
    this.version(1).stores({
      montages: 'id, updated',
      media: 'fingerprint',
      starts: 'fingerprint',
      signals: '[fingerprint+track]',
      thumbs: 'key',
    });
    // Signals of version 1 are made anew.
    this.version(2).stores({
      signals: null,
      kept: '[fingerprint+part], fingerprint',
      checkpoints: 'fingerprint',
      watched: '[fingerprint+key]',
      profiles: 'id, name',
    });
    this.version(3).stores({ accents: 'id, name' });
    // Kept accents and profiles are of the present version, as files are brought up to it.
    this.version(4).upgrade(async (change) => {
      await change
        .table('accents')
        .toCollection()
        .modify((row: { accent: Record<string, unknown> }) => void (row.accent = aligned(row.accent)));
      await change
        .table('profiles')
        .toCollection()
        .modify(
          (row: { profile: Record<string, unknown> }) => void (row.profile = PROFILE_MIGRATIONS[1]!(row.profile)),
        );
    });
    this.version(5).stores({ sounds: 'id, name' });
    this.version(6).stores({ exports: 'id' });
  }
}

export const database = new Database();
/** Kept beyond one montage, by name. */
export const profileTable = database.profiles;
export const accentTable = database.accents;
export const soundTable = database.sounds;
export const exportTable = database.exports;

/** @throws EngineError that says whether storage is full or refused. */
export async function stored<T>(work: () => PromiseLike<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    const name = error instanceof Error ? `${error.name} ${(error as { inner?: Error }).inner?.name ?? ''}` : '';
    if (/Quota/.test(name))
      throw new EngineError(
        'storage-full',
        'The browser storage is full. Your montage is still open: save it to a file, then free some space.',
      );
    if (/Missing|Security|InvalidState|OpenFailed|UnknownError|DatabaseClosed|NotAllowed/.test(name)) {
      throw new EngineError(
        'storage-refused',
        'The browser refuses to store anything for this page. Your montage is still open: save it to a file to keep it.',
      );
    }
    throw error;
  }
}

const PICTURE = 'picture';
const soundPart = (track: number | string): string => `sound ${track}`;

export async function keepSignals(fingerprint: string, { version, sounds, picture }: Signals): Promise<void> {
  const parts: StoredSignals[] = [];
  for (const [track, sound] of Object.entries(sounds))
    parts.push({ fingerprint, part: soundPart(track), version, packed: await pack(sound) });
  if (picture) parts.push({ fingerprint, part: PICTURE, version, packed: await pack(picture) });
  await stored(() => database.kept.bulkPut(parts));
}

/** All that is kept of a source; null when nothing is. */
export async function keptSignals(fingerprint: string): Promise<Signals | null> {
  const parts = await stored(() => database.kept.where('fingerprint').equals(fingerprint).toArray());
  let picture: PictureSignals | null = null;
  const sounds: Record<number, SoundSignals> = {};
  for (const { part, version, packed } of parts) {
    if (version !== SIGNALS_VERSION) continue;
    if (part === PICTURE) picture = await unpack<PictureSignals>(packed);
    else sounds[Number(part.slice(soundPart('').length))] = await unpack<SoundSignals>(packed);
  }
  return picture || Object.keys(sounds).length ? { version: SIGNALS_VERSION, sounds, picture } : null;
}

export const keepCheckpoint = async (fingerprint: string, checkpoint: Checkpoint): Promise<void> => {
  const packed = await pack(checkpoint);
  await stored(() => database.checkpoints.put({ fingerprint, packed }));
};

export const dropCheckpoint = (fingerprint: string): Promise<void> =>
  stored(() => database.checkpoints.delete(fingerprint));

export async function keptCheckpoint(fingerprint: string): Promise<Checkpoint | null> {
  const found = await stored(() => database.checkpoints.get(fingerprint));
  const checkpoint = found ? await unpack<Checkpoint>(found.packed) : null;
  return checkpoint?.version === SIGNALS_VERSION ? checkpoint : null;
}

/** Names what a watch depends on. */
export const watchKey = ({ mode, region, sought }: Pick<Watch, 'mode' | 'region' | 'sought'>): string =>
  JSON.stringify([mode, region, sought]);

export const keepWatch = async (fingerprint: string, key: string, signal: WatchSignal): Promise<void> => {
  const packed = await pack(signal);
  await stored(() => database.watched.put({ fingerprint, key, packed }));
};

export async function keptWatch(fingerprint: string, key: string): Promise<WatchSignal | null> {
  const found = await stored(() => database.watched.get([fingerprint, key]));
  return found ? unpack<WatchSignal>(found.packed) : null;
}

export const keptStarts = (fingerprint: string): Promise<StoredStarts | undefined> =>
  stored(() => database.starts.get(fingerprint));
export const keepStarts = (starts: StoredStarts): Promise<unknown> => stored(() => database.starts.put(starts));

/** Where the bytes of sources are that lie on the own server. */
export const keepPlaces = (places: readonly StoredMedia[]): Promise<unknown> =>
  stored(() => database.media.bulkPut([...places]));

/** Small pictures of source frames, by what they show; the key begins with the source's fingerprint. */
export const keptPicture = async (key: string): Promise<Blob | null> => (await database.thumbs.get(key))?.blob ?? null;
export const keepPicture = (key: string, blob: Blob): Promise<unknown> => database.thumbs.put({ key, blob });
