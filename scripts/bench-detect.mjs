// Runs the detectors over a folder of cases with known truth: npm run bench:detect -- DIR [--out FILE.json]
import { execFileSync } from 'node:child_process';
import { buildIfStale, install, needChromium } from './prepare.mjs';

install();
needChromium();
buildIfStale();
try {
  execFileSync(process.execPath, ['node_modules/tsx/dist/cli.mjs', 'tests/bench/detect.ts', ...process.argv.slice(2)], {
    stdio: 'inherit',
  });
} catch (error) {
  process.exitCode = error.status ?? 1;
}
