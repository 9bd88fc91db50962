/**
 * Working copies of footage that the browser cannot decode: the file is sent here in pieces, `ffmpeg` of this machine makes
 * H.264 of it, and the result is fetched again. One at a time, in a folder that goes with it, under a token of its own.
 */
import express, { Router, type Request, type Response } from 'express';
import { execFile, spawn, type ChildProcess } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { mkdtemp, open, rm, stat, statfs, type FileHandle } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';

/** Bytes of one piece of a file that comes or goes. */
export const MOST_PIECE = 64 << 20;
/** Bytes of a whole file, and the times its size that must be free on the disk. */
const MOST_FILE = 256 * 2 ** 30;
const ROOM = 2.5;
/** Milliseconds that a copy nobody asks for is kept. */
const FORGOTTEN = 10 * 60_000;

/** Containers that are read: no lists of other files are among them. */
const CONTAINERS = 'mov,mp4,matroska,webm,avi,mpegts,mpeg,flv,asf,mxf,dv,ogg,m4v,rm,gxf,ivf';
const HDR = /smpte2084|arib-std-b67/;
/** High dynamic range to BT.709 by the curve of J. Hable, "Uncharted 2: HDR Lighting", GDC 2010; white at 100 nits. */
const TONE_MAPPED =
  'zscale=t=linear:npl=100,format=gbrpf32le,zscale=p=bt709,tonemap=tonemap=hable:desat=0,zscale=t=bt709:m=bt709:r=tv';

interface Copy {
  readonly token: string;
  readonly folder: string;
  readonly size: number;
  readonly file: FileHandle;
  written: number;
  state: 'sending' | 'making' | 'done' | 'failed';
  /** 0-1. */
  share: number;
  why: string;
  process: ChildProcess | null;
  seen: number;
}

const run = promisify(execFile);

/** What ffprobe says of a file. */
async function probed(path: string): Promise<{ seconds: number; hdr: boolean; picture: boolean }> {
  const wanted = 'format=duration:stream=codec_type,color_transfer';
  const { stdout } = await run(
    'ffprobe',
    ['-v', 'error', '-format_whitelist', CONTAINERS, '-show_entries', wanted, '-of', 'json', path],
    { timeout: 60_000, maxBuffer: 16 << 20 },
  ).catch(() => ({ stdout: '{}' }));
  const about = JSON.parse(stdout) as {
    format?: { duration?: string };
    streams?: { codec_type?: string; color_transfer?: string }[];
  };
  const streams = about.streams ?? [];
  return {
    seconds: Number(about.format?.duration) || 0,
    hdr: streams.some(({ color_transfer: transfer = '' }) => HDR.test(transfer)),
    picture: streams.some(({ codec_type: type }) => type === 'video'),
  };
}

const argumentsFor = (input: string, output: string, hdr: boolean): string[] => [
  ...['-nostdin', '-v', 'error', '-progress', 'pipe:1', '-protocol_whitelist', 'file', '-format_whitelist', CONTAINERS],
  ...['-i', input, '-map', '0:v:0', '-map', '0:a?', '-map_metadata', '-1', '-dn', '-sn'],
  ...['-vf', `${hdr ? `${TONE_MAPPED},` : ''}scale=trunc(iw/2)*2:trunc(ih/2)*2,format=yuv420p`],
  // Every frame keeps its own time; one can be sought to within a second.
  ...['-fps_mode', 'passthrough', '-c:v', 'libx264', '-preset', 'veryfast', '-crf', '16'],
  ...[
    '-force_key_frames',
    'expr:gte(t,n_forced)',
    '-c:a',
    'aac',
    '-b:a',
    '256k',
    '-movflags',
    '+faststart',
    '-y',
    output,
  ],
];

