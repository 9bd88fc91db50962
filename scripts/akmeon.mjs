import { buildIfStale, install } from './prepare.mjs';

// Paths are meant from where the person stands.
const from = process.env.INIT_CWD ?? process.cwd();
install();
buildIfStale();
process.chdir(from);
await import('../build/cli.mjs');
