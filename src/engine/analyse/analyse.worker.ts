import * as Comlink from 'comlink';
import type { Hit, NamedFamily, Region } from '../../core/document/types.ts';
import { kinshipOf, type Kinship } from '../../core/finding/families/families.ts';
import { familySignal, type FamilySignal } from '../../core/finding/families/more.ts';
import type { Signals, SoundSignals } from '../../core/finding/signals/types.ts';
import type { Sought } from '../../core/finding/watch/watch.ts';
import { loudestMoment } from '../../core/sound/made/index.ts';
import { carryErrors, sentence } from '../errors.ts';
import { dropCheckpoint, keepCheckpoint, keepSignals } from '../storage/database.ts';
import { announceLife } from '../jobs/life.ts';
import { describeStill, isStill } from '../media/still.ts';
import { describeMedia, openMedia, type MediaLocation } from '../media/open.ts';
import { mono, soundBlocks } from '../media/sound.ts';
import { analyse, type Analysis, type AnalyseOptions, type Checkpoint } from './analyse.ts';
import { copyIntoStorage } from '../storage/media-files.ts';
import { takeExample, watch } from './watch.ts';

carryErrors();

let job = new AbortController();

/** At most one report in 60 ms, and the last. */
function rarely(progress: (share: number) => void): (share: number) => void {
  let lastReported = 0;
  return (share) => {
    const now = performance.now();
    if (now - lastReported < 60 && share < 1) return;
    lastReported = now;
    progress(share);
  };
}

/** Packing and storing happen here, off the page's thread. Where storage refuses, a note says so and the result counts. */
async function analyseAndKeep(
  location: MediaLocation,
  options: AnalyseOptions,
  progress: (share: number) => void,
  { fingerprint, from }: { readonly fingerprint: string; readonly from: Checkpoint | null },
  partial: (signals: Signals) => void,
): Promise<Analysis> {
  const { signal } = job;
  // One after the other, and none after the end.
  let storing: Promise<unknown> = Promise.resolve();
  const report = {
    progress,
    partial(signals: Signals, checkpoint: Checkpoint) {
      if (signal.aborted) return;
      partial(signals);
      // Where storage refuses, an interruption only costs the time again.
      storing = storing.then(() => keepCheckpoint(fingerprint, checkpoint)).catch(() => undefined);
    },
  };
  const { signals, notes } = await analyse(location, options, report, signal, from);
  await storing;
  try {
    await keepSignals(fingerprint, signals);
    await dropCheckpoint(fingerprint);
    return { signals, notes };
  } catch (error) {
    return { signals, notes: [...notes, sentence(error)] };
  }
}

/** Seconds of a sound in which its loudest moment is sought. */
const SOUGHT = 120;

async function loudestIn(location: MediaLocation): Promise<number> {
  const media = await openMedia(location, 'The sound');
  try {
    const parts: Float32Array[] = [];
    let [rate, first, length] = [48_000, 0, 0];
    for await (const block of soundBlocks(media, 0, 0, SOUGHT)) {
      if (!parts.length) [rate, first] = [block.sampleRate, Math.max(0, block.t)];
      const part = mono(block);
      parts.push(part);
      length += part.length;
    }
    const all = new Float32Array(length);
    let at = 0;
    for (const part of parts) {
      all.set(part, at);
      at += part.length;
    }
    return first + loudestMoment(all, rate) / rate;
  } finally {
    media.input.dispose();
  }
}

const api = {
  describe(location: MediaLocation, name: string, whole = false) {
    job = new AbortController();
    return isStill(location, name) ? describeStill(location, name) : describeMedia(location, name, job.signal, whole);
  },
  analyse(
    location: MediaLocation,
    options: AnalyseOptions,
    progress: (share: number) => void,
    /** Keeps what is found under a fingerprint, going on from a checkpoint; partial results are handed out meanwhile. */
    keep?: { readonly fingerprint: string; readonly from: Checkpoint | null },
    partial: (signals: Signals) => void = () => undefined,
  ): Promise<Analysis> {
    job = new AbortController();
    return keep
      ? analyseAndKeep(location, options, rarely(progress), keep, partial)
      : analyse(location, options, { progress: rarely(progress) }, job.signal);
  },
  /** Seconds from the beginning of a sound to its loudest moment. */
  loudest: (location: MediaLocation) => loudestIn(location),
  takeExample: (location: MediaLocation, name: string, region: Region, t: number) =>
    takeExample(location, name, region, t),
  watch(
    location: MediaLocation,
    about: { name: string; duration: number },
    region: Region,
    sought: Sought | null,
    progress: (share: number) => void,
  ) {
    job = new AbortController();
    return watch(location, about, region, sought, rarely(progress), job.signal);
  },
  /** Copies a file into this origin's storage. */
  copy(file: File, print: string, progress: (share: number) => void) {
    job = new AbortController();
    return copyIntoStorage(file, print, rarely(progress), job.signal);
  },
  /** How alike the hits of one source sound. */
  kinship: (
    hits: readonly Hit[],
    sounds: readonly SoundSignals[],
    named: readonly Pick<NamedFamily, 'id' | 'examples'>[],
  ): Kinship => kinshipOf(hits, sounds, named),
  /** Where else a family is heard. */
  familySignal: (sounds: Readonly<Record<number, SoundSignals>>, family: Pick<NamedFamily, 'examples'>): FamilySignal =>
    familySignal(sounds, family),
  cancel: () => job.abort(),
};
export type AnalyseApi = typeof api;
Comlink.expose(api);
announceLife();