export function copies(): Router {
  const router = Router();
  let copy: Copy | null = null;
  /** Asked anew every time: what is missing can be installed while the server runs. */
  const available = (): Promise<boolean> =>
    run('ffmpeg', ['-version']).then(
      () => true,
      () => false,
    );

  const drop = async (): Promise<void> => {
    const old = copy;
    copy = null;
    old?.process?.kill('SIGKILL');
    await old?.file.close().catch(() => undefined);
    if (old) await rm(old.folder, { recursive: true, force: true });
  };
  // A page that is gone asks no more.
  setInterval(() => {
    if (copy && Date.now() - copy.seen > FORGOTTEN) void drop();
  }, 60_000).unref();
  process.once('exit', () => copy?.process?.kill('SIGKILL'));

  const say = (response: Response, status: number, text: string): void =>
    void response.status(status).type('text').send(text);
  /** The copy that a request may touch; answers it where there is none. */
  const mine = (request: Request, response: Response): Copy | null => {
    if (copy && copy.token === request.params['token']) {
      copy.seen = Date.now();
      return copy;
    }
    say(response, 404, 'There is no such copy.');
    return null;
  };

  router.get('/', async (_, response) => {
    response.json({ available: await available(), install: 'sudo apt install ffmpeg' });
  });

  router.post('/', async (request, response) => {
    const size = Number(request.query['size']);
    if (!(await available()))
      return say(response, 501, 'There is no ffmpeg on this machine: install it with “sudo apt install ffmpeg”.');
    if (!Number.isSafeInteger(size) || size < 1 || size > MOST_FILE)
      return say(response, 400, 'The size is none that is copied.');
    if (copy?.state === 'sending' || copy?.state === 'making')
      return say(response, 409, 'Another working copy is being made: one at a time.');
    await drop();
    const { bavail, bsize } = await statfs(tmpdir());
    if (bavail * bsize < ROOM * size) return say(response, 507, 'The disk has too little room for a working copy.');
    const folder = await mkdtemp(join(tmpdir(), 'akmeon-copy-'));
    copy = {
      token: randomBytes(16).toString('hex'),
      folder,
      size,
      file: await open(join(folder, 'in'), 'wx'),
      written: 0,
      state: 'sending',
      share: 0,
      why: '',
      process: null,
      seen: Date.now(),
    };
    response.json({ token: copy.token });
  });

  router.put('/:token', express.raw({ type: () => true, limit: MOST_PIECE }), async (request, response) => {
    const own = mine(request, response);
    if (!own) return;
    const body = request.body as Buffer;
    if (
      own.state !== 'sending' ||
      Number(request.query['position']) !== own.written ||
      own.written + body.length > own.size
    )
      return say(response, 400, 'A piece of the file must join what is there.');
    try {
      await own.file.write(body, 0, body.length, own.written);
      own.written += body.length;
      response.status(204).end();
    } catch (error) {
      const full = (error as NodeJS.ErrnoException).code === 'ENOSPC';
      await drop();
      say(response, full ? 507 : 500, full ? 'The disk is full.' : 'The file cannot be kept.');
    }
  });

  router.post('/:token', async (request, response) => {
    const own = mine(request, response);
    if (!own) return;
    if (own.state !== 'sending' || own.written !== own.size) return say(response, 400, 'The file is not whole yet.');
    await own.file.close();
    own.state = 'making';
    const [input, output] = [join(own.folder, 'in'), join(own.folder, 'out.mp4')];
    const { seconds, hdr, picture } = await probed(input);
    if (!picture) {
      own.state = 'failed';
      own.why = 'ffmpeg finds no picture in it either.';
      return void response.status(204).end();
    }
    const made = spawn('ffmpeg', argumentsFor(input, output, hdr), { stdio: ['ignore', 'pipe', 'pipe'] });
    own.process = made;
    let said = '';
    made.stdout.on('data', (data: Buffer) => {
      const at = /out_time_us=(\d+)/.exec(String(data));
      if (at && seconds > 0) own.share = Math.min(0.999, Number(at[1]) / 1e6 / seconds);
    });
    made.stderr.on('data', (data: Buffer) => (said = `${said}${String(data)}`.slice(-2000)));
    made.on('error', () => Object.assign(own, { state: 'failed', why: 'ffmpeg cannot be started.' }));
    made.on('close', (code) => {
      own.process = null;
      if (code === 0) Object.assign(own, { state: 'done', share: 1 });
      else if (own.state === 'making') {
        own.state = 'failed';
        // No path of this machine, and only the last of what it said.
        own.why = /No space left/.test(said)
          ? 'The disk is full.'
          : `ffmpeg gave up: ${said.replaceAll(own.folder, '').trim().split('\n').at(-1)?.slice(0, 300) ?? 'without a reason'}`;
      }
    });
    response.status(204).end();
  });

  router.get('/:token', (request, response) => {
    const own = mine(request, response);
    if (own) response.json({ state: own.state, share: own.share, why: own.why });
  });

  router.get('/:token/file', async (request, response) => {
    const own = mine(request, response);
    if (!own) return;
    if (own.state !== 'done') return say(response, 409, 'The copy is not made yet.');
    const path = join(own.folder, 'out.mp4');
    response.setHeader('Content-Length', (await stat(path)).size);
    response.sendFile(path, { dotfiles: 'allow', cacheControl: false });
  });

  router.delete('/:token', async (request, response) => {
    if (!mine(request, response)) return;
    await drop();
    response.status(204).end();
  });
  return router;
}
