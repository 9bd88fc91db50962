import * as Comlink from 'comlink';
import type { Region } from '../../core/document/types.ts';
import type { Signals } from '../../core/finding/signals/types.ts';
import type { Sought } from '../../core/finding/watch/watch.ts';
import { carryErrors } from '../errors.ts';
import { announceLife } from '../jobs/life.ts';
import { describeMedia, type MediaLocation } from '../media/open.ts';
import { analyse, type AnalyseOptions, type Checkpoint } from './analyse.ts';
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

const api = {
  describe(location: MediaLocation, name: string, whole = false) {
    job = new AbortController();
    return describeMedia(location, name, job.signal, whole);
  },
  analyse(
    location: MediaLocation,
    options: AnalyseOptions,
    progress: (share: number) => void,
    partial?: ((signals: Signals, checkpoint: Checkpoint) => void) | null,
    from?: Checkpoint | null,
  ) {
    job = new AbortController();
    return analyse(
      location,
      options,
      { progress: rarely(progress), ...(partial ? { partial } : {}) },
      job.signal,
      from,
    );
  },
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
  cancel: () => job.abort(),
};
export type AnalyseApi = typeof api;
Comlink.expose(api);
announceLife();
