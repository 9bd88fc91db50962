/** Where the sources' bytes are, what is known of them, and the preview's thread. */
import { create } from 'zustand';
import type { Montage, Source } from '../../core/document/types.ts';
import type { Signals } from '../../core/finding/signals/types.ts';
import type { FamilySignal } from '../../core/finding/families/more.ts';
import type { WatchSignal } from '../../core/finding/watch/watch.ts';
import {
  findMedia,
  keepStarts,
  keptSignals,
  keptStarts,
  sentence,
  startAnalyser,
  startFrameServer,
  type FrameServer,
  type ListedStarts,
  type MediaLocation,
  type WorkerClient,
} from '../../engine/index.ts';
import { jobs } from './jobs.ts';
import { useMontage } from './montage.ts';
import { notice } from './view.ts';

export type MediaState = 'looking' | 'here' | 'locked' | 'missing';

interface Media {
  /** By source id. */
  states: Readonly<Record<string, MediaState>>;
  signals: Readonly<Record<string, Signals>>;
  /** Sources whose signals are only a part: their analysis goes on, or was cut off. */
  partial: Readonly<Record<string, boolean>>;
  listed: ListedStarts;
  /** Raised whenever a source's bytes come or go, so that pictures are drawn anew. */
  epoch: number;
  /** Raised whenever the preview's thread is started again. */
  server: number;
  /** What draws the pictures; null before the first one. */
  drawnBy: 'gpu' | 'cpu' | null;
  /** Of watched rectangles, by source id and watch id. */
  watched: Readonly<Record<string, Readonly<Record<string, WatchSignal>>>>;
  /** Of families that more is sought of, by source id and family id. */
  alike: Readonly<Record<string, Readonly<Record<string, FamilySignal>>>>;
}

const NOTHING = { states: {}, signals: {}, partial: {}, listed: {}, watched: {}, alike: {} };
export const useMedia = create<Media>(() => ({ ...NOTHING, epoch: 0, server: 0, drawnBy: null }));

const locations = new Map<string, MediaLocation>();
const locked = new Map<string, FileSystemFileHandle>();
export const mediaLocations = (): ReadonlyMap<string, MediaLocation> => locations;

let client: WorkerClient<FrameServer> | null = null;
let restarts = 0;
/** Restarts after which something is wrong that another one does not mend. */
const MOST_RESTARTS = 5;

/** The preview's thread, started on first use, and again when it dies. */
export const frameServer = (): WorkerClient<FrameServer>['api'] => {
  if (client) return client.api;
  const started = startFrameServer();
  client = started;
  started.died.catch(() => {
    client = null;
    if (++restarts > MOST_RESTARTS) {
      notice('The preview stops again and again. Save the montage to a file and load this page anew.', 'error');
      return;
    }
    notice('The preview had stopped and was started again.');
    for (const [source, location] of locations)
      void frameServer()
        .setMedia(source, location)
        .catch(() => undefined);
    useMedia.setState((s) => ({ server: s.server + 1, epoch: s.epoch + 1 }));
  });
  return started.api;
};

/** True while a montage is the one that is open: what is found for another goes into its own document only. */
export const isOpen = (owner: string): boolean => useMontage.getState().montage?.id === owner;

/** Makes a source's bytes known; the preview knows them before anything asks it for a frame. */
export async function setLocation(owner: string, source: string, location: MediaLocation): Promise<void> {
  if (!isOpen(owner)) return;
  locations.set(source, location);
  await frameServer().setMedia(source, location);
  if (isOpen(owner)) useMedia.setState((s) => ({ states: { ...s.states, [source]: 'here' }, epoch: s.epoch + 1 }));
}

const setState = (owner: string, source: string, state: MediaState): void => {
  if (isOpen(owner)) useMedia.setState((s) => ({ states: { ...s.states, [source]: state } }));
};

/** Looks for all media and kept signals of a montage that was opened. */
export async function meetSources(montage: Montage): Promise<void> {
  locations.clear();
  locked.clear();
  useMedia.setState({ ...NOTHING, states: Object.fromEntries(montage.sources.map((s) => [s.id, 'looking'])) });
  await Promise.all(montage.sources.map((source) => meetSource(montage.id, source)));
}

export async function meetSource(owner: string, source: Source): Promise<void> {
  try {
    const [signals, starts] = await Promise.all([keptSignals(source.fingerprint), keptStarts(source.fingerprint)]);
    if (!isOpen(owner)) return;
    if (starts) showStarts(owner, source.id, starts);
    if (signals) useMedia.setState((s) => ({ signals: { ...s.signals, [source.id]: signals } }));
    const found = await findMedia(source.fingerprint);
    if (found.state === 'here') {
      if (source.video?.variable && !starts) await listFrames(owner, source, found.location);
      await setLocation(owner, source.id, found.location);
    } else {
      if (found.state === 'locked') locked.set(source.id, found.handle);
      setState(owner, source.id, found.state);
    }
  } catch (error) {
    setState(owner, source.id, 'missing');
    notice(sentence(error), 'error');
  }
}

/** A variable source whose list of frames is lost is listed again: without it its frame numbers mean nothing. */
async function listFrames(owner: string, source: Source, location: MediaLocation): Promise<void> {
  await jobs.run({ kind: 'bring-in', owner, label: `Listing the frames of ${source.name}` }, async (job) => {
    const about = await job.use(startAnalyser()).describe(location, source.name, true);
    if (about.starts) await rememberStarts(owner, source, about.starts, about.lastDuration);
  });
}

const showStarts = (owner: string, source: string, { starts, lastDuration }: ListedStarts[string]): void => {
  if (isOpen(owner)) useMedia.setState((s) => ({ listed: { ...s.listed, [source]: { starts, lastDuration } } }));
};

/** Frame starts of a variable-rate source: used now, and kept where storage allows. */
export async function rememberStarts(
  owner: string,
  { id, fingerprint }: Pick<Source, 'id' | 'fingerprint'>,
  starts: Float64Array,
  lastDuration: number,
): Promise<void> {
  showStarts(owner, id, { starts, lastDuration });
  // Where storage refuses, the list is made again at the next visit.
  await keepStarts({ fingerprint, starts, lastDuration }).catch(() => undefined);
}

/** The one click after a reload: asks the browser for the files whose handles were kept. */
export async function unlockMedia(): Promise<void> {
  for (const [source, handle] of locked) {
    if ((await handle.requestPermission({ mode: 'read' })) !== 'granted') continue;
    locked.delete(source);
    const { montage } = useMontage.getState();
    const known = montage?.sources.find((s) => s.id === source);
    if (montage && known) await meetSource(montage.id, known);
  }
}
