import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { copyFile, link, mkdir, mkdtemp, readdir, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { emptyMontage, DEFAULT_GRID, type Montage, type NamedFamily } from '../../src/core/document/types.ts';
import { profileOf, writeProfile } from '../../src/core/document/profile.ts';
import { takeExamples } from '../../src/core/finding/families/families.ts';
import { SoundAnalyser } from '../../src/core/finding/signals/sound.ts';
import { hit } from '../../src/core/testkit/montages.ts';
import type { HeadlessAnalysis as Analysis } from '../../src/engine/headless.ts';
import { at, ffmpeg, fixture, HAS_FFMPEG, startParts } from './harness.ts';

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

/** Hex SHA-256 over the size, and the first, middle and last mebibyte. */
function fingerprintOf(path: string): string {
  const bytes = readFileSync(path);
  const hash = createHash('sha256').update(`${bytes.length}:`);
  for (const from of [0, bytes.length >> 1, Math.max(0, bytes.length - (1 << 20))])
    hash.update(bytes.subarray(from, from + (1 << 20)));
  return hash.digest('hex');
}

/** A montage of one whole file, with another as its music where one is named. */
async function projectOf(name: string, path: string, music?: string): Promise<string> {
  const about = await parts.page.evaluate((url) => window.parts.describe(url), parts.file(path));
  if (!about.ok) throw new Error(about.message);
  const { video, duration } = about.about;
  const source = (id: string, file: string, more: Partial<Montage['sources'][number]>): Montage['sources'][number] => ({
    id,
    name: basename(file),
    role: 'footage',
    fingerprint: existsSync(file) ? fingerprintOf(file) : 'f'.repeat(64),
    size: 1,
    duration,
    video,
    audio: [],
    listen: null,
    tracks: [],
    delay: null,
    grid: DEFAULT_GRID,
    content: 'unsaid',
    ...more,
  });
  const plain = emptyMontage('p', 'p');
  const montage: Montage = {
    ...plain,
    settings: {
      ...plain.settings,
      width: video!.width & ~1,
      height: video!.height & ~1,
      timing: { mode: 'constant', rate: video!.rate },
    },
    sources: [
      source('s', path, {}),
      ...(music
        ? [
            source('m', music, {
              role: 'music' as const,
              video: null,
              audio: [{ codec: 'aac', channels: 2, sampleRate: 48000, name: '', readable: true }],
              listen: 0,
            }),
          ]
        : []),
    ],
    clips: [
      {
        id: 'c',
        source: 's',
        in: video!.first,
        out: video!.variable ? duration : video!.first + (video!.count * video!.rate.den) / video!.rate.num,
        fit: 'fit',
      },
    ],
    music: music ? [{ id: 'l', source: 'm', at: 0, in: 0, out: 1, gain: 1 }] : [],
  };
  await writeFile(join(folder, name), JSON.stringify(montage));
  return name;
}

describe('akmeon render', () => {
  it('never writes over what it reads, over another file only when it is told to, and over no folder', async () => {
    const media = join(folder, 'media');
    await mkdir(media, { recursive: true });
    await copyFile(fixture('hits.mp4'), join(media, 'hits.mp4'));
    await link(join(media, 'hits.mp4'), join(folder, 'same.mp4'));
    await symlink(join(media, 'hits.mp4'), join(folder, 'linked.mp4'));
    const project = await projectOf('over.akmeon', join(media, 'hits.mp4'));
    const before = fingerprintOf(join(media, 'hits.mp4'));
    for (const out of ['media/hits.mp4', 'same.mp4', 'linked.mp4', 'over.akmeon']) {
      const { status, stderr } = akmeon('render', project, '--media', 'media', '--out', out, '--force');
      expect([out, status]).toEqual([out, 2]);
      expect(stderr).toMatch(/one of the files that are read/);
    }
    expect(fingerprintOf(join(media, 'hits.mp4'))).toBe(before);
    await writeFile(join(folder, 'there.mp4'), 'kept');
    await writeFile(join(folder, 'there.mp4.part'), 'kept too');
    expect(akmeon('render', project, '--media', 'media', '--out', 'there.mp4')).toMatchObject({ status: 2 });
    expect(readFileSync(join(folder, 'there.mp4'), 'utf8')).toBe('kept');
    const began = performance.now();
    const { status, stderr } = akmeon('render', project, '--media', 'media', '--out', 'media');
    expect([status, stderr]).toEqual([2, expect.stringMatching(/not a file/) as string]);
    // Said before anything is rendered.
    expect(performance.now() - began).toBeLessThan(3000);
    expect(akmeon('render', project, '--media', 'media', '--out', 'there.mp4', '--force')).toMatchObject({ status: 0 });
    expect(readFileSync(join(folder, 'there.mp4.part'), 'utf8')).toBe('kept too');
    await rm(join(folder, 'there.mp4.part'));
  });

  it('follows no link out of the media folder', async () => {
    const media = join(folder, 'links');
    await mkdir(media, { recursive: true });
    await symlink(fixture('hits.mp4'), join(media, 'hits.mp4'));
    const project = await projectOf('links.akmeon', fixture('hits.mp4'));
    const { status, stderr } = akmeon('render', project, '--media', 'links', '--out', 'link-out.mp4');
    expect([status, stderr]).toEqual([3, expect.stringMatching(/leads out of the media folder/) as string]);
  });

  it('refuses other content under the right name, and music that is missing', async () => {
    const media = join(folder, 'other');
    await mkdir(media, { recursive: true });
    await copyFile(fixture('ntsc.mp4'), join(media, 'hits.mp4'));
    const project = await projectOf('other.akmeon', fixture('hits.mp4'));
    const other = akmeon('render', project, '--media', 'other', '--out', 'other.mp4');
    expect([other.status, other.stderr]).toEqual([3, expect.stringMatching(/content differs/) as string]);
    const tune = await projectOf('tune.akmeon', fixture('hits.mp4'), join(folder, 'no-tune.m4a'));
    const silent = akmeon('render', tune, '--media', at('tests/fixtures'), '--out', 'tune.mp4');
    expect([silent.status, silent.stderr]).toEqual([3, expect.stringMatching(/no-tune.m4a/) as string]);
    expect(existsSync(join(folder, 'tune.mp4'))).toBe(false);
  });

  it('shows what an edit list leaves, as players do', async () => {
    // Made with ffmpeg -ss 0.7 -c copy of 90 frames: 21 of them lie before the edit.
    const path = fixture('edit-list.mp4');
    const about = await parts.page.evaluate((url) => window.parts.describe(url), parts.file(path));
    expect(about).toMatchObject({ ok: true, about: { video: { count: 69, first: 0 } } });
    const project = await projectOf('edit.akmeon', path);
    const { status, stdout } = akmeon('render', project, '--media', at('tests/fixtures'), '--out', 'edit.mp4');
    expect([status, (JSON.parse(stdout) as { frames: number }).frames]).toEqual([0, 69]);
    const [own, out] = await Promise.all(
      [path, join(folder, 'edit.mp4')].map((file) =>
        parts.page.evaluate((url) => window.parts.read(url), parts.file(file)),
      ),
    );
    const shown = own!.frames.filter((frame) => frame.t > -1e-3);
    expect(Math.abs(out!.frames[0]!.mean - shown[0]!.mean)).toBeLessThan(1);
  });

  it('says how many frames of damaged footage it could not read', async () => {
    const media = join(folder, 'damaged');
    await mkdir(media, { recursive: true });
    const path = join(media, 'numbered.mp4');
    await copyFile(fixture('numbered.mp4'), path);
    const project = await projectOf('damaged.akmeon', path);
    const bytes = readFileSync(path);
    const from = Math.floor(bytes.indexOf('mdat') + (bytes.length - bytes.indexOf('mdat')) * 0.5);
    bytes.fill(0, from, from + Math.floor(bytes.length / 8));
    await writeFile(path, bytes);
    // The montage is of this very file, damage and all.
    const document = JSON.parse(readFileSync(join(folder, project), 'utf8')) as { sources: { fingerprint: string }[] };
    document.sources[0]!.fingerprint = fingerprintOf(path);
    await writeFile(join(folder, project), JSON.stringify(document));
    const { status, stdout, stderr } = akmeon('render', project, '--media', 'damaged', '--out', 'damaged.mp4');
    expect(status).toBe(0);
    const { damaged } = JSON.parse(stdout) as { damaged: { source: string; frames: number }[] };
    expect(damaged).toMatchObject([{ source: 'numbered.mp4' }]);
    expect(damaged[0]!.frames).toBeGreaterThan(0);
    expect(stderr).toMatch(/numbered.mp4 is damaged: \d+ frames/);
    const analysed = akmeon('analyse', path, '--json');
    expect((JSON.parse(analysed.stdout) as { notes: string[] }).notes.join()).toMatch(/can be read only up to/);
    expect(analysed.stderr).toMatch(/can be read only up to/);
  });

  it('gives a variable-rate source its own timestamps, and a constant rate when asked', async () => {
    const about = await parts.page.evaluate((url) => window.parts.describe(url), parts.file(fixture('variable.mp4')));
    if (!about.ok) throw new Error(about.message);
    const source: Montage['sources'][number] = {
      id: 's',
      name: 'variable.mp4',
      role: 'footage',
      fingerprint: fingerprintOf(fixture('variable.mp4')),
      size: 1,
      duration: about.about.duration,
      video: about.about.video,
      audio: [],
      listen: null,
      tracks: [],
      delay: null,
      grid: DEFAULT_GRID,
      content: 'unsaid',
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
