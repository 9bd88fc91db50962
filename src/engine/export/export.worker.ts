import * as Comlink from 'comlink';
import { carryErrors } from '../errors.ts';
import { announceLife } from '../jobs/life.ts';
import { exportMontage, type ExportJob, type ExportProgress } from './export.ts';
import { openTarget, type ExportTarget } from './target.ts';

carryErrors();

let job = new AbortController();

const api = {
  async run(work: ExportJob, target: ExportTarget, progress: (state: ExportProgress) => void) {
    job = new AbortController();
    let lastReported = 0;
    return exportMontage(
      work,
      await openTarget(target),
      (state) => {
        const now = performance.now();
        if (now - lastReported < 100 && state.frame < state.count) return;
        lastReported = now;
        progress(state);
      },
      job.signal,
      () => new Worker(new URL('./draw.worker.ts', import.meta.url), { type: 'module' }),
    );
  },
  cancel: () => job.abort(),
};
export type ExportApi = typeof api;
Comlink.expose(api);
announceLife();
