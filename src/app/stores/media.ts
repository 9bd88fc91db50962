/** Where the sources' bytes are, what is known of them, and the engine's threads. */
import { nanoid } from 'nanoid';
import { create } from 'zustand';
import { fromByteArray, toByteArray } from 'base64-js';
import { isAnalysed, listenedTracks, trackRole } from '../../core/finding/detectors/index.ts';
import { addSource, addWatch, updateSource } from '../../core/document/edits.ts';
import { frameTimesOf } from '../../core/timeline/frame-times.ts';
import {
  DEFAULT_GRID,
  type AudioTrackInfo,
  type Montage,
  type Region,
  type Source,
  type TrackRole,
  type Watch,
} from '../../core/document/types.ts';
import type { Signals } from '../../core/finding/signals/types.ts';
import type { Sought, WatchSignal } from '../../core/finding/watch/watch.ts';
import type { Checkpoint } from '../../engine/analyse/analyse.ts';
import {
  EngineError,
  fingerprint,
  startAnalyser,
  startFrameServer,
  isCancelled,
  proxy,
  sentence,
  type WorkerClient,
  type ListedStarts,
  type MediaLocation,
} from '../../engine/index.ts';
import type { FrameServer } from '../../engine/preview/frame-server.ts';
import {
  database,
  dropCheckpoint,
  keepCheckpoint,
  keepSignals,
  keepWatch,
  keptCheckpoint,
  keptSignals,
  keptWatch,
  stored,
  watchKey,
} from '../../engine/storage/database.ts';
import { findMedia, keepMedia, type BroughtFile } from '../../engine/storage/media-files.ts';
import { edit, useMontage } from './montage.ts';
import { endJob, notice, setJob } from './view.ts';

export type MediaState = 'looking' | 'here' | 'locked' | 'missing';

interface Media {
  /** By source id. */
  states: Readonly<Record<string, MediaState>>;
  signals: Readonly<Record<string, Signals>>;
  listed: ListedStarts;
  /** Raised whenever a source's bytes come or go, so that pictures are drawn anew. */
  epoch: number;
  /** Of watched rectangles, by source id and watch id. */
  watched: Readonly<Record<string, Readonly<Record<string, WatchSignal>>>>;
}

export const useMedia = create<Media>(() => ({ states: {}, signals: {}, listed: {}, epoch: 0, watched: {} }));

const locations = new Map<string, MediaLocation>();
const locked = new Map<string, FileSystemFileHandle>();
export const mediaLocations = (): ReadonlyMap<string, MediaLocation> => locations;

let client: WorkerClient<FrameServer> | null = null;
/** The preview's thread, started on first use. */
export const frameServer = (): WorkerClient<FrameServer>['api'] => (client ??= startFrameServer()).api;

async function setLocation(source: string, location: MediaLocation): Promise<void> {
  locations.set(source, location);
  await frameServer().setMedia(source, location);
  useMedia.setState((s) => ({ states: { ...s.states, [source]: 'here' }, epoch: s.epoch + 1 }));
}

const setState = (source: string, state: MediaState): void =>
  useMedia.setState((s) => ({ states: { ...s.states, [source]: state } }));

/** Looks for all media and kept signals of a montage that was opened. */
export async function meetSources(montage: Montage): Promise<void> {
  locations.clear();
  locked.clear();
  useMedia.setState({
    states: Object.fromEntries(montage.sources.map((s) => [s.id, 'looking'])),
    signals: {},
    listed: {},
    watched: {},
  });
  await Promise.all(montage.sources.map(meetSource));
  // An analysis that was cut off goes on by itself.
  const begun = await Promise.all(
    montage.sources.map((source) => keptCheckpoint(source.fingerprint).catch(() => null)),
  );
  if (begun.some(Boolean)) void findInSources();
}

