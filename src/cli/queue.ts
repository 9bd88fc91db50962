/**
 * A batch over several machines: its recordings wait in a queue on Redis (BullMQ), and any number of workers take them. A
 * recording is one job under a name of its own, so that asking twice is asking once; one whose worker was killed goes to
 * another after some seconds. Machines must see the files under the same paths.
 */
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { hostname } from 'node:os';
import { basename } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Job } from 'bullmq';
import type { Redis } from 'ioredis';
import { one, recordingsIn, type BatchLine, type BatchOrder } from './batch.ts';
import { Exit } from './exit.ts';

const QUEUE = 'akmeon-batch';
/** Milliseconds after which the job of a worker that is not heard of any more goes to another. */
const SILENT = 10_000;
/** Milliseconds for which a queue that is gone is waited for, and until a job of another version is looked at again. */
const GONE = 30_000;
const OTHER_VERSION = 3000;

interface QueuedRecording {
  /** What the worker's build must be: others might make another film of the same order. */
  readonly version: string;
  readonly order: BatchOrder;
  readonly path: string;
  readonly file: string;
}
type QueuedJob = Job<QueuedRecording, BatchLine>;

/** What a queue holds, for `--status` and the app's page. */
export interface QueueStatus {
  readonly workers: number;
  readonly jobs: readonly {
    readonly recording: string;
    readonly file: string;
    readonly state: 'waiting' | 'working' | 'done' | 'there' | 'failed';
    readonly by?: string | undefined;
    readonly why?: string | undefined;
  }[];
}

/** The build that runs, by what it was made of. */
function version(): string {
  try {
    return readFileSync(fileURLToPath(new URL('../dist/.akmeon-built', import.meta.url)), 'utf8').slice(0, 16);
  } catch {
    return 'unbuilt';
  }
}

/** @throws Exit where it is no address of a Redis server */
export function connectionOf(address: string) {
  let url: URL;
  try {
    url = new URL(address);
  } catch {
    throw new Exit(2, `--queue takes an address like redis://127.0.0.1:6379, not "${address}"`);
  }
  if (!['redis:', 'rediss:'].includes(url.protocol) || !url.hostname)
    throw new Exit(2, `--queue takes an address like redis://127.0.0.1:6379, not "${address}"`);
  return {
    host: url.hostname,
    port: Number(url.port || 6379),
    ...(url.password && { password: decodeURIComponent(url.password), username: decodeURIComponent(url.username) }),
    ...(url.pathname.length > 1 && { db: Number(url.pathname.slice(1)) || 0 }),
    ...(url.protocol === 'rediss:' && { tls: {} }),
  };
}

/** @param patience times that a command is tried before it is an error; null: until it is answered */
async function connected(address: string, patience: number | null): Promise<Redis> {
  const { Redis } = await import('ioredis');
  const connection = new Redis({ ...connectionOf(address), maxRetriesPerRequest: patience });
  // It comes back by itself; what could not be done says so.
  connection.on('error', () => undefined);
  return connection;
}

const silent = (address: string, error: unknown): Exit =>
  new Exit(4, `the queue at ${address} does not answer: ${(error as Error).message.split('\n')[0]}`);

async function queueAt(address: string) {
  const { Queue } = await import('bullmq');
  // A command that cannot be sent is an error here: a person waits for it.
  const connection = await connected(address, 2);
  try {
    await connection.ping();
  } catch (error) {
    connection.disconnect();
    throw silent(address, error);
  }
  const queue = new Queue<QueuedRecording, BatchLine>(QUEUE, { connection });
  queue.on('error', () => undefined);
  return {
    queue,
    async close() {
      await queue.close().catch(() => undefined);
      connection.disconnect();
    },
  };
}

/** The same recording with the same order is the same job. */
const idOf = ({ order, path, version }: QueuedRecording): string =>
  createHash('sha256')
    .update(JSON.stringify([order, path, version]))
    .digest('hex')
    .slice(0, 32);

/** Puts a folder's recordings into the queue, and waits for what comes of them. */
export async function queuedBatch(
  address: string,
  order: BatchOrder,
  extension: string,
  said: (line: BatchLine) => void,
): Promise<BatchLine[]> {
  const { queue, close } = await queueAt(address);
  const recordings = recordingsIn(order.folder, extension);
  try {
    const ids: string[] = [];
    for (const { path, file } of recordings) {
      const data = { version: version(), order, path, file };
      const id = idOf(data);
      const old = await queue.getJob(id);
      // What failed, or is to be made anew, is asked for again; what is done is looked at: its film may be gone.
      if (old && (order.force || !(await old.isActive())) && !(await old.isWaiting()) && !(await old.isDelayed()))
        await old.remove().catch(() => undefined);
      await queue.add(basename(path), data, { jobId: id });
      ids.push(id);
    }
    const lines: BatchLine[] = [];
    const open = new Set(ids);
    let goneSince: number | null = null;
    while (open.size) {
      try {
        for (const id of open) {
          const job = await queue.getJob(id);
          const line = job ? lineOf(job, await job.getState()) : null;
          if (!line) continue;
          open.delete(id);
          lines.push(line);
          said(line);
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
    throw silent(address, error);
  } finally {
    await close();
  }
}

/** What came of a job; null while it is not at its end. */
function lineOf(job: QueuedJob, state: string): BatchLine | null {
  if (state === 'completed') return job.returnvalue;
  if (state === 'failed') return { recording: basename(job.data.path), state: 'failed', why: job.failedReason };
  return null;
}

export async function queueStatus(address: string): Promise<QueueStatus> {
  const { queue, close } = await queueAt(address);
  try {
    const jobs = await queue.getJobs(['active', 'waiting', 'delayed', 'completed', 'failed'], 0, 999);
    const list = [];
    for (const job of jobs) {
      const state = await job.getState();
      const line = lineOf(job, state);
      list.push({
        recording: basename(job.data.path),
        file: job.data.file,
        state: line ? line.state : state === 'active' ? ('working' as const) : ('waiting' as const),
        by: job.processedBy,
        ...(line?.state === 'failed' && { why: line.why }),
      });
    }
    list.sort((a, b) => (a.recording < b.recording ? -1 : 1));
    return { workers: (await queue.getWorkers()).length, jobs: list };
  } catch (error) {
    throw silent(address, error);
  } finally {
    await close();
  }
}

/** Takes recordings from the queue until it is told to stop; what it works on then, it finishes. */
export async function work(address: string, atOnce: number, said: (line: BatchLine) => void): Promise<void> {
  const { DelayedError, Worker } = await import('bullmq');
  const own = version();
  const connection = await connected(address, null);
  const worker = new Worker<QueuedRecording, BatchLine>(
    QUEUE,
    async (job, token) => {
      const { data } = job;
      if (data.version !== own) {
        // For a worker of its version.
        await job.moveToDelayed(Date.now() + OTHER_VERSION, token);
        throw new DelayedError();
      }
      const line = await one(data.order, data.path, data.file);
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
  await worker.close();
  connection.disconnect();
}
