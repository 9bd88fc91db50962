/** Fetches the packages, unpacks them, and reads their sounds as mono at 44.1 kHz. */
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { useOf, type Use } from './packages.ts';

export const RATE = 44100;
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
    mkdirSync(folder, { recursive: true });
    const loads = join(ROOT, 'downloads');
    mkdirSync(loads, { recursive: true });
    execFileSync('apt-get', ['download', '-q', pack], { cwd: loads, stdio: ['ignore', 'ignore', 'inherit'] });
    const deb = readdirSync(loads).find((name) => name.startsWith(`${pack}_`))!;
    execFileSync('dpkg-deb', ['-x', join(loads, deb), folder]);
    rmSync(join(loads, deb));
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

function decode(path: string, seconds: number): Float32Array {
  const kept = `${path}.f32`;
  if (!existsSync(kept)) {
    let raw = Buffer.alloc(0);
    try {
      raw = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-t', String(seconds), '-ac', '1', '-ar', String(RATE), '-f', 'f32le', '-'], { maxBuffer: 1 << 28, stdio: ['ignore', 'pipe', 'ignore'] });
    } catch {
      // What cannot be read counts as empty.
    }
    // Two processes decode side by side: what is there is whole.
    writeFileSync(`${kept}.${process.pid}`, raw);
    renameSync(`${kept}.${process.pid}`, kept);
  }
  const data = readFileSync(kept);
  return new Float32Array(data.buffer.slice(data.byteOffset, data.byteOffset + data.length - (data.length % 4)));
}

const shortened = (samples: Float32Array): Float32Array => samples.slice(0, ONE_SHOT * RATE);

/** Every usable sound of the packages. */
export function load(packs: Parameters<typeof useOf>[0] extends infer R ? Readonly<Record<string, R>> : never): Sound[] {
  const found: Sound[] = [];
  for (const [pack, recipe] of Object.entries(packs)) {
    const folder = unpacked(pack);
    const add = (name: string, use: Use, samples: () => Float32Array): void => {
      if (!use) return;
      const taken = samples();
      let most = 0;
      for (const value of taken) most = Math.max(most, Math.abs(value));
      if (taken.length > RATE * 0.015 && most > 0.01) found.push({ use, pack, name, samples: taken });
    };
    let beds = 0;
    let voices = 0;
    for (const path of [...files(folder)].sort()) {
      const inside = path.slice(folder.length);
      if (/\.pat$/.test(path)) {
        const { samples, rate } = patch(readFileSync(path));
        add(basename(path), useOf(recipe, inside), () => shortened(resample(samples, rate / RATE)));
      } else if (/\.sf2$/.test(path)) {
        for (const { name, samples, rate } of soundFont(readFileSync(path))) add(name, useOf(recipe, name), () => shortened(resample(samples, rate / RATE)));
      } else if (/\.(ogg|wav|flac|mp3|opus|wv|oga)$/i.test(path) && statSync(path).size > 500) {
        const use = useOf(recipe, inside);
        // A few packages would outweigh all others.
        if (use === 'music' && beds++ > 14) continue;
        if (use === 'voice' && voices++ > 150) continue;
        add(basename(path), use, () => decode(path, use === 'music' || use === 'ambience' ? BED : ONE_SHOT));
      }
    }
  }
  return found;
}
