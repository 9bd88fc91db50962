/** Fetches the packages, unpacks them, and reads their sounds as mono at 44.1 kHz. */
import { execFile, execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { promisify } from 'node:util';
import { ANALYSIS_RATE } from '../../src/core/finding/signals/spectrum.ts';
import { useOf, type Recipe, type Use } from './packages.ts';

const ROOT = 'build/training';
/** Seconds kept of a single sound and of a bed. */
const ONE_SHOT = 3;
const BED = 150;

export interface Sound {
  readonly use: Exclude<Use, null>;
  readonly pack: string;
  readonly name: string;
  readonly samples: Float32Array;
}

function* files(folder: string): Generator<string> {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) yield* files(path);
    else if (entry.isFile()) yield path;
  }
}

/** Downloads and unpacks one Debian package, archives inside it too. */
export function unpacked(pack: string): string {
  const folder = join(ROOT, 'packages', pack);
  if (!existsSync(folder)) {
    const loads = join(ROOT, 'downloads');
    for (const needed of [loads, join(ROOT, 'packages')]) mkdirSync(needed, { recursive: true });
    execFileSync('apt-get', ['download', '-q', pack], { cwd: loads, stdio: ['ignore', 'ignore', 'inherit'] });
    const deb = readdirSync(loads).find((name) => name.startsWith(`${pack}_`))!;
    execFileSync('dpkg-deb', ['-x', join(loads, deb), `${folder}.part`]);
    rmSync(join(loads, deb));
    renameSync(`${folder}.part`, folder);
  }
  for (const path of [...files(folder)]) {
    if (!/\.(pk3|wz|zip)$/.test(path)) continue;
    try {
      execFileSync('unzip', ['-qo', path, '-d', `${path}.d`], { stdio: 'ignore' });
    } catch {
      // Some archives hold a name that cannot be written; the rest is there.
    }
    renameSync(path, `${path}.done`);
  }
  return folder;
}

/** GUS patch: the first sample of the file. Format as in the Gravis UltraSound SDK: headers of 129, 63, 47 and 96 bytes. */
function patch(data: Buffer): { samples: Float32Array; rate: number } {
  const at = 129 + 63 + 47;
  const size = data.readUInt32LE(at + 8);
  const rate = data.readUInt16LE(at + 20);
  const mode = data.readUInt8(at + 55);
  const from = at + 96;
  const wide = (mode & 1) !== 0;
  const samples = new Float32Array(Math.floor(size / (wide ? 2 : 1)));
  for (let i = 0; i < samples.length; i++) {
    const raw = wide ? data.readInt16LE(from + 2 * i) : data.readInt8(from + i) * 256;
    samples[i] = ((mode & 2) !== 0 ? (raw < 0 ? raw + 32768 : raw - 32768) : raw) / 32768;
  }
  return { samples, rate };
}

/** All left or mono samples of a SoundFont 2 file (specification 2.04, chunks smpl and shdr). */
function* soundFont(data: Buffer): Generator<{ name: string; samples: Float32Array; rate: number }> {
  const body = data.indexOf('smpl') + 8;
  const header = data.indexOf('shdr');
  for (let k = 0; k < data.readUInt32LE(header + 4) / 46 - 1; k++) {
    const at = header + 8 + k * 46;
    const name = data.toString('latin1', at, at + 20).replace(/\0[^]*/, '');
    if (/\(?R\)?$/.test(name)) continue;
    const [from, to] = [data.readUInt32LE(at + 20), data.readUInt32LE(at + 24)];
    const samples = new Float32Array(Math.max(0, to - from));
    for (let i = 0; i < samples.length; i++) samples[i] = data.readInt16LE(body + 2 * (from + i)) / 32768;
    yield { name, samples, rate: data.readUInt32LE(at + 36) };
  }
}

