/** Keeping hold of a source's bytes: by handle, by copy or by address, and finding them again. */
import { EngineError } from '../errors.ts';
import type { MediaLocation } from '../media/open.ts';
import { fingerprint } from '../media/fingerprint.ts';
import { database, stored, type StoredMedia } from './database.ts';

const FOLDER = 'media';

const mediaFolder = async (): Promise<FileSystemDirectoryHandle> =>
  (await navigator.storage.getDirectory()).getDirectoryHandle(FOLDER, { create: true });

export interface BroughtFile {
  readonly file: File;
  /** Where the browser offers one. */
  readonly handle: FileSystemFileHandle | null;
}

/**
 * Keeps the handle, or copies the file as a stream, reporting the share copied. A file that is
 * already kept is not copied again. @throws EngineError `storage-full` with nothing left behind.
 */
export async function keepMedia(
  { file, handle }: BroughtFile,
  print: string,
  progress: (share: number) => void,
): Promise<StoredMedia> {
  if (handle) {
    const entry: StoredMedia = { fingerprint: print, name: file.name, kind: 'handle', handle };
    await stored(() => database.media.put(entry));
    return entry;
  }
  const entry: StoredMedia = { fingerprint: print, name: file.name, kind: 'copy', file: print };
  const folder = await mediaFolder();
  const there = await folder.getFileHandle(print).then(
    (h) => h.getFile(),
    () => null,
  );
  if (there?.size !== file.size) {
    const { quota = Infinity, usage = 0 } = await navigator.storage.estimate();
    const full = new EngineError(
      'storage-full',
      `${file.name} (${Math.ceil(file.size / 1e6)} MB) does not fit into the browser storage: ${Math.max(0, Math.floor((quota - usage) / 1e6))} MB are free.`,
    );
    if (file.size > quota - usage) throw full;
    const writable = await (await folder.getFileHandle(print, { create: true })).createWritable();
    let written = 0;
    try {
      await file
        .stream()
        .pipeThrough(
          new TransformStream<Uint8Array<ArrayBuffer>, Uint8Array<ArrayBuffer>>({
            transform(chunk, controller) {
              written += chunk.length;
              progress(written / file.size);
              controller.enqueue(chunk);
            },
          }),
        )
        .pipeTo(writable);
    } catch (error) {
      await folder.removeEntry(print).catch(() => undefined);
      throw error instanceof DOMException && error.name === 'QuotaExceededError' ? full : error;
    }
  }
  await stored(() => database.media.put(entry));
  return entry;
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
      const file = await (await (await mediaFolder()).getFileHandle(entry.file)).getFile();
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

/** A file for the result of an export in the origin's private file system. */
export async function resultFile(name: string): Promise<FileSystemFileHandle> {
  const folder = await (await navigator.storage.getDirectory()).getDirectoryHandle('results', { create: true });
  return folder.getFileHandle(name, { create: true });
}

/** Removes the empty file that choosing a new place has made, when nothing was written into it. */
export async function dropEmpty(handle: FileSystemFileHandle & { remove?: () => Promise<void> }): Promise<void> {
  const size = await handle.getFile().then(
    (file) => file.size,
    () => 1,
  );
  if (size === 0) await handle.remove?.().catch(() => undefined);
}

export async function dropResults(): Promise<void> {
  await (await navigator.storage.getDirectory()).removeEntry('results', { recursive: true }).catch(() => undefined);
}
