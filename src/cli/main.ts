/** Akmeon on the command line. See the README for its use and exit codes. */
import { existsSync, readFileSync, realpathSync, statSync, accessSync, constants } from 'node:fs';
import { basename, dirname, join, resolve, sep } from 'node:path';
import { parseArgs } from 'node:util';
import { CONTENTS, HIT_KINDS, kindName, kindNamed, type Content } from '../core/document/types.ts';
import type { AnalyseOrder, HeadlessRender, RecordingAnalysis } from '../engine/headless.ts';
import { batch, together } from './batch.ts';
import { withEngine, withOpenEngine } from './browser.ts';
import { Exit, unwrap } from './exit.ts';
import { connectionOf, QueueError, queueStatus } from '../server/queue.ts';
import { queuedBatch, work } from './queue.ts';

const USAGE = [
  'use: akmeon analyse FILE… [--audio-track N] [--sensitivity 0-1] [--kinds LIST] [--min-confidence 0-1]',
  '[--like START,END] [--region X,Y,W,H --reference FRAME] [--profile FILE.akmeon-profile]',
  '[--content firearms|blows|ball|drums|mixed] --json',
  '| akmeon render MONTAGE.akmeon --media DIR --out FILE.mp4 [--format NAME] [--width W --height H]',
  '[--as KIND] [--copy] [--frames FROM,TO] [--sound aac|opus|none] [--renderer gpu|cpu] [--force]',
  '| akmeon batch FOLDER --out FOLDER [--accents FILE,…] [--profile FILE] [--kinds LIST] [--min-confidence 0-1]',
  '[--around BEFORE,AFTER] [--longest SECONDS] [--as KIND] [--copy] [--sound aac|opus|none] [--at-once N] [--together NAME] [--force]',
  '[--queue redis://HOST [--lend HOST:PORT]] | akmeon worker --queue redis://HOST [--at-once N]',
  '| akmeon batch --status --queue redis://HOST',
].join(' ');

/** What may be said of a recording; saying nothing is leaving it out. */
const ASKED_CONTENTS: readonly Content[] = CONTENTS.filter((content) => content !== 'unsaid');

