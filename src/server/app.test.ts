import { mkdtemp, readFile, readdir, writeFile } from 'node:fs/promises';
import { request, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { createApp } from './app.ts';

let server: Server;
let origin: string;
let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'akmeon-server-'));
  await writeFile(join(folder, 'index.html'), '<!doctype html>app');
  await writeFile(join(folder, 'clip.mp4'), '0123456789');
  await writeFile(join(folder, 'empty.mp4'), '');
  const job = {
    token: 'secret',
    media: new Map([
      ['clip', join(folder, 'clip.mp4')],
      ['empty', join(folder, 'empty.mp4')],
    ]),
    out: join(folder, 'out.mp4'),
  };
  server = createApp({ dist: folder, demo: folder }, new Map([['secret', job]])).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => server.close());

/** fetch() does not let a test forge Host. */
const statusWith = (headers: Record<string, string>): Promise<number> =>
  new Promise((resolve, reject) =>
    request(`${origin}/`, { headers }, (reply) => resolve(reply.statusCode!))
      .on('error', reject)
      .end(),
  );

describe('server', () => {
  it('serves the app for any page address, with isolation and a strict policy', async () => {
    const reply = await fetch(`${origin}/montage/x/check`);
    expect(await reply.text()).toContain('app');
    const policy = reply.headers.get('content-security-policy')!;
    expect(policy).toContain("script-src 'self' 'wasm-unsafe-eval'");
    expect(policy).toContain("object-src 'none'");
    expect(policy).not.toContain('unsafe-inline');
    expect(reply.headers.get('cross-origin-opener-policy')).toBe('same-origin');
    expect(reply.headers.get('cross-origin-embedder-policy')).toBe('require-corp');
    expect((await fetch(`${origin}/none.js`)).status).toBe(404);
  });

  it('refuses a foreign host or origin', async () => {
    expect(await statusWith({ host: 'evil.example' })).toBe(403);
    expect(await statusWith({ origin: 'http://evil.example' })).toBe(403);
    expect(await statusWith({ origin })).toBe(200);
  });

  it("serves ranges of a job's media under its token only (RFC 9110, range requests)", async () => {
    const get = (range: string | null, path = 'secret/media/clip') =>
      fetch(`${origin}/job/${path}`, { headers: range ? { range } : {} });
    expect(await (await get(null)).text()).toBe('0123456789');
    const part = await get('bytes=2-4');
    expect([part.status, part.headers.get('content-range'), await part.text()]).toEqual([206, 'bytes 2-4/10', '234']);
    expect(await (await get('bytes=7-')).text()).toBe('789');
    expect(await (await get('bytes=-3')).text()).toBe('789');
    expect((await get('bytes=20-')).status).toBe(416);
    expect((await get(null, 'guess/media/clip')).status).toBe(404);
    expect((await get(null, 'secret/media/other')).status).toBe(404);
    expect((await get(null, 'secret/media/empty')).headers.get('content-length')).toBe('0');
  });

  it('answers what is wrong in a word, with no stack and no path', async () => {
    for (const [path, init, status] of [
      ['/%ff', {}, 400],
      ['/job/secret/out?position=0', { method: 'PUT', body: new Uint8Array((64 << 20) + 1) }, 413],
      ['/job/secret/media/%ff', {}, 400],
    ] as const) {
      const reply = await fetch(`${origin}${path}`, init);
      const text = await reply.text();
      expect([path, reply.status]).toEqual([path, status]);
      expect(text).not.toMatch(/\bat |node_modules|\/work|\/tmp/);
      expect(text.length).toBeLessThan(40);
    }
  });

  it('takes no piece of a result that would leave a hole, nor one that lies nowhere', async () => {
    for (const position of ['1000000000000', '-1', '1.5', 'x', ''])
      expect((await fetch(`${origin}/job/secret/out?position=${position}`, { method: 'PUT', body: 'x' })).status).toBe(
        position === '' ? 204 : 400,
      );
    await fetch(`${origin}/job/secret/out`, { method: 'DELETE' });
    expect((await fetch(`${origin}/job/secret/out?done=1`, { method: 'POST' })).status).toBe(400);
    expect((await readdir(folder)).filter((name) => name.endsWith('.part'))).toEqual([]);
  });

  it('allows workers from blobs in the export alone, asks for trusted types, and refuses what no page needs', async () => {
    const policy = async (path: string): Promise<string> =>
      (await fetch(`${origin}${path}`)).headers.get('content-security-policy')!;
    expect(await policy('/')).not.toMatch(/worker-src[^;]*blob:/);
    expect(await policy('/')).toMatch(/require-trusted-types-for 'script'/);
    expect(await policy('/headless.html')).not.toContain('data:');
    expect(await policy('/assets/export.worker-x.js')).toMatch(/worker-src[^;]*blob:/);
    expect((await fetch(`${origin}/`)).headers.get('permissions-policy')).toContain('camera=()');
  });

  it('takes a result in pieces, out of order, and names it only when it is whole', async () => {
    const put = (position: number, body: string) =>
      fetch(`${origin}/job/secret/out?position=${position}`, { method: 'PUT', body });
    await put(3, 'def');
    await put(0, 'abc');
    expect(await readdir(folder)).not.toContain('out.mp4');
    await fetch(`${origin}/job/secret/out?done=1`, { method: 'POST' });
    expect(await readFile(join(folder, 'out.mp4'), 'utf8')).toBe('abcdef');
    await put(0, 'half');
    await fetch(`${origin}/job/secret/out`, { method: 'DELETE' });
    expect((await readdir(folder)).filter((name) => name.endsWith('.part'))).toEqual([]);
    expect(await readFile(join(folder, 'out.mp4'), 'utf8')).toBe('abcdef');
  });
});
