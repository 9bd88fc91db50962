/** All that the app and the command line may know of the engine, in the order of the work: keep, bring in, find, look, export. */
import './trusted-types.ts';
import * as Comlink from 'comlink';
import type { AnalyseApi } from './analyse/analyse.worker.ts';
import { carryErrors } from './errors.ts';
import { workerClient, type WorkerClient } from './jobs/worker-client.ts';
import type { ExportApi } from './export/export.worker.ts';
import type { FrameServer } from './preview/frame-server.ts';

export { Jobs, type Job, type JobState } from './jobs/jobs.ts';
export type { WorkerClient } from './jobs/worker-client.ts';
export {
  addMontage,
  deleteMontage,
  listMontages,
  pictureOf,
  rememberOpened,
  restoreMontage,
  storageUse,
  storedMontage,
  storeMontage,
} from './storage/montages.ts';
export { otherTabs, sweepAndStay } from './storage/sweep.ts';
export {
  accentTable,
  dropCheckpoint,
  keepPicture,
  keepStarts,
  keepWatch,
  keptCheckpoint,
  keptPicture,
  keptSignals,
  keptStarts,
  keptWatch,
  keepPlaces,
  profileTable,
  exportTable,
  soundTable,
  stored,
  watchKey,
  type StoredAccent,
  type StoredMontage,
  type StoredProfile,
  type StoredSound,
} from './storage/database.ts';
export { dropEmpty, findMedia, keepMedia, resultFile, type BroughtFile } from './storage/media-files.ts';
export { openPeopleFinder } from './people/people.ts';
export { lettersMissing, ownFont } from './render/typefaces.ts';
export { analyseRecording, composeBest, type SearchedRecording } from './analyse/recording.ts';
export { listedIndex } from './media/starts.ts';
export type { Checkpoint } from './analyse/analyse.ts';
export type { FrameServer } from './preview/frame-server.ts';
export { damageSentence } from './export/report.ts';
export { EngineError, isCancelled, sentence, type ErrorCode } from './errors.ts';
export type { MediaDescription, MediaLocation } from './media/open.ts';
export type { ListedStarts } from './media/starts.ts';
export type { Analysis, AnalyseOptions } from './analyse/analyse.ts';
export type { Measured, ShowOptions } from './preview/frame-server.ts';
export type { RendererChoice } from './render/choose.ts';
export type { ExportJob, ExportOptions, ExportProgress, ExportResult } from './export/export.ts';
export {
  bitrateFor,
  EXPORT_KINDS,
  exportKind,
  expectedSize,
  isCopied,
  QUALITIES,
  soundIn,
  type Quality,
  type SoundChoice,
} from './export/kinds.ts';
export type { Levels, WaveOptions } from './export/sound.ts';
export type { ExportTarget } from './export/target.ts';
export { fingerprint, fingerprintAt } from './media/fingerprint.ts';
export { sourceOf } from './media/source.ts';

carryErrors();

// One worker a job, ended with it; the frame server lives as long as the page.
export const startAnalyser = (): WorkerClient<AnalyseApi> =>
  workerClient(new Worker(new URL('./analyse/analyse.worker.ts', import.meta.url), { type: 'module' }));
export const startFrameServer = (): WorkerClient<FrameServer> =>
  workerClient(new Worker(new URL('./preview/frame-server.worker.ts', import.meta.url), { type: 'module' }));
export const startExporter = (): WorkerClient<ExportApi> =>
  workerClient(new Worker(new URL('./export/export.worker.ts', import.meta.url), { type: 'module' }));

/** For callbacks and canvases handed to a worker. */
export const { proxy, transfer } = Comlink;
