/** The engine in a browser without a window, with one job's files within its reach. */
import { randomBytes } from 'node:crypto';
import { existsSync } from 'node:fs';
import type { AddressInfo } from 'node:net';
import { fileURLToPath } from 'node:url';
import { chromium, type Page } from 'playwright-core';
import { createApp, type Job } from '../server/app.ts';

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

/** Runs `work` on the engine's page; `base` is the job's address on the server. */
export async function withEngine<T>(files: JobFiles, work: (page: Page, base: string) => Promise<T>): Promise<T> {
  const executablePath = findChromium();
  if (!executablePath)
    throw new Error('no Chromium found: install it with "apt-get install chromium" or set CHROMIUM_PATH');
  const root = new URL('..', import.meta.url);
  const token = randomBytes(24).toString('hex');
  const job: Job = { token, ...files };
  const app = createApp(
    { dist: fileURLToPath(new URL('dist', root)), demo: fileURLToPath(new URL('demo', root)) },
    new Map([[token, job]]),
  );
  const server = app.listen(0, '127.0.0.1');
  await new Promise((resolve, reject) => server.once('listening', resolve).once('error', reject));
  const origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const browser = await chromium.launch({ executablePath, headless: true, args: CHROMIUM_FLAGS });
  try {
    const page = await browser.newPage();
    await page.goto(`${origin}/headless.html`);
    await page.waitForFunction('Boolean(window.akmeon)');
    return await work(page, `${origin}/job/${token}`);
  } finally {
    await browser.close();
    server.close();
    server.closeAllConnections();
  }
}
