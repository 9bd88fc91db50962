/**
 * Many recordings: each is analysed, its strongest moments become a montage, and that is rendered. What is there already is
 * not made again, so that a batch that was killed goes on where it was; a recording that is broken does not stop the rest.
 */
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { basename, extname, join } from 'node:path';
import type { AnalyseOrder, ComposeOrder, RenderOrder } from '../engine/headless.ts';
import { withEngine, withOpenEngine, type Engine, type EnginePage } from './browser.ts';
import { unwrap } from './exit.ts';

/** Endings of files that are taken for recordings. */
const ENDINGS = new Set(['.mp4', '.m4v', '.mov', '.webm', '.mkv']);

export interface BatchOrder {
  readonly folder: string;
  readonly out: string;
  readonly analyse: Omit<AnalyseOrder, 'name'>;
  readonly accents: readonly string[];
  readonly best: ComposeOrder['order'];
  readonly render: Pick<RenderOrder, 'sound' | 'kind' | 'copy' | 'renderer'>;
  /** Recordings that are worked on at once. */
  readonly atOnce: number;
  readonly force: boolean;
}

/** What came of one recording. */
export type BatchLine =
  | {
      readonly recording: string;
      readonly state: 'done';
      readonly file: string;
      readonly frames: number;
    }
  | { readonly recording: string; readonly state: 'there'; readonly file: string }
  | { readonly recording: string; readonly state: 'failed'; readonly why: string };

/** Recordings of a folder, in order, with the names of what is made of them: two of one name keep their endings. */
export function recordingsIn(
  folder: string,
  extension: string,
): readonly { readonly path: string; readonly file: string }[] {
  const names = readdirSync(folder)
    .filter((name) => ENDINGS.has(extname(name).toLowerCase()) && statSync(join(folder, name)).isFile())
    .sort();
  const plain = (name: string): string => basename(name, extname(name));
  return names.map((name) => {
    const alone = names.filter((other) => plain(other) === plain(name)).length === 1;
    return { path: join(folder, name), file: `${alone ? plain(name) : name.replaceAll('.', '-')}.${extension}` };
  });
}

type Recording = ComposeOrder['recordings'][number];

/** A recording with what is found in it. */
async function searched({ analyse }: BatchOrder, page: EnginePage, base: string, name: string): Promise<Recording> {
  const url = `${base}/media/${encodeURIComponent(name)}`;
  const asked = { ...analyse, name, url };
  const { hits } = unwrap(await page.evaluate((sent) => window.akmeon.analyse(sent), asked));
  return { url, name, hits };
}

/** The text of a montage of the strongest moments. */
async function composed(
  { accents, best }: BatchOrder,
  page: EnginePage,
  name: string,
  recordings: readonly Recording[],
): Promise<string> {
  const asked = { name, recordings, accents, order: best };
  return unwrap(await page.evaluate((sent) => window.akmeon.compose(sent), asked));
}

/** Renders a montage's text into the file that the engine was opened for; gives the count of frames. */
async function filmed(
  { render }: BatchOrder,
  page: EnginePage,
  base: string,
  text: string,
  names: string[],
): Promise<number> {
  const shape = { format: null, width: null, height: null, range: null };
  const film = { ...render, ...shape, text, base, names };
  return unwrap(await page.evaluate((sent) => window.akmeon.render(sent), film)).frames;
}

/** The name of the project beside a film. */
export const projectName = (file: string): string => `${basename(file, extname(file))}.akmeon`;

/** The project beside a film: one that is there was perhaps worked on, and is rendered as it is. */
async function projectOf(order: BatchOrder, file: string, make: () => Promise<string>): Promise<string> {
  const path = join(order.out, projectName(file));
  if (existsSync(path) && !order.force) return readFileSync(path, 'utf8');
  const text = await make();
  // First: where the film is, its montage is too.
  writeFileSync(path, text);
  return text;
}

const reason = (error: unknown): string => (error instanceof Error ? error.message : String(error));

