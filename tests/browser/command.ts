/** The command line as it is called from a folder. */
import { spawnSync } from 'node:child_process';
import { at } from './harness.ts';

export function command(folder: string, ...args: string[]) {
  const { status, stdout, stderr } = spawnSync(process.execPath, [at('scripts/akmeon.mjs'), ...args], {
    encoding: 'utf8',
    cwd: folder,
    env: { ...process.env, INIT_CWD: folder },
  });
  return { status, stdout, stderr };
}
