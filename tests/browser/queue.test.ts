/** A batch over a real queue on Redis, with workers of which one is killed. */
import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { copyFile, mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { readMontage } from '../../src/core/document/akmeon.ts';
import type { BatchLine } from '../../src/cli/batch.ts';
import { lend } from '../../src/cli/lending.ts';
import type { QueueStatus } from '../../src/server/queue.ts';
import { command } from './command.ts';
import { at, fixture, startBench } from './harness.ts';

let folder: string;
let redis: ChildProcess;
let address: string;
const started: ChildProcess[] = [];

async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as AddressInfo;
  server.close();
  return port;
}
async function startRedis(port: number): Promise<ChildProcess> {
  const process = spawn('redis-server', ['--port', String(port), '--save', '', '--appendonly', 'no'], {
    cwd: folder,
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  started.push(process);
  for await (const line of process.stdout!) if (String(line).includes('Ready to accept connections')) break;
  process.stdout!.resume();
  return process;
}

/** A command that goes on beside the test; what it printed, by lines. */
function aside(...args: string[]): { process: ChildProcess; lines: BatchLine[]; err: string[] } {
  const child = spawn(process.execPath, [at('scripts/akmeon.mjs'), ...args], {
    cwd: folder,
    env: { ...process.env, INIT_CWD: folder },
    // With what it starts, so that a kill takes its browser along.
    detached: true,
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  started.push(child);
  const lines: BatchLine[] = [];
  const err: string[] = [];
  let rest = '';
  child.stdout!.on('data', (data: Buffer) => {
    const parts = (rest + String(data)).split('\n');
    rest = parts.pop()!;
    for (const part of parts) lines.push(JSON.parse(part) as BatchLine);
  });
  child.stderr!.on('data', (data: Buffer) => err.push(String(data)));
  return { process: child, lines, err };
}
const kill = (child: ChildProcess): void => void process.kill(-child.pid!, 'SIGKILL');

const ASKED = ['--around', '0.3,0.4', '--longest', '1', '--sound', 'none'];
const status = (): QueueStatus =>
  JSON.parse(command(folder, 'batch', '--status', '--queue', address).stdout) as QueueStatus;

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'akmeon-queue-'));
  for (const name of ['films', 'cut', 'alone']) await mkdir(join(folder, name));
  for (const name of ['a', 'b']) await copyFile(fixture('hits.mp4'), join(folder, 'films', `${name}.mp4`));
  await writeFile(join(folder, 'films', 'broken.mp4'), 'no film');
  const port = await freePort();
  address = `redis://127.0.0.1:${port}`;
  redis = await startRedis(port);
});
afterAll(async () => {
  for (const child of started) child.kill('SIGKILL');
  redis.kill('SIGKILL');
  await rm(folder, { recursive: true, force: true });
});

