import * as Comlink from 'comlink';
import { carryErrors } from '../errors.ts';
import { describeMedia, type MediaLocation } from '../media/open.ts';
import { analyse, type AnalyseOptions } from './analyse.ts';

carryErrors();

let job = new AbortController();

const door = {
  describe: (location: MediaLocation, name: string) => describeMedia(location, name),
  analyse(location: MediaLocation, options: AnalyseOptions, progress: (share: number) => void) {
    job = new AbortController();
    let told = 0;
    return analyse(location, options, (share) => {
      const now = performance.now();
      if (now - told < 60 && share < 1) return;
      told = now;
      progress(share);
    }, job.signal);
  },
  cancel: () => job.abort(),
};
export type AnalyseDoor = typeof door;
Comlink.expose(door);
