/** The engine's page for the command line: no interface, three calls on `window.akmeon`. */
import { readAccents } from '../core/document/accents.ts';
import { inFormat } from '../core/document/formats.ts';
import { readMontage, writeMontage } from '../core/document/akmeon.ts';
import { FormatError } from '../core/document/document.ts';
import type { BestOf } from '../core/timeline/best-of.ts';
import type { Montage, VideoInfo } from '../core/document/types.ts';
import {
  analyseRecording,
  composeBest,
  type AnalyseOrder,
  type RecordingAnalysis,
  type SearchedRecording,
} from './analyse/recording.ts';
import { EXPORT_KINDS, type SoundChoice } from './export/kinds.ts';
import { sourceOf } from './media/source.ts';
import type { RendererChoice } from './render/choose.ts';
import {
  EngineError,
  fingerprintAt,
  Jobs,
  startAnalyser,
  startExporter,
  proxy,
  sentence,
  type ExportProgress,
  type ExportResult,
  type ListedStarts,
} from './index.ts';

export type { AnalyseOrder, RecordingAnalysis };
export type HeadlessReply<T> = { ok: true; value: T } | { ok: false; input: boolean; message: string };

export type HeadlessRender = ExportResult;

export interface ComposeOrder {
  /** Of the montage. */
  name: string;
  recordings: readonly { url: string; name: string; hits: RecordingAnalysis['hits'] }[];
  /** Texts of `.akmeon-accent` files. */
  accents: readonly string[];
  order: BestOf;
}

export interface RenderOrder {
  text: string;
  base: string;
  names: readonly string[];
  /** Name of one of the montage's formats; null: its own shape. */
  format: string | null;
  width: number | null;
  height: number | null;
  sound: SoundChoice;
  /** Id of a kind of file; null: the first. */
  kind: string | null;
  /** What nothing touches is taken over as it came. */
  copy: boolean;
  /** First frame, and the one after the last; null: all. */
  range: readonly [number, number] | null;
  readonly renderer: RendererChoice;
}

const FAULTS_OF_INPUT = new Set([
  'not-media',
  'empty',
  'truncated',
  'no-tracks',
  'no-frames',
  'video-codec',
  'audio-codec',
  'hdr',
  'unreadable',
  'media-missing',
  'nothing-to-do',
  'stuck',
]);

/** What hangs on a damaged file ends with a sentence, and its worker with it. */
const jobs = new Jobs(() => undefined);

async function answer<T>(work: () => Promise<T>): Promise<HeadlessReply<T>> {
  try {
    return { ok: true, value: await work() };
  } catch (error) {
    const input = error instanceof FormatError || (error instanceof EngineError && FAULTS_OF_INPUT.has(error.code));
    return { ok: false, input, message: sentence(error) };
  }
}

const analyse = (order: AnalyseOrder & { url: string }): Promise<HeadlessReply<RecordingAnalysis>> =>
  answer(() =>
    jobs.run({ kind: 'analyse', owner: '', label: `Reading ${order.name}` }, async (job) => {
      const { url, ...rest } = order;
      // An empty file has no bytes to ask a range of.
      const head = await fetch(url, { method: 'HEAD' });
      if (head.headers.get('Content-Length') === '0')
        throw new EngineError('empty', `${order.name} is empty (0 bytes).`);
      const api = job.use(startAnalyser());
      const about = await api.describe({ url }, order.name);
      return analyseRecording(rest, { url }, about, api, (share) => job.progress(share));
    }),
  );

const render = (order: RenderOrder): Promise<HeadlessReply<HeadlessRender>> =>
  answer(() =>
    jobs.run({ kind: 'export', owner: '', label: 'Rendering' }, async (job) => {
      const montage = formatted(readMontage(order.text), order.format);
      const missing = montage.sources.find((source) => !order.names.includes(source.name));
      if (missing) throw new EngineError('media-missing', `${missing.name} is not in the media folder.`);
      const locations = new Map(
        montage.sources.map((source) => [source.id, { url: `${order.base}/media/${encodeURIComponent(source.name)}` }]),
      );
      const listed: Record<string, ListedStarts[string]> = {};
      /** Where the document and the file differ on whether frames come regularly, the file is right. */
      const videos = new Map<string, VideoInfo>();
      const analyser = job.use(startAnalyser());
      for (const source of montage.sources) {
        job.progress(null);
        const location = locations.get(source.id)!;
        if ((await fingerprintAt(location.url)) !== source.fingerprint)
          throw new EngineError(
            'media-missing',
            `${source.name} in the media folder is not the file that the montage was made with: its content differs.`,
          );
        if (!source.video) continue;
        // What the montage knows as variable is listed frame by frame, however regular it begins.
        const about = await analyser.describe(location, source.name, source.video.variable);
        if (about.video && about.video.variable !== source.video.variable) videos.set(source.id, about.video);
        if (about.starts) listed[source.id] = { starts: about.starts, lastDuration: about.lastDuration };
      }
      const { width, height, timing } = montage.settings;
      return await job.use(startExporter()).run(
        {
          montage: {
            ...montage,
            sources: montage.sources.map((source) => ({ ...source, video: videos.get(source.id) ?? source.video })),
          },
          locations,
          listed,
          options: {
            width: order.width ?? width,
            height: order.height ?? height,
            timing,
            sound: order.sound,
            copy: order.copy,
            ...(order.kind !== null && { kind: knownKind(order.kind) }),
            ...(order.range && { range: { from: order.range[0], to: order.range[1] } }),
            renderer: order.renderer,
          },
        },
        { kind: 'server', url: `${order.base}/out` },
        proxy((state: ExportProgress) => job.progress(state.frame / Math.max(1, state.count))),
      );
    }),
  );

/** A montage of the strongest moments of one recording, or of several; its text. */
const compose = (order: ComposeOrder): Promise<HeadlessReply<string>> =>
  answer(() =>
    jobs.run({ kind: 'bring-in', owner: '', label: `Composing ${order.name}` }, async (job) => {
      const api = job.use(startAnalyser());
      const recordings: SearchedRecording[] = [];
      for (const { url, name, hits } of order.recordings) {
        const about = await api.describe({ url }, name);
        if (!about.video) throw new EngineError('no-frames', `${name} has no picture: there is nothing to show.`);
        const size = Number((await fetch(url, { method: 'HEAD' })).headers.get('Content-Length'));
        const id = `recording-${recordings.length + 1}`;
        recordings.push({ source: sourceOf(about, { id, name, fingerprint: await fingerprintAt(url), size }), hits });
      }
      const accents = order.accents.flatMap((text) => readAccents(text).accents);
      return writeMontage(composeBest(order.name, recordings, accents, order.order));
    }),
  );

/** @throws EngineError where the montage has no format of that name */
function formatted(montage: Montage, name: string | null): Montage {
  const format = montage.formats.find((one) => one.name === name);
  if (name !== null && !format)
    throw new EngineError(
      'nothing-to-do',
      `The montage has no format "${name}": it has ${montage.formats.map((one) => one.name).join(', ') || 'none but its own shape'}.`,
    );
  return inFormat(montage, format?.id ?? null);
}

declare global {
  interface Window {
    akmeon: { analyse: typeof analyse; compose: typeof compose; render: typeof render };
  }
}
window.akmeon = { analyse, compose, render };

/** @throws EngineError where there is no such kind of file */
function knownKind(id: string): string {
  if (EXPORT_KINDS.some((kind) => kind.id === id)) return id;
  throw new EngineError('encoder', `There is no kind "${id}": ${EXPORT_KINDS.map((kind) => kind.id).join(', ')} are.`);
}
