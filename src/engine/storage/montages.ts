/** Montages as they lie in this browser: kept, deleted for a while, brought back. */
import type { Steps } from '../../core/document/history.ts';
import type { Montage } from '../../core/document/types.ts';
import { EngineError } from '../errors.ts';
import { database, stored, type StoredMontage } from './database.ts';

/** Milliseconds for which a deleted montage can be brought back. */
export const KEPT_DELETED = 7 * 24 * 3600 * 1000;

/** Newest first; deleted ones among them. */
export const listMontages = (): Promise<StoredMontage[]> =>
  stored(() => database.montages.orderBy('updated').reverse().toArray());

/** Undefined where there is none, or where it was deleted. */
export async function storedMontage(id: string): Promise<StoredMontage | undefined> {
  const entry = await stored(() => database.montages.get(id));
  return entry?.deleted === undefined ? entry : undefined;
}

/** Stores a montage that is new here. */
export const addMontage = (montage: Montage, steps?: Steps): Promise<unknown> =>
  stored(() =>
    database.montages.put({
      id: montage.id,
      name: montage.name,
      updated: Date.now(),
      montage,
      ...(steps && { steps }),
    }),
  );

/**
 * Stores a newer state of a montage with its steps, or with none where it was not changed step by step.
 * @throws EngineError `deleted` where it was deleted meanwhile, in another tab: an edit here does not bring it back
 * unasked
 */
export const storeMontage = (montage: Montage, steps?: Steps): Promise<void> =>
  stored(() =>
    database.transaction('rw', database.montages, async () => {
      const entry = await database.montages.get(montage.id);
      if (!entry || entry.deleted !== undefined)
        throw new EngineError('deleted', 'This montage was deleted in another tab. It is still open here.');
      const { steps: _, ...rest } = entry;
      await database.montages.put({
        ...rest,
        name: montage.name,
        updated: Date.now(),
        montage,
        ...(steps && { steps }),
      });
    }),
  );

/** A picture of what a montage shows first, of those that were drawn before; null where none was. */
export async function pictureOf(montage: Partial<Montage>): Promise<Blob | null> {
  const { clips = [], sources = [] } = montage;
  for (const { source } of clips) {
    const fingerprint = sources.find(({ id }) => id === source)?.fingerprint;
    const thumb = fingerprint && (await stored(() => database.thumbs.where('key').startsWith(fingerprint).first()));
    if (thumb) return thumb.blob;
  }
  return null;
}

/** Bytes that this browser's storage holds for Akmeon, and may hold; null where it does not say. */
export async function storageUse(): Promise<{ used: number; most: number } | null> {
  const { usage, quota } = await navigator.storage.estimate();
  return usage === undefined || quota === undefined ? null : { used: usage, most: quota };
}

/** Remembers how a montage was when it could be opened: the way back when it no longer can. */
export const rememberOpened = (montage: Montage): Promise<unknown> =>
  stored(() => database.montages.update(montage.id, { opened: montage }));

export const deleteMontage = (id: string): Promise<unknown> =>
  stored(() => database.montages.update(id, { deleted: Date.now() }));

export const restoreMontage = (id: string): Promise<unknown> =>
  stored(() =>
    database.montages
      .where('id')
      .equals(id)
      .modify((entry) => void delete entry.deleted),
  );