/** Linear interpolation; good enough where pitch is varied anyway. */
export function resample(input: Float32Array, step: number): Float32Array {
  const out = new Float32Array(Math.max(0, Math.floor((input.length - 1) / step)));
  for (let i = 0; i < out.length; i++) {
    const at = Math.floor(i * step);
    const share = i * step - at;
    out[i] = input[at]! * (1 - share) + input[at + 1]! * share;
  }
  return out;
}

interface Usable {
  readonly path: string;
  readonly use: Use;
  /** Read of it at most. */
  readonly seconds: number;
}

/** Sounds of an unpacked package that are files of their own. */
function* usable(folder: string, recipe: Recipe): Generator<Usable> {
  let beds = 0;
  let voices = 0;
  for (const path of [...files(folder)].sort()) {
    if (!/\.(ogg|wav|flac|mp3|opus|wv|oga)$/i.test(path) || statSync(path).size <= 500) continue;
    const use = useOf(recipe, path.slice(folder.length));
    // A few packages would outweigh all others.
    if (!use || (use === 'music' && beds++ > 14) || (use === 'voice' && voices++ > 150)) continue;
    yield { path, use, seconds: use === 'music' || use === 'ambience' ? BED : ONE_SHOT };
  }
}

const DECODED = '.f32';
const run = promisify(execFile);

/** Fetches, unpacks and decodes; what was done before is not done again. */
export async function prepare(packs: Readonly<Record<string, Recipe>>): Promise<void> {
  const waiting = Object.entries(packs)
    .flatMap(([pack, recipe]) => [...usable(unpacked(pack), recipe)])
    .filter(({ path }) => !existsSync(path + DECODED));
  const decode = async (): Promise<void> => {
    for (let next = waiting.pop(); next; next = waiting.pop()) {
      const { path, seconds } = next;
      const part = `${path}.part`;
      // What cannot be read counts as empty.
      await run('ffmpeg', [
        '-nostdin',
        '-v',
        'error',
        '-y',
        '-i',
        path,
        '-t',
        String(seconds),
        '-ac',
        '1',
        '-ar',
        String(ANALYSIS_RATE),
        '-f',
        'f32le',
        part,
      ]).catch(() => writeFileSync(part, ''));
      renameSync(part, path + DECODED);
    }
  };
  await Promise.all([decode(), decode(), decode()]);
}

function decoded(path: string): Float32Array {
  const data = readFileSync(path + DECODED);
  return new Float32Array(data.buffer.slice(data.byteOffset, data.byteOffset + data.length - (data.length % 4)));
}

const shortened = (samples: Float32Array): Float32Array => samples.slice(0, ONE_SHOT * ANALYSIS_RATE);

/** Every usable sound of packages that were prepared. */
export function load(packs: Readonly<Record<string, Recipe>>): Sound[] {
  const found: Sound[] = [];
  for (const [pack, recipe] of Object.entries(packs)) {
    const folder = unpacked(pack);
    const add = (name: string, use: Use, samples: () => Float32Array): void => {
      if (!use) return;
      const taken = samples();
      let most = 0;
      for (const value of taken) most = Math.max(most, Math.abs(value));
      if (taken.length > ANALYSIS_RATE * 0.015 && most > 0.01) found.push({ use, pack, name, samples: taken });
    };
    for (const path of [...files(folder)].sort()) {
      if (/\.pat$/.test(path)) {
        const { samples, rate } = patch(readFileSync(path));
        add(basename(path), useOf(recipe, path.slice(folder.length)), () =>
          shortened(resample(samples, rate / ANALYSIS_RATE)),
        );
      } else if (/\.sf2$/.test(path)) {
        for (const { name, samples, rate } of soundFont(readFileSync(path)))
          add(name, useOf(recipe, name), () => shortened(resample(samples, rate / ANALYSIS_RATE)));
      }
    }
    for (const { path, use } of usable(folder, recipe)) add(basename(path), use, () => decoded(path));
  }
  return found;
}
