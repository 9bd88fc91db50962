import * as Comlink from 'comlink';
import { carryErrors } from '../errors.ts';
import { announceLife } from '../jobs/life.ts';
import { exportMontage, writableKinds, type ExportJob, type ExportProgress } from './export.ts';
import { gainFor, levelsOf, writeWave, type SoundJob, type WaveOptions } from './sound.ts';
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
  writableKinds,
  async levels(work: SoundJob) {
    job = new AbortController();
    return levelsOf(work, job.signal);
  },
  async gainFor(work: SoundJob, target: number) {
    job = new AbortController();
    return gainFor(work, target, job.signal);
  },
  async wave(work: SoundJob, options: WaveOptions, target: ExportTarget) {
    job = new AbortController();
    return writeWave(work, options, await openTarget(target), job.signal);
  },
  cancel: () => job.abort(),
};
export type ExportApi = typeof api;
Comlink.expose(api);
announceLife();
