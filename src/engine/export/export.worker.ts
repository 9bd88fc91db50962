import * as Comlink from 'comlink';
import { carryErrors } from '../errors.ts';
import { exportMontage, type ExportJob, type ExportProgress } from './export.ts';
import { openTarget, type ExportTarget } from './target.ts';

carryErrors();

let job = new AbortController();

const door = {
  async run(work: ExportJob, target: ExportTarget, progress: (state: ExportProgress) => void) {
    job = new AbortController();
    let told = 0;
    return exportMontage(
      work,
      await openTarget(target),
      (state) => {
        const now = performance.now();
        if (now - told < 100 && state.frame < state.count) return;
        told = now;
        progress(state);
      },
      job.signal,
    );
  },
  cancel: () => job.abort(),
};
export type ExportDoor = typeof door;
Comlink.expose(door);
