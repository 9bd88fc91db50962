import * as Comlink from 'comlink';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { MessageChannel } from 'node:worker_threads';
import { afterEach, describe, expect, it } from 'vitest';
import { EngineError } from '../errors.ts';
import { workerClient, type WorkerClient } from './worker-client.ts';

setFlagsFromString('--expose-gc');
const collect = runInNewContext('gc') as () => void;

const work = {
  big: () => new Uint8Array(1 << 20),
  never: () => new Promise<never>(() => undefined),
  fails: () => Promise.reject(new Error('no')),
};

describe('a worker’s calls', () => {
  let client: WorkerClient<typeof work>;
  let close = (): void => undefined;
  const start = (): WorkerClient<typeof work> => {
    const { port1, port2 } = new MessageChannel();
    Comlink.expose(work, port2 as unknown as Comlink.Endpoint);
    close = () => {
      port1.close();
      port2.close();
    };
    return (client = workerClient<typeof work>(Object.assign(port1, { terminate: close }) as unknown as Worker));
  };
  afterEach(() => {
    client.dispose();
    close();
  });

  it('keep nothing of what they brought', async () => {
    start();
    const seen = await Promise.all(
      Array.from({ length: 20 }, async () => new WeakRef((await client.api.big()) as object)),
    );
    await new Promise((resolve) => setTimeout(resolve, 50));
    collect();
    expect(seen.filter((one) => one.deref()).length).toBeLessThan(3);
  });

  it('end with the worker, and are refused after it; what fails there fails here', async () => {
    start();
    await expect(client.api.fails()).rejects.toThrow('no');
    const waiting = client.api.never();
    client.dispose();
    await expect(waiting).rejects.toBeInstanceOf(EngineError);
    await expect(client.api.big()).rejects.toMatchObject({ code: 'cancelled' });
  });
});
