import { readFileSync, writeFileSync } from 'node:fs';
import { mkdtemp } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { beforeAll, describe, expect, it } from 'vitest';
import { type Montage, type NamedFamily } from '../../src/core/document/types.ts';
import { profileOf, writeProfile } from '../../src/core/document/profile.ts';
import { takeExamples } from '../../src/core/finding/families/families.ts';
import { SoundAnalyser } from '../../src/core/finding/signals/sound.ts';
import { hit } from '../../src/core/testkit/montages.ts';
import type { RecordingAnalysis as Analysis } from '../../src/engine/headless.ts';
import { at, ffmpeg, fixture, HAS_FFMPEG } from './harness.ts';

import { command } from './command.ts';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'akmeon-cli-'));
});
const akmeon = (...args: string[]) => command(folder, ...args);

/** What the demo's bolts sound like, as a profile keeps it. */
function boltFamily(): NamedFamily {
  const events = JSON.parse(readFileSync(at('demo/events.json'), 'utf8')) as Record<
    string,
    { kind: string; t: number }[]
  >;
  const raw = ffmpeg('-i', at('demo/lantern-drift.mp4'), '-f', 'f32le', '-ac', '1', '-ar', '44100', '-');
  const analyser = new SoundAnalyser(44100);
  analyser.push(new Float32Array(raw.buffer.slice(raw.byteOffset, raw.byteOffset + raw.length)));
  const bolts = events['lantern-drift.mp4']!.filter(({ kind }) => kind === 'shot');
  const heard = bolts.map(({ t }, i) => hit(`b${i}`, 's', t, { audioT: t }));
  const examples = takeExamples(heard, [analyser.finish()]);
  return { id: 'bolt', name: 'lantern bolt', kind: 'shot', state: 'kept', members: [], examples, more: null };
}

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

  it('takes several files at once, with one browser for them; one that cannot be read does not stop the rest', () => {
    const broken = join(folder, 'broken.mp4');
    writeFileSync(broken, 'no movie');
    const wave = (rate: number, channels: number): Buffer => {
      const head = Buffer.alloc(44 + 8000);
      head.write('RIFF');
      head.writeUInt32LE(36 + 8000, 4);
      head.write('WAVEfmt ', 8);
      head.writeUInt32LE(16, 16);
      head.writeUInt16LE(1, 20);
      head.writeUInt16LE(channels, 22);
      head.writeUInt32LE(rate, 24);
      head.writeUInt32LE((rate * channels * 2) >>> 0, 28);
      head.writeUInt16LE(channels * 2, 32);
      head.writeUInt16LE(16, 34);
      head.write('data', 36);
      head.writeUInt32LE(8000, 40);
      return head;
    };
    const [fast, none] = [join(folder, 'fast.wav'), join(folder, 'none.wav')];
    writeFileSync(fast, wave(4_000_000_000, 1));
    writeFileSync(none, wave(44_100, 0));
    const files = [fixture('hits.mp4'), broken, fast, none, fixture('silent.mp4')];
    const { status, stdout, stderr } = akmeon('analyse', ...files, '--json');
    const lines = stdout
      .trim()
      .split('\n')
      .map((line) => (JSON.parse(line) as { file: string }).file);
    expect(lines).toEqual(['hits.mp4', 'silent.mp4']);
    expect(status).toBe(3);
    // What nothing can have is damage, said as such, whatever memory it would ask for.
    for (const name of ['broken.mp4', 'fast.wav', 'none.wav']) expect(stderr).toContain(`${name}: `);
    expect(stderr).toMatch(/fast\.wav is damaged: .*4000000000/);
    expect(stderr).not.toMatch(/alloc|array buffer/i);
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
      // Bolts and slams are seen and heard: named after what is heard.
      const found = hits.filter((h) => h.kind === kind);
      for (const frame of wanted)
        expect(
          found.some((h) => Math.abs(h.frame - frame) <= 1),
          `${file} at ${frame}`,
        ).toBe(true);
    }
  });

  it.skipIf(!HAS_FFMPEG)(
    'names families by a profile, in the hits, in what is listed and in what is asked for by name',
    () => {
      const file = at('demo/lantern-drift.mp4');
      const first = JSON.parse(akmeon('analyse', file, '--content', 'firearms', '--json').stdout) as Analysis;
      expect(first.hits.filter(({ kind }) => kind === 'impact')).toEqual([]);
      const montage = JSON.parse(readFileSync(at('demo/harbour-nights.akmeon'), 'utf8')) as Montage;
      const profile = profileOf('Lantern Drift', { ...montage, families: [boltFamily()] }, montage.sources[0]!);
      const path = join(folder, 'lantern.akmeon-profile');
      writeFileSync(path, writeProfile(profile));
      const { hits, families } = JSON.parse(
        akmeon('analyse', file, '--profile', path, '--kinds', 'lantern bolt', '--json').stdout,
      ) as Analysis;
      const events = JSON.parse(readFileSync(at('demo/events.json'), 'utf8')) as Record<
        string,
        { frame: number; kind: string }[]
      >;
      const wanted = events['lantern-drift.mp4']!.filter((e) => e.kind === 'shot');
      expect(families).toMatchObject([{ id: 'bolt', name: 'lantern bolt', kind: 'shot', confidence: 1 }]);
      expect(hits.every(({ family, kind }) => family === 'bolt' && kind === 'shot')).toBe(true);
      for (const { frame } of wanted) expect(hits.some((h) => Math.abs(h.frame! - frame) <= 1)).toBe(true);
      for (const args of [
        ['--content', 'tea'],
        ['--kinds', 'lantern bolt'],
      ])
        expect(akmeon('analyse', file, ...args, '--json').status).toBe(2);
      writeFileSync(path, '{}');
      expect(akmeon('analyse', file, '--profile', path, '--json')).toMatchObject({ status: 3 });
    },
  );

  it('sorts hits into families of the same sound, the same from run to run', () => {
    const run = () =>
      JSON.parse(akmeon('analyse', at('demo/lantern-drift.mp4'), '--json').stdout) as {
        hits: { frame: number; family: string | null }[];
        families: { id: string; kind: string; size: number; members: number[]; example: { t: number } }[];
      };
    const { hits, families } = run();
    expect(run().families).toEqual(families);
    const events = (
      JSON.parse(readFileSync(at('demo/events.json'), 'utf8')) as Record<string, { frame: number; kind: string }[]>
    )['lantern-drift.mp4']!;
    const bolts = events.filter((e) => e.kind === 'shot').map((e) => e.frame);
    const isBolt = (i: number): boolean => bolts.some((frame) => Math.abs(hits[i]!.frame - frame) <= 1);
    // The bolts are one sample: most of them are one family, and little else is in it.
    const largest = families.reduce((best, family) =>
      family.members.filter(isBolt).length > best.members.filter(isBolt).length ? family : best,
    );
    expect(largest.members.filter(isBolt).length).toBeGreaterThanOrEqual(bolts.length * 0.6);
    expect(largest.members.filter(isBolt).length / largest.size).toBeGreaterThanOrEqual(0.8);
    for (const { id, size, members } of families) {
      expect(members).toHaveLength(size);
      for (const i of members) expect(hits[i]!.family).toBe(id);
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
          hits: { t: number; audioT: number; frame: number; kind: string; kinds: Record<string, number> }[];
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
    expect(
      ask('--kinds', 'flash', '--min-confidence', '0.5').every((h) => h.kind === 'flash' || h.kinds['flash']! >= 0.5),
    ).toBe(true);
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
