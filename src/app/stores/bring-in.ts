/** Bringing files in: read, kept, and put into the montage they were brought into, whatever is open by then. */
import { nanoid } from 'nanoid';
import { checkedMontage } from '../../core/document/akmeon.ts';
import { addSource, asFootage, changeEffect } from '../../core/document/edits.ts';
import type { Montage, SoundAsset, Source } from '../../core/document/types.ts';
import {
  EngineError,
  fingerprint,
  isCancelled,
  keepMedia,
  proxy,
  sentence,
  sourceOf,
  startAnalyser,
  type BroughtFile,
  type Job,
} from '../../engine/index.ts';
import { jobs } from './jobs.ts';
import { keepSound } from './sounds.ts';
import { isOpen, meetSource, rememberStarts, setLocation, useMedia } from './media.ts';
import { editMontage, useMontage, montageNow } from './montage.ts';
import { notice, useView } from './view.ts';

/** Brings files in one after another; each problem is said, none stops the others. */
export async function bringIn(files: readonly BroughtFile[]): Promise<void> {
  const owner = useMontage.getState().montage?.id;
  if (!owner) return;
  for (const brought of files) {
    const label = `Reading ${brought.file.name}`;
    await jobs
      .run({ kind: 'bring-in', owner, label }, (job) => bringOne(owner, brought, job))
      .then(notice, (error: unknown) => {
        if (isCancelled(error)) return;
        notice(sentence(error), 'error', label);
        if (error instanceof EngineError && isCopyable(error, brought.file)) refuse(brought.file, sentence(error));
      });
  }
}

/** Whether another program may still read a file as footage. */
const isCopyable = ({ code }: EngineError, { type, name }: File): boolean =>
  code === 'video-codec' ||
  code === 'hdr' ||
  (code === 'not-media' &&
    (type.startsWith('video/') || /\.(avi|wmv|flv|mpe?g|mxf|m?ts|m2ts|vob|mov|mkv)$/i.test(name)));
const refuse = (file: File, why: string): void =>
  useView.setState(({ refused }) => ({
    refused: [...refused.filter((one) => one.file.name !== file.name), { file, why }],
  }));

/** Brings sound files in for accents, and keeps them for other montages; gives what accents name them by. */
export async function bringSounds(files: readonly BroughtFile[]): Promise<SoundAsset[]> {
  const owner = useMontage.getState().montage?.id;
  if (!owner) return [];
  const assets: SoundAsset[] = [];
  for (const brought of files) {
    const { file } = brought;
    await jobs
      .run({ kind: 'bring-in', owner, label: `Reading ${file.name}` }, async (job) => {
        const api = job.use(startAnalyser());
        const about = await api.describe({ blob: file }, file.name);
        if (!about.audio[0]?.readable)
          throw new EngineError('unreadable', `${file.name} has no sound that this browser can read.`);
        const peak = await api.loudest({ blob: file });
        const said = await bringOne(owner, brought, job, 'sound');
        const print = await fingerprint(file);
        const source = (await montageNow(owner))?.sources.find((one) => one.fingerprint === print);
        if (!source) return said;
        assets.push({ file: print, name: source.name, duration: source.duration, peak });
        await keepSound(source, peak);
        return said;
      })
      .then(notice, (error: unknown) => {
        if (!isCancelled(error)) notice(sentence(error), 'error');
      });
  }
  return assets;
}

/** Brings in a picture or clip that an effect lays over the frame: it lies in no row. */
export async function bringOverlay(accent: string, use: string, brought: BroughtFile): Promise<void> {
  const owner = useMontage.getState().montage?.id;
  if (!owner) return;
  await jobs
    .run({ kind: 'bring-in', owner, label: `Reading ${brought.file.name}` }, async (job) => {
      const said = await bringOne(owner, brought, job, 'overlay');
      const print = await fingerprint(brought.file);
      const source = (await montageNow(owner))?.sources.find((one) => one.fingerprint === print);
      if (source)
        await editMontage(
          owner,
          changeEffect(accent, use, (e) => ({ ...e, source: source.id })),
        );
      return said;
    })
    .then(notice, (error: unknown) => {
      if (!isCancelled(error)) notice(sentence(error), 'error');
    });
}

