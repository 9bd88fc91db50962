/** Where an export is written: a file handle, or the own server's result route. */
import type { StreamTargetChunk } from 'mediabunny';
import { EngineError } from '../errors.ts';

export type ExportTarget =
  { readonly handle: FileSystemFileHandle; readonly url?: never } | { readonly url: string; readonly handle?: never };

/** A stream that shows nothing until it is closed and leaves nothing when it is aborted. */
export async function openTarget(target: ExportTarget): Promise<WritableStream<StreamTargetChunk>> {
  // A handle's own stream writes into a hidden file that replaces the target on close.
  if (target.handle) return target.handle.createWritable() as unknown as Promise<WritableStream<StreamTargetChunk>>;
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
