/**
 * Recordings that are lent over the network: workers of a queue that do not see this machine's files fetch them from here,
 * and bring back what they made of them. Only the batch's own files are lent, under a token that is as new as the batch.
 */
import { randomBytes } from 'node:crypto';
import { createReadStream, createWriteStream, existsSync } from 'node:fs';
import { mkdir, mkdtemp, rename, rm, stat } from 'node:fs/promises';
import { createServer } from 'node:http';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import express, { type Express } from 'express';
import { one, projectName, type BatchLine, type BatchOrder } from './batch.ts';
import { Exit } from './exit.ts';

/** @param recordings path by the name of the film that is made of it */
function lendingApp(token: string, recordings: ReadonlyMap<string, string>, out: string): Express {
  const app = express();
  app.disable('x-powered-by');
  const made = new Set([...recordings.keys()].flatMap((file) => [file, projectName(file)]));
  const lent = `/${token}`;
  app.get(`${lent}/recordings/:file`, (request, response) => {
    const path = recordings.get(request.params.file);
    if (path) response.sendFile(path, { dotfiles: 'allow', cacheControl: false });
    else response.sendStatus(404);
  });
  app.get(`${lent}/made/:file`, (request, response) => {
    const { file } = request.params;
    if (made.has(file) && existsSync(join(out, file))) response.sendFile(join(out, file), { dotfiles: 'allow' });
    else response.sendStatus(404);
  });
  app.put(`${lent}/made/:file`, async (request, response) => {
    const { file } = request.params;
    if (!made.has(file)) return void response.sendStatus(404);
    const part = join(out, `${file}.${randomBytes(6).toString('hex')}.part`);
    try {
      await pipeline(request, createWriteStream(part, { flags: 'wx' }));
      await rename(part, join(out, file));
      response.sendStatus(204);
    } catch (error) {
      await rm(part, { force: true });
      if (!response.headersSent) response.sendStatus((error as NodeJS.ErrnoException).code === 'ENOSPC' ? 507 : 500);
    }
  });
  app.use((_, response) => void response.sendStatus(404));
  return app;
}

export interface Lender {
  /** Where recordings are fetched from, token and all. */
  readonly base: string;
  close(): void;
}

/**
 * Lends the recordings of a batch at an address of this machine, "192.168.1.5:7800".
 * @throws Exit where the address cannot be listened at
 */
export async function lend(address: string, recordings: ReadonlyMap<string, string>, out: string): Promise<Lender> {
  const at = /^([\w.-]+):(\d{1,5})$/.exec(address);
  // Others cannot fetch from an address that stands for all.
  if (!at || Number(at[2]) > 65_535 || at[1] === '0.0.0.0')
    throw new Exit(2, `--lend takes an address of this machine and a port, not "${address}"`);
  const token = randomBytes(24).toString('hex');
  const server = createServer(lendingApp(token, recordings, out));
  await new Promise<void>((resolve, reject) => {
    server.once('error', (error) => reject(new Exit(4, `${address} cannot be listened at: ${error.message}`)));
    server.listen(Number(at[2]), at[1], resolve);
  });
  const { port } = server.address() as { port: number };
  return {
    base: `http://${at[1]}:${port}/${token}`,
    close: () => {
      server.close();
      server.closeAllConnections();
    },
  };
}

/** Fetches a file; false where the lender has none of that name. */
async function fetched(url: string, path: string): Promise<boolean> {
  const response = await fetch(url);
  if (response.status === 404) return false;
  if (!response.ok || !response.body) throw new Error(`the lender answers ${response.status}`);
  await pipeline(Readable.fromWeb(response.body as Parameters<typeof Readable.fromWeb>[0]), createWriteStream(path));
  return true;
}

async function brought(path: string, url: string): Promise<void> {
  const { size } = await stat(path);
  const headers = { 'Content-Length': String(size) };
  const body = Readable.toWeb(createReadStream(path)) as ReadableStream;
  // A body that is sent as it is read needs `duplex`, which the types of the browser's fetch do not know.
  const response = await fetch(url, { method: 'PUT', headers, body, duplex: 'half' } as RequestInit);
  if (response.status === 507) throw new Error('the disk of the lender is full');
  if (!response.ok) throw new Error(`the lender answers ${response.status}`);
}

/** One recording that is lent, from fetching it to bringing its film back. */
export async function oneLent(base: string, order: BatchOrder, path: string, file: string): Promise<BatchLine> {
  const folder = await mkdtemp(join(tmpdir(), 'akmeon-lent-'));
  const [recording, out] = [join(folder, basename(path)), join(folder, 'made')];
  const from = (kind: 'recordings' | 'made', name: string): string => `${base}/${kind}/${encodeURIComponent(name)}`;
  try {
    await mkdir(out);
    if (!(await fetched(from('recordings', file), recording))) throw new Error('it is not lent any more');
    const project = projectName(file);
    if (!order.force) await fetched(from('made', project), join(out, project));
    const line = await one({ ...order, out }, recording, file);
    if (line.state === 'done') for (const name of [project, file]) await brought(join(out, name), from('made', name));
    return line;
  } catch (error) {
    const cause = (error as { cause?: { message?: string } }).cause?.message;
    return { recording: basename(path), state: 'failed', why: cause ?? (error as Error).message };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