/** Gives a sentence on what came of it. */
async function bringOne(owner: string, brought: BroughtFile, job: Job, as?: 'sound' | 'overlay'): Promise<string> {
  const { file } = brought;
  if (file.size === 0) throw new EngineError('empty', `${file.name} is empty (0 bytes).`);
  const api = job.use(startAnalyser());
  job.signal.addEventListener('abort', () => void api.cancel().catch(() => undefined));
  const print = await fingerprint(file);
  const lost = (await montageNow(owner))?.sources.find((s) => s.fingerprint === print);
  // What is known to be variable is listed frame by frame, however regular it begins.
  const about = await api.describe({ blob: file }, file.name, lost?.video?.variable ?? false);
  if (as === 'overlay' && !about.video) throw new EngineError('unreadable', `${file.name} has no picture to lay over.`);
  let forThisVisit = '';
  const copy = (file: File, print: string, progress: (share: number) => void): Promise<void> =>
    api.copy(file, print, proxy(progress));
  const kept = await keepMedia(brought, print, copy, (share) =>
    job.progress(share, { label: `Copying ${file.name} into the browser's storage` }),
  ).catch((error: unknown) => {
    // Better to work on the file for this visit than not at all.
    if (!(error instanceof EngineError) || !error.code.startsWith('storage')) throw error;
    forThisVisit = `${error.message} It is used for this visit only.`;
    return null;
  });
  if (job.signal.aborted) throw new EngineError('cancelled', 'Cancelled.');
  const montage = await montageNow(owner);
  if (!montage) throw new EngineError('deleted', `The montage that ${file.name} was brought into is gone.`);
  const meet = (source: Source): Promise<void> =>
    kept ? meetSource(owner, source) : setLocation(owner, source.id, { blob: file });
  if (lost) {
    if (about.starts) await rememberStarts(owner, lost, about.starts, about.lastDuration);
    await meet(lost);
    if (lost.role === 'overlay' && !as) {
      await editMontage(owner, asFootage(lost.id, nanoid(8)));
      return `${file.name} is in.`;
    }
    return useMedia.getState().states[lost.id] === 'here' || !isOpen(owner)
      ? `${file.name} was found again.`
      : `${file.name} could not be opened again.`;
  }
  const missing = isOpen(owner) && missingNamed(montage, file.name);
  if (missing)
    throw new EngineError(
      'media-missing',
      `${file.name} has the right name but other content than the montage's source. Nothing was changed.`,
    );
  const source = sourceOf(about, { id: nanoid(8), name: file.name, fingerprint: print, size: file.size }, as);
  // What cannot be kept in a project is refused now, and not when the project is opened again.
  const withSource = addSource(source, nanoid(8));
  try {
    checkedMontage(withSource(montage));
  } catch (error) {
    throw new EngineError('unreadable', `${file.name} cannot be used: ${sentence(error)}`);
  }
  if (about.starts) await rememberStarts(owner, source, about.starts, about.lastDuration);
  // The preview knows the bytes before the montage asks it for a frame of them.
  await meet(source);
  await editMontage(owner, withSource);
  if (forThisVisit) notice(forThisVisit, 'error');
  const how =
    kept?.kind === 'copy'
      ? 'Copied into the browser’s storage, since this browser gave no lasting hold of the file.'
      : '';
  const where = isOpen(owner) ? '' : `It is in ${montage.name}.`;
  return [`${file.name} is in.`, where, ...about.notes, how].filter(Boolean).join(' ');
}

const missingNamed = (montage: Montage, name: string): Source | undefined =>
  montage.sources.find((s) => s.name === name && useMedia.getState().states[s.id] === 'missing');
