/** Speed, as ratios against a reference in the same run: `npm run bench [-- sound picture export drawing layers accents screen memory]`. */
import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { mkdtemp, rm } from 'node:fs/promises';
import { readdirSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { readMontage, writeMontage } from '../../src/core/document/akmeon.ts';
import type { Montage } from '../../src/core/document/types.ts';
import { planner } from '../../src/core/accents/plan.ts';
import { mediaIndex } from '../../src/core/timeline/timeline.ts';
import { footage, hit, punchAccent, shotRule, twoClips } from '../../src/core/testkit/montages.ts';
import { EFFECTS } from '../../src/effects/index.ts';
import { at, startParts } from '../browser/harness.ts';
import { screen } from './screen.ts';

const bench = await startParts('tests/bench/parts.ts');
const clip = bench.file(at('demo/lantern-drift.mp4'));
/** A folder of its own for each group. */
let scratch = '';
/** Each figure is printed when it is there: what fails later loses none. */
const rows = {
  push: (row: [what: string, figure: string, reference: string]): void => console.log(`| ${row.join(' | ')} |`),
};
const run = <T>(what: string, work: Promise<T>): Promise<T> => {
  process.stderr.write(`${what}…\n`);
  return work;
};

const asked = new Set(process.argv.slice(2));

async function sound(): Promise<void> {
  const tenMinutes = join(scratch, 'ten-minutes.wav');
  // The demo's music and game over and over: shots, notes and drums in plenty.
  execFileSync('ffmpeg', [
    '-v',
    'error',
    '-stream_loop',
    '-1',
    '-i',
    at('demo/low-tide-signal.ogg'),
    '-stream_loop',
    '-1',
    '-i',
    at('demo/lantern-drift.mp4'),
    '-filter_complex',
    '[0:a][1:a]amix=2',
    '-t',
    '600',
    '-ac',
    '2',
    '-ar',
    '44100',
    tenMinutes,
  ]);
  // Debian package aubio-tools: a reference for speed only.
  const reference = (): number | null => {
    const began = performance.now();
    return spawnSync('aubioonset', ['-B', '2048', '-H', '441', tenMinutes], { stdio: 'ignore' }).status === 0
      ? performance.now() - began
      : null;
  };
  // In turn, for the machine is now faster and now slower.
  const rounds: { aubio: number | null; decoded: number; whole: number; seconds: number }[] = [];
  for (let round = 0; round < 5; round++)
    rounds.push({
      aubio: reference(),
      ...(await run(
        `sound, round ${round + 1}`,
        bench.page.evaluate((url) => window.bench.sound(url), bench.file(tenMinutes)),
      )),
    });
  const ratios = rounds.map(({ decoded, aubio }) => decoded / (aubio ?? 1000)).sort((a, b) => a - b);
  const [least, middle, most] = [ratios[0]!, ratios[2]!, ratios[4]!].map((ratio) => ratio.toFixed(2));
  rows.push([
    'sound analysis of decoded sound, all detectors',
    rounds[0]!.aubio === null
      ? `${middle} s (aubioonset is not installed)`
      : `${middle} x the time of aubioonset -B 2048 -H 441 (five rounds: ${least} to ${most})`,
    '10 minutes of 44.1 kHz stereo',
  ]);
  const speeds = rounds.map(({ seconds, whole }) => (seconds / whole) * 1000).sort((a, b) => a - b);
  rows.push(['sound analysis with decoding', `${speeds[2]!.toFixed(0)} x real time`, 'the same WAV']);
}

/** The first seconds of the demo's footage at another size, without sound. */
function scaled(size: string, seconds: number): string {
  const path = join(scratch, `${size.replace(':', 'x')}.mp4`);
  const made = ['-an', '-vf', `scale=${size}`, '-c:v', 'libx264', '-preset', 'fast', path];
  execFileSync('ffmpeg', ['-v', 'error', '-i', at('demo/lantern-drift.mp4'), '-t', String(seconds), ...made]);
  return path;
}

async function picture(): Promise<void> {
  // The demo's footage as it is, and its first ten seconds as large as most footage.
  const large = scaled('1920:1080', 10);
  for (const [size, url] of [
    ['960x540', clip],
    ['1920x1080', bench.file(large)],
  ] as const) {
    const ours = await run(
      `picture, ${size}`,
      bench.page.evaluate((url) => window.bench.picture(url), url),
    );
    rows.push([
      `picture analysis of ${size}`,
      `${((ours.seconds / ours.analyse) * 1000).toFixed(1)} x real time`,
      '30 frames a second',
    ]);
    rows.push([
      'the same against decoding alone',
      `${(ours.analyse / ours.decode).toFixed(2)} x its time`,
      `decoding: ${((ours.frames / ours.decode) * 1000).toFixed(0)} frames a second`,
    ]);
  }
}

async function untouched(): Promise<void> {
  const plain = await run(
    'export, untouched',
    bench.page.evaluate((url) => window.bench.exportPlain(url), clip),
  );
  rows.push([
    'export of untouched frames against decoding and encoding alone',
    `${(plain.plain / plain.ours).toFixed(2)} of its frame rate`,
    `${((plain.frames / plain.plain) * 1000).toFixed(0)} frames a second`,
  ]);
}

/** Seconds that ffmpeg needs for frames of 1280x720 through a filter, without making them. */
function filtered(filter: string, frames: number): number {
  const took = (filters: string): number => {
    const began = performance.now();
    execFileSync('ffmpeg', [
      '-v',
      'error',
      '-f',
      'lavfi',
      '-i',
      `testsrc2=1280x720:r=30:d=${frames / 30}`,
      '-vf',
      filters,
      '-f',
      'null',
      '-',
    ]);
    return (performance.now() - began) / 1000;
  };
  return took(`format=rgb24,${filter}`) - took('format=rgb24');
}

async function drawing(): Promise<void> {
  const loops = [];
  for (const choice of ['gpu', 'cpu'] as const)
    loops.push(
      ...(
        await run(
          `loop, ${choice}`,
          bench.page.evaluate(([url, kind]) => window.bench.loop(url, kind), [clip, choice] as const),
        )
      ).map((one) => ({ ...one, choice })),
    );
  const loop = loops.filter(({ choice }) => choice === 'cpu');
  for (const { height, width, first, second, choice } of loops)
    rows.push([
      `loop of an accent with five effects at ${width}x${height}, ${choice}`,
      `${first.toFixed(1)} frames a second, from kept frames ${second.toFixed(0)}`,
      `${(first / 30).toFixed(2)} and ${(second / 30).toFixed(1)} of 30`,
    ]);
  const settled = loop.find(({ first }) => first >= 30);
  rows.push([
    'size at which its first round holds 30 frames a second',
    settled ? `${settled.width}x${settled.height}` : 'none of these',
    'at least 320x180',
  ]);
  for (const [what, id, params, filter] of [
    ['zoom', 'punch', { zoom: 120 }, 'crop=iw/1.2:ih/1.2,scale=1280:720:flags=bilinear'],
    ['channel shift', 'split', { amount: 2 }, 'rgbashift=rh=14:bh=-14'],
    ['Gaussian blur of 16 pixels radius', 'soft', { radius: 2.22 }, 'gblur=sigma=8'],
  ] as const) {
    const theirs = 60 / Math.max(0.01, filtered(filter, 60));
    for (const choice of ['gpu', 'cpu'] as const) {
      const ours = await run(
        `${what}, ${choice}`,
        bench.page.evaluate(([url, e, p, kind]) => window.bench.single(url, e, p, kind), [
          clip,
          id,
          params,
          choice,
        ] as const),
      );
      rows.push([
        `${what} on 1280x720, with developing the frame, ${choice}`,
        `${ours.toFixed(1)} frames a second`,
        `${(ours / theirs).toFixed(2)} of ffmpeg's ${filter.split('=')[0]!} (${theirs.toFixed(0)})`,
      ]);
    }
  }
  const footage720 = scaled('1280:720', 4);
  const { frames, plain, touched } = await run(
    'export, touched',
    bench.page.evaluate((url) => window.bench.exportTouched(url), bench.file(footage720)),
  );
  rows.push([
    'export of 1280x720 with five effects on all frames, cpu',
    `${((frames / touched) * 1000).toFixed(1)} frames a second`,
    `${(plain / touched).toFixed(2)} of those without (${((frames / plain) * 1000).toFixed(0)})`,
  ]);
}

async function layers(): Promise<void> {
  const rounds = await run(
    'layers',
    bench.page.evaluate((url) => window.bench.exportLayers(url), bench.file(scaled('1280:720', 4))),
  );
  const said = (part: 'two' | 'titled'): string => {
    const ratios = rounds.map((round) => round[part] / round.one).sort((a, b) => a - b);
    return `${ratios[1]!.toFixed(2)} x the time (three rounds: ${ratios[0]!.toFixed(2)} to ${ratios[2]!.toFixed(2)})`;
  };
  rows.push(['export of 1280x720, enlarged behind a drawn subject, cpu', said('two'), 'all of it enlarged']);
  rows.push(['export of 1280x720, enlarged, with a title, cpu', said('titled'), 'the same without']);
}

async function accents(): Promise<void> {
  const effects = ['punch', 'shake', 'flash', 'split', 'blocks', 'saturation', 'tear', 'vignette'].map((id) => ({
    id,
    effect: id,
    version: 1,
    on: true,
    params: { ...EFFECTS.get(id)!.thumbnail },
  }));
  const montage: Montage = {
    ...twoClips(),
    sources: [footage('long', 18000)],
    clips: [{ id: 'c', source: 'long', in: 0, out: 600, fit: 'fit' }],
    hits: Array.from({ length: 1000 }, (_, i) => hit(`h${i}`, 'long', 0.3 + i * 0.59)),
    accents: [{ ...punchAccent(), effects }],
    rules: [shotRule()],
  };
  const text = writeMontage(montage);
  const began = performance.now();
  const opened = readMontage(text);
  const plans = planner(opened, mediaIndex(opened.sources), EFFECTS);
  const open = performance.now() - began;
  const active = plans.placements.flatMap((p) => [p.frame, p.frame + 2]);
  for (const frame of active) plans.at(frame);
  const planned = performance.now();
  for (const frame of active) plans.at(frame);
  rows.push([
    'plan of a frame among 1,000 placements of 8 effects',
    `${((performance.now() - planned) / active.length).toFixed(3)} ms`,
    'at most 0.2 ms',
  ]);
  rows.push(['opening that montage: reading, checking, planning', `${open.toFixed(0)} ms`, 'at most 1000 ms']);
}

/** Resident bytes of a process and all that descend from it, and whether a page is among them. */
function resident(root: number): { bytes: number; page: boolean } {
  const parents = new Map<number, { parent: number; pages: number; page: boolean }>();
  for (const name of readdirSync('/proc')) {
    if (!/^\d+$/.test(name)) continue;
    try {
      const [, rest] = readFileSync(`/proc/${name}/stat`, 'utf8').split(') ') as [string, string];
      parents.set(Number(name), {
        parent: Number(rest.split(' ')[1]),
        pages: Number(readFileSync(`/proc/${name}/statm`, 'utf8').split(' ')[1]),
        page: readFileSync(`/proc/${name}/cmdline`, 'utf8').includes('--type=renderer'),
      });
    } catch {
      // It ended meanwhile.
    }
  }
  const under = (pid: number): boolean => pid === root || (parents.has(pid) && under(parents.get(pid)!.parent));
  const all = [...parents].filter(([pid]) => under(pid));
  return { bytes: all.reduce((sum, [, { pages }]) => sum + pages * 4096, 0), page: all.some(([, { page }]) => page) };
}
async function memory(): Promise<void> {
  const long = await run(
    'memory',
    new Promise<{ growth: number; seconds: number }>((resolve) => {
      const began = performance.now();
      const child = spawn(
        process.execPath,
        [at('build/cli.mjs'), 'analyse', at('tests/fixtures/three-hours.mkv'), '--json'],
        { stdio: 'ignore' },
      );
      let first: number | null = null;
      let most = 0;
      let started = Infinity;
      const timer = setInterval(() => {
        const { bytes, page } = resident(child.pid!);
        if (page) started = Math.min(started, performance.now());
        // What a page needs to begin with is there three seconds later.
        if (performance.now() - started > 3000) {
          first ??= bytes;
          most = Math.max(most, bytes);
        }
      }, 250);
      child.on('exit', () => {
        clearInterval(timer);
        resolve({ growth: most - (first ?? 0), seconds: (performance.now() - began) / 1000 });
      });
    }),
  );
  rows.push([
    'memory of the process tree over a three-hour file',
    `grows by ${(long.growth / 1e6).toFixed(0)} MB`,
    `${long.seconds.toFixed(0)} s for the whole of it`,
  ]);
}

const groups = {
  sound,
  picture,
  export: untouched,
  drawing,
  layers,
  accents,
  screen: () => screen(rows, scratch),
  memory,
};
console.log('| what | figure | against |\n|---|---|---|');
for (const [name, work] of Object.entries(groups)) {
  if (asked.size > 0 && !asked.has(name)) continue;
  scratch = await mkdtemp(join(tmpdir(), 'akmeon-bench-'));
  try {
    await work();
  } catch (error) {
    process.stderr.write(`${name} failed: ${error instanceof Error ? error.message : String(error)}\n`);
    process.exitCode = 1;
  } finally {
    await rm(scratch, { recursive: true, force: true });
  }
}
await bench.close();
