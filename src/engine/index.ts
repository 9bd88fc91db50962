/** The engine's doors, in the order of the work: bring in, find, look, export. */
import * as Comlink from 'comlink';
import type { AnalyseDoor } from './analyse/analyse.worker.ts';
import { carryErrors } from './errors.ts';
import type { ExportDoor } from './export/export.worker.ts';
import type { Studio } from './preview/studio.ts';

export { EngineError, isCancelled, sentence, type ErrorCode } from './errors.ts';
export type { MediaDescription, MediaLocation } from './media/open.ts';
export type { ListedStarts } from './media/starts.ts';
export type { Analysis, AnalyseOptions } from './analyse/analyse.ts';
export type { Measured, ShowOptions } from './preview/studio.ts';
export type { ExportJob, ExportOptions, ExportProgress, ExportResult } from './export/export.ts';
export type { ExportTarget } from './export/target.ts';
export { fingerprint } from './media/fingerprint.ts';

carryErrors();

/** A worker with its door; `end` stops it at once, whatever it is doing. */
export interface Hired<T> {
  readonly door: Comlink.Remote<T>;
  end(): void;
}

function hire<T>(worker: Worker): Hired<T> {
  const door = Comlink.wrap<T>(worker);
  return {
    door,
    end() {
      door[Comlink.releaseProxy]();
      worker.terminate();
    },
  };
}

export const hireAnalyser = (): Hired<AnalyseDoor> =>
  hire(new Worker(new URL('./analyse/analyse.worker.ts', import.meta.url), { type: 'module', name: 'analyse' }));
export const hireStudio = (): Hired<Studio> =>
  hire(new Worker(new URL('./preview/studio.worker.ts', import.meta.url), { type: 'module', name: 'studio' }));
export const hireExporter = (): Hired<ExportDoor> =>
  hire(new Worker(new URL('./export/export.worker.ts', import.meta.url), { type: 'module', name: 'export' }));

/** For callbacks and canvases handed to a door. */
export const { proxy, transfer } = Comlink;
export type RemoteStudio = Comlink.Remote<Studio>;