async function meetSource(source: Source): Promise<void> {
  try {
    const [signals, starts] = await Promise.all([
      keptSignals(source.fingerprint),
      stored(() => database.starts.get(source.fingerprint)),
    ]);
    if (starts)
      useMedia.setState((s) => ({
        listed: { ...s.listed, [source.id]: { starts: starts.starts, lastDuration: starts.lastDuration } },
      }));
    if (signals) useMedia.setState((s) => ({ signals: { ...s.signals, [source.id]: signals } }));
    const found = await findMedia(source.fingerprint);
    if (found.state === 'here') await setLocation(source.id, found.location);
    else {
      if (found.state === 'locked') locked.set(source.id, found.handle);
      setState(source.id, found.state);
    }
  } catch (error) {
    setState(source.id, 'missing');
    notice(sentence(error), 'error');
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
    const analyser = startAnalyser();
    let cancel = (): void => undefined;
    const stop = new Promise<never>((_, reject) => {
      cancel = () => reject(new EngineError('cancelled', 'Cancelled.'));
    });
    let stopped = false;
    stop.catch(() => (stopped = true));
    setJob({ id, label: `Reading ${file.name}`, share: null, cancel });
    try {
      if (file.size === 0) throw new EngineError('empty', `${file.name} is empty (0 bytes).`);
      const about = await Promise.race([analyser.api.describe({ blob: file }, file.name), stop]);
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
      const meet = (source: Source): Promise<void> =>
        kept ? meetSource(source) : setLocation(source.id, { blob: file });
      const { montage } = useMontage.getState();
      if (!montage) continue;
      const lost = montage.sources.find((s) => s.fingerprint === print);
      if (lost) {
        await meet(lost);
        notice(
          useMedia.getState().states[lost.id] === 'here'
            ? `${file.name} is at hand.`
            : `${file.name} could not be opened again.`,
        );
        continue;
      }
      const missing = montage.sources.find(
        (s) => s.name === file.name && useMedia.getState().states[s.id] === 'missing',
      );
      if (missing)
        throw new EngineError(
          'media-missing',
          `${file.name} has the right name but other content than the montage's source. Nothing was changed.`,
        );
      const source: Source = {
        id: nanoid(8),
        name: file.name,
        role: about.video ? 'footage' : 'music',
        fingerprint: print,
        size: file.size,
        duration: about.duration,
        video: about.video,
        audio: about.audio,
        tracks: about.audio.map((track) => roleOf(track, about.video ? 'game' : 'music')),
        delay: null,
        grid: DEFAULT_GRID,
        listen: indexOrNull(about.audio.findIndex((track) => track.readable)),
      };
      if (about.starts) {
        const starts = about.starts;
        await keepStarts(print, source.id, starts, about.lastDuration);
      }
      edit(addSource(source, nanoid(8)));
      await meet(source);
      if (forThisVisit) notice(forThisVisit, 'error');
      const how =
        kept?.kind === 'copy'
          ? 'Copied into the browser’s storage, since this browser gave no lasting hold of the file.'
          : '';
      notice([`${file.name} is in.`, ...about.notes, how].filter(Boolean).join(' '));
    } catch (error) {
      if (!isCancelled(error)) notice(sentence(error), 'error');
    } finally {
      analyser.end();
      endJob(id);
    }
  }
}

/** What a track's name says it holds. */
const roleOf = ({ name, readable }: AudioTrackInfo, fallback: TrackRole): TrackRole =>
  !readable
    ? 'off'
    : /voice|mic|comment|chat|talk|speech/i.test(name)
      ? 'voice'
      : /music|song|score/i.test(name)
        ? 'music'
        : fallback;

const indexOrNull = (index: number): number | null => (index < 0 ? null : index);

/** Analyses what is missing of every source, or all anew; resolves to true when all is there. */
export async function findInSources(again = false): Promise<boolean> {
  const { montage } = useMontage.getState();
  if (!montage || finding) return false;
  finding = true;
  try {
    return await findIn(montage, again);
  } finally {
    finding = false;
  }
}

let finding = false;

async function findIn(montage: Montage, again: boolean): Promise<boolean> {
  const wanted = montage.sources.filter((s) => again || !isAnalysed(s, useMedia.getState().signals[s.id]));
  let stopped = false;
  for (const [n, source] of wanted.entries()) {
    const location = locations.get(source.id);
    if (!location) {
      notice(`${source.name} is not at hand: it was left out.`, 'error');
      continue;
    }
    const id = `find-${source.id}`;
    const analyser = startAnalyser();
    const began = performance.now();
    let first = -1;
    const label = `Finding hits in ${source.name}${wanted.length > 1 ? ` (${n + 1} of ${wanted.length})` : ''}`;
    const cancel = (): void => {
      stopped = true;
      void analyser.api.cancel();
    };
    setJob({ id, label, share: 0, cancel });
    // Of an analysis that was cut off, what is on the screen is only a part.
    const known = again ? undefined : ((await keptSignals(source.fingerprint).catch(() => null)) ?? undefined);
    /** What was known before with what is found now. */
    const take = (signals: Signals): void => {
      const all: Signals = {
        ...signals,
        sounds: { ...known?.sounds, ...signals.sounds },
        picture: signals.picture ?? known?.picture ?? null,
      };
      useMedia.setState((s) => ({ signals: { ...s.signals, [source.id]: all } }));
    };
    try {
      const tracks = listenedTracks(source).filter((track) => !known?.sounds[track]);
      const options = {
        name: source.name,
        tracks,
        picture: source.video !== null && !known?.picture,
        duration: source.duration,
      };
      if (again) await dropCheckpoint(source.fingerprint).catch(() => undefined);
      const from = again ? null : await keptCheckpoint(source.fingerprint).catch(() => null);
      const { signals, notes } = await analyser.api.analyse(
        location,
        options,
        proxy((share: number) => {
          if (first < 0) first = share;
          const left =
            share > first + 0.02 ? ((performance.now() - began) / 1000) * ((1 - share) / (share - first)) : null;
          setJob({ id, label, share, cancel, ...(left === null ? {} : { detail: `${Math.ceil(left)} s left` }) });
        }),
        proxy((signals: Signals, checkpoint: Checkpoint) => {
          if (stopped) return;
          take(signals);
          // Where storage refuses, an interruption only costs the time again.
          void keepCheckpoint(source.fingerprint, checkpoint).catch(() => undefined);
        }),
        from,
      );
      take(signals);
      await mendFrames(source, signals);
      await keepSignals(source.fingerprint, signals);
      await dropCheckpoint(source.fingerprint);
      for (const text of notes) notice(`${source.name}: ${text}`, 'error');
    } catch (error) {
      if (!isCancelled(error)) notice(sentence(error), 'error');
    } finally {
      analyser.end();
      endJob(id);
    }
    if (stopped) return false;
  }
  return true;
}

