// Builds the app, the server and the command line into dist/ and build/.
import { build as bundle } from 'esbuild';
import { execFileSync } from 'node:child_process';
import { copyFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { generate } from './generate.mjs';
import { stampBuild } from './prepare.mjs';

await generate();
const vite = createRequire(import.meta.url)
  .resolve('vite/package.json')
  .replace('package.json', 'bin/vite.js');
execFileSync(process.execPath, [vite, 'build', '--logLevel', 'warn'], { stdio: ['ignore', 2, 2] });
await bundle({
  entryPoints: { server: 'src/server/main.ts', cli: 'src/cli/main.ts' },
  outdir: 'build',
  outExtension: { '.js': '.mjs' },
  bundle: true,
  platform: 'node',
  format: 'esm',
  target: 'node20',
  packages: 'external',
});
copyFileSync('NOTICE', 'dist/notice.txt');
stampBuild();
