/**
 * Exports that wait for their turn, each of the montage as it was when it was put here: they go on while one works, can be
 * held, and are there again after a reload.
 */
import { create } from 'zustand';
import { nanoid } from 'nanoid';
import type { Montage } from '../../core/document/types.ts';
import { exportTable } from '../../engine/index.ts';
import { fileName, startExport, useExport, type Ordered } from './exporting.ts';
import { useMontage } from './montage.ts';
import { notice } from './view.ts';

export interface QueuedExport {
  readonly id: string;
  readonly montage: Montage;
  readonly orders: readonly Ordered[];
  readonly handle?: FileSystemFileHandle;
}

export const useExportQueue = create<{
  readonly list: readonly QueuedExport[];
  /** None is begun until it goes on. */
  readonly held: boolean;
}>(() => ({ list: [], held: false }));

export const nameOf = ({ montage, orders, handle }: QueuedExport): string =>
  orders.length > 1
    ? `${orders.length} files of ${montage.name}`
    : (handle?.name ?? fileName(montage.name, orders[0]?.part ?? '', orders[0]?.options.kind));

/** Puts an export behind the others; it begins at once where none is before it. */
export async function queueExport(orders: readonly Ordered[], handle?: FileSystemFileHandle): Promise<void> {
  const { montage } = useMontage.getState();
  if (!montage || !orders.length) return;
  const one: QueuedExport = { id: nanoid(8), montage, orders, ...(handle && { handle }) };
  useExportQueue.setState(({ list }) => ({ list: [...list, one] }));
  // Where nothing can be stored it waits for this visit alone.
  await exportTable.put({ ...one }).catch(() => undefined);
  void goOn();
}

export async function dropQueued(id: string): Promise<void> {
  useExportQueue.setState(({ list }) => ({ list: list.filter((one) => one.id !== id) }));
  await exportTable.delete(id).catch(() => undefined);
}

let going = false;

/** Exports what waits, one after another: of the open montage, whose files are at hand. */
async function goOn(): Promise<void> {
  if (going) return;
  going = true;
  try {
    for (;;) {
      const { list, held } = useExportQueue.getState();
      const open = useMontage.getState().montage?.id;
      const next = held ? undefined : list.find(({ montage }) => montage.id === open);
      if (!next || useExport.getState().state.phase === 'running') return;
      useExportQueue.setState({ list: list.filter((one) => one !== next) });
      await startExport(next.orders, next.handle, { montage: next.montage, keep: true });
      // What failed was told; it is not tried again by itself.
      await dropQueued(next.id);
    }
  } finally {
    going = false;
  }
}
// Also behind an export that was not queued.
useExport.subscribe(({ state }, before) => {
  if (before.state.phase === 'running' && state.phase !== 'running') void goOn();
});

/** Begins none any more after the one that runs, or goes on. */
export async function holdQueue(held: boolean): Promise<void> {
  if (!held)
    // A file that was picked in an earlier visit is asked for again, while a press allows to.
    for (const one of useExportQueue.getState().list) {
      const granted = await one.handle?.requestPermission({ mode: 'readwrite' }).catch(() => 'denied');
      if (granted === 'denied') {
        notice(`${nameOf(one)} may not be written to any more: it was taken from the queue.`, 'error');
        await dropQueued(one.id);
      }
    }
  useExportQueue.setState({ held });
  if (!held) void goOn();
}

/** What waited when the app was left, held until the person says so. */
export async function restoreQueue(): Promise<void> {
  if (useExportQueue.getState().list.length) return;
  const rows = await exportTable.toArray().catch(() => []);
  if (rows.length) useExportQueue.setState({ list: rows as unknown as QueuedExport[], held: true });
}
