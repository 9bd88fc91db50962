import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { mkdtemp, readdir, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { emptyMontage, DEFAULT_GRID, type Montage } from '../../src/core/document/types.ts';
import { at, fixture, startParts } from './harness.ts';

const akmeon = (...args: string[]) => {
  const { status, stdout, stderr } = spawnSync(process.execPath, [at('scripts/akmeon.mjs'), ...args], {
    encoding: 'utf8',
    cwd: folder,
    env: { ...process.env, INIT_CWD: folder },
  });
  return { status, stdout, stderr };
};
let folder: string;
let parts: Awaited<ReturnType<typeof startParts>>;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'akmeon-cli-'));
  parts = await startParts();
});
afterAll(() => parts.close());

describe('akmeon analyse', () => {
  it('prints the hits as one JSON object and nothing else', () => {
    const { status, stdout } = akmeon('analyse', fixture('hits.mp4'), '--json');
    expect(status).toBe(0);
    const result = JSON.parse(stdout) as {
      file: string;
      fps: number;
      duration: number;
      hits: { frame: number; kind: string; evidence: unknown[] }[];
      beats: unknown[];
      tempo: unknown;
      cuts: unknown[];
    };
    expect(result).toMatchObject({ file: 'hits.mp4', fps: 30, cuts: [] });
    expect(result.hits.map((h) => [h.frame, h.kind])).toEqual([15, 45, 75, 105, 135, 165].map((f) => [f, 'flash']));
    expect(stdout.trim().split('\n')).toHaveLength(1);
  });

  it("finds the demo's events, whose exact times stand beside it", () => {
    const events = JSON.parse(readFileSync(at('demo/events.json'), 'utf8')) as Record<
      string,
      { frame: number; kind: string }[]
    >;
    for (const [file, kind] of [
      ['lantern-drift.mp4', 'shot'],
      ['rampart-rally.mp4', 'impact'],
    ] as const) {
      const { hits } = JSON.parse(akmeon('analyse', at(`demo/${file}`), '--json').stdout) as {
        hits: { frame: number; kind: string; kinds: Record<string, number> }[];
      };
      const wanted = events[file]!.filter((e) => e.kind === kind).map((e) => e.frame);
      // Bolts and slams are seen and heard: named after the flash and the jolt.
      const found = hits.filter(
        (h) => h.kind === kind || h.kind === (kind === 'shot' ? 'flash' : 'jolt') || (h.kinds[kind] ?? 0) >= 0.5,
      );
      for (const frame of wanted)
        expect(
          found.some((h) => Math.abs(h.frame - frame) <= 1),
          `${file} at ${frame}`,
        ).toBe(true);
    }
  });

  it("finds the beats and tempo of the demo's tune, a list of their own beside the hits", () => {
    const { hits, beats, tempo } = JSON.parse(akmeon('analyse', at('demo/low-tide-signal.ogg'), '--json').stdout) as {
      hits: { kind: string }[];
      beats: number[];
      tempo: number;
    };
    expect(Math.abs(tempo / 120 - 1)).toBeLessThan(0.01);
    // Beats lie on half seconds; before the drop the tune has no stroke on the beat to tell them by.
    const dropped = beats.filter((t) => t >= 8);
    expect(dropped.length).toBeGreaterThan(20);
    expect(dropped.filter((t) => Math.abs(t * 2 - Math.round(t * 2)) < 0.14).length / dropped.length).toBeGreaterThan(
      0.9,
    );
    expect(hits.some((h) => h.kind === 'beat')).toBe(false);
    const pier = JSON.parse(akmeon('analyse', at('demo/lantern-drift.mp4'), '--json').stdout) as {
      beats: number[];
      tempo: null;
    };
    expect(pier).toMatchObject({ beats: [], tempo: null });
  });

  it('listens to the chosen track, and sensitivity finds more', () => {
    const times = (...more: string[]): number[] =>
      (
        JSON.parse(akmeon('analyse', fixture('two-tracks.mkv'), '--json', ...more).stdout) as { hits: { t: number }[] }
      ).hits.map((h) => h.t);
    // Bare clicks are surely no sound of a game: only who asks for everything is shown them. The second track has one half past each second, the first has none.
    const clicks = times('--audio-track', '2', '--sensitivity', '1');
    expect(clicks.map((t) => Math.round(t * 100) / 100)).toEqual([0.5, 1.5]);
    for (const t of times('--audio-track', '1', '--sensitivity', '1'))
      expect(Math.min(...clicks.map((click) => Math.abs(click - t)))).toBeGreaterThan(0.1);
    expect(times('--audio-track', '2', '--sensitivity', '1').length).toBeGreaterThanOrEqual(
      times('--audio-track', '2', '--sensitivity', '0').length,
    );
  });

  it('finds what sounds like a stretch of the file, and where what a frame shows in a rectangle appears; each alone', () => {
    const events = (
      JSON.parse(readFileSync(at('demo/events.json'), 'utf8')) as Record<
        string,
        { t: number; frame: number; kind: string }[]
      >
    )['lantern-drift.mp4']!;
    const of = (kind: string) => events.filter((e) => e.kind === kind);
    const ask = (...args: string[]) =>
      (
        JSON.parse(akmeon('analyse', at('demo/lantern-drift.mp4'), '--json', ...args).stdout) as {
          hits: { t: number; audioT: number; frame: number; kind: string }[];
        }
      ).hits;
    const bolt = of('shot')[0]!.t;
    const alike = ask('--like', `${(bolt - 0.03).toFixed(3)},${(bolt + 0.2).toFixed(3)}`);
    expect(new Set(alike.map((h) => h.kind))).toEqual(new Set(['match']));
    expect(of('shot').filter((e) => alike.some((h) => Math.abs(h.audioT - e.t) < 0.08)).length).toBeGreaterThanOrEqual(
      of('shot').length - 1,
    );
    const tags = ask('--region', '0.75,0.052,0.115,0.063', '--reference', String(of('popup')[0]!.frame + 10));
    expect(tags.map((h) => [h.kind, h.frame])).toEqual(of('popup').map((e) => ['popup', e.frame]));
    expect(ask('--kinds', 'flash', '--min-confidence', '0.5').every((h) => h.kind === 'flash')).toBe(true);
  });

  it.each([
    [2, ['analyse', fixture('hits.mp4'), '--json', '--like', '3,1']],
    [2, ['analyse', fixture('hits.mp4'), '--json', '--like', '1']],
    [2, ['analyse', fixture('hits.mp4'), '--json', '--kinds', 'shot,bang']],
    [2, ['analyse', fixture('hits.mp4'), '--json', '--region', '0,0,1,1']],
    [2, ['analyse', fixture('hits.mp4'), '--json', '--region', '0.5,0,0.9,1', '--reference', '1']],
    [3, ['analyse', fixture('hits.mp4'), '--json', '--like', '1,5']],
    [3, ['analyse', fixture('hits.mp4'), '--json', '--region', '0,0,1,1', '--reference', '99999']],
    [3, ['analyse', fixture('clicks.wav'), '--json', '--region', '0,0,1,1', '--reference', '1']],
    [2, []],
    [2, ['analyse']],
    [2, ['analyse', fixture('hits.mp4')]],
    [2, ['paint', 'x']],
    [2, ['analyse', fixture('hits.mp4'), '--json', '--sensitivity', '7']],
    [2, ['analyse', 'x', '--what']],
    [3, ['analyse', 'nowhere.mp4', '--json']],
    [3, ['analyse', at('package.json'), '--json']],
    [3, ['analyse', fixture('hdr.webm'), '--json']],
    [3, ['analyse', fixture('hits.mp4'), '--json', '--audio-track', '9']],
  ] as [number, string[]][])('exits with %i for %j, with one line of reason', (code, args) => {
    const { status, stdout, stderr } = akmeon(...args);
    expect(status).toBe(code);
    expect(stdout).toBe('');
    expect(stderr).toMatch(/^akmeon: [^\n]+\n$/);
    expect(stderr).not.toMatch(/\bat .*\.(ts|mjs):\d/);
  });
});

