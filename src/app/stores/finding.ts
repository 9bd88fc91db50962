/** Analysing the sources for their signals; what is found goes to the montage that it was begun in. */
import { ofAccents } from '../../core/document/words.ts';
import { updateSource } from '../../core/document/edits.ts';
import type { Source, TrackRole } from '../../core/document/types.ts';
import { isAnalysed, listenedTracks, trackRole } from '../../core/finding/detectors/index.ts';
import type { Signals } from '../../core/finding/signals/types.ts';
import { frameTimesOf } from '../../core/timeline/frame-times.ts';
import {
  dropCheckpoint,
  isCancelled,
  keptCheckpoint,
  keptSignals,
  proxy,
  sentence,
  startAnalyser,
  type Job,
  type MediaLocation,
} from '../../engine/index.ts';
import { expectAnswers, sortFamilies } from './families.ts';
import { jobs } from './jobs.ts';
import { isOpen, mediaLocations, rememberStarts, useMedia } from './media.ts';
import { edit, editMontage, useMontage } from './montage.ts';
import { notice } from './view.ts';

/** Whether there are hits to find in a source: not in stills, nor in sounds of accents. */
const isSearched = ({ still, role }: Pick<Source, 'still' | 'role'>): boolean => !still && !ofAccents({ role });

/** True when all that is listened to in a source, and its picture, was read to the end. */
export const isFound = (
  source: Source,
  { signals, partial }: Pick<ReturnType<typeof useMedia.getState>, 'signals' | 'partial'>,
): boolean => !isSearched(source) || (isAnalysed(source, signals[source.id]) && !partial[source.id]);

const finding = new Set<string>();

/** An analysis that was cut off goes on by itself. */
export async function resumeFinding(): Promise<void> {
  const { montage, readOnly } = useMontage.getState();
  // Where another tab holds the montage, the analysis is that tab's.
  if (readOnly) return;
  const begun = await Promise.all(
    (montage?.sources ?? []).map((source) => keptCheckpoint(source.fingerprint).catch(() => null)),
  );
  if (begun.some(Boolean)) await findInSources();
}

/** Analyses what is missing of every source, or all anew; resolves to true when all is there. */
export async function findInSources(again = false): Promise<boolean> {
  const { montage } = useMontage.getState();
  if (!montage || finding.has(montage.id)) return false;
  finding.add(montage.id);
  try {
    const wanted = montage.sources.filter((s) => isSearched(s) && (again || !isFound(s, useMedia.getState())));
    const places = new Map(mediaLocations());
    for (const [n, source] of wanted.entries()) {
      const location = places.get(source.id);
      if (!location) {
        notice(`The file of ${source.name} is missing: it was left out.`, 'error');
        continue;
      }
      const label = `Finding hits in ${source.name}${wanted.length > 1 ? ` (${n + 1} of ${wanted.length})` : ''}`;
      try {
        await jobs.run({ kind: 'analyse', owner: montage.id, label }, (job) =>
          analyseSource(montage.id, source, location, again, job),
        );
      } catch (error) {
        if (!isCancelled(error)) notice(`${source.name}: ${sentence(error)}`, 'error');
        return false;
      }
    }
    if (isOpen(montage.id)) void sortFamilies();
    return wanted.length === 0 || isOpen(montage.id);
  } finally {
    finding.delete(montage.id);
  }
}

async function analyseSource(
  owner: string,
  source: Source,
  location: MediaLocation,
  again: boolean,
  job: Job,
): Promise<void> {
  const api = job.use(startAnalyser());
  job.signal.addEventListener('abort', () => void api.cancel().catch(() => undefined));
  // Of an analysis that was cut off, what is on the screen is only a part.
  const known = again ? undefined : ((await keptSignals(source.fingerprint).catch(() => null)) ?? undefined);
  /** What was known before with what is found now. */
  const show = (signals: Signals, partial: boolean): void => {
    if (!isOpen(owner)) return;
    const all: Signals = {
      ...signals,
      sounds: { ...known?.sounds, ...signals.sounds },
      picture: signals.picture ?? known?.picture ?? null,
    };
    useMedia.setState((s) => ({
      signals: { ...s.signals, [source.id]: all },
      partial: { ...s.partial, [source.id]: partial },
    }));
  };
  const tracks = listenedTracks(source).filter((track) => !known?.sounds[track]);
  const options = {
    name: source.name,
    tracks,
    picture: source.video !== null && !known?.picture,
    duration: source.duration,
  };
  if (again) await dropCheckpoint(source.fingerprint).catch(() => undefined);
  const from = again ? null : await keptCheckpoint(source.fingerprint).catch(() => null);
  const began = performance.now();
  let first = -1;
  const { signals, notes } = await api.analyse(
    location,
    options,
    proxy((share: number) => {
      if (first < 0) first = share;
      const left = share > first + 0.02 ? ((performance.now() - began) / 1000) * ((1 - share) / (share - first)) : null;
      job.progress(share, left === null ? {} : { detail: `${Math.ceil(left)} s left` });
    }),
    { fingerprint: source.fingerprint, from },
    proxy((signals: Signals) => {
      if (!job.signal.aborted) show(signals, true);
    }),
  );
  show(signals, false);
  expectAnswers(source.id);
  await mendFrames(owner, source, signals);
  for (const text of notes) notice(`${source.name}: ${text}`, 'error');
}

/** The analysis has seen every frame: where the first look at the file guessed wrong, it is mended. */
async function mendFrames(owner: string, source: Source, { picture }: Signals): Promise<void> {
  if (!picture || !source.video || picture.times.length < 2) return;
  const times = frameTimesOf(picture.times, picture.lastDuration);
  if (times.variable === source.video.variable && times.count === source.video.count) return;
  if (times.variable) await rememberStarts(owner, source, picture.times, picture.lastDuration);
  await editMontage(
    owner,
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
export const listenTo = (source: Source, track: number | null): void =>
  edit(updateSource(source.id, { listen: track }));

/** Says what a sound track holds. */
export const setTrackRole = (source: Source, track: number, role: TrackRole): void =>
  edit(updateSource(source.id, { tracks: source.audio.map((_, i) => (i === track ? role : trackRole(source, i))) }));
