import { spawnSync } from 'node:child_process';
import { buildIfStale, install, needChromium } from './prepare.mjs';

install();
needChromium();
buildIfStale();
const run = (...command) => {
  const { status } = spawnSync(command[0], command.slice(1), { stdio: ['ignore', 'inherit', 'inherit'] });
  if (status !== 0) process.exit(status ?? 1);
};
run('npm', 'run', '-s', 'check');
run(process.execPath, 'node_modules/vitest/vitest.mjs', 'run', ...process.argv.slice(2));
