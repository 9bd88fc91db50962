import { createHash } from 'node:crypto';
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, readFileSync } from 'node:fs';
import { copyFile, link, mkdir, mkdtemp, readdir, rm, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { emptyMontage, DEFAULT_GRID, type Montage } from '../../src/core/document/types.ts';
import { writeAccents } from '../../src/core/document/accents.ts';
import { readMontage, writeMontage } from '../../src/core/document/akmeon.ts';
import { STARTER_ACCENTS } from '../../src/effects/starters.ts';
import { at, ffmpeg, fixture, HAS_FFMPEG, startParts } from './harness.ts';

import { command } from './command.ts';

let folder: string;
let parts: Awaited<ReturnType<typeof startParts>>;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'akmeon-cli-'));
  parts = await startParts();
});
const akmeon = (...args: string[]) => command(folder, ...args);
afterAll(() => parts.close());

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
    const { status, stderr } = akmeon('render', project, '--media', 'media', '--out', 'media');
    expect([status, stderr]).toEqual([2, expect.stringMatching(/not a file/) as string]);
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

describe('a batch', () => {
  it('makes a montage of each recording, says what is broken, and goes on where it was killed', async () => {
    const [films, out] = [join(folder, 'films'), join(folder, 'cut')];
    await mkdir(films);
    await mkdir(out);
    await copyFile(fixture('hits.mp4'), join(films, 'one.mp4'));
    await copyFile(fixture('hits.mp4'), join(films, 'two.mp4'));
    await writeFile(join(films, 'broken.mp4'), 'no film');
    await writeFile(join(films, 'notes.txt'), 'no recording');
    const accents = join(folder, 'a.akmeon-accent');
    await writeFile(accents, writeAccents([STARTER_ACCENTS.find(({ id }) => id === 'harbour-knock')!]));
    const run = (...more: string[]) =>
      akmeon(
        'batch',
        'films',
        '--out',
        'cut',
        '--accents',
        accents,
        '--around',
        '0.3,0.4',
        '--longest',
        '3',
        '--sound',
        'none',
        ...more,
      );
    const lines = (stdout: string) =>
      stdout
        .trim()
        .split('\n')
        .map((line) => JSON.parse(line) as { recording: string; state: string; why?: string; hits?: number })
        .sort((a, b) => a.recording.localeCompare(b.recording));
    // What a killed batch left of a film is no film.
    await writeFile(join(out, 'two.mp4.0123.part'), 'half');
    const first = run('--at-once', '2');
    expect(first.status).toBe(4);
    expect(first.stderr).toMatch(/1 of 3 recordings failed/);
    expect(lines(first.stdout).map(({ recording, state }) => [recording, state])).toEqual([
      ['broken.mp4', 'failed'],
      ['one.mp4', 'done'],
      ['two.mp4', 'done'],
    ]);
    expect(lines(first.stdout)[0]!.why).toMatch(/broken\.mp4/);
    const text = readFileSync(join(out, 'one.akmeon'), 'utf8');
    const montage = readMontage(text);
    expect(montage.clips.length).toBeGreaterThan(0);
    expect(montage.rules).toHaveLength(1);
    // The same recording, worked on beside the first one, gives the same plan.
    const rows = (name: string) => readMontage(readFileSync(join(out, name), 'utf8'));
    expect(rows('two.akmeon').clips).toEqual(montage.clips);
    await rm(join(out, 'two.mp4'));
    // Worked on since: it is rendered as it was left.
    const mended = writeMontage({ ...montage, name: 'mended' });
    await writeFile(join(out, 'two.akmeon'), mended.replaceAll('one.mp4', 'two.mp4'));
    const before = createHash('sha256')
      .update(readFileSync(join(out, 'one.mp4')))
      .digest('hex');
    expect(lines(run().stdout).map(({ state }) => state)).toEqual(['failed', 'there', 'done']);
    expect(
      createHash('sha256')
        .update(readFileSync(join(out, 'one.mp4')))
        .digest('hex'),
    ).toBe(before);
    expect(rows('two.akmeon').name).toBe('mended');
    // All of them as one.
    const whole = run('--together', 'evening', '--longest', '30');
    expect(lines(whole.stdout).map(({ recording, state }) => [recording, state])).toEqual([
      ['broken.mp4', 'failed'],
      ['evening', 'done'],
    ]);
    const evening = rows('evening.akmeon');
    expect([evening.name, evening.sources.map(({ name }) => name)]).toEqual(['evening', ['one.mp4', 'two.mp4']]);
    expect(new Set(evening.clips.map(({ source }) => source)).size).toBe(2);
    expect(existsSync(join(out, 'evening.mp4'))).toBe(true);
    expect(run('--together', '../evening').status).toBe(2);
    expect(akmeon('batch', 'films', '--out', 'films').status).toBe(2);
    expect(akmeon('batch', 'nowhere', '--out', 'cut').status).toBe(3);
    expect(akmeon('batch', 'cut', '--out', 'films', '--around', '1').status).toBe(2);
  });
});