describe('a batch over a queue', () => {
  it('is made in whole by three workers of which one is killed, each recording once, as on one machine', async () => {
    const batch = aside('batch', 'films', '--out', 'cut', ...ASKED, '--queue', address);
    const workers = [0, 1, 2].map(() => aside('worker', '--queue', address));
    // Killed while it works: when it is seen to hold a recording.
    await expect
      .poll(() => status().jobs.some(({ state }) => state === 'working'), { timeout: 60_000, interval: 500 })
      .toBe(true);
    kill(workers[0]!.process);
    await expect.poll(() => batch.lines.length, { timeout: 150_000, interval: 500 }).toBe(3);
    if (batch.process.exitCode === null) await once(batch.process, 'exit');
    expect(batch.process.exitCode).toBe(4);
    expect(batch.lines.map(({ recording, state }) => `${recording} ${state}`).sort()).toEqual([
      'a.mp4 done',
      'b.mp4 done',
      'broken.mp4 failed',
    ]);
    // What a worker that is alive said, and nothing twice.
    const made = workers.slice(1).flatMap(({ lines }) => lines.map(({ recording }) => recording));
    expect(new Set(made).size).toBe(made.length);
    const after = status();
    expect(after.workers).toBe(2);
    // The same on the app's page.
    const bench = await startBench(new Map(), [], { queue: address });
    const page = await bench.page();
    await page.goto(`${bench.origin}/queue`);
    await page.getByText('3 of 3 have ended; 2 workers at work.').waitFor({ timeout: 30_000 });
    expect(await page.locator('[data-queued="done"]').count()).toBe(2);
    expect(await page.locator('[data-queued="failed"]').textContent()).toMatch(/broken\.mp4/);
    expect(bench.troubles).toEqual([]);
    await bench.close();
    expect(after.jobs.map(({ recording, state }) => `${recording} ${state}`)).toContain('broken.mp4 failed');
    // The same plan as without a queue.
    await mkdir(join(folder, 'one'));
    await copyFile(fixture('hits.mp4'), join(folder, 'one', 'a.mp4'));
    expect(command(folder, 'batch', 'one', '--out', 'alone', ...ASKED).status).toBe(0);
    const plan = async (where: string, name: string) =>
      readMontage(await readFile(join(folder, where, `${name}.akmeon`), 'utf8'));
    for (const name of ['a', 'b']) {
      expect((await plan('cut', name)).clips).toEqual((await plan('alone', 'a')).clips);
      expect((await plan('cut', name)).rules).toEqual((await plan('alone', 'a')).rules);
    }
    const films = (await readdir(join(folder, 'cut'))).filter((name) => name.endsWith('.mp4'));
    expect(films.sort()).toEqual(['a.mp4', 'b.mp4']);
    // Asked again: what is there is not made again.
    const again = command(folder, 'batch', 'films', '--out', 'cut', ...ASKED, '--queue', address);
    expect(again.stdout.match(/"there"/g)).toHaveLength(2);
  });

  it('goes on when the queue was gone for a while', async () => {
    await rm(join(folder, 'films', 'broken.mp4'));
    await rm(join(folder, 'cut', 'a.mp4'));
    const batch = aside('batch', 'films', '--out', 'cut', ...ASKED, '--queue', address, '--force');
    await expect.poll(() => batch.lines.length, { timeout: 100_000, interval: 200 }).toBeGreaterThan(0);
    redis.kill('SIGSTOP');
    await new Promise((resolve) => setTimeout(resolve, 3000));
    redis.kill('SIGCONT');
    await expect.poll(() => batch.lines.length, { timeout: 150_000, interval: 500 }).toBe(2);
    expect(batch.lines.every(({ state }) => state === 'done' || state === 'there')).toBe(true);
  });

  it('lends recordings to workers that do not see them, under a token, and is brought what they make', async () => {
    await mkdir(join(folder, 'lent'));
    const lend = `127.0.0.1:${await freePort()}`;
    const ask = ['batch', 'films', '--out', 'lent', ...ASKED, '--queue', address, '--lend', lend];
    await writeFile(join(folder, 'films', 'broken.mp4'), 'no film');
    const batch = aside(...ask);
    await expect.poll(() => batch.lines.length, { timeout: 150_000, interval: 500 }).toBe(3);
    expect(batch.lines.map(({ recording, state }) => `${recording} ${state}`).sort()).toEqual([
      'a.mp4 done',
      'b.mp4 done',
      'broken.mp4 failed',
    ]);
    expect((await readdir(join(folder, 'lent'))).sort()).toEqual(['a.akmeon', 'a.mp4', 'b.akmeon', 'b.mp4']);
    const text = (where: string) => readFile(join(folder, where, 'a.akmeon'), 'utf8');
    expect(readMontage(await text('lent')).clips).toEqual(readMontage(await text('cut')).clips);
    // Nothing is left lying on the workers' side, and nothing lent without the token.
    expect((await readdir(tmpdir())).filter((name) => name.startsWith('akmeon-lent-'))).toEqual([]);
    if (batch.process.exitCode === null) await once(batch.process, 'exit');
    const again = command(folder, ...ask);
    expect(again.stdout.match(/"there"/g)).toHaveLength(2);
    await rm(join(folder, 'films', 'broken.mp4'));
  });

  it('lends nothing without the token, nothing else with it, and takes back only what it asked for', async () => {
    const out = join(folder, 'lent');
    const lender = await lend('127.0.0.1:0', new Map([['a.mp4', fixture('hits.mp4')]]), out);
    const status = async (path: string, init?: RequestInit): Promise<number> => (await fetch(path, init)).status;
    const { base } = lender;
    expect(await status(`${base}/recordings/a.mp4`)).toBe(200);
    for (const path of [
      base.replace(/[^/]+$/, 'other/recordings/a.mp4'),
      `${base}/recordings/b.mp4`,
      `${base}/recordings/..%2Fa.mp4`,
      `${base}/made/b.mp4`,
      base,
    ])
      expect([path, await status(path)]).toEqual([path, 404]);
    expect(await status(`${base}/made/evil.sh`, { method: 'PUT', body: 'x' })).toBe(404);
    expect(await status(`${base}/made/..%2Fa.mp4`, { method: 'PUT', body: 'x' })).toBe(404);
    expect(await status(`${base}/made/a.mp4`, { method: 'PUT', body: 'film' })).toBe(204);
    expect(await readFile(join(out, 'a.mp4'), 'utf8')).toBe('film');
    // A piece of a film whose sender is gone is not taken for one.
    const cut = new AbortController();
    const half = new ReadableStream({
      start(controller) {
        controller.enqueue(new Uint8Array(1000));
        setTimeout(() => cut.abort(), 200);
      },
    });
    const init = { method: 'PUT', body: half, duplex: 'half', signal: cut.signal } as RequestInit;
    await expect(fetch(`${base}/made/a.mp4`, init)).rejects.toThrow();
    await expect.poll(async () => (await readdir(out)).some((name) => name.endsWith('.part'))).toBe(false);
    expect(await readFile(join(out, 'a.mp4'), 'utf8')).toBe('film');
    lender.close();
    for (const address of ['nowhere', '127.0.0.1:99999', '0.0.0.0:7800'])
      await expect(lend(address, new Map(), out)).rejects.toThrow(/--lend takes an address/);
    await expect(lend('192.0.2.1:1', new Map(), out)).rejects.toThrow(/cannot be listened at/);
  });

  it('lets a worker be stopped when the queue is gone', async () => {
    const [worker] = started.filter(
      ({ exitCode, signalCode, spawnargs }) => exitCode === null && !signalCode && spawnargs.includes('worker'),
    );
    redis.kill('SIGKILL');
    await expect.poll(() => redis.signalCode).toBe('SIGKILL');
    worker!.kill('SIGTERM');
    await expect.poll(() => worker!.exitCode, { timeout: 15_000 }).toBe(0);
  });

  it('says what is wrong with the address, or that nobody answers there', async () => {
    for (const [args, code] of [
      [['batch', 'films', '--out', 'cut', '--queue', 'nonsense'], 2],
      [['worker', '--queue', 'http://127.0.0.1'], 2],
      [['worker'], 2],
      [['batch', '--status', '--queue', `redis://127.0.0.1:${await freePort()}`], 4],
    ] as const) {
      const { status, stderr } = command(folder, ...args);
      expect([args.join(' '), status, stderr.trim().split('\n').length]).toEqual([args.join(' '), code, 1]);
    }
  });
});
