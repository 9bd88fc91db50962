/** The export: one at a time, in its own thread, into a file that exists only when it is whole. */
import { create } from 'zustand';
import { formatsOf, inFormat } from '../../core/document/formats.ts';
import type { Montage } from '../../core/document/types.ts';
import {
  damageSentence,
  dropEmpty,
  EngineError,
  exportKind,
  isCancelled,
  proxy,
  resultFile,
  sentence,
  startExporter,
  type ExportOptions,
  type ExportProgress,
  type ExportResult,
} from '../../engine/index.ts';
import { jobs } from './jobs.ts';
import { useMedia, mediaLocations } from './media.ts';
import { useMontage } from './montage.ts';
import { fileNameOf } from './opening.ts';
import { notice } from './view.ts';

export interface ExportedFile {
  readonly name: string;
  readonly result: ExportResult;
  /** Where it waits to be saved; null where it was written to a chosen place. */
  readonly url: string | null;
  readonly size: number;
}

/** One file of an export: the montage in one of its formats, or a part of it. */
export interface Ordered {
  readonly format: string | null;
  readonly options: ExportOptions;
  /** What tells a part from the whole, in its file's name. */
  readonly part?: string;
}

type State =
  | { readonly phase: 'idle' }
  | { readonly phase: 'running'; readonly job: string; readonly progress: ExportProgress }
  | {
      readonly phase: 'done';
      /** One for each format. */
      readonly files: readonly ExportedFile[];
      /** What was exported: after an edit it is an older state. */
      readonly of: Montage;
      /** What was asked for, as a text; null where files of several orders are there. */
      readonly asked: string | null;
    };

export const useExport = create<{ state: State }>(() => ({ state: { phase: 'idle' } }));

/** What is asked for, told from anything else. */
export const askedText = (orders: readonly Ordered[]): string => JSON.stringify(orders);

/** The name of a montage's file, or of one of its formats. */
export const fileName = (name: string, format = '', kind?: string): string =>
  `${fileNameOf(name, format.replace(':', '-'))}.${exportKind(kind).extension}`;

type ResultFile = Awaited<ReturnType<typeof resultFile>>;
/** The last results of this tab in the browser's storage. */
let waiting: readonly ResultFile[] = [];

async function dropWaiting(): Promise<void> {
  const { state } = useExport.getState();
  if (state.phase === 'done') for (const { url } of state.files) if (url) URL.revokeObjectURL(url);
  const old = waiting;
  waiting = [];
  for (const file of old) await file.drop();
}

/**
 * One file after the other, none of which is there before it is whole.
 * @param chosen a file that the person picked, for a single one; without it results wait in the browser's storage
 * @param montage as it is exported, the open one where it is not said; `keep`: results of before stay there to be saved
 */
export async function startExport(
  orders: readonly Ordered[],
  chosen?: FileSystemFileHandle,
  { montage = useMontage.getState().montage, keep = false }: { montage?: Montage | null; keep?: boolean } = {},
): Promise<void> {
  if (!montage || !orders.length || useExport.getState().state.phase === 'running') return;
  const before = useExport.getState().state;
  const kept = keep && before.phase === 'done' ? before.files : [];
  const own: ResultFile[] = [];
  const named = new Map(formatsOf(montage).map(({ id, name }) => [id, name]));
  const several = new Set(orders.map(({ format }) => format)).size > 1;
  const names = orders.map(({ format, part = '', options }) => {
    const said = several || format ? (named.get(format) ?? '') : '';
    return chosen?.name ?? fileName(montage.name, `${said} ${part}`.trim(), options.kind);
  });
  try {
    await jobs.run({ kind: 'export', owner: montage.id, label: `Exporting ${names[0]!}` }, async (job) => {
      const files: ExportedFile[] = [];
      const api = job.use(startExporter());
      job.signal.addEventListener('abort', () => void api.cancel().catch(() => undefined));
      for (const [i, { format, options }] of orders.entries()) {
        // Cancelled between two files, none is begun any more.
        if (job.signal.aborted) throw new EngineError('cancelled', 'Cancelled.');
        const name = names[i]!;
        const show = (progress: ExportProgress): void => {
          if (job.signal.aborted) return;
          useExport.setState({ state: { phase: 'running', job: job.id, progress } });
          const left = progress.left === null ? {} : { detail: `${Math.ceil(progress.left)} s left` };
          const share = (i + progress.frame / Math.max(1, progress.count)) / orders.length;
          job.progress(share, { label: `Exporting ${name}`, ...left });
        };
        show({ frame: 0, count: 0, left: null });
        const target = chosen ? null : await resultFile();
        if (target) own.push(target);
        const handle = chosen ?? target!.handle;
        const result = await api.run(
          {
            montage: inFormat(montage, format),
            locations: new Map(mediaLocations()),
            listed: useMedia.getState().listed,
            options,
          },
          { kind: chosen ? 'picked' : 'stored', handle },
          proxy(show),
        );
        const file = await handle.getFile();
        files.push({ name, result, size: file.size, url: chosen ? null : URL.createObjectURL(file) });
      }
      if (!keep) await dropWaiting();
      waiting = [...waiting, ...own];
      useExport.setState({
        state: { phase: 'done', files: [...kept, ...files], of: montage, asked: keep ? null : askedText(orders) },
      });
      for (const { name, result } of files) {
        const damage = damageSentence(result.damaged);
        notice(
          `${name} is ${damage ? 'written' : 'whole'}: ${result.frames} frames, ${result.passedThrough} of them passed through as they were decoded.`,
        );
        if (damage) notice(damage, 'error');
      }
    });
  } catch (error) {
    // Finished files of before are still there.
    useExport.setState({ state: before.phase === 'done' ? before : { phase: 'idle' } });
    if (chosen) await dropEmpty(chosen);
    for (const file of own) await file.drop();
    if (isCancelled(error)) notice('Export cancelled. No partial file was left.');
    else notice(`Export stopped: ${sentence(error)} No partial file was left.`, 'error', 'export');
  }
}
