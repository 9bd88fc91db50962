/** The server of the built app: static files, the demo, and one-time jobs of the command line. */
import express, { type Express, type Request, type Response, type NextFunction } from 'express';
import helmet from 'helmet';
import { createReadStream } from 'node:fs';
import { open, rename, rm, stat, type FileHandle } from 'node:fs/promises';
import { extname, join } from 'node:path';

export interface ServerFolders {
  /** The built app. */
  readonly dist: string;
  /** The demo montage and its media. */
  readonly demo: string;
}

/** Files a command line job may read, and the one it may write. */
export interface Job {
  readonly token: string;
  readonly media: ReadonlyMap<string, string>;
  readonly out?: string;
}

const TYPES: Record<string, string> = {
  '.mp4': 'video/mp4',
  '.m4v': 'video/mp4',
  '.mov': 'video/quicktime',
  '.webm': 'video/webm',
  '.mkv': 'video/x-matroska',
  '.wav': 'audio/wav',
  '.mp3': 'audio/mpeg',
  '.flac': 'audio/flac',
  '.ogg': 'audio/ogg',
  '.m4a': 'audio/mp4',
};

const LOCAL_HOST = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/;

/** Refuses requests made in another site's name: a page elsewhere must not reach this server. */
function localOnly(request: Request, response: Response, next: NextFunction): void {
  const { host = '', origin } = request.headers;
  const foreign = !LOCAL_HOST.test(host) || (origin !== undefined && origin !== `http://${host}`);
  if (foreign) response.status(403).type('text').send('Only this machine may use this server.');
  else next();
}

export function createApp({ dist, demo }: ServerFolders, jobs: ReadonlyMap<string, Job> = new Map()): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(localOnly);
  app.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'self'"],
          scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
          styleSrc: ["'self'"],
          // The sound encoder starts its own worker from a blob.
          workerSrc: ["'self'", 'blob:'],
          imgSrc: ["'self'", 'data:', 'blob:'],
          mediaSrc: ["'self'", 'blob:'],
          fontSrc: ["'self'"],
          connectSrc: ["'self'"],
          formAction: ["'self'"],
          objectSrc: ["'none'"],
          baseUri: ["'none'"],
          frameAncestors: ["'none'"],
        },
      },
      crossOriginOpenerPolicy: { policy: 'same-origin' },
      crossOriginEmbedderPolicy: { policy: 'require-corp' },
      crossOriginResourcePolicy: { policy: 'same-origin' },
      strictTransportSecurity: false,
    }),
  );
  app.use('/job/:token', (request, response, next) => {
    const job = jobs.get(request.params.token);
    if (!job) response.status(404).type('text').send('No such job.');
    else {
      response.locals['job'] = job;
      next();
    }
  });
  app.get('/job/:token/media/:name', serveMedia);
  app.all('/job/:token/out', express.raw({ type: () => true, limit: '64mb' }), receiveResult());
  app.use(
    '/demo',
    express.static(demo, { index: false, setHeaders: (response) => response.setHeader('Cache-Control', 'no-cache') }),
  );
  app.use('/assets', express.static(join(dist, 'assets'), { immutable: true, maxAge: '1y', index: false }));
  app.use(
    express.static(dist, { index: false, setHeaders: (response) => response.setHeader('Cache-Control', 'no-cache') }),
  );
  app.get('/{*splat}', (request, response) => {
    // A missing file is not a page of the app.
    if (extname(request.path)) response.status(404).type('text').send('Not found.');
    else response.sendFile(join(dist, 'index.html'), { headers: { 'Cache-Control': 'no-cache' } });
  });
  return app;
}

async function serveMedia(request: Request, response: Response): Promise<void> {
  const job = response.locals['job'] as Job;
  const path = job.media.get(String(request.params['name']));
  const info = path ? await stat(path).catch(() => null) : null;
  if (!path || !info) {
    response.status(404).type('text').send('No such file.');
    return;
  }
  const range = /^bytes=(\d*)-(\d*)$/.exec(request.headers.range ?? '');
  let from = 0;
  let to = info.size - 1;
  if (range) {
    from = range[1] ? Number(range[1]) : Math.max(0, info.size - Number(range[2]));
    to = range[1] && range[2] ? Math.min(Number(range[2]), to) : to;
    if (from > to) {
      response.status(416).setHeader('Content-Range', `bytes */${info.size}`).end();
      return;
    }
    response.status(206).setHeader('Content-Range', `bytes ${from}-${to}/${info.size}`);
  }
  response.setHeader('Accept-Ranges', 'bytes');
  response.setHeader('Content-Type', TYPES[extname(path).toLowerCase()] ?? 'application/octet-stream');
  response.setHeader('Content-Length', String(info.size === 0 ? 0 : to - from + 1));
  if (request.method === 'HEAD' || info.size === 0) {
    response.end();
    return;
  }
  createReadStream(path, { start: from, end: to })
    .on('error', () => response.destroy())
    .pipe(response);
}

/** Results grow under a temporary name and take their own when whole. */
function receiveResult() {
  const files = new Map<string, FileHandle>();
  return async (request: Request, response: Response): Promise<void> => {
    const { token, out } = response.locals['job'] as Job;
    if (!out) {
      response.status(404).end();
      return;
    }
    const part = `${out}.part`;
    const file = files.get(token);
    try {
      if (request.method === 'PUT') {
        const handle = file ?? (await open(part, 'w'));
        files.set(token, handle);
        const body = request.body as Buffer;
        await handle.write(body, 0, body.length, Number(request.query['position']));
      } else if (request.method === 'POST') {
        await file?.close();
        files.delete(token);
        await rename(part, out);
      } else if (request.method === 'DELETE') {
        await file?.close();
        files.delete(token);
        await rm(part, { force: true });
      }
      response.status(204).end();
    } catch (error) {
      await file?.close().catch(() => undefined);
      files.delete(token);
      await rm(part, { force: true });
      const full = (error as NodeJS.ErrnoException).code === 'ENOSPC';
      response
        .status(full ? 507 : 500)
        .type('text')
        .send(full ? 'The disk is full.' : `The result cannot be written: ${(error as Error).message}`);
    }
  };
}
