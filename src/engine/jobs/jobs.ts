/** Work that outlasts a click: each has an owner, progress, an end that surely comes, and workers that end with it. */
import { cancelled, EngineError } from '../errors.ts';
import type { WorkerClient } from './worker-client.ts';

export const JOB_KINDS = ['bring-in', 'analyse', 'sort', 'watch', 'focus', 'count', 'levels', 'export'] as const;
export type JobKind = (typeof JOB_KINDS)[number];

/** What is shown of a job. */
export interface JobState {
  readonly id: string;
  readonly kind: JobKind;
  /** Id of the montage it was begun in: what it finds belongs there. */
  readonly owner: string;
  readonly label: string;
  /** 0-1, or null while it cannot be said. */
  readonly share: number | null;
  readonly detail?: string;
}

/** What the work itself is given. */
export interface Job {
  readonly id: string;
  readonly signal: AbortSignal;
  /** Says how far it is; also that it still goes on. */
  progress(share: number | null, change?: { readonly label?: string; readonly detail?: string }): void;
  /** A worker that ends with the job, and whose death ends the job. */
  use<T>(client: WorkerClient<T>): WorkerClient<T>['api'];
}

interface Running {
  state: JobState;
  cancel(): void;
}

/** Milliseconds without a word after which a job counts as stuck, and after which one that is cancelled is ended. */
export interface Patience {
  readonly stuck: number;
  readonly cancelled: number;
}

export class Jobs {
  private readonly running = new Map<string, Running>();
  private count = 0;

  /** @param changed called with all jobs whenever one begins, goes on or ends */
  constructor(
    private readonly changed: (jobs: readonly JobState[]) => void,
    private readonly patience: Patience = { stuck: 60_000, cancelled: 2000 },
  ) {}

  /**
   * Runs `work` to its end. @throws what the work throws, or EngineError `cancelled`, `crashed` where a worker died,
   * `stuck` where nothing was heard of it for too long
   */
  async run<T>(about: Pick<JobState, 'kind' | 'owner' | 'label'>, work: (job: Job) => Promise<T>): Promise<T> {
    const id = `${about.kind}-${++this.count}`;
    const stop = new AbortController();
    const clients: WorkerClient<unknown>[] = [];
    let end: (error: EngineError) => void = () => undefined;
    const ended = new Promise<never>((_, reject) => (end = reject));
    ended.catch(() => undefined);
    let heard = performance.now();
    let leaving: ReturnType<typeof setTimeout> | undefined;
    const cancel = (): void => {
      stop.abort();
      leaving ??= setTimeout(() => end(cancelled()), this.patience.cancelled);
    };
    this.running.set(id, { state: { id, share: null, ...about }, cancel });
    this.tell();
    const watchdog = setInterval(
      () => {
        if (performance.now() - heard <= this.patience.stuck) return;
        stop.abort();
        end(
          new EngineError(
            'stuck',
            `${about.label}: nothing was heard of it for ${Math.round(this.patience.stuck / 1000)} s, so it was ended. ` +
              'The file may be damaged.',
          ),
        );
      },
      Math.min(1000, this.patience.stuck / 4),
    );
    const job: Job = {
      id,
      signal: stop.signal,
      progress: (share, change = {}) => {
        heard = performance.now();
        const running = this.running.get(id);
        if (!running) return;
        const { detail: _, ...rest } = running.state;
        running.state = { ...rest, share, ...change };
        this.tell();
      },
      use: (client) => {
        clients.push(client);
        client.died.catch((error: unknown) => end(error as EngineError));
        return client.api;
      },
    };
    try {
      return await Promise.race([work(job), ended]);
    } catch (error) {
      // Whatever else it threw on its way out: it was cancelled.
      throw stop.signal.aborted && !(error instanceof EngineError) ? cancelled() : error;
    } finally {
      clearInterval(watchdog);
      clearTimeout(leaving);
      for (const client of clients) client.dispose();
      this.running.delete(id);
      this.tell();
    }
  }

  cancel(id: string): void {
    this.running.get(id)?.cancel();
  }

  list(): readonly JobState[] {
    return [...this.running.values()].map(({ state }) => state);
  }

  private tell(): void {
    this.changed(this.list());
  }
}
