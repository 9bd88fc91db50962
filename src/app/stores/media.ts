/** Where the sources' bytes are, what is known of them, and the engine's threads. */
import { nanoid } from 'nanoid';
import { create } from 'zustand';
import { addSource, updateSource } from '../../core/montage/edits.ts';
import { frameTimesOf } from '../../core/media/frame-times.ts';
import type { Montage, Source } from '../../core/montage/types.ts';
import type { Signals } from '../../core/signals/types.ts';
import {
  EngineError, fingerprint, hireAnalyser, hireStudio, isCancelled, proxy, sentence, type Hired, type ListedStarts, type MediaLocation,
} from '../../engine/index.ts';
import type { Studio } from '../../engine/preview/studio.ts';
import { database, keepSignals, keptSignals, stored } from '../../engine/storage/database.ts';
import { findMedia, keepMedia, type BroughtFile } from '../../engine/storage/media-files.ts';
import { edit, useMontage } from './montage.ts';
import { endJob, notice, setJob } from './session.ts';

export type MediaState = 'looking' | 'here' | 'locked' | 'missing';

interface Media {
  /** By source id. */
  states: Readonly<Record<string, MediaState>>;
  signals: Readonly<Record<string, Signals>>;
  listed: ListedStarts;
  /** Raised whenever a source's bytes come or go, so that pictures are drawn anew. */
  epoch: number;
}

export const useMedia = create<Media>(() => ({ states: {}, signals: {}, listed: {}, epoch: 0 }));

const locations = new Map<string, MediaLocation>();
const locked = new Map<string, FileSystemFileHandle>();
export const mediaLocations = (): ReadonlyMap<string, MediaLocation> => locations;

let hired: Hired<Studio> | null = null;
/** The preview's thread, started on first use. */
export const studio = (): Hired<Studio>['door'] => (hired ??= hireStudio()).door;

async function setLocation(source: string, location: MediaLocation): Promise<void> {
  locations.set(source, location);
  await studio().setMedia(source, location);
  useMedia.setState((s) => ({ states: { ...s.states, [source]: 'here' }, epoch: s.epoch + 1 }));
}

const setState = (source: string, state: MediaState): void =>
  useMedia.setState((s) => ({ states: { ...s.states, [source]: state } }));

/** Looks for all media and kept signals of a montage that was opened. */
export async function meetSources(montage: Montage): Promise<void> {
  locations.clear();
  locked.clear();
  useMedia.setState({ states: Object.fromEntries(montage.sources.map((s) => [s.id, 'looking'])), signals: {}, listed: {} });
  await Promise.all(montage.sources.map(meetSource));
}

async function meetSource(source: Source): Promise<void> {
  try {
    const [signals, starts] = await Promise.all([keptSignals(source.fingerprint, source.listen), stored(() => database.starts.get(source.fingerprint))]);
    if (starts) useMedia.setState((s) => ({ listed: { ...s.listed, [source.id]: { starts: starts.starts, lastDuration: starts.lastDuration } } }));
    if (signals) useMedia.setState((s) => ({ signals: { ...s.signals, [source.id]: signals } }));
    const found = await findMedia(source.fingerprint);
    if (found.state === 'here') await setLocation(source.id, found.location);
    else {
      if (found.state === 'locked') locked.set(source.id, found.handle);
      setState(source.id, found.state);
    }
  } catch (error) {
    setState(source.id, 'missing');
    notice(sentence(error), 'trouble');
  }
}

/** The one click after a reload: asks the browser for the files whose handles were kept. */
export async function unlockMedia(): Promise<void> {
  for (const [source, handle] of locked) {
    if ((await handle.requestPermission({ mode: 'read' })) !== 'granted') continue;
    locked.delete(source);
    const known = useMontage.getState().montage?.sources.find((s) => s.id === source);
    if (known) await meetSource(known);
  }
}

