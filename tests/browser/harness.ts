/** What the browser tests share: the real server on a free port, Chromium, and a page with the engine's parts. */
import { build, type Plugin } from 'esbuild';
import { execFileSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { chromium, type BrowserContext, type Page } from 'playwright-core';
import { CHROMIUM_FLAGS, findChromium } from '../../src/cli/browser.ts';
import type { Montage } from '../../src/core/document/types.ts';
import { createApp, type Job } from '../../src/server/app.ts';

export const at = (path: string): string => fileURLToPath(new URL(`../../${path}`, import.meta.url));
export const fixture = (name: string): string => at(`tests/fixtures/${name}`);

export interface Bench {
  readonly origin: string;
  readonly context: BrowserContext;
  /** A page that fails the test on any error or policy violation it meets. */
  page(): Promise<Page>;
  /** Takes the server away from pages that are open. */
  stopServer(): void;
  /** Everything that went wrong on the pages so far. */
  readonly troubles: string[];
  close(): Promise<void>;
}

/** The app with a persistent profile of its own. */
export async function startBench(
  jobs: Map<string, Job> = new Map(),
  flags: readonly string[] = [],
  {
    offline = false,
    dist = at('dist'),
    queue,
  }: { readonly offline?: boolean; readonly dist?: string; readonly queue?: string } = {},
): Promise<Bench> {
  const server = createApp({ dist, demo: at('demo'), queue }, jobs).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const profile = await mkdtemp(join(tmpdir(), 'akmeon-profile-'));
  const context = await chromium.launchPersistentContext(profile, {
    executablePath: findChromium()!,
    args: [...CHROMIUM_FLAGS, ...flags],
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    // Keeping the whole app for a visit without its server is tested once, in offline.test.ts.
    serviceWorkers: offline ? 'allow' : 'block',
  });
  // Two files of tests go on beside each other on two cores.
  context.setDefaultTimeout(60_000);
  const troubles: string[] = [];
  await context.addInitScript(() => {
    addEventListener('securitypolicyviolation', (event) =>
      console.error(`policy violation: ${event.violatedDirective} ${event.blockedURI}`),
    );
    // The plain file field is driven here; the browser's own file window cannot be.
    Reflect.deleteProperty(window, 'showOpenFilePicker');
  });
  context.on('page', watch);
  function watch(page: Page): void {
    page.on('pageerror', (error) => troubles.push(error.message));
    page.on('console', (message) => {
      if (message.type() === 'error') troubles.push(message.text());
    });
  }
  return {
    origin: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    context,
    troubles,
    page: () => context.newPage(),
    stopServer() {
      server.close();
      server.closeAllConnections();
    },
    async close() {
      await context.close();
      server.close();
      server.closeAllConnections();
      await rm(profile, { recursive: true, force: true });
    },
  };
}

/** What Vite gives the address of is part of the bundle itself. */
const addresses: Plugin = {
  name: 'addresses',
  setup(bundle) {
    bundle.onResolve({ filter: /\?url$/ }, ({ path }) => ({
      path: at(`node_modules/${path.slice(0, -'?url'.length)}`),
      namespace: 'address',
    }));
    bundle.onLoad({ filter: /./, namespace: 'address' }, async ({ path }) => ({
      contents: await readFile(path),
      loader: 'dataurl',
    }));
  },
};

/** A page that holds the engine's parts themselves, for measuring what they draw and read. */
export async function startParts(
  entry = 'tests/browser/parts.ts',
): Promise<{ page: Page; file(path: string): string; close(): Promise<void> }> {
  const bundled = async (path: string): Promise<string> => {
    const { outputFiles } = await build({
      entryPoints: [at(path)],
      bundle: true,
      write: false,
      format: 'esm',
      target: 'es2023',
      logLevel: 'error',
      plugins: [addresses],
    });
    return outputFiles[0]!.text;
  };
  /** Bundled when they are asked for: few pages draw in threads. */
  const scripts: Record<string, string> = { '/parts.js': entry, '/draw.js': 'src/engine/export/draw.worker.ts' };
  const files = new Map<string, string>();
  const app = createApp({ dist: at('dist'), demo: at('demo') }, new Map([['test', { token: 'test', media: files }]]));
  const server: Server = createServer((request, response) => {
    const script = scripts[request.url ?? ''];
    if (script)
      void bundled(script).then(
        (text) => response.setHeader('Content-Type', 'text/javascript').end(text),
        (error: unknown) => response.writeHead(500).end(String(error)),
      );
    else if (request.url === '/parts.html')
      response
        .setHeader('Content-Type', 'text/html')
        .end('<!doctype html><script type="module" src="/parts.js"></script>');
    else app(request, response);
  }).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
  const origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const browser = await chromium.launch({ executablePath: findChromium()!, args: CHROMIUM_FLAGS });
  const page = await browser.newPage();
  await page.goto(`${origin}/parts.html`);
  await page.waitForFunction('Boolean(window.parts ?? window.bench)');
  let count = 0;
  return {
    page,
    file(path) {
      const name = `f${count++}`;
      files.set(name, path);
      return `${origin}/job/test/media/${name}`;
    },
    async close() {
      await browser.close();
      server.close();
      server.closeAllConnections();
    },
  };
}

const has = (command: string): boolean =>
  ['/usr/bin', '/usr/local/bin'].some((folder) => existsSync(join(folder, command)));
export const HAS_FFMPEG = has('ffmpeg') && has('ffprobe');
export const ffmpeg = (...args: string[]): Buffer =>
  execFileSync('ffmpeg', ['-v', 'error', ...args], { maxBuffer: 1 << 30 });

/** Brings files in, at the station where that is done. */
export const bring = (page: Page, ...files: string[]): Promise<void> =>
  page.locator('section[aria-label="Bring in"] input[type="file"][multiple]').setInputFiles(files);

/** Goes to a station by its name. */
export async function station(page: Page, name: string): Promise<void> {
  await page.getByRole('link', { name, exact: true }).click();
  // Its panel is fetched when it is gone to: until then the main button is that of another station.
  if (name === 'Export') await page.getByLabel('Kind of file').waitFor();
}

/** Finds the hits, and goes to their list. */
export async function findHits(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Find hits' }).click();
  await page.getByRole('tab', { name: 'Hits', exact: true }).click({ timeout: 120_000 });
  await page.getByRole('button', { name: /^Keep all \d/ }).waitFor();
}

/** Waits until all edits are stored. */
export const saved = (page: Page): Promise<void> => page.locator('[data-saved="saved"]').waitFor();

/** The latest notice of something that went wrong. */
export const trouble = (page: Page): Promise<string | null> => page.locator('[data-tone="error"]').last().textContent();

/** The montage as it is saved to a project file. */
export async function montageOf(page: Page): Promise<Montage> {
  await saved(page);
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('button', { name: 'Save to a project file' }).click(),
  ]);
  return JSON.parse(await readFile((await download.path())!, 'utf8')) as Montage;
}
