import { describe, expect, it, vi } from 'vitest';
import { cancelled, EngineError } from '../errors.ts';
import { Jobs, type Job, type JobState } from './jobs.ts';
import type { WorkerClient } from './worker-client.ts';

const ABOUT = { kind: 'analyse', owner: 'm', label: 'Finding' } as const;
const PATIENCE = { stuck: 200, cancelled: 50 };
const forever = new Promise<never>(() => undefined);

/** A worker that answers nothing; dies when told to. */
function deaf() {
  let die = (): void => undefined;
  const died = new Promise<never>((_, reject) => (die = () => reject(new EngineError('crashed', 'It died.'))));
  died.catch(() => undefined);
  const client = { api: {}, died, dispose: vi.fn() } as unknown as WorkerClient<object> & {
    dispose: ReturnType<typeof vi.fn>;
  };
  return { client, die: () => die() };
}

const codeOf = (work: Promise<unknown>): Promise<unknown> =>
  work.then(
    () => 'done',
    (error: unknown) => (error instanceof EngineError ? error.code : error),
  );

describe('jobs', () => {
  it('are listed with their owner and progress while they go on, and gone when they end', async () => {
    const seen: (readonly JobState[])[] = [];
    const jobs = new Jobs((list) => seen.push(list), PATIENCE);
    const { client } = deaf();
    const value = await jobs.run(ABOUT, (job) => {
      job.use(client);
      job.progress(0.5, { detail: '2 s left' });
      return Promise.resolve(7);
    });
    expect(value).toBe(7);
    expect(seen[1]).toMatchObject([{ kind: 'analyse', owner: 'm', label: 'Finding', share: 0.5, detail: '2 s left' }]);
    expect(jobs.list()).toEqual([]);
    expect(client.dispose).toHaveBeenCalledOnce();
  });

  it('that nothing is heard of for too long end with a sentence, and their workers with them', async () => {
    const { client } = deaf();
    const jobs = new Jobs(() => undefined, PATIENCE);
    expect(
      await codeOf(
        jobs.run(ABOUT, (job) => {
          job.use(client);
          return forever;
        }),
      ),
    ).toBe('stuck');
    expect(client.dispose).toHaveBeenCalledOnce();
  });

  it('that go on saying something are not stuck', async () => {
    const jobs = new Jobs(() => undefined, PATIENCE);
    const work = async (job: Job): Promise<string> => {
      for (let i = 0; i < 6; i++) {
        await new Promise((resolve) => setTimeout(resolve, 100));
        job.progress(i / 6);
      }
      return 'whole';
    };
    expect(await jobs.run(ABOUT, work)).toBe('whole');
  });

  it('end when they are cancelled, by themselves or not', async () => {
    for (const heeds of [true, false]) {
      const { client } = deaf();
      const jobs = new Jobs(() => undefined, { stuck: 60_000, cancelled: 50 });
      const done = codeOf(
        jobs.run(ABOUT, (job) => {
          job.use(client);
          return heeds
            ? new Promise((_, reject) => job.signal.addEventListener('abort', () => reject(cancelled())))
            : forever;
        }),
      );
      jobs.cancel(jobs.list()[0]!.id);
      expect(await done).toBe('cancelled');
      expect(client.dispose).toHaveBeenCalledOnce();
    }
  });

  it('end when a worker of theirs dies', async () => {
    const { client, die } = deaf();
    const jobs = new Jobs(() => undefined, PATIENCE);
    const done = codeOf(
      jobs.run(ABOUT, (job) => {
        job.use(client);
        return forever;
      }),
    );
    die();
    expect(await done).toBe('crashed');
    expect(jobs.list()).toEqual([]);
  });
});