describe('a browser that dies in the middle', () => {
  /** Processes under one, with what they were started as. */
  const under = (root: number): { pid: number; args: string }[] => {
    const all = spawnSync('ps', ['-eo', 'pid=,ppid=,args='], { encoding: 'utf8' })
      .stdout.trim()
      .split('\n')
      .map((line) => /^\s*(\d+)\s+(\d+)\s+(.*)$/.exec(line)!)
      .map(([, pid, parent, args]) => ({ pid: Number(pid), parent: Number(parent), args: args! }));
    const found = new Set([root]);
    for (let size = 0; size !== found.size;) {
      size = found.size;
      for (const { pid, parent } of all) if (found.has(parent)) found.add(pid);
    }
    return all.filter(({ pid }) => found.has(pid));
  };

  it('ends the command with a sentence for each recording, and leaves nothing half made', async () => {
    const [films, out] = [join(folder, 'long'), join(folder, 'long-cut')];
    await mkdir(films);
    await mkdir(out);
    for (const name of ['a.mkv', 'b.mkv']) await copyFile(fixture('three-hours.mkv'), join(films, name));
    const child = spawn(
      process.execPath,
      [at('scripts/akmeon.mjs'), 'batch', 'long', '--out', 'long-cut', '--together', 'all'],
      { cwd: folder, env: { ...process.env, INIT_CWD: folder } },
    );
    let [said, troubles] = ['', ''];
    child.stdout.on('data', (data: Buffer) => (said += data.toString()));
    child.stderr.on('data', (data: Buffer) => (troubles += data.toString()));
    const ended = new Promise<number | null>((resolve) => child.once('close', resolve));
    const page = (): number | undefined => under(child.pid!).find(({ args }) => args.includes('type=renderer'))?.pid;
    await expect.poll(page).toBeDefined();
    await new Promise((resolve) => setTimeout(resolve, 3000));
    for (const { pid, args } of under(child.pid!)) if (args.includes('type=renderer')) process.kill(pid, 'SIGKILL');
    expect(await ended).toBe(4);
    const whys = said
      .trim()
      .split('\n')
      .map((line) => (JSON.parse(line) as { why: string }).why);
    expect(whys).toHaveLength(3);
    expect(whys.slice(0, 2).every((why) => why === 'the browser stopped in the middle of the work')).toBe(true);
    expect(troubles).toMatch(/recordings failed/);
    expect(await readdir(out)).toEqual([]);
  });
});

