import { buildIfStale, install } from './prepare.mjs';

install();
buildIfStale();
await import('../build/server.mjs');
