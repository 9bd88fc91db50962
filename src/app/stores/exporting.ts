/** The export: one at a time, in its own thread, into a file that exists only when it is whole. */
import { create } from 'zustand';
import {
  startExporter,
  isCancelled,
  proxy,
  sentence,
  type ExportOptions,
  type ExportProgress,
  type ExportResult,
} from '../../engine/index.ts';
import { dropEmpty, dropResults, resultFile } from '../../engine/storage/media-files.ts';
import { useMedia, mediaLocations } from './media.ts';
import { useMontage } from './montage.ts';
import { plainName } from './opening.ts';
import { endJob, notice, setJob } from './view.ts';

type State =
  | { readonly phase: 'idle' }
  | { readonly phase: 'running'; readonly progress: ExportProgress; readonly cancel: () => void }
  | {
      readonly phase: 'done';
      readonly name: string;
      readonly result: ExportResult;
      readonly url: string | null;
      readonly size: number;
    };

export const useExport = create<{ state: State }>(() => ({ state: { phase: 'idle' } }));

export const fileName = (name: string): string => `${plainName(name).replace(/\s+/g, '-').toLowerCase()}.mp4`;

/** `chosen`: a file the person picked; without one the result waits in the browser's storage for saving. */
export async function startExport(options: ExportOptions, chosen?: FileSystemFileHandle): Promise<void> {
  const { montage } = useMontage.getState();
  if (!montage || useExport.getState().state.phase === 'running') return;
  const lost = montage.sources.find(
    (source) => !mediaLocations().has(source.id) && montage.clips.some((clip) => clip.source === source.id),
  );
  if (lost) {
    notice(`${lost.name} is not at hand: bring it in again before exporting.`, 'error');
    return;
  }
  const before = useExport.getState().state;
  if (before.phase === 'done' && before.url) URL.revokeObjectURL(before.url);
  const exporter = startExporter();
  const name = chosen?.name ?? fileName(montage.name);
  const cancel = (): void => void exporter.api.cancel();
  const id = 'export';
  const show = (progress: ExportProgress): void => {
    useExport.setState({ state: { phase: 'running', progress, cancel } });
    const left = progress.left === null ? {} : { detail: `${Math.ceil(progress.left)} s left` };
    setJob({ id, label: `Exporting ${name}`, share: progress.frame / Math.max(1, progress.count), cancel, ...left });
  };
  show({ frame: 0, count: 0, left: null });
  try {
    if (!chosen) await dropResults();
    const handle = chosen ?? (await resultFile(name));
    const result = await exporter.api.run(
      { montage, locations: new Map(mediaLocations()), listed: useMedia.getState().listed, options },
      { handle },
      proxy(show),
    );
    const file = await handle.getFile();
    useExport.setState({
      state: { phase: 'done', name, result, size: file.size, url: chosen ? null : URL.createObjectURL(file) },
    });
    notice(
      `${name} is whole: ${result.frames} frames, ${result.passedThrough} of them passed through as they were decoded.`,
    );
  } catch (error) {
    useExport.setState({ state: { phase: 'idle' } });
    if (!chosen) await dropResults();
    else await dropEmpty(chosen);
    if (isCancelled(error)) notice('Export cancelled. No partial file was left.');
    else notice(`Export stopped: ${sentence(error)} No partial file was left.`, 'error');
  } finally {
    exporter.end();
    endJob(id);
  }
}
