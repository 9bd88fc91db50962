/** Keeping hold of a source's bytes: by handle, by copy or by address, and finding them again. */
import { cancelled, EngineError } from '../errors.ts';
import type { MediaLocation } from '../media/open.ts';
import { fingerprint } from '../media/fingerprint.ts';
import { database, stored, type StoredMedia } from './database.ts';

export const MEDIA = 'media';
export const RESULTS = 'results';
export const storageFolder = async (name: string): Promise<FileSystemDirectoryHandle> =>
  (await navigator.storage.getDirectory()).getDirectoryHandle(name, { create: true });

export interface BroughtFile {
  readonly file: File;
  /** Where the browser offers one. */
  readonly handle: FileSystemFileHandle | null;
}

/** Copies a file into this origin's storage, in a worker, reporting the share copied. */
export type CopyFile = (file: File, print: string, progress: (share: number) => void) => Promise<void>;

/**
 * Keeps the handle, or copies the file. A file that is already kept is not copied again.
 * @throws EngineError `storage-full` with nothing left behind
 */
export async function keepMedia(
  { file, handle }: BroughtFile,
  print: string,
  copy: CopyFile,
  progress: (share: number) => void,
): Promise<StoredMedia> {
  if (handle) {
    const entry: StoredMedia = { fingerprint: print, name: file.name, kind: 'handle', handle };
    await stored(() => database.media.put(entry));
    return entry;
  }
  const entry: StoredMedia = { fingerprint: print, name: file.name, kind: 'copy', file: print };
  const folder = await storageFolder(MEDIA);
  const there = await folder.getFileHandle(print).then(
    (h) => h.getFile(),
    () => null,
  );
  if (there?.size !== file.size) {
    const { quota = Infinity, usage = 0 } = await navigator.storage.estimate();
    const free = quota - usage;
    if (file.size > free)
      throw new EngineError(
        'storage-full',
        `${file.name} (${megabytes(file.size)} MB) does not fit into the browser storage: ` +
          `${Math.max(0, Math.floor(free / 1e6))} MB are free.`,
      );
    await copy(file, print, progress);
  }
  await stored(() => database.media.put(entry));
  return entry;
}

const megabytes = (bytes: number): number => Math.ceil(bytes / 1e6);

/**
 * Copies in place, under a name of its own until it is whole: a browser that is killed meanwhile leaves a file that the
 * next sweep knows as unfinished. For workers. @throws EngineError `storage-full`, with nothing left behind
 */
export async function copyIntoStorage(
  file: File,
  print: string,
  progress: (share: number) => void,
  signal: AbortSignal,
): Promise<void> {
  const folder = await storageFolder(MEDIA);
  const name = `${print}.${crypto.randomUUID()}.part`;
  const handle = await folder.getFileHandle(name, { create: true });
  const access = await handle.createSyncAccessHandle();
  try {
    let at = 0;
    for (const reader = file.stream().getReader(); ;) {
      const { value, done } = await reader.read();
      if (done) break;
      if (signal.aborted) throw cancelled();
      // A full disk may take a part of what it is given.
      if (access.write(value, { at }) < value.length) throw new DOMException('', 'QuotaExceededError');
      at += value.length;
      progress(at / file.size);
    }
    access.flush();
    access.close();
    await handle.move(print);
  } catch (error) {
    access.close();
    await folder.removeEntry(name).catch(() => undefined);
    // Another tab may have brought the same file in just now.
    const there = await folder.getFileHandle(print).then(
      async (h) => (await h.getFile()).size,
      () => -1,
    );
    if (there === file.size) return;
    throw error instanceof DOMException && error.name === 'QuotaExceededError'
      ? new EngineError(
          'storage-full',
          `${file.name} (${megabytes(file.size)} MB) could not be copied: the disk is full.`,
        )
      : error;
  }
}

export type Found =
  | { readonly state: 'here'; readonly location: MediaLocation }
  /** One click of permission is needed. */
  | { readonly state: 'locked'; readonly handle: FileSystemFileHandle }
  | { readonly state: 'missing' };

/** Looks for a source's bytes and checks that they are still the same. */
export async function findMedia(print: string): Promise<Found> {
  const entry = await stored(() => database.media.get(print));
  if (!entry) return { state: 'missing' };
  try {
    if (entry.kind === 'url') {
      const reply = await fetch(entry.url, { method: 'HEAD' });
      return reply.ok
        ? { state: 'here', location: { url: new URL(entry.url, location.href).href } }
        : { state: 'missing' };
    }
    if (entry.kind === 'copy') {
      const file = await (await (await storageFolder(MEDIA)).getFileHandle(entry.file)).getFile();
      return { state: 'here', location: { blob: file } };
    }
    if ((await entry.handle.queryPermission({ mode: 'read' })) !== 'granted')
      return { state: 'locked', handle: entry.handle };
    const file = await entry.handle.getFile();
    return (await fingerprint(file)) === print ? { state: 'here', location: { blob: file } } : { state: 'missing' };
  } catch {
    return { state: 'missing' };
  }
}

/** The lock under which a tab holds a result of its own, so that no other sweeps it away. */
export const resultLock = (name: string): string => `result ${name}`;

/** Tries and milliseconds between them: a worker that was killed in the middle of writing lets its file go a little later. */
const TRIES = 20;
const BETWEEN = 100;

async function removeSoon(folder: FileSystemDirectoryHandle, name: string): Promise<void> {
  for (let i = 0; i < TRIES; i++) {
    const held = await folder.removeEntry(name).then(
      () => false,
      (error: unknown) => error instanceof DOMException && error.name === 'NoModificationAllowedError',
    );
    if (!held) return;
    await new Promise((resolve) => setTimeout(resolve, BETWEEN));
  }
}

/** A file for the result of an export in the origin's private file system, held by this tab until it is dropped. */
export async function resultFile(): Promise<{ handle: FileSystemFileHandle; drop(): Promise<void> }> {
  const name = `${crypto.randomUUID()}.mp4`;
  let release = (): void => undefined;
  await new Promise<void>((held) => {
    void navigator.locks.request(resultLock(name), () => {
      held();
      return new Promise<void>((free) => (release = free));
    });
  });
  const folder = await storageFolder(RESULTS);
  const handle = await folder.getFileHandle(name, { create: true });
  return {
    handle,
    async drop() {
      await removeSoon(folder, name);
      release();
    },
  };
}

/** Removes the empty file that choosing a new place has made, when nothing was written into it. */
export async function dropEmpty(handle: FileSystemFileHandle & { remove?: () => Promise<void> }): Promise<void> {
  const size = await handle.getFile().then(
    (file) => file.size,
    () => 1,
  );
  if (size === 0) await handle.remove?.().catch(() => undefined);
}