function options() {
  try {
    return parseArgs({
      allowPositionals: true,
      strict: true,
      options: {
        json: { type: 'boolean' },
        'audio-track': { type: 'string' },
        sensitivity: { type: 'string' },
        kinds: { type: 'string' },
        'min-confidence': { type: 'string' },
        like: { type: 'string' },
        region: { type: 'string' },
        reference: { type: 'string' },
        profile: { type: 'string' },
        content: { type: 'string' },
        media: { type: 'string' },
        out: { type: 'string' },
        format: { type: 'string' },
        width: { type: 'string' },
        height: { type: 'string' },
        sound: { type: 'string' },
        as: { type: 'string' },
        frames: { type: 'string' },
        copy: { type: 'boolean' },
        accents: { type: 'string' },
        around: { type: 'string' },
        longest: { type: 'string' },
        'at-once': { type: 'string' },
        together: { type: 'string' },
        renderer: { type: 'string' },
        queue: { type: 'string' },
        lend: { type: 'string' },
        status: { type: 'boolean' },
        force: { type: 'boolean' },
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

/** `count` numbers with commas between. */
function numbers(name: string, text: string | undefined, count: number): number[] | null {
  if (text === undefined) return null;
  const values = text.split(',').map((part) => (part.trim() === '' ? NaN : Number(part)));
  if (values.length !== count || values.some((value) => !Number.isFinite(value)))
    throw new Exit(2, `--${name} takes ${count} numbers with commas between, not "${text}"`);
  return values;
}

function readable(path: string): string {
  const whole = resolve(path);
  if (!existsSync(whole) || !statSync(whole).isFile()) throw new Exit(3, `${path}: no such file`);
  return whole;
}

/** Not part of the answer, but to be known. */
const warn = (text: string): void => void process.stderr.write(`akmeon: ${text}\n`);

/** The sources' files in a folder, by name; what a link leads out of the folder is not in it. */
function mediaIn(folder: string, names: readonly string[]): Map<string, string> {
  const home = realpathSync(folder);
  return new Map(
    names.flatMap((name) => {
      const path = join(home, basename(name));
      if (!existsSync(path)) return [];
      const real = realpathSync(path);
      if (!real.startsWith(home + sep)) throw new Exit(3, `${name} is a link that leads out of the media folder`);
      return [[name, real] as const];
    }),
  );
}

/** Where a result may be written: a new file, or with `force` an old one, but never one that is read from. */
function writable(path: string, inputs: readonly string[], force: boolean): string {
  const out = resolve(path);
  try {
    accessSync(dirname(out), constants.W_OK);
  } catch {
    throw new Exit(4, `${dirname(path)} cannot be written to`);
  }
  const there = statSync(out, { throwIfNoEntry: false });
  if (!there) return out;
  if (!there.isFile()) throw new Exit(2, `${path} is not a file: --out takes the name of one`);
  const real = realpathSync(out);
  // Two names of one file have one number, also where no link says so.
  const same = inputs.some((input) => {
    const { dev, ino } = statSync(input);
    return realpathSync(input) === real || (dev === there.dev && ino === there.ino);
  });
  if (same) throw new Exit(2, `${path} is one of the files that are read: it would be overwritten`);
  if (!force) throw new Exit(2, `${path} is there already: --force replaces it`);
  return real;
}

/** What the options say that is to be found, for one recording or for many. */
function asked(values: ReturnType<typeof options>['values']): Omit<AnalyseOrder, 'name' | 'like' | 'region'> {
  const track = number('audio-track', values['audio-track'], 1, 64, true);
  const sensitivity = number('sensitivity', values.sensitivity, 0, 1);
  const kinds =
    values.kinds === undefined ? null : values.kinds.split(',').map((kind) => kindNamed(kind) ?? kind.trim());
  const profile = values.profile === undefined ? null : readFileSync(readable(values.profile), 'utf8');
  const named = profile === null ? [] : profileNames(profile);
  const unknown = kinds?.find((kind) => !(HIT_KINDS as readonly string[]).includes(kind) && !named.includes(kind));
  if (unknown !== undefined)
    throw new Exit(
      2,
      `--kinds takes some of ${[...HIT_KINDS.map((kind) => kindName(kind).replaceAll(' ', '')), ...named].join(', ')}, not "${unknown}"`,
    );
  const { content } = values;
  if (content !== undefined && !ASKED_CONTENTS.includes(content as Content))
    throw new Exit(2, `--content takes one of ${ASKED_CONTENTS.join(', ')}, not "${content}"`);
  const minConfidence = number('min-confidence', values['min-confidence'], 0, 1) ?? 0;
  return { track, sensitivity, kinds, minConfidence, profile, content: (content as Content | undefined) ?? null };
}

/** A kind of sound that the kind of file holds. @throws Exit */
function soundOf({ sound, as }: { sound?: string | undefined; as?: string | undefined }): 'aac' | 'opus' | 'none' {
  // WebM holds no AAC.
  const wanted = sound ?? (as?.startsWith('webm') ? 'opus' : 'aac');
  if (wanted === 'aac' || wanted === 'opus' || wanted === 'none') return wanted;
  throw new Exit(2, `--sound takes aac, opus or none, not "${wanted}"`);
}

const isFolder = (path: string): boolean => existsSync(path) && statSync(path).isDirectory();

async function run(): Promise<void> {
  const { values, positionals } = options();
  const [command, file, ...more] = positionals;
  const line = (said: unknown): void => void process.stdout.write(`${JSON.stringify(said)}\n`);
  const atOnce = number('at-once', values['at-once'], 1, 16, true) ?? 1;
  if (command === 'worker' || values.status) {
    if (file || !values.queue) throw new Exit(2, `--queue says where the recordings wait; ${USAGE}`);
    connectionOf(values.queue);
    if (command === 'worker') return work(values.queue, atOnce, line);
    if (command === 'batch') return line(await queueStatus(values.queue));
  }
  if (!command || !file || (more.length && command !== 'analyse')) throw new Exit(2, USAGE);
  if (command === 'analyse') {
    if (!values.json) throw new Exit(2, `analyse prints JSON only: add --json; ${USAGE}`);
    const found = asked(values);
    const like = numbers('like', values.like, 2);
    if (like && !(like[1]! > like[0]!)) throw new Exit(2, '--like takes START,END in seconds, the end after the start');
    const corners = numbers('region', values.region, 4);
    const reference = number('reference', values.reference, 0, 1e9, true);
    if ((corners === null) !== (reference === null))
      throw new Exit(2, `--region and --reference go together; ${USAGE}`);
    const [x, y, w, h] = corners ?? [0, 0, 1, 1];
    if (!(x! >= 0 && y! >= 0 && w! > 0 && h! > 0 && x! + w! <= 1.000001 && y! + h! <= 1.000001))
      throw new Exit(2, '--region takes X,Y,W,H in shares of the picture, from 0 to 1');
    const order: Omit<AnalyseOrder, 'name'> = {
      ...found,
      like: like ? [like[0]!, like[1]!] : null,
      region: reference === null ? null : { x: x!, y: y!, w: w!, h: h!, reference },
    };
    return analyseAll([file, ...more], order);
  }
  if (command === 'render') {
    if (!values.media || !values.out) throw new Exit(2, `render needs --media and --out; ${USAGE}`);
    const width = number('width', values.width, 2, 8192, true);
    const height = number('height', values.height, 2, 8192, true);
    const sound = soundOf(values);
    const range = numbers('frames', values.frames, 2);
    if (range && !(range[1]! > range[0]! && range[0]! >= 0))
      throw new Exit(2, '--frames takes FROM,TO: the first frame, and the one after the last');
    const { renderer = 'auto' } = values;
    if (renderer !== 'auto' && renderer !== 'gpu' && renderer !== 'cpu')
      throw new Exit(2, `--renderer takes gpu or cpu, not "${renderer}"`);
    const text = readFileSync(readable(file), 'utf8');
    const folder = resolve(values.media);
    if (!isFolder(folder)) throw new Exit(3, `${values.media}: no such folder`);
    const media = mediaIn(folder, sourceNames(text));
    const out = writable(values.out, [...media.values(), readable(file)], values.force === true);
    const reply = await withEngine({ media, out }, (page, base) =>
      page.evaluate((order) => window.akmeon.render(order), {
        text,
        base,
        names: [...media.keys()],
        format: values.format ?? null,
        width,
        height,
        sound,
        kind: values.as ?? null,
        copy: values.copy === true,
        range: range as [number, number] | null,
        renderer,
      } as const),
    );
    const result: HeadlessRender = unwrap(reply);
    for (const { source, frames, seconds } of result.damaged)
      warn(`${source} is damaged: ${frames} frames and ${seconds.toFixed(1)} s of sound could not be read`);
    process.stdout.write(`${JSON.stringify({ file: values.out, ...result })}\n`);
    return;
  }
  if (command === 'batch') {
    if (!values.out) throw new Exit(2, `batch needs --out; ${USAGE}`);
    const [folder, out] = [resolve(file), resolve(values.out)];
    for (const path of [folder, out]) if (!isFolder(path)) throw new Exit(3, `${path}: no such folder`);
    if (realpathSync(folder) === realpathSync(out))
      throw new Exit(2, '--out takes another folder than that of the recordings');
    const [before, after] = numbers('around', values.around, 2) ?? [1, 1.5];
    if (!(before! >= 0 && after! > 0 && before! + after! <= 600))
      throw new Exit(2, '--around takes the seconds BEFORE,AFTER each hit');
    const paths = values.accents === undefined ? [] : values.accents.split(',');
    const kind = values.as ?? null;
    const order = {
      folder,
      out,
      analyse: { ...asked(values), like: null, region: null },
      accents: paths.map((path) => readFileSync(readable(path), 'utf8')),
      best: { before: before!, after: after!, longest: number('longest', values.longest, 0.1, 86_400) },
      render: { sound: soundOf(values), kind, copy: values.copy === true, renderer: 'auto' as const },
      atOnce,
      force: values.force === true,
    };
    const extension = kind?.startsWith('webm') ? 'webm' : 'mp4';
    const { together: name } = values;
    if (name !== undefined && (name !== basename(name) || !name.trim() || name.startsWith('.')))
      throw new Exit(2, `--together takes the name of a film in the folder of --out, not "${name}"`);
    if (name !== undefined && values.queue)
      throw new Exit(2, '--together makes one montage, which is not divided among machines: leave --queue out');
    if (values.lend !== undefined && !values.queue)
      throw new Exit(2, '--lend is for the workers of a queue: --queue says where that is');
    const lines = name
      ? await together(order, name, extension, line)
      : values.queue
        ? await queuedBatch(values.queue, order, extension, values.lend ?? null, line)
        : await batch(order, extension, line);
    const failed = lines.filter(({ state }) => state === 'failed').length;
    if (!lines.length) throw new Exit(3, `${file}: there is no recording in the folder`);
    if (failed) throw new Exit(4, `${failed} of ${lines.length} recordings failed: what is said of each is above`);
    return;
  }
  throw new Exit(2, `unknown command "${command}"; ${USAGE}`);
}

/** A line of JSON for each file, by one engine; one that cannot be read does not stop the rest. @throws Exit for the first of these */
async function analyseAll(files: readonly string[], order: Omit<AnalyseOrder, 'name'>): Promise<void> {
  let failed: unknown = null;
  const left = [...files];
  const told = (file: string, error: unknown): void => {
    if (files.length > 1) warn(`${basename(file)}: ${(error as Error).message.split('\n')[0]}`);
    failed ??= error;
  };
  while (left.length)
    await withOpenEngine(async ({ page, base, use, lives }) => {
      for (let file = left.shift(); file !== undefined; file = left.shift())
        try {
          const path = readable(file);
          // A name of its own: what was fetched of another file is not asked again.
          const name = `input${left.length}`;
          use({ media: new Map([[name, path]]) });
          const asked = { ...order, name: basename(path), url: `${base}/media/${name}` };
          const result: RecordingAnalysis = unwrap(await page.evaluate((sent) => window.akmeon.analyse(sent), asked));
          for (const note of result.notes) warn(note);
          process.stdout.write(`${JSON.stringify({ file: basename(path), ...result })}\n`);
        } catch (error) {
          told(file, error);
          if (!(error instanceof Exit) && !(await lives())) return;
        }
    });
  if (failed) throw failed;
}

/** A profile's own names, for checking what is asked for; the engine checks the profile itself. */
function profileNames(text: string): string[] {
  try {
    const families = (JSON.parse(text) as { families?: { name?: unknown }[] }).families ?? [];
    return families.flatMap((family) => (typeof family?.name === 'string' && family.name ? [family.name] : []));
  } catch {
    return [];
  }
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
  const wrong = error instanceof QueueError && error.reason === 'address';
  process.exitCode = error instanceof Exit ? error.code : wrong ? 2 : 4;
}
