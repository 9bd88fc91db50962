import { spawn } from 'node:child_process';
import { buildIfStale, install, needChromium, needRedis } from './prepare.mjs';

install();
needChromium();
needRedis();
buildIfStale();
/** Ends the whole run where a command fails. Output of what runs beside something else comes when it is done. */
const run = (aside, ...command) =>
  new Promise((resolve) => {
    const started = spawn(command[0], command.slice(1), {
      stdio: ['ignore', aside ? 'pipe' : 'inherit', aside ? 'pipe' : 'inherit'],
    });
    const said = [];
    for (const stream of [started.stdout, started.stderr]) stream?.on('data', (data) => said.push(data));
    started.on('close', (status) => {
      if (aside) process.stdout.write(Buffer.concat(said));
      if (status !== 0) process.exit(status ?? 1);
      resolve();
    });
  });
const vitest = (...args) => run(false, process.execPath, 'node_modules/vitest/vitest.mjs', 'run', ...args);
const wanted = process.argv.slice(2);
const check = run(true, 'npm', 'run', '-s', 'check');
if (wanted.length) {
  await check;
  await vitest(...wanted);
} else {
  // The check takes one core; what needs a browser waits, so that nothing disturbs it.
  await Promise.all([check, vitest('--project', 'unit')]);
  await vitest('--project', 'browser', '--project', 'screenless');
}
