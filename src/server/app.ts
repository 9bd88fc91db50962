/** The server of the built app: static files, the demo, and one-time jobs of the command line. */
import express, { type Express, type Request, type Response, type NextFunction } from 'express';
import helmet from 'helmet';
import { randomBytes } from 'node:crypto';
import { open, rename, rm, type FileHandle } from 'node:fs/promises';
import { STATUS_CODES } from 'node:http';
import { extname, join } from 'node:path';
import { copies, MOST_PIECE } from './copies.ts';
import { queueStatus } from './queue.ts';

export interface ServerFolders {
  /** The built app. */
  readonly dist: string;
  /** The demo montage and its media. */
  readonly demo: string;
  /** Address of the queue of a batch over several machines, where its progress is to be seen. */
  readonly queue?: string | undefined;
}

/** Files a command line job may read, and the one it may write. */
export interface Job {
  readonly token: string;
  /** Files that it may read, by name, and the one that it may write; both change from file to file of a long job. */
  media: ReadonlyMap<string, string>;
  out?: string | undefined;
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

/** What no page here asks of the browser. */
const REFUSED_FEATURES = ['camera', 'microphone', 'geolocation', 'payment', 'usb', 'serial', 'midi', 'display-capture'];

function policy({ blobWorkers = false, data = false, framed = false }) {
  return helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'self'"],
        scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
        styleSrc: ["'self'"],
        workerSrc: ["'self'", ...(blobWorkers ? ['blob:'] : [])],
        imgSrc: ["'self'", ...(data ? ['data:', 'blob:'] : [])],
        mediaSrc: ["'self'", 'blob:'],
        fontSrc: ["'self'"],
        connectSrc: ["'self'"],
        formAction: ["'self'"],
        objectSrc: ["'none'"],
        baseUri: ["'none'"],
        frameAncestors: [framed ? "'self'" : "'none'"],
        // Only addresses of this server become scripts: see the policy in src/engine/trusted-types.ts.
        ...(blobWorkers ? {} : { requireTrustedTypesFor: ["'script'"], trustedTypes: ['default'] }),
      },
    },
    crossOriginOpenerPolicy: { policy: 'same-origin' },
    crossOriginEmbedderPolicy: { policy: 'require-corp' },
    crossOriginResourcePolicy: { policy: 'same-origin' },
    strictTransportSecurity: false,
  });
}

const PAGE = policy({ data: true });
const HEADLESS = policy({});
/** It is opened in a frame of the app. */
const PEOPLE = policy({ framed: true });
/** The sound encoder, in the export's thread alone, starts its own worker from a blob. */
const EXPORTER = policy({ blobWorkers: true });
const POLICIES: Readonly<Record<string, typeof PAGE>> = { '/headless.html': HEADLESS, '/people.html': PEOPLE };
const policyFor = (path: string): typeof PAGE =>
  /^\/assets\/export\.worker/.test(path) ? EXPORTER : (POLICIES[path] ?? PAGE);

export function createApp({ dist, demo, queue }: ServerFolders, jobs: ReadonlyMap<string, Job> = new Map()): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(localOnly);
  app.use((request, response, next) => policyFor(request.path)(request, response, next));
  app.use((_, response, next) => {
    response.setHeader('Permissions-Policy', REFUSED_FEATURES.map((name) => `${name}=()`).join(', '));
    next();
  });
  app.use('/copies', copies());
  app.get('/queue.json', (_, response) => {
    response.setHeader('Cache-Control', 'no-store');
    if (!queue) return void response.json(null);
    queueStatus(queue).then(
      (status) => response.json(status),
      (error: Error) => response.status(502).type('text').send(error.message),
    );
  });
  app.use('/job/:token', (request, response, next) => {
    const job = jobs.get(request.params.token);
    if (!job) response.status(404).type('text').send('No such job.');
    else {
      response.locals['job'] = job;
      next();
    }
  });
  app.get('/job/:token/media/:name', serveMedia);
  app.all('/job/:token/out', express.raw({ type: () => true, limit: MOST_PIECE }), receiveResult());
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
  app.use(sayWhatFailed);
  return app;
}

/** Ranges, validators and empty files as RFC 9110 has them: all by Express. */
function serveMedia(request: Request, response: Response, next: NextFunction): void {
  const job = response.locals['job'] as Job;
  const path = job.media.get(String(request.params['name']));
  if (!path) {
    response.status(404).type('text').send('No such file.');
    return;
  }
  const type = TYPES[extname(path).toLowerCase()] ?? 'application/octet-stream';
  response.sendFile(path, { dotfiles: 'allow', cacheControl: false, headers: { 'Content-Type': type } }, (error) => {
    if (error && !response.headersSent) next(error);
  });
}

/** A result while it is written, under a name of its own beside the one it takes when whole. */
interface Growing {
  readonly handle: FileHandle;
  readonly part: string;
  end: number;
}

function receiveResult() {
  const files = new Map<string, Growing>();
  const begin = async (token: string, out: string): Promise<Growing> => {
    const part = `${out}.${randomBytes(6).toString('hex')}.part`;
    const file = { handle: await open(part, 'wx'), part, end: 0 };
    files.set(token, file);
    return file;
  };
  const drop = async (token: string): Promise<void> => {
    const file = files.get(token);
    files.delete(token);
    await file?.handle.close().catch(() => undefined);
    if (file) await rm(file.part, { force: true });
  };
  return async (request: Request, response: Response): Promise<void> => {
    const { token, out } = response.locals['job'] as Job;
    if (!out) {
      response.status(404).end();
      return;
    }
    try {
      if (request.method === 'PUT') {
        const position = Number(request.query['position']);
        const file = files.get(token);
        // Results are written on and mended behind, never far ahead: a hole would be a file of any size.
        if (!Number.isSafeInteger(position) || position < 0 || position > (file?.end ?? 0) + MOST_PIECE) {
          response.status(400).type('text').send('A piece of the result must join what is there.');
          return;
        }
        const growing = file ?? (await begin(token, out));
        const body = request.body as Buffer;
        await growing.handle.write(body, 0, body.length, position);
        growing.end = Math.max(growing.end, position + body.length);
      } else if (request.method === 'POST') {
        const file = files.get(token);
        if (!file) {
          response.status(400).type('text').send('Nothing was written.');
          return;
        }
        files.delete(token);
        await file.handle.close();
        await rename(file.part, out);
      } else if (request.method === 'DELETE') await drop(token);
      response.status(204).end();
    } catch (error) {
      await drop(token);
      const full = (error as NodeJS.ErrnoException).code === 'ENOSPC';
      response
        .status(full ? 507 : 500)
        .type('text')
        .send(full ? 'The disk is full.' : `The result cannot be written: ${(error as Error).message}`);
    }
  };
}

/** Answers without a stack, and without a path of this machine. */
function sayWhatFailed(error: unknown, _: Request, response: Response, next: NextFunction): void {
  if (response.headersSent) return next(error);
  const wanted = Number((error as { status?: unknown }).status);
  const status = wanted >= 400 && wanted < 600 ? wanted : 500;
  response
    .status(status)
    .type('text')
    .send(STATUS_CODES[status] ?? 'Failed');
}