/** Brings files in one after another; each problem is said, none stops the others. */
export async function bringIn(files: readonly BroughtFile[]): Promise<void> {
  for (const brought of files) {
    const { file } = brought;
    const id = `bring-${nanoid(6)}`;
    const analyser = hireAnalyser();
    let cancel = (): void => undefined;
    const stop = new Promise<never>((_, reject) => {
      cancel = () => reject(new EngineError('cancelled', 'Cancelled.'));
    });
    let stopped = false;
    stop.catch(() => (stopped = true));
    setJob({ id, label: `Reading ${file.name}`, share: null, cancel });
    try {
      if (file.size === 0) throw new EngineError('empty', `${file.name} is empty (0 bytes).`);
      const about = await Promise.race([analyser.door.describe({ blob: file }, file.name), stop]);
      const print = await fingerprint(file);
      let forThisVisit = '';
      const kept = await keepMedia(brought, print, (share) => {
        if (stopped) throw new EngineError('cancelled', 'Cancelled.');
        setJob({ id, label: `Copying ${file.name} into the browser's storage`, share, cancel });
      }).catch((error: unknown) => {
        // Better to work on the file for this visit than not at all.
        if (!(error instanceof EngineError) || !error.code.startsWith('storage')) throw error;
        forThisVisit = `${error.message} It is used for this visit only.`;
        return null;
      });
      const meet = (source: Source): Promise<void> => (kept ? meetSource(source) : setLocation(source.id, { blob: file }));
      const { montage } = useMontage.getState();
      if (!montage) continue;
      const lost = montage.sources.find((s) => s.fingerprint === print);
      if (lost) {
        await meet(lost);
        notice(useMedia.getState().states[lost.id] === 'here' ? `${file.name} is at hand.` : `${file.name} could not be opened again.`);
        continue;
      }
      const missing = montage.sources.find((s) => s.name === file.name && useMedia.getState().states[s.id] === 'missing');
      if (missing) throw new EngineError('media-missing', `${file.name} has the right name but other content than the montage's source. Nothing was changed.`);
      const source: Source = {
        id: nanoid(8), name: file.name, role: about.video ? 'footage' : 'music', fingerprint: print, size: file.size, duration: about.duration,
        video: about.video, audio: about.audio, listen: indexOrNull(about.audio.findIndex((track) => track.readable)),
      };
      if (about.starts) {
        const starts = about.starts;
        await keepStarts(print, source.id, starts, about.lastDuration);
      }
      edit(addSource(source, nanoid(8)));
      await meet(source);
      if (forThisVisit) notice(forThisVisit, 'trouble');
      const how = kept?.kind === 'copy' ? 'Copied into the browser’s storage, since this browser gave no lasting hold of the file.' : '';
      notice([`${file.name} is in.`, ...about.notes, how].filter(Boolean).join(' '));
    } catch (error) {
      if (!isCancelled(error)) notice(sentence(error), 'trouble');
    } finally {
      analyser.end();
      endJob(id);
    }
  }
}

const indexOrNull = (index: number): number | null => (index < 0 ? null : index);

/** Analyses every source that has no kept signals; resolves to true when all have been. */
export async function findInSources(again = false): Promise<boolean> {
  const { montage } = useMontage.getState();
  if (!montage) return false;
  const wanted = montage.sources.filter((s) => again || !useMedia.getState().signals[s.id]);
  let stopped = false;
  for (const [n, source] of wanted.entries()) {
    const location = locations.get(source.id);
    if (!location) {
      notice(`${source.name} is not at hand: it was left out.`, 'trouble');
      continue;
    }
    const id = `find-${source.id}`;
    const analyser = hireAnalyser();
    const began = performance.now();
    const label = `Finding hits in ${source.name}${wanted.length > 1 ? ` (${n + 1} of ${wanted.length})` : ''}`;
    const cancel = (): void => {
      stopped = true;
      void analyser.door.cancel();
    };
    setJob({ id, label, share: 0, cancel });
    try {
      const options = { name: source.name, track: source.listen, picture: source.video !== null, duration: source.duration };
      const { signals, notes } = await analyser.door.analyse(location, options, proxy((share: number) => {
        const left = share > 0.02 ? ((performance.now() - began) / 1000) * (1 / share - 1) : null;
        setJob({ id, label, share, cancel, ...(left === null ? {} : { detail: `${Math.ceil(left)} s left` }) });
      }));
      useMedia.setState((s) => ({ signals: { ...s.signals, [source.id]: signals } }));
      await mendFrames(source, signals);
      await keepSignals(source.fingerprint, signals);
      for (const text of notes) notice(`${source.name}: ${text}`, 'trouble');
    } catch (error) {
      if (!isCancelled(error)) notice(sentence(error), 'trouble');
    } finally {
      analyser.end();
      endJob(id);
    }
    if (stopped) return false;
  }
  return true;
}

/** Frame starts of a variable-rate source: used now, and kept where storage allows. */
async function keepStarts(fingerprint: string, source: string, starts: Float64Array, lastDuration: number): Promise<void> {
  useMedia.setState((s) => ({ listed: { ...s.listed, [source]: { starts, lastDuration } } }));
  await stored(() => database.starts.put({ fingerprint, starts, lastDuration })).catch(() => undefined);
}

/** The analysis has seen every frame: where the first look at the file guessed wrong, it is mended. */
async function mendFrames(source: Source, { picture }: Signals): Promise<void> {
  if (!picture || !source.video || picture.times.length < 2) return;
  const times = frameTimesOf(picture.times, picture.lastDuration);
  if (times.variable === source.video.variable && times.count === source.video.count) return;
  if (times.variable) await keepStarts(source.fingerprint, source.id, picture.times, picture.lastDuration);
  edit(updateSource(source.id, { video: { ...source.video, variable: times.variable, count: times.count, rate: times.rate, first: times.timeOf(0) } }));
}

/** Chooses the sound track that is listened to. */
export function listenTo(source: Source, track: number | null): void {
  edit(updateSource(source.id, { listen: track }));
}

/** Signals belong to the track that is listened to: a change of it, also by undo, takes up that track's own. */
async function followTrack(source: Source): Promise<void> {
  const kept = await keptSignals(source.fingerprint, source.listen).catch(() => null);
  useMedia.setState((s) => {
    const { [source.id]: _, ...rest } = s.signals;
    return { signals: kept ? { ...rest, [source.id]: kept } : rest };
  });
}

useMontage.subscribe(({ montage }, before) => {
  if (!montage || montage.id !== before.montage?.id || montage.sources === before.montage.sources) return;
  for (const source of montage.sources) {
    const old = before.montage.sources.find((s) => s.id === source.id);
    if (old && old.listen !== source.listen) void followTrack(source);
  }
});