/** One recording, from finding to film, by an engine that is open; what is there is not made again. */
async function oneBy(engine: Engine, order: BatchOrder, path: string, file: string): Promise<BatchLine> {
  const recording = basename(path);
  const { page, base } = engine;
  try {
    engine.use({ media: new Map([[recording, path]]), out: join(order.out, file) });
    const text = await projectOf(order, file, async () =>
      composed(order, page, recording, [await searched(order, page, base, recording)]),
    );
    const frames = await filmed(order, page, base, text, [recording]);
    return { recording, state: 'done', file, frames };
  } catch (error) {
    return { recording, state: 'failed', why: reason(error) };
  }
}

const isThere = ({ out, force }: BatchOrder, file: string): boolean => existsSync(join(out, file)) && !force;

/** The same by an engine of its own. */
export async function one(order: BatchOrder, path: string, file: string): Promise<BatchLine> {
  const recording = basename(path);
  if (isThere(order, file)) return { recording, state: 'there', file };
  return withOpenEngine((engine) => oneBy(engine, order, path, file)).catch((error: unknown) => ({
    recording,
    state: 'failed',
    why: reason(error),
  }));
}

/** All recordings of a folder in one montage; those that are broken are left out, and said. */
export async function together(
  order: BatchOrder,
  name: string,
  extension: string,
  said: (line: BatchLine) => void,
): Promise<BatchLine[]> {
  const lines: BatchLine[] = [];
  const say = (line: BatchLine): void => {
    lines.push(line);
    said(line);
  };
  const paths = new Map(recordingsIn(order.folder, extension).map(({ path }) => [basename(path), path]));
  const file = `${name}.${extension}`;
  const out = join(order.out, file);
  if (!paths.size) return lines;
  if (existsSync(out) && !order.force) {
    say({ recording: name, state: 'there', file });
    return lines;
  }
  try {
    await withEngine({ media: paths, out }, async (page, base) => {
      const text = await projectOf(order, file, async () => {
        const recordings: Recording[] = [];
        for (const recording of paths.keys())
          try {
            recordings.push(await searched(order, page, base, recording));
          } catch (error) {
            say({ recording, state: 'failed', why: reason(error) });
          }
        if (!recordings.length) throw new Error('none of the recordings can be read');
        return composed(order, page, name, recordings);
      });
      const frames = await filmed(order, page, base, text, [...paths.keys()]);
      say({ recording: name, state: 'done', file, frames });
    });
  } catch (error) {
    say({ recording: name, state: 'failed', why: reason(error) });
  }
  return lines;
}

/** @param said a line for each recording, as it ends */
export async function batch(
  order: BatchOrder,
  extension: string,
  said: (line: BatchLine) => void,
): Promise<BatchLine[]> {
  const left = [...recordingsIn(order.folder, extension)];
  const lines: BatchLine[] = [];
  const say = (line: BatchLine): void => {
    lines.push(line);
    said(line);
  };
  /** The next that is not there yet. */
  const nextOne = (): (typeof left)[number] | undefined => {
    for (let next = left.shift(); next; next = left.shift()) {
      if (!isThere(order, next.file)) return next;
      say({ recording: basename(next.path), state: 'there', file: next.file });
    }
    return undefined;
  };
  const work = async (): Promise<void> => {
    let next = nextOne();
    while (next) {
      const first = next;
      // One engine for all of them; where it dies, another one for the rest.
      next = await withOpenEngine(async (engine) => {
        for (let at: typeof next = first; at; at = nextOne()) {
          const line = await oneBy(engine, order, at.path, at.file);
          say(line);
          if (line.state === 'failed' && !(await engine.lives())) return nextOne();
        }
        return undefined;
      }).catch((error: unknown) => {
        say({ recording: basename(first.path), state: 'failed', why: reason(error) });
        return nextOne();
      });
    }
  };
  await Promise.all(Array.from({ length: order.atOnce }, work));
  return lines;
}
