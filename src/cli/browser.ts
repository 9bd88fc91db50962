/** The engine in a browser without a window, with one job's files within its reach. */
import { randomBytes } from 'node:crypto';
import { existsSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { fileURLToPath } from 'node:url';
import { chromium, type Browser } from 'playwright-core';
import { createApp, type Job } from '../server/app.ts';

/** Milliseconds in which the engine must have started. */
const OPENS = 60_000;
const GONE = 'the browser stopped in the middle of the work';

/** The sandbox works for all but root. */
export const CHROMIUM_FLAGS = [
  ...(process.getuid?.() === 0 ? ['--no-sandbox'] : []),
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  '--enable-unsafe-swiftshader',
  '--autoplay-policy=no-user-gesture-required',
  // For trying other browsers: one without any graphics, for one.
  ...(process.env['AKMEON_CHROMIUM_FLAGS'] ?? '').split(' ').filter(Boolean),
];

/** CHROMIUM_PATH, or where Debian and others put it; null when there is none. */
export function findChromium(): string | null {
  const set = process.env['CHROMIUM_PATH'];
  const places = set
    ? [set]
    : ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/bin/google-chrome', '/usr/local/bin/chromium'];
  return places.find((path) => existsSync(path)) ?? null;
}

export interface JobFiles {
  readonly media: ReadonlyMap<string, string>;
  readonly out?: string;
}

/** The engine's page. */
export interface EnginePage {
  /** Calls a function there, which knows nothing of what is around it here; the argument and the answer are plain data. */
  evaluate<A, R>(work: (argument: A) => R | Promise<R>, argument: A): Promise<R>;
}

interface Answer {
  readonly id?: number;
  readonly error?: { readonly message: string };
  readonly result?: {
    readonly result?: { readonly value?: unknown };
    readonly exceptionDetails?: { readonly text: string; readonly exception?: { readonly description?: string } };
  };
}

/**
 * Opens a page beside those that Playwright watches: of a watched one the browser keeps all that its threads load and send,
 * which for a recording of hours is gigabytes. Spoken to by the Chrome DevTools Protocol, domains Target and Runtime.
 */
async function openPage(browser: Browser, url: string): Promise<EnginePage> {
  const driver = await browser.newBrowserCDPSession();
  const { browserContextId } = await driver.send('Target.createBrowserContext');
  const { targetId } = await driver.send('Target.createTarget', { url, browserContextId });
  const { sessionId } = await driver.send('Target.attachToTarget', { targetId });
  const waiting = new Map<number, { resolve(answer: Answer): void; reject(error: Error): void }>();
  let over = false;
  const gone = (): void => {
    over = true;
    for (const { reject } of waiting.values()) reject(new Error(GONE));
    waiting.clear();
  };
  browser.once('disconnected', gone);
  driver.on('Target.detachedFromTarget', (event) => event.sessionId === sessionId && gone());
  driver.on('Target.targetCrashed', (event) => event.targetId === targetId && gone());
  driver.on('Target.receivedMessageFromTarget', (event) => {
    const answer = JSON.parse(event.message) as Answer;
    if (event.sessionId !== sessionId || answer.id === undefined) return;
    waiting.get(answer.id)?.resolve(answer);
    waiting.delete(answer.id);
  });
  await driver.send('Target.setDiscoverTargets', { discover: true });
  let count = 0;
  const send = (method: string, params: object): Promise<Answer> =>
    new Promise((resolve, reject) => {
      if (over) return reject(new Error(GONE));
      const id = ++count;
      waiting.set(id, { resolve, reject });
      driver
        .send('Target.sendMessageToTarget', { sessionId, message: JSON.stringify({ id, method, params }) })
        .catch(reject);
    });
  const run = async (expression: string): Promise<unknown> => {
    const { error, result } = await send('Runtime.evaluate', { expression, awaitPromise: true, returnByValue: true });
    const { exceptionDetails: thrown } = result ?? {};
    if (error ?? thrown)
      throw new Error(error?.message ?? thrown!.exception?.description?.split('\n')[0] ?? thrown!.text);
    return result!.result?.value;
  };
  const started = Date.now();
  while ((await run('Boolean(window.akmeon)').catch(() => false)) !== true) {
    if (over) throw new Error(GONE);
    if (Date.now() - started > OPENS) throw new Error('the engine did not start in the browser');
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
  return {
    evaluate: <A, R>(work: (argument: A) => R | Promise<R>, argument: A) =>
      run(`(${work.toString()})(${JSON.stringify(argument)})`) as Promise<R>,
  };
}

/** An engine that is open. */
export interface Engine {
  readonly page: EnginePage;
  /** The job's address on the server. */
  readonly base: string;
  /** Puts other files within its reach. */
  use(files: JobFiles): void;
  /** False once its browser is gone. */
  lives(): Promise<boolean>;
}

/** Runs `work` on the engine's page; `base` is the job's address on the server. */
export const withEngine = <T>(files: JobFiles, work: (page: EnginePage, base: string) => Promise<T>): Promise<T> =>
  withOpenEngine((engine) => {
    engine.use(files);
    return work(engine.page, engine.base);
  });

/** The same for several files one after another: starting it takes longer than many of them do. */
export async function withOpenEngine<T>(work: (engine: Engine) => Promise<T>): Promise<T> {
  const executablePath = findChromium();
  if (!executablePath)
    throw new Error('no Chromium found: install it with "apt-get install chromium" or set CHROMIUM_PATH');
  const root = new URL('..', import.meta.url);
  const token = randomBytes(24).toString('hex');
  const job: Job = { token, media: new Map() };
  const app = createApp(
    { dist: fileURLToPath(new URL('dist', root)), demo: fileURLToPath(new URL('demo', root)) },
    new Map([[token, job]]),
  );
  const server = app.listen(0, '127.0.0.1');
  await new Promise((resolve, reject) => server.once('listening', resolve).once('error', reject));
  const origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const browser = await chromium.launch({ executablePath, headless: true, args: CHROMIUM_FLAGS });
  try {
    const page = await openPage(browser, `${origin}/headless.html`);
    return await work({
      page,
      base: `${origin}/job/${token}`,
      use: ({ media, out }) => Object.assign(job, { media, out }),
      lives: () =>
        page
          .evaluate(() => true, null)
          .then(
            () => true,
            () => false,
          ),
    });
  } finally {
    await browser.close();
    server.close();
    server.closeAllConnections();
  }
}
