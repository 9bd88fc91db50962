/**
 * Many recordings: each is analysed, its strongest moments become a montage, and that is rendered. What is there already is
 * not made again, so that a batch that was killed goes on where it was; a recording that is broken does not stop the rest.
 */
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { basename, extname, join } from 'node:path';
import type { Page } from 'playwright-core';
import type { AnalyseOrder, ComposeOrder, RenderOrder } from '../engine/headless.ts';
import { withEngine } from './browser.ts';
import { unwrap } from './exit.ts';

/** Endings of files that are taken for recordings. */
const ENDINGS = new Set(['.mp4', '.m4v', '.mov', '.webm', '.mkv']);

export interface BatchOrder {
  readonly folder: string;
  readonly out: string;
  readonly analyse: Omit<AnalyseOrder, 'url' | 'name'>;
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

/** The text of a montage of a recording's strongest moments. */
async function composed(order: BatchOrder, page: Page, base: string, recording: string): Promise<string> {
  const url = `${base}/media/${encodeURIComponent(recording)}`;
  const asked = { ...order.analyse, name: recording, url };
  const { hits } = unwrap(await page.evaluate((sent) => window.akmeon.analyse(sent), asked));
  const best = { url, name: recording, hits, accents: order.accents, order: order.best };
  return unwrap(await page.evaluate((sent) => window.akmeon.compose(sent), best));
}

/** One recording, from finding to film; what is there is not made again. */
export async function one(order: BatchOrder, path: string, file: string): Promise<BatchLine> {
  const recording = basename(path);
  const out = join(order.out, file);
  if (existsSync(out) && !order.force) return { recording, state: 'there', file };
  try {
    return await withEngine({ media: new Map([[recording, path]]), out }, async (page, base) => {
      const project = join(order.out, `${basename(file, extname(file))}.akmeon`);
      // A montage that is there was perhaps worked on: it is rendered as it is.
      const kept = existsSync(project) && !order.force;
      const text = kept ? readFileSync(project, 'utf8') : await composed(order, page, base, recording);
      // First: where the film is, its montage is too.
      if (!kept) writeFileSync(project, text);
      const shape = { format: null, width: null, height: null, range: null };
      const film = { ...order.render, ...shape, text, base, names: [recording] };
      const { frames } = unwrap(await page.evaluate((sent) => window.akmeon.render(sent), film));
      return { recording, state: 'done', file, frames };
    });
  } catch (error) {
    return { recording, state: 'failed', why: error instanceof Error ? error.message : String(error) };
  }
}

/** @param said a line for each recording, as it ends */
export async function batch(
  order: BatchOrder,
  extension: string,
  said: (line: BatchLine) => void,
): Promise<BatchLine[]> {
  const left = [...recordingsIn(order.folder, extension)];
  const lines: BatchLine[] = [];
  const work = async (): Promise<void> => {
    for (let next = left.shift(); next; next = left.shift()) {
      const line = await one(order, next.path, next.file);
      lines.push(line);
      said(line);
    }
  };
  await Promise.all(Array.from({ length: order.atOnce }, work));
  return lines;
}
