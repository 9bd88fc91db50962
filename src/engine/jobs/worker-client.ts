/** A worker with its calls: each ends, whatever becomes of the worker. */
import * as Comlink from 'comlink';
import type { LifeMessage } from './life.ts';
import { cancelled, EngineError } from '../errors.ts';

export interface WorkerClient<T> {
  readonly api: Comlink.Remote<T>;
  /** Rejects when the worker has died by itself; never settles otherwise. */
  readonly died: Promise<never>;
  /** Ends the worker at once, whatever it is doing; calls in flight are cancelled. */
  dispose(): void;
}

/** Milliseconds within which a worker says that it lives, on a busy machine. */
const START = 30_000;

/** @param worker whose script calls announceLife() */
export function workerClient<T>(worker: Worker): WorkerClient<T> {
  // A name that no other worker of this origin has, in any tab.
  const life = `worker ${crypto.randomUUID()}`;
  const remote = Comlink.wrap<T>(worker);
  let over: EngineError | null = null;
  const inFlight = new Set<(error: EngineError) => void>();
  const fail = (error: EngineError): void => {
    over = error;
    for (const reject of inFlight) reject(error);
    inFlight.clear();
  };
  let die: (error: EngineError) => void = () => undefined;
  const died = new Promise<never>((_, reject) => (die = reject));
  died.catch(() => undefined);
  let ended = false;
  const crash = (): void => {
    if (ended) return;
    ended = true;
    const error = new EngineError('crashed', 'A part of Akmeon stopped unexpectedly. Nothing of the montage is lost.');
    fail(error);
    die(error);
    worker.terminate();
  };
  // One that never says anything died before it could.
  const start = setTimeout(crash, START);
  worker.addEventListener('error', crash);
  worker.addEventListener('message', ({ data }: MessageEvent<Partial<LifeMessage> | null>) => {
    if (data?.life !== life) return;
    clearTimeout(start);
    // The lock is the worker's now: it comes here only when the worker is gone.
    void navigator.locks.request(life, crash);
  });
  worker.postMessage({ life } satisfies LifeMessage);
  const api = new Proxy(remote as object, {
    get(target, key, receiver) {
      const value: unknown = Reflect.get(target, key, receiver);
      if (typeof value !== 'function' || typeof key !== 'string' || key === 'then') return value;
      // Not a race with one promise that stands for the worker's end: that would keep every answer as long as it lives.
      return (...args: unknown[]) =>
        new Promise((resolve, reject) => {
          if (over) return reject(over);
          inFlight.add(reject);
          (value as (...args: unknown[]) => Promise<unknown>)(...args)
            .then(resolve, reject)
            .finally(() => inFlight.delete(reject));
        });
    },
  }) as Comlink.Remote<T>;
  return {
    api,
    died,
    dispose() {
      if (ended) return;
      ended = true;
      clearTimeout(start);
      fail(cancelled());
      worker.terminate();
    },
  };
}
