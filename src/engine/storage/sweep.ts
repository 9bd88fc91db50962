/** Frees what no montage uses: copies of media, signals, lists of frames, pictures, unfinished files. */
import type { IndexableType, Table } from 'dexie';
import { database } from './database.ts';
import { storageFolder, MEDIA, RESULTS, resultLock } from './media-files.ts';
import { KEPT_DELETED } from './montages.ts';

const TAB = 'akmeon tab';
/** Letters of a fingerprint, which all keys begin with. */
const PRINT = 64;

/**
 * Sweeps when no other tab is open, then holds on to this tab's place for as long as it lives, so that no other sweeps
 * what this one is bringing in, or can still undo.
 */
export async function sweepAndStay(now = Date.now()): Promise<void> {
  await navigator.locks.request(TAB, { ifAvailable: true }, async (alone) => {
    if (alone) await sweep(now);
  });
  void navigator.locks.request(TAB, { mode: 'shared' }, () => new Promise(() => undefined));
}

/** Whether other tabs of this app are open, too. */
export async function otherTabs(): Promise<boolean> {
  const { held = [] } = await navigator.locks.query();
  return held.filter(({ name }) => name === TAB).length > 1;
}

async function sweep(now: number): Promise<void> {
  const old = await database.montages
    .filter(({ deleted }) => deleted !== undefined && now - deleted > KEPT_DELETED)
    .primaryKeys();
  await database.montages.bulkDelete(old);
  const used = new Set<string>();
  await database.montages.each(({ montage, opened, steps, updated }) => {
    for (const { fingerprint } of [...montage.sources, ...(opened?.sources ?? [])]) used.add(fingerprint);
    // What undo would bring back is kept as long as a deleted montage is.
    if (!steps || now - updated >= KEPT_DELETED) return;
    for (const [, fingerprint] of JSON.stringify(steps).matchAll(/"fingerprint":"([0-9a-f]{64})"/g))
      used.add(fingerprint!);
  });
  await database.sounds.each(({ source }) => void used.add(source.fingerprint));
  // By their keys alone: what lies there may be large.
  const print = (key: unknown): string => String(Array.isArray(key) ? key[0] : key).slice(0, PRINT);
  const { media, starts, kept, checkpoints, watched, thumbs } = database;
  for (const table of [media, starts, kept, checkpoints, watched, thumbs] as unknown as Table<
    unknown,
    IndexableType
  >[]) {
    const keys = await table.toCollection().primaryKeys();
    await table.bulkDelete(keys.filter((key) => !used.has(print(key))));
  }
  await emptied(MEDIA, async (name) => !used.has(name));
  // A finished export is another tab's as long as that tab holds its name.
  await emptied(RESULTS, async (name) => {
    const { held = [] } = await navigator.locks.query();
    return !held.some((lock) => lock.name === resultLock(name));
  });
}

/** Removes the files of a folder that `gone` says are no longer used, and the folder itself where none is left. */
async function emptied(folder: string, gone: (name: string) => Promise<boolean>): Promise<void> {
  const directory = await storageFolder(folder).catch(() => null);
  if (!directory) return;
  let left = 0;
  for await (const name of directory.keys()) {
    if (await gone(name)) await directory.removeEntry(name, { recursive: true }).catch(() => left++);
    else left++;
  }
  // What writing left behind when a browser was killed is listed nowhere, and goes with its folder.
  if (left === 0)
    await (await navigator.storage.getDirectory()).removeEntry(folder, { recursive: true }).catch(() => undefined);
}
