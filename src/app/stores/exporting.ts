/** The export: one at a time, in its own thread, into a file that exists only when it is whole. */
import { create } from 'zustand';
import type { Montage } from '../../core/document/types.ts';
import {
  damageSentence,
  dropEmpty,
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
import { plainName } from './opening.ts';
import { notice } from './view.ts';

type State =
  | { readonly phase: 'idle' }
  | { readonly phase: 'running'; readonly job: string; readonly progress: ExportProgress }
  | {
      readonly phase: 'done';
      readonly name: string;
      readonly result: ExportResult;
      readonly url: string | null;
      readonly size: number;
      /** What was exported: after an edit it is an older state. */
      readonly of: Montage;
    };

export const useExport = create<{ state: State }>(() => ({ state: { phase: 'idle' } }));

export const fileName = (name: string): string => `${plainName(name).replace(/\s+/g, '-').toLowerCase()}.mp4`;

/** The last result of this tab in the browser's storage. */
let waiting: Awaited<ReturnType<typeof resultFile>> | null = null;

async function dropWaiting(): Promise<void> {
  const { state } = useExport.getState();
  if (state.phase === 'done' && state.url) URL.revokeObjectURL(state.url);
  const old = waiting;
  waiting = null;
  await old?.drop();
}

/** `chosen`: a file the person picked; without one the result waits in the browser's storage for saving. */
export async function startExport(options: ExportOptions, chosen?: FileSystemFileHandle): Promise<void> {
  const { montage } = useMontage.getState();
  if (!montage || useExport.getState().state.phase === 'running') return;
  const name = chosen?.name ?? fileName(montage.name);
  const before = useExport.getState().state;
  let own: typeof waiting = null;
  try {
    await jobs.run({ kind: 'export', owner: montage.id, label: `Exporting ${name}` }, async (job) => {
      const show = (progress: ExportProgress): void => {
        if (job.signal.aborted) return;
        useExport.setState({ state: { phase: 'running', job: job.id, progress } });
        const left = progress.left === null ? {} : { detail: `${Math.ceil(progress.left)} s left` };
        job.progress(progress.frame / Math.max(1, progress.count), left);
      };
      show({ frame: 0, count: 0, left: null });
      const api = job.use(startExporter());
      job.signal.addEventListener('abort', () => void api.cancel().catch(() => undefined));
      if (!chosen) own = await resultFile();
      const handle = chosen ?? own!.handle;
      const result = await api.run(
        { montage, locations: new Map(mediaLocations()), listed: useMedia.getState().listed, options },
        { kind: chosen ? 'picked' : 'stored', handle },
        proxy(show),
      );
      const file = await handle.getFile();
      await dropWaiting();
      waiting = own;
      useExport.setState({
        state: {
          phase: 'done',
          name,
          result,
          size: file.size,
          url: chosen ? null : URL.createObjectURL(file),
          of: montage,
        },
      });
      const damage = damageSentence(result.damaged);
      notice(
        `${name} is ${damage ? 'written' : 'whole'}: ${result.frames} frames, ${result.passedThrough} of them passed through as they were decoded.`,
      );
      if (damage) notice(damage, 'error');
    });
  } catch (error) {
    // A finished file of before is still there.
    useExport.setState({ state: before.phase === 'done' ? before : { phase: 'idle' } });
    if (chosen) await dropEmpty(chosen);
    else await (own as typeof waiting)?.drop();
    if (isCancelled(error)) notice('Export cancelled. No partial file was left.');
    else notice(`Export stopped: ${sentence(error)} No partial file was left.`, 'error');
  }
}
