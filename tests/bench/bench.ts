/** Speed, as ratios against a reference in the same run. */
import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { mkdtemp } from 'node:fs/promises';
import { readdirSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { at, startParts } from '../browser/harness.ts';

const bench = await startParts('tests/bench/parts.ts');
const clip = bench.file(at('demo/lantern-drift.mp4'));
const rows: [what: string, figure: string, reference: string][] = [];
const run = <T>(what: string, work: Promise<T>): Promise<T> => {
  process.stderr.write(`${what}…\n`);
  return work;
};

const tenMinutes = join(await mkdtemp(join(tmpdir(), 'akmeon-bench-')), 'ten-minutes.wav');
// The demo's music and game over and over: shots, notes and drums in plenty.
execFileSync('ffmpeg', ['-v', 'error', '-stream_loop', '-1', '-i', at('demo/low-tide-signal.ogg'), '-stream_loop', '-1', '-i', at('demo/lantern-drift.mp4'), '-filter_complex', '[0:a][1:a]amix=2', '-t', '600', '-ac', '2', '-ar', '44100', tenMinutes]);
const aubio = ((): number | null => {
  const began = performance.now();
  // Debian package aubio-tools: a reference for speed only.
  return spawnSync('aubioonset', ['-B', '2048', '-H', '441', tenMinutes], { stdio: 'ignore' }).status === 0 ? performance.now() - began : null;
})();
const sound = await run('sound', bench.page.evaluate((url) => window.bench.sound(url), bench.file(tenMinutes)));
rows.push(['sound analysis of decoded sound, all detectors', aubio ? `${(sound.decoded / aubio).toFixed(2)} x the time of aubioonset -B 2048 -H 441` : `${(sound.decoded / 1000).toFixed(1)} s (aubioonset is not installed)`, '10 minutes of 44.1 kHz stereo']);
rows.push(['sound analysis with decoding', `${(sound.seconds / sound.whole * 1000).toFixed(0)} x real time`, 'the same WAV']);
const picture = await run('picture', bench.page.evaluate((url) => window.bench.picture(url), clip));
rows.push(['picture analysis', `${(picture.seconds / picture.analyse * 1000).toFixed(1)} x real time`, '960x540 at 30 frames a second']);
rows.push(['picture analysis against decoding alone', `${(picture.analyse / picture.decode).toFixed(2)} x its time`, `decoding: ${(picture.frames / picture.decode * 1000).toFixed(0)} frames a second`]);
const plain = await run('export, untouched', bench.page.evaluate((url) => window.bench.exportPlain(url), clip));
rows.push(['export of untouched frames against decoding and encoding alone', `${(plain.plain / plain.ours).toFixed(2)} of its frame rate`, `${(plain.frames / plain.plain * 1000).toFixed(0)} frames a second`]);
const preview = await run('preview', bench.page.evaluate((url) => window.bench.preview(url), clip));
for (const { height, width, fps } of preview) rows.push([`preview with five effects at ${width}x${height}`, `${fps.toFixed(1)} frames a second`, `${(fps / 30).toFixed(2)} of 30`]);
await bench.close();

/** Resident bytes of a process and all that descend from it. */
function resident(root: number): number {
  const parents = new Map<number, { parent: number; pages: number }>();
  for (const name of readdirSync('/proc')) {
    if (!/^\d+$/.test(name)) continue;
    try {
      const [, rest] = readFileSync(`/proc/${name}/stat`, 'utf8').split(') ') as [string, string];
      parents.set(Number(name), { parent: Number(rest.split(' ')[1]), pages: Number(readFileSync(`/proc/${name}/statm`, 'utf8').split(' ')[1]) });
    } catch {
      // It ended meanwhile.
    }
  }
  const under = (pid: number): boolean => pid === root || (parents.has(pid) && under(parents.get(pid)!.parent));
  return [...parents].reduce((sum, [pid, { pages }]) => sum + (under(pid) ? pages * 4096 : 0), 0);
}
const long = await run('memory', new Promise<{ growth: number; seconds: number }>((resolve) => {
  const began = performance.now();
  const child = spawn(process.execPath, [at('build/cli.mjs'), 'analyse', at('tests/fixtures/three-hours.mkv'), '--json'], { stdio: 'ignore' });
  let first = Infinity;
  let most = 0;
  const timer = setInterval(() => {
    const now = resident(child.pid!);
    // The browser has started after four seconds.
    if (performance.now() - began > 4000) {
      first = Math.min(first, now);
      most = Math.max(most, now);
    }
  }, 250);
  child.on('exit', () => {
    clearInterval(timer);
    resolve({ growth: most - first, seconds: (performance.now() - began) / 1000 });
  });
}));
rows.push(['memory of the process tree over a three-hour file', `grows by ${(long.growth / 1e6).toFixed(0)} MB`, `${long.seconds.toFixed(0)} s for the whole of it`]);

console.log('| what | figure | against |\n|---|---|---|');
for (const row of rows) console.log(`| ${row.join(' | ')} |`);
