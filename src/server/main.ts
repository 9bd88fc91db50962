/** Serves Akmeon on this machine. PORT chooses the port; 0 takes any free one. AKMEON_QUEUE: a batch's queue to show. */
import { fileURLToPath } from 'node:url';
import { createApp } from './app.ts';

const root = new URL('..', import.meta.url);
const folder = (name: string): string => fileURLToPath(new URL(name, root));
const app = createApp({ dist: folder('dist'), demo: folder('demo'), queue: process.env['AKMEON_QUEUE'] });
const wanted = Number(process.env['PORT'] ?? 4180);

function listen(port: number): void {
  const server = app.listen(port, '127.0.0.1');
  server.on('listening', () => {
    const address = server.address();
    const taken = typeof address === 'object' && address ? address.port : port;
    console.log(`Akmeon is ready: http://127.0.0.1:${taken}/demo-montage`);
  });
  server.on('error', (error: NodeJS.ErrnoException) => {
    if (error.code === 'EADDRINUSE' && port !== 0) listen(0);
    else {
      console.error(`Akmeon cannot start: ${error.message}`);
      process.exit(1);
    }
  });
}

listen(wanted);
