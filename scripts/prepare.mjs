// What start, test and the command line share: install what is missing, build what is stale.
import { execFileSync, execSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs';
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
  if (existsSync(INSTALLED) && readFileSync(INSTALLED, 'utf8') === wanted) return;
  console.error('Installing packages…');
  execSync('npm ci --ignore-scripts --no-audit --no-fund', { stdio: ['ignore', 2, 2] });
  writeFileSync(INSTALLED, wanted);
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
  if (existsSync(BUILT) && existsSync('build/cli.mjs') && readFileSync(BUILT, 'utf8') === sources()) return;
  console.error('Building…');
  execFileSync(process.execPath, ['scripts/build.mjs'], { stdio: ['ignore', 2, 2] });
}

/** Debian's Chromium for the browser tests, installed when this is root and none is there. */
export function needChromium() {
  const places = process.env.CHROMIUM_PATH
    ? [process.env.CHROMIUM_PATH]
    : ['/usr/bin/chromium', '/usr/bin/chromium-browser', '/usr/bin/google-chrome'];
  if (places.some((path) => existsSync(path))) return;
  const command = 'apt-get install -y --no-install-recommends chromium';
  if (process.getuid?.() !== 0 || !existsSync('/usr/bin/apt-get')) {
    console.error(`No Chromium found. Install it with: sudo ${command}\nor set CHROMIUM_PATH.`);
    process.exit(1);
  }
  console.error('Installing Chromium…');
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  execSync('apt-get update -qq', { stdio: ['ignore', 2, 2], env });
  execSync(command, { stdio: ['ignore', 2, 2], env });
}
