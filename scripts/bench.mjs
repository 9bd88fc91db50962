// Measures speed as ratios within one run: npm run bench. Paste the table into docs/performance.md.
import { execFileSync } from 'node:child_process';
import { buildIfStale, install, needChromium } from './prepare.mjs';

install();
needChromium();
buildIfStale();
execFileSync(process.execPath, ['node_modules/tsx/dist/cli.mjs', 'tests/bench/bench.ts', ...process.argv.slice(2)], {
  stdio: 'inherit',
});