describe('akmeon render', () => {
  it('gives a variable-rate source its own timestamps, and a constant rate when asked', async () => {
    const about = await parts.page.evaluate((url) => window.parts.describe(url), parts.file(fixture('variable.mp4')));
    if (!about.ok) throw new Error(about.message);
    const source: Montage['sources'][number] = {
      id: 's',
      name: 'variable.mp4',
      role: 'footage',
      fingerprint: '0'.repeat(64),
      size: 1,
      duration: about.about.duration,
      video: about.about.video,
      audio: [],
      listen: null,
      tracks: [],
      delay: null,
      grid: DEFAULT_GRID,
    };
    const montage = (timing: Montage['settings']['timing']): string =>
      JSON.stringify({
        ...plain,
        settings: { ...plain.settings, width: 320, height: 180, timing },
        sources: [source],
        clips: [{ id: 'c', source: 's', in: about.about.video!.first, out: about.about.duration, fit: 'fit' }],
      } satisfies Montage);
    const plain = emptyMontage('v', 'v');
    for (const [name, timing] of [
      ['own', { mode: 'source' }],
      ['steady', { mode: 'constant', rate: { num: 25, den: 1 } }],
    ] as const) {
      await writeFile(join(folder, `${name}.akmeon`), montage(timing));
      const { status, stderr } = akmeon(
        'render',
        `${name}.akmeon`,
        '--media',
        at('tests/fixtures'),
        '--out',
        `${name}.mp4`,
      );
      expect(stderr).toBe('');
      expect(status).toBe(0);
    }
    const times = async (name: string): Promise<number[]> =>
      (await parts.page.evaluate((url) => window.parts.read(url), parts.file(join(folder, name)))).frames.map(
        (f) => f.t,
      );
    const own = await times('own.mp4');
    const starts = about.about.starts!;
    expect(own).toHaveLength(starts.length);
    own.forEach((t, i) => expect(t).toBeCloseTo(starts[i]! - starts[0]!, 3));
    (await times('steady.mp4')).forEach((t, i) => expect(t).toBeCloseTo(i / 25, 3));
  });

  it.each([
    [2, ['render', 'own.akmeon', '--media', '.']],
    [3, ['render', 'none.akmeon', '--media', '.', '--out', 'x.mp4']],
    [3, ['render', 'own.akmeon', '--media', '.', '--out', 'x.mp4']],
    [3, ['render', at('package.json'), '--media', '.', '--out', 'x.mp4']],
    [4, ['render', 'own.akmeon', '--media', '.', '--out', 'no/such/x.mp4']],
  ] as [number, string[]][])('exits with %i for %j and leaves no file', async (code, args) => {
    const { status, stderr } = akmeon(...args);
    expect([status, stderr.split('\n').length]).toEqual([code, 2]);
    expect(existsSync(join(folder, 'x.mp4'))).toBe(false);
    expect((await readdir(folder)).filter((name) => name.endsWith('.part'))).toEqual([]);
  });
});
