// What start, test and the command line share: install what is missing, build what is stale.
import { execFileSync, execSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = fileURLToPath(new URL('..', import.meta.url));
process.chdir(root);

const INSTALLED = 'node_modules/.akmeon-installed';
const BUILT = 'dist/.akmeon-built';

const digest = (parts) => parts.reduce((hash, part) => hash.update(part), createHash('sha256')).digest('hex');

/** Installs the packages of the lock file once; says so on standard error only. */
export function install() {
  const wanted = digest([readFileSync('package-lock.json')]);
  const done = () => existsSync(INSTALLED) && readFileSync(INSTALLED, 'utf8') === wanted;
  if (done()) return;
  alone(() => {
    if (done()) return;
    console.error('Installing packages…');
    execSync('npm ci --ignore-scripts --no-audit --no-fund', { stdio: ['ignore', 2, 2] });
    writeFileSync(INSTALLED, wanted);
  });
}

const LOCK = '.akmeon-lock';
/** Milliseconds after which a lock is one that was left by what was killed. */
const LEFT = 10 * 60_000;

/** Does work that two of these commands, begun at once, must not do beside each other. */
function alone(work) {
  for (;;) {
    try {
      mkdirSync(LOCK);
      break;
    } catch (error) {
      if (error.code !== 'EEXIST') throw error;
      const since = statSync(LOCK, { throwIfNoEntry: false })?.mtimeMs;
      if (since && Date.now() - since > LEFT) rmSync(LOCK, { recursive: true, force: true });
      else Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 500);
    }
  }
  try {
    work();
  } finally {
    rmSync(LOCK, { recursive: true, force: true });
  }
}

function* filesIn(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1))) {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) {
      if (entry.name !== 'generated') yield* filesIn(path);
    } else yield path;
  }
}

const sources = () =>
  digest(
    [...filesIn('src'), 'vite.config.ts', 'package-lock.json', 'scripts/build.mjs', 'scripts/generate.mjs']
      .filter((path) => !path.endsWith('.test.ts'))
      .map((path) => `${path}\0${statSync(path).size}\0${digest([readFileSync(path)])}`),
  );

export function stampBuild() {
  mkdirSync('dist', { recursive: true });
  writeFileSync(BUILT, sources());
}

/** Builds unless the last build was made from the same sources. */
export function buildIfStale() {
  const done = () => existsSync(BUILT) && existsSync('build/cli.mjs') && readFileSync(BUILT, 'utf8') === sources();
  if (done()) return;
  alone(() => {
    if (done()) return;
    console.error('Building…');
    execFileSync(process.execPath, ['scripts/build.mjs'], { stdio: ['ignore', 2, 2] });
  });
}

/** A program of Debian's that tests need, installed when this is root and it is nowhere. */
function need(name, places, otherwise = '') {
  if (places.some((path) => existsSync(path))) return;
  const command = `apt-get install -y --no-install-recommends ${name}`;
  if (process.getuid?.() !== 0 || !existsSync('/usr/bin/apt-get')) {
    console.error(`No ${name} found. Install it with: sudo ${command}${otherwise}`);
    process.exit(1);
  }
  console.error(`Installing ${name}…`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  execSync('apt-get update -qq', { stdio: ['ignore', 2, 2], env });
  execSync(command, { stdio: ['ignore', 2, 2], env });
}

export function needChromium() {
  const set = process.env.CHROMIUM_PATH;
  const places = set ? [set] : ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/bin/google-chrome'];
  need('chromium', places, '\nor set CHROMIUM_PATH.');
}

/** The queue that a batch over several machines waits in. */
export const needRedis = () => need('redis-server', ['/usr/bin/redis-server', '/usr/local/bin/redis-server']);