describe('what nothing touches', () => {
  const md5s = (path: string): string[] =>
    spawnSync('ffmpeg', ['-v', 'error', '-i', path, '-an', '-f', 'framemd5', '-'], {
      encoding: 'utf8',
      maxBuffer: 1 << 26,
    })
      .stdout.split('\n')
      .filter((line) => line && !line.startsWith('#'))
      .map((line) => line.split(',').at(-1)!.trim());

  it.skipIf(!HAS_FFMPEG)('is taken over group by group, to the bit, and the whole plays without a fault', async () => {
    await copyFile(at('demo/harbour-nights.akmeon'), join(folder, 'demo.akmeon'));
    const done = akmeon('render', 'demo.akmeon', '--media', at('demo'), '--out', 'copied.mp4', '--copy');
    expect(done.stderr).toBe('');
    const result = JSON.parse(done.stdout) as { frames: number; copied: number; rendered: number; notCopied: string[] };
    expect(result.frames).toBe(600);
    expect(result.notCopied).toEqual([]);
    // Four bolts of nine frames touch four or five of twenty groups.
    expect(result.copied).toBeGreaterThan(400);
    expect(result.copied + result.rendered).toBeLessThan(600);
    const played = spawnSync('ffmpeg', ['-v', 'error', '-i', join(folder, 'copied.mp4'), '-f', 'null', '-'], {
      encoding: 'utf8',
    });
    expect(played.stderr).toBe('');
    const shown = md5s(join(folder, 'copied.mp4'));
    const sources = [...md5s(at('demo/lantern-drift.mp4')), ...md5s(at('demo/rampart-rally.mp4'))];
    expect(shown).toHaveLength(600);
    expect(shown.filter((md5, i) => md5 === sources[i]).length).toBeGreaterThanOrEqual(result.copied);
    const times = spawnSync(
      'ffprobe',
      [
        '-v',
        'error',
        '-select_streams',
        'v',
        '-show_entries',
        'frame=pts_time',
        '-of',
        'csv=p=0',
        join(folder, 'copied.mp4'),
      ],
      { encoding: 'utf8' },
    )
      .stdout.trim()
      .split('\n')
      .map((line) => Number.parseFloat(line));
    times.forEach((time, i) => expect(Math.abs(time - i / 30)).toBeLessThan(0.001));
    // In the browser, too: frame by frame.
    const luma = await parts.page.evaluate(([one, other]) => window.parts.lumaGaps(one, other), [
      parts.file(join(folder, 'copied.mp4')),
      parts.file(join(folder, 'copied.mp4')),
    ] as const);
    expect(luma.length).toBe(600);
  });

  it.skipIf(!HAS_FFMPEG)('is taken over of open groups as far as nothing touches them', async () => {
    const [films, out] = [join(folder, 'open'), join(folder, 'open-cut')];
    await mkdir(films);
    await mkdir(out);
    // Pictures in between are made of both groups they lie between: only the first begins anew.
    const coded = ['-c:v', 'libx264', '-g', '30', '-bf', '3', '-x264-params', 'open-gop=1:b-pyramid=normal:scenecut=0'];
    const told = ['-colorspace', 'bt709', '-color_primaries', 'bt709', '-color_trc', 'bt709', '-color_range', 'tv'];
    ffmpeg('-i', fixture('hits.mp4'), ...coded, ...told, '-c:a', 'copy', join(films, 'hits.mp4'));
    const accents = join(folder, 'knock.akmeon-accent');
    await writeFile(accents, writeAccents([STARTER_ACCENTS.find(({ id }) => id === 'harbour-knock')!]));
    const asked = ['--accents', accents, '--around', '4,4', '--copy', '--sound', 'none'];
    const made = akmeon('batch', 'open', '--out', 'open-cut', ...asked);
    expect([made.status, made.stderr]).toEqual([0, '']);
    const montage = readMontage(readFileSync(join(out, 'hits.akmeon'), 'utf8'));
    const first = Math.min(...montage.hits.map(({ t }) => Math.round(t * 30)));
    const [source, shown] = [md5s(join(films, 'hits.mp4')), md5s(join(out, 'hits.mp4'))];
    expect(shown).toHaveLength(source.length);
    const same = shown.findIndex((md5, i) => md5 !== source[i]);
    // All that comes before the first accent, but for pictures that were made of what comes in it.
    expect(same).toBeGreaterThanOrEqual(8);
    expect(same).toBeLessThanOrEqual(first);
    const played = spawnSync('ffmpeg', ['-v', 'error', '-i', join(out, 'hits.mp4'), '-f', 'null', '-'], {
      encoding: 'utf8',
    });
    expect(played.stderr).toBe('');
    const path = parts.file(join(out, 'hits.mp4'));
    const luma = await parts.page.evaluate(([one, other]) => window.parts.lumaGaps(one, other), [path, path] as const);
    expect(luma.length).toBe(source.length);
  });

  it.skipIf(!HAS_FFMPEG)('is taken over of VP9 in WebM, too, and the browser plays it', async () => {
    const [films, out] = [join(folder, 'webm'), join(folder, 'webm-cut')];
    await mkdir(films);
    await mkdir(out);
    const [film, copied] = [join(films, 'hits.webm'), join(out, 'copied.webm')];
    const coded = ['-c:v', 'libvpx-vp9', '-deadline', 'realtime', '-cpu-used', '8', '-g', '10', '-b:v', '1M'];
    ffmpeg('-i', fixture('hits.mp4'), ...coded, '-c:a', 'libopus', film);
    const accents = join(folder, 'knock.akmeon-accent');
    await writeFile(accents, writeAccents([STARTER_ACCENTS.find(({ id }) => id === 'harbour-knock')!]));
    const as = ['--as', 'webm-vp9', '--copy', '--sound', 'none'];
    const made = akmeon('batch', 'webm', '--out', 'webm-cut', '--accents', accents, '--around', '4,4', ...as);
    expect([made.status, made.stderr]).toEqual([0, '']);
    const project = join(out, 'hits.akmeon');
    const done = akmeon('render', project, '--media', 'webm', '--out', copied, ...as);
    expect(done.stderr).toBe('');
    const result = JSON.parse(done.stdout) as { frames: number; copied: number; notCopied: string[] };
    // Six accents of eleven frames leave six of eighteen groups whole.
    expect(result).toMatchObject({ frames: 180, copied: 60, notCopied: [] });
    const source = md5s(film);
    expect(md5s(copied).filter((md5, i) => md5 === source[i]).length).toBeGreaterThanOrEqual(60);
    const path = parts.file(copied);
    const luma = await parts.page.evaluate(([one, other]) => window.parts.lumaGaps(one, other), [path, path] as const);
    expect(luma.length).toBe(180);
    // H.264 is asked for: said why it was encoded again.
    const other = akmeon('render', project, '--media', 'webm', '--out', 'again.mp4', '--copy', '--frames', '0,5');
    expect((JSON.parse(other.stdout) as typeof result).notCopied.join()).toMatch(/hits\.webm is not H\.264/);
  });
});
