/** Where an export is written: a file handle, or the own server's result route. */
import type { StreamTargetChunk } from 'mediabunny';
import { EngineError } from '../errors.ts';

/** A file that a person picked, one in this origin's storage, or an address of the own server. */
export type ExportTarget =
  | { readonly kind: 'picked'; readonly handle: FileSystemFileHandle }
  | { readonly kind: 'stored'; readonly handle: FileSystemFileHandle }
  | { readonly kind: 'server'; readonly url: string };

/** A stream that shows nothing until it is closed and leaves nothing when it is aborted. */
export async function openTarget(target: ExportTarget): Promise<WritableStream<StreamTargetChunk>> {
  // A handle's own stream writes into a hidden file that replaces the target on close.
  if (target.kind === 'picked')
    return target.handle.createWritable() as unknown as Promise<WritableStream<StreamTargetChunk>>;
  if (target.kind === 'stored') return inPlace(await target.handle.createSyncAccessHandle());
  const send = async (method: string, query: string, body?: Uint8Array<ArrayBuffer>): Promise<void> => {
    const reply = await fetch(`${target.url}${query}`, { method, body: body ?? null });
    if (!reply.ok) throw new EngineError(reply.status === 507 ? 'storage-full' : 'unreadable', await reply.text());
  };
  return new WritableStream({
    write: ({ data, position }) => send('PUT', `?position=${position}`, data),
    close: () => send('POST', '?done=1'),
    abort: () => send('DELETE', ''),
  });
}

/** Written in place, with no hidden file that a killed browser would leave behind; what is aborted is empty. */
function inPlace(access: FileSystemSyncAccessHandle): WritableStream<StreamTargetChunk> {
  return new WritableStream({
    write({ data, position }) {
      if (access.write(data, { at: position }) < data.length) throw new DOMException('', 'QuotaExceededError');
    },
    close() {
      access.flush();
      access.close();
    },
    abort() {
      access.truncate(0);
      access.close();
    },
  });
}
