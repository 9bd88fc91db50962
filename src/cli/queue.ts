/**
 * A batch over several machines: its recordings wait in a queue on Redis (BullMQ), and any number of workers take them. A
 * recording is one job under a name of its own, so that asking twice is asking once; one whose worker was killed goes to
 * another after some seconds. Machines see the files under the same paths, or are lent them (lending.ts).
 */
import { createHash } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { hostname } from 'node:os';
import { basename, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { connected, endOf, QUEUE, queueAt, silent } from '../server/queue.ts';
import { one, recordingsIn, type BatchLine, type BatchOrder } from './batch.ts';
import { Exit } from './exit.ts';
import { lend, oneLent, type Lender } from './lending.ts';

/** Milliseconds after which the job of a worker that is not heard of any more goes to another. */
const SILENT = 10_000;
/** Milliseconds for which a queue that is gone is waited for, and until a job of another version is looked at again. */
const GONE = 30_000;
const OTHER_VERSION = 3000;
/** Milliseconds that a worker which was told to stop has for saying so. */
const LAST_WORDS = 3000;

interface QueuedRecording {
  /** What the worker's build must be: others might make another film of the same order. */
  readonly version: string;
  readonly order: BatchOrder;
  readonly path: string;
  readonly file: string;
  /** Where the recording is fetched from, and its film brought to; absent: it is seen under its path. */
  readonly lent?: string;
}

/** The build that runs, by what it was made of. */
function version(): string {
  try {
    return readFileSync(fileURLToPath(new URL('../dist/.akmeon-built', import.meta.url)), 'utf8').slice(0, 16);
  } catch {
    return 'unbuilt';
  }
}

/** The same recording with the same order is the same job. */
const idOf = ({ order, path, version }: QueuedRecording): string =>
  createHash('sha256')
    .update(JSON.stringify([order, path, version]))
    .digest('hex')
    .slice(0, 32);

/**
 * Puts a folder's recordings into the queue, and waits for what comes of them.
 * @param lending an address of this machine at which workers fetch them; null: they see the files
 */
export async function queuedBatch(
  address: string,
  order: BatchOrder,
  extension: string,
  lending: string | null,
  said: (line: BatchLine) => void,
): Promise<BatchLine[]> {
  const { queue, close } = await queueAt<QueuedRecording, BatchLine>(address);
  const own = version();
  const all = recordingsIn(order.folder, extension);
  const lines: BatchLine[] = [];
  const say = (line: BatchLine): void => {
    lines.push(line);
    said(line);
  };
  let lender: Lender | null = null;
  try {
    if (lending) lender = await lend(lending, new Map(all.map(({ path, file }) => [file, path])), order.out);
    const recordings = all.filter(({ path, file }) => {
      // Who fetches does not see what is there already.
      const isThere = lender !== null && !order.force && existsSync(join(order.out, file));
      if (isThere) say({ recording: basename(path), state: 'there', file });
      return !isThere;
    });
    const ids: string[] = [];
    for (const { path, file } of recordings) {
      const data = { version: own, order, path, file, ...(lender && { lent: lender.base }) };
      const id = idOf(data);
      const old = await queue.getJob(id);
      // What failed, or is to be made anew, is asked for again; what is done is looked at: its film may be gone.
      if (old && (order.force || !(await old.isActive())) && !(await old.isWaiting()) && !(await old.isDelayed()))
        await old.remove().catch(() => undefined);
      // One that still waits from another time is lent anew.
      else if (old && lender) await old.updateData(data).catch(() => undefined);
      await queue.add(basename(path), data, { jobId: id });
      ids.push(id);
    }
    const open = new Set(ids);
    let goneSince: number | null = null;
    while (open.size) {
      try {
        for (const id of open) {
          const job = await queue.getJob(id);
          const end = job && endOf(job, await job.getState());
          if (!job || !end) continue;
          const line = { recording: basename(job.data.path), ...end } as BatchLine;
          open.delete(id);
          say(line);
        }
        goneSince = null;
      } catch (error) {
        goneSince ??= Date.now();
        if (Date.now() - goneSince > GONE) throw error;
      }
      if (open.size) await new Promise((resolve) => setTimeout(resolve, 300));
    }
    return lines;
  } catch (error) {
    throw error instanceof Exit ? error : silent(address, error);
  } finally {
    lender?.close();
    await close();
  }
}

/** Takes recordings from the queue until it is told to stop; what it works on then, it finishes. */
export async function work(address: string, atOnce: number, said: (line: BatchLine) => void): Promise<void> {
  const { DelayedError, Worker } = await import('bullmq');
  const own = version();
  const connection = await connected(address, null);
  let busy = 0;
  const worker = new Worker<QueuedRecording, BatchLine>(
    QUEUE,
    async (job, token) => {
      const { data } = job;
      if (data.version !== own) {
        // For a worker of its version.
        await job.moveToDelayed(Date.now() + OTHER_VERSION, token);
        throw new DelayedError();
      }
      busy++;
      const { order, path, file, lent } = data;
      const making = lent ? oneLent(lent, order, path, file) : one(order, path, file);
      const line = await making.finally(() => busy--);
      said(line);
      return line;
    },
    {
      connection,
      concurrency: atOnce,
      lockDuration: SILENT,
      stalledInterval: SILENT / 2,
      maxStalledCount: 5,
      name: `${hostname()}-${process.pid}`,
    },
  );
  let told = false;
  worker.on('error', (error) => {
    // It comes back by itself when the queue does.
    if (!told) process.stderr.write(`akmeon: the queue at ${address} does not answer: ${error.message}\n`);
    told = true;
  });
  worker.on('ready', () => (told = false));
  await new Promise<void>((resolve) => {
    for (const signal of ['SIGINT', 'SIGTERM'] as const) process.once(signal, () => resolve());
  });
  // What is worked on is finished. A queue that is gone is told of nothing: it would be waited for without an end.
  const closing = worker.close().catch(() => undefined);
  while (busy) await new Promise((resolve) => setTimeout(resolve, 100));
  await Promise.race([closing, new Promise((resolve) => setTimeout(resolve, LAST_WORDS))]);
  connection.disconnect();
  process.exit();
}
