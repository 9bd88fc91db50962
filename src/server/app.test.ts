import { mkdtemp, readFile, readdir, writeFile } from 'node:fs/promises';
import { spawnSync } from 'node:child_process';
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

const FFMPEG = spawnSync('ffmpeg', ['-version']).status === 0;
describe.skipIf(!FFMPEG)('working copies', () => {
  const ask = (path: string, init?: RequestInit): Promise<Response> => fetch(`${origin}/copies${path}`, init);
  const begun = async (size: number): Promise<string> =>
    ((await (await ask(`?size=${size}`, { method: 'POST' })).json()) as { token: string }).token;
  const ended = async (token: string): Promise<{ state: string; why: string }> => {
    for (;;) {
      const now = (await (await ask(`/${token}`)).json()) as { state: string; why: string };
      if (now.state === 'done' || now.state === 'failed') return now;
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
  };
  const made = async (file: Uint8Array<ArrayBuffer>): Promise<{ token: string; state: string; why: string }> => {
    const token = await begun(file.length);
    const half = file.length >> 1;
    expect((await ask(`/${token}?position=0`, { method: 'PUT', body: file.slice(0, half) })).status).toBe(204);
    expect((await ask(`/${token}`, { method: 'POST' })).status).toBe(400);
    expect((await ask(`/${token}?position=${half + 1}`, { method: 'PUT', body: file.slice(half) })).status).toBe(400);
    expect((await ask(`/${token}?position=${half}`, { method: 'PUT', body: file.slice(half) })).status).toBe(204);
    expect((await ask('?size=5', { method: 'POST' })).status).toBe(409);
    expect((await ask(`/${token}`, { method: 'POST' })).status).toBe(204);
    return { token, ...(await ended(token)) };
  };

  it('are made of what the browser does not decode, frame for frame, under their token only, and go', async () => {
    const source = new URL('../../tests/fixtures/old-codec.mp4', import.meta.url).pathname;
    const { token, state } = await made(new Uint8Array(await readFile(source)));
    expect(state).toBe('done');
    const copy = join(folder, 'copy.mp4');
    await writeFile(copy, new Uint8Array(await (await ask(`/${token}/file`)).arrayBuffer()));
    const about = (path: string): string[] =>
      spawnSync(
        'ffprobe',
        [
          '-v',
          'error',
          '-count_frames',
          '-select_streams',
          'v',
          '-show_entries',
          'stream=codec_name,nb_read_frames',
          '-of',
          'csv=p=0',
          path,
        ],
        { encoding: 'utf8' },
      )
        .stdout.trim()
        .split(',');
    expect(about(copy)[0]).toBe('h264');
    expect(about(copy)[1]).toBe(about(source)[1]);
    expect((await ask('/0123456789abcdef')).status).toBe(404);
    expect((await ask(`/${token}`, { method: 'DELETE' })).status).toBe(204);
    expect((await ask(`/${token}/file`)).status).toBe(404);
  });

  it('are not made of lists that name other files, of text, of nothing', async () => {
    const secret = join(folder, 'clip.mp4');
    for (const text of [
      `#EXTM3U\n#EXTINF:1,\nfile://${secret}\n#EXT-X-ENDLIST\n`,
      `ffconcat version 1.0\nfile ${secret}\n`,
      'no film',
    ]) {
      const { token, state, why } = await made(new Uint8Array(new TextEncoder().encode(text)));
      expect(state).toBe('failed');
      expect(why).toMatch(/finds no picture/);
      expect(why).not.toContain(folder);
      await ask(`/${token}`, { method: 'DELETE' });
    }
    expect((await ask('?size=0', { method: 'POST' })).status).toBe(400);
    expect((await ask('?size=99999999999999', { method: 'POST' })).status).toBe(400);
  });
});
