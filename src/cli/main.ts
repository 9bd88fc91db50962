/** Akmeon on the command line. See the README for its use and exit codes. */
import { existsSync, readFileSync, statSync, accessSync, constants } from 'node:fs';
import { basename, dirname, join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import type { HeadlessReply, HeadlessAnalysis, HeadlessRender } from '../engine/headless.ts';
import { withEngine } from './browser.ts';

const USAGE = 'use: akmeon analyse FILE [--audio-track N] [--sensitivity 0-1] --json | akmeon render MONTAGE.akmeon --media DIR --out FILE.mp4 [--width W --height H] [--sound aac|opus|none]';

/** 2 wrong use, 3 unreadable or unsupported input, 4 failed. */
class Exit extends Error {
  constructor(readonly code: 2 | 3 | 4, message: string) {
    super(message);
  }
}

function options() {
  try {
    return parseArgs({
      allowPositionals: true, strict: true,
      options: {
        json: { type: 'boolean' }, 'audio-track': { type: 'string' }, sensitivity: { type: 'string' },
        media: { type: 'string' }, out: { type: 'string' }, width: { type: 'string' }, height: { type: 'string' }, sound: { type: 'string' },
      },
    });
  } catch (error) {
    throw new Exit(2, `${(error as Error).message}; ${USAGE}`);
  }
}

function number(name: string, text: string | undefined, min: number, max: number, whole = false): number | null {
  if (text === undefined) return null;
  const value = Number(text);
  if (text.trim() === '' || !(value >= min && value <= max) || (whole && !Number.isInteger(value))) {
    throw new Exit(2, `--${name} takes a ${whole ? 'whole ' : ''}number from ${min} to ${max}, not "${text}"`);
  }
  return value;
}

function readable(path: string): string {
  const whole = resolve(path);
  if (!existsSync(whole) || !statSync(whole).isFile()) throw new Exit(3, `${path}: no such file`);
  return whole;
}

function unwrap<T>(reply: HeadlessReply<T>): T {
  if (reply.ok) return reply.value;
  throw new Exit(reply.input ? 3 : 4, reply.message);
}

async function run(): Promise<void> {
  const { values, positionals } = options();
  const [command, file, ...more] = positionals;
  if (!command || !file || more.length) throw new Exit(2, USAGE);
  if (command === 'analyse') {
    const track = number('audio-track', values['audio-track'], 1, 64, true);
    const sensitivity = number('sensitivity', values.sensitivity, 0, 1);
    if (!values.json) throw new Exit(2, `analyse prints JSON only: add --json; ${USAGE}`);
    const path = readable(file);
    const reply = await withEngine({ media: new Map([['input', path]]) }, (page, base) =>
      page.evaluate(([url, name, track, sensitivity]) => window.akmeon.analyse({ url, name, track, sensitivity }),
        [`${base}/media/input`, basename(path), track, sensitivity] as const));
    const result: HeadlessAnalysis = unwrap(reply);
    process.stdout.write(`${JSON.stringify({ file: basename(path), ...result })}\n`);
    return;
  }
  if (command === 'render') {
    if (!values.media || !values.out) throw new Exit(2, `render needs --media and --out; ${USAGE}`);
    const width = number('width', values.width, 2, 8192, true);
    const height = number('height', values.height, 2, 8192, true);
    const sound = values.sound ?? 'aac';
    if (sound !== 'aac' && sound !== 'opus' && sound !== 'none') throw new Exit(2, `--sound takes aac, opus or none, not "${sound}"`);
    const text = readFileSync(readable(file), 'utf8');
    const out = resolve(values.out);
    try {
      accessSync(dirname(out), constants.W_OK);
    } catch {
      throw new Exit(4, `${dirname(values.out)} cannot be written to`);
    }
    const names = sourceNames(text);
    const media = new Map(names.flatMap((name) => {
      const path = join(resolve(values.media!), basename(name));
      return existsSync(path) ? [[name, path] as const] : [];
    }));
    const reply = await withEngine({ media, out }, (page, base) =>
      page.evaluate((order) => window.akmeon.render(order), { text, base, names: [...media.keys()], width, height, sound } as const));
    const result: HeadlessRender = unwrap(reply);
    process.stdout.write(`${JSON.stringify({ file: values.out, ...result })}\n`);
    return;
  }
  throw new Exit(2, `unknown command "${command}"; ${USAGE}`);
}

/** Names of the sources, for finding their files; the engine checks the document itself. */
function sourceNames(text: string): string[] {
  try {
    const sources = (JSON.parse(text) as { sources?: { name?: unknown }[] }).sources ?? [];
    return sources.flatMap((source) => (typeof source?.name === 'string' ? [source.name] : []));
  } catch {
    return [];
  }
}

try {
  await run();
} catch (error) {
  const message = (error as Error).message.split('\n')[0];
  process.stderr.write(`akmeon: ${message}\n`);
  process.exitCode = error instanceof Exit ? error.code : 4;
}