/** Frame starts of a variable-rate source: used now, and kept where storage allows. */
async function keepStarts(
  fingerprint: string,
  source: string,
  starts: Float64Array,
  lastDuration: number,
): Promise<void> {
  useMedia.setState((s) => ({ listed: { ...s.listed, [source]: { starts, lastDuration } } }));
  await stored(() => database.starts.put({ fingerprint, starts, lastDuration })).catch(() => undefined);
}

/** The analysis has seen every frame: where the first look at the file guessed wrong, it is mended. */
async function mendFrames(source: Source, { picture }: Signals): Promise<void> {
  if (!picture || !source.video || picture.times.length < 2) return;
  const times = frameTimesOf(picture.times, picture.lastDuration);
  if (times.variable === source.video.variable && times.count === source.video.count) return;
  if (times.variable) await keepStarts(source.fingerprint, source.id, picture.times, picture.lastDuration);
  edit(
    updateSource(source.id, {
      video: {
        ...source.video,
        variable: times.variable,
        count: times.count,
        rate: times.rate,
        first: times.timeOf(0),
      },
    }),
  );
}

/** Chooses the sound track that is listened to. */
export function listenTo(source: Source, track: number | null): void {
  edit(updateSource(source.id, { listen: track }));
}

/** Says what a sound track holds. */
export const setTrackRole = (source: Source, track: number, role: TrackRole): void =>
  edit(updateSource(source.id, { tracks: source.audio.map((_, i) => (i === track ? role : trackRole(source, i))) }));

/** Takes a rectangle of the picture at a source time as something to watch for, and looks for it at once. */
export async function watchFor(
  source: Source,
  region: Region,
  t: number,
  mode: Watch['mode'],
  name: string,
): Promise<void> {
  const location = locations.get(source.id);
  if (!location) return notice(`${source.name} is not at hand.`, 'error');
  const analyser = startAnalyser();
  try {
    const sought = mode === 'appears' ? await analyser.api.takeExample(location, source.name, region, t) : null;
    edit(
      addWatch({
        id: nanoid(8),
        name,
        mode,
        region,
        sensitivity: 0.5,
        sought: sought && {
          width: sought.width,
          height: sought.height,
          y: fromByteArray(sought.y),
          u: fromByteArray(sought.u),
          v: fromByteArray(sought.v),
          weight: fromByteArray(sought.weight),
        },
      }),
    );
  } catch (error) {
    notice(sentence(error), 'error');
  } finally {
    analyser.end();
  }
}

const soughtBytes = (sought: NonNullable<Watch['sought']>): Sought => ({
  width: sought.width,
  height: sought.height,
  y: toByteArray(sought.y),
  u: toByteArray(sought.u),
  v: toByteArray(sought.v),
  weight: toByteArray(sought.weight),
});

const watching = new Set<string>();

/** Reads every source at hand for every watch that has no signal yet. */
async function watchSources(): Promise<void> {
  const { montage } = useMontage.getState();
  if (!montage) return;
  for (const source of montage.sources) {
    for (const watch of montage.watches) {
      const key = `${source.id} ${watch.id}`;
      if (!source.video || watching.has(key) || useMedia.getState().watched[source.id]?.[watch.id]) continue;
      const location = locations.get(source.id);
      const name = watchKey(watch);
      const take = (signal: WatchSignal): void =>
        useMedia.setState((s) => ({
          watched: { ...s.watched, [source.id]: { ...s.watched[source.id], [watch.id]: signal } },
        }));
      watching.add(key);
      const kept = await keptWatch(source.fingerprint, name).catch(() => null);
      if (kept) take(kept);
      else if (location) {
        const id = `watch-${key}`;
        const analyser = startAnalyser();
        const cancel = (): void => void analyser.api.cancel();
        const label = `Watching for ${watch.name} in ${source.name}`;
        setJob({ id, label, share: 0, cancel });
        try {
          const about = { name: source.name, duration: source.duration };
          const signal = await analyser.api.watch(
            location,
            about,
            watch.region,
            watch.sought && soughtBytes(watch.sought),
            proxy((share: number) => setJob({ id, label, share, cancel })),
          );
          take(signal);
          await keepWatch(source.fingerprint, name, signal);
        } catch (error) {
          if (!isCancelled(error)) notice(sentence(error), 'error');
        } finally {
          analyser.end();
          endJob(id);
        }
      }
      watching.delete(key);
    }
  }
}

useMontage.subscribe(({ montage }, before) => {
  if (
    montage &&
    (montage.watches !== before.montage?.watches || montage.sources.length !== before.montage.sources.length)
  )
    void watchSources();
});
useMedia.subscribe(({ epoch }, before) => {
  if (epoch !== before.epoch) void watchSources();
});
