/** The queue of a batch over several machines (BullMQ on Redis): how it is reached, and what is in it. */
import { basename } from 'node:path';
import type { Job } from 'bullmq';
import type { Redis } from 'ioredis';

export const QUEUE = 'akmeon-batch';

/** What is queued of a recording, as far as it is told of. */
interface Queued {
  readonly path: string;
  readonly file: string;
}
/** How a recording ended. */
type Ended = { readonly state: 'done' | 'there' } | { readonly state: 'failed'; readonly why: string };

export interface QueueStatus {
  readonly workers: number;
  readonly jobs: readonly {
    readonly recording: string;
    readonly file: string;
    readonly state: 'waiting' | 'working' | 'done' | 'there' | 'failed';
    /** The worker: its machine and process. */
    readonly by?: string | undefined;
    readonly why?: string | undefined;
  }[];
}

/** The queue is not reached: the address is none, or nobody answers there. */
export class QueueError extends Error {
  constructor(
    readonly reason: 'address' | 'silent',
    message: string,
  ) {
    super(message);
  }
}
export const silent = (address: string, error: unknown): QueueError =>
  new QueueError('silent', `the queue at ${address} does not answer: ${(error as Error).message.split('\n')[0]}`);

/** @throws QueueError where it is no address of a Redis server */
export function connectionOf(address: string) {
  const refuse = (): QueueError =>
    new QueueError('address', `a queue has an address like redis://127.0.0.1:6379, not "${address}"`);
  let url: URL;
  try {
    url = new URL(address);
  } catch {
    throw refuse();
  }
  if (!['redis:', 'rediss:'].includes(url.protocol) || !url.hostname) throw refuse();
  return {
    host: url.hostname,
    port: Number(url.port || 6379),
    ...(url.password && { password: decodeURIComponent(url.password), username: decodeURIComponent(url.username) }),
    ...(url.pathname.length > 1 && { db: Number(url.pathname.slice(1)) || 0 }),
    ...(url.protocol === 'rediss:' && { tls: {} }),
  };
}

/** @param patience times that a command is tried before it is an error; null: until it is answered */
export async function connected(address: string, patience: number | null): Promise<Redis> {
  const { Redis } = await import('ioredis');
  const connection = new Redis({ ...connectionOf(address), maxRetriesPerRequest: patience });
  // It comes back by itself; what could not be done says so.
  connection.on('error', () => undefined);
  return connection;
}

/** @throws QueueError */
export async function queueAt<Data, Result>(address: string) {
  const { Queue } = await import('bullmq');
  const connection = await connected(address, 2);
  try {
    await connection.ping();
  } catch (error) {
    connection.disconnect();
    throw silent(address, error);
  }
  const queue = new Queue<Data, Result>(QUEUE, { connection });
  queue.on('error', () => undefined);
  return {
    queue,
    async close() {
      await queue.close().catch(() => undefined);
      connection.disconnect();
    },
  };
}

/** What came of a job; null while it is not at its end. */
export function endOf<Line>(job: Job<Queued, Line>, state: string): Line | Ended | null {
  if (state === 'completed') return job.returnvalue;
  return state === 'failed' ? { state: 'failed', why: job.failedReason } : null;
}

/** @throws QueueError */
export async function queueStatus(address: string): Promise<QueueStatus> {
  const { queue, close } = await queueAt<Queued, Ended>(address);
  try {
    const jobs = [];
    for (const job of await queue.getJobs(['active', 'waiting', 'delayed', 'completed', 'failed'], 0, 999)) {
      const state = await job.getState();
      const end = endOf(job, state);
      jobs.push({
        recording: basename(job.data.path),
        file: job.data.file,
        state: end ? end.state : state === 'active' ? ('working' as const) : ('waiting' as const),
        by: job.processedBy,
        ...(end?.state === 'failed' && { why: end.why }),
      });
    }
    jobs.sort((a, b) => (a.recording < b.recording ? -1 : 1));
    return { workers: (await queue.getWorkers()).length, jobs };
  } catch (error) {
    throw silent(address, error);
  } finally {
    await close();
  }
}
