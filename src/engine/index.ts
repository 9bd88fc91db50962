/** The engine's doors, in the order of the work: bring in, find, look, export. */
import './trusted-types.ts';
import * as Comlink from 'comlink';
import type { AnalyseApi } from './analyse/analyse.worker.ts';
import { carryErrors } from './errors.ts';
import type { ExportApi } from './export/export.worker.ts';
import type { FrameServer } from './preview/frame-server.ts';

export { EngineError, isCancelled, sentence, type ErrorCode } from './errors.ts';
export type { MediaDescription, MediaLocation } from './media/open.ts';
export type { ListedStarts } from './media/starts.ts';
export type { Analysis, AnalyseOptions } from './analyse/analyse.ts';
export type { Measured, ShowOptions } from './preview/frame-server.ts';
export type { ExportJob, ExportOptions, ExportProgress, ExportResult } from './export/export.ts';
export type { ExportTarget } from './export/target.ts';
export { fingerprint, fingerprintAt } from './media/fingerprint.ts';

carryErrors();

/** A worker with its door; `end` stops it at once, whatever it is doing. */
export interface WorkerClient<T> {
  readonly api: Comlink.Remote<T>;
  end(): void;
}

function start<T>(worker: Worker): WorkerClient<T> {
  const api = Comlink.wrap<T>(worker);
  return {
    api,
    end() {
      api[Comlink.releaseProxy]();
      worker.terminate();
    },
  };
}

export const startAnalyser = (): WorkerClient<AnalyseApi> =>
  start(new Worker(new URL('./analyse/analyse.worker.ts', import.meta.url), { type: 'module', name: 'analyse' }));
export const startFrameServer = (): WorkerClient<FrameServer> =>
  start(new Worker(new URL('./preview/frame-server.worker.ts', import.meta.url), { type: 'module', name: 'frames' }));
export const startExporter = (): WorkerClient<ExportApi> =>
  start(new Worker(new URL('./export/export.worker.ts', import.meta.url), { type: 'module', name: 'export' }));

/** For callbacks and canvases handed to a door. */
export const { proxy, transfer } = Comlink;
export type RemoteFrameServer = Comlink.Remote<FrameServer>;
