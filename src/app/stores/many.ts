/** Many recordings in one go: each is searched, its strongest moments become a montage, and that a film. */
import { create } from 'zustand';
import { nanoid } from 'nanoid';
import { writeProfile } from '../../core/document/profile.ts';
import type { Accent, Montage, Profile } from '../../core/document/types.ts';
import type { BestOf } from '../../core/timeline/best-of.ts';
import {
  addMontage,
  analyseRecording,
  composeBest,
  EngineError,
  fingerprint,
  isCancelled,
  keepMedia,
  keepStarts,
  proxy,
  resultFile,
  sentence,
  sourceOf,
  startAnalyser,
  startExporter,
  type BroughtFile,
  type ListedStarts,
  type SearchedRecording,
} from '../../engine/index.ts';
import { fileName } from './exporting.ts';
import { jobs } from './jobs.ts';

export interface ManyOrder {
  readonly accents: readonly Accent[];
  readonly profile: Profile | null;
  readonly best: BestOf;
  /** The name of the one montage of all; null: each recording has its own. */
  readonly together: string | null;
  /** Films are made of the montages, too: into a folder, or where that is null into the browser's storage. */
  readonly films: { readonly folder: FileSystemDirectoryHandle | null } | null;
}

/** What comes of one file, or of all together. */
export interface ManyLine {
  readonly name: string;
  readonly state: 'waiting' | 'searching' | 'filming' | 'done' | 'failed';
  readonly why?: string;
  readonly montage?: string;
  readonly film?: { readonly name: string; readonly url: string | null };
}

export const useMany = create<{ readonly lines: readonly ManyLine[]; readonly running: boolean }>(() => ({
  lines: [],
  running: false,
}));

const tell = (at: number, change: Partial<ManyLine>): void =>
  useMany.setState(({ lines }) => ({ lines: lines.map((line, i) => (i === at ? { ...line, ...change } : line)) }));

interface Searched extends SearchedRecording {
  readonly file: File;
  readonly starts: ListedStarts[string] | null;
}

const search = (brought: BroughtFile, id: string, profile: Profile | null): Promise<Searched> =>
  jobs.run({ kind: 'analyse', owner: '', label: `Finding hits in ${brought.file.name}` }, async (job) => {
    const { file } = brought;
    const api = job.use(startAnalyser());
    job.signal.addEventListener('abort', () => void api.cancel().catch(() => undefined));
    if (file.size === 0) throw new EngineError('empty', `${file.name} is empty (0 bytes).`);
    const location = { blob: file };
    const print = await fingerprint(file);
    const about = await api.describe(location, file.name);
    if (!about.video || about.video.codec === 'still')
      throw new EngineError('no-frames', `${file.name} is no recording with a picture.`);
    const copy = (own: File, name: string, progress: (share: number) => void): Promise<void> =>
      api.copy(own, name, proxy(progress));
    await keepMedia(brought, print, copy, (share) => job.progress(share, { label: `Copying ${file.name}` }));
    const { hits } = await analyseRecording(
      {
        ...{ name: file.name, track: null, sensitivity: null, like: null, region: null },
        ...{ kinds: null, minConfidence: 0, content: null },
        profile: profile && writeProfile(profile),
      },
      location,
      about,
      api,
      (share) => job.progress(share, { label: `Finding hits in ${file.name}` }),
      print,
    );
    const { starts: list, lastDuration } = about;
    const starts = list && { starts: list, lastDuration };
    if (starts) await keepStarts({ fingerprint: print, ...starts });
    const source = sourceOf(about, { id, name: file.name, fingerprint: print, size: file.size });
    return { source, hits, file, starts };
  });

/** Writes a montage's film; gives its name, and where it waits if no folder was picked. */
const film = (
  montage: Montage,
  found: readonly Searched[],
  folder: FileSystemDirectoryHandle | null,
): Promise<NonNullable<ManyLine['film']>> =>
  jobs.run({ kind: 'export', owner: montage.id, label: `Exporting ${montage.name}` }, async (job) => {
    const api = job.use(startExporter());
    job.signal.addEventListener('abort', () => void api.cancel().catch(() => undefined));
    const name = await freeName(fileName(montage.name), folder);
    const result = folder ? null : await resultFile();
    const handle = folder ? await folder.getFileHandle(name, { create: true }) : result!.handle;
    const of = <T>(value: (one: Searched) => T): [string, T][] => found.map((one) => [one.source.id, value(one)]);
    try {
      const { width, height, timing } = montage.settings;
      await api.run(
        {
          montage,
          locations: new Map(of(({ file }) => ({ blob: file }))),
          listed: Object.fromEntries(of(({ starts }) => starts).filter(([, starts]) => starts)) as ListedStarts,
          options: { width, height, timing, sound: 'aac' },
        },
        { kind: folder ? 'picked' : 'stored', handle },
        proxy(({ frame, count }) => job.progress(frame / Math.max(1, count))),
      );
      return { name, url: folder ? null : URL.createObjectURL(await handle.getFile()) };
    } catch (error) {
      if (folder) await folder.removeEntry(name).catch(() => undefined);
      else await result!.drop();
      throw error;
    }
  });

/** A name that nothing in the folder has: no film there is written over. */
async function freeName(name: string, folder: FileSystemDirectoryHandle | null): Promise<string> {
  const [, stem, ending] = /^(.*)(\.\w+)$/.exec(name)!;
  for (let n = 1; ; n++) {
    const tried = n === 1 ? name : `${stem} ${n}${ending}`;
    const there = await folder?.getFileHandle(tried).then(
      () => true,
      () => false,
    );
    if (!there) return tried;
  }
}

/** One after another; what is broken is said, and does not stop the rest. Cancelling one leaves it out. */
export async function makeMany(files: readonly BroughtFile[], order: ManyOrder): Promise<void> {
  if (useMany.getState().running || !files.length) return;
  const whole = order.together === null ? [] : [order.together];
  useMany.setState({
    running: true,
    lines: [...files.map(({ file }) => file.name), ...whole].map((name) => ({ name, state: 'waiting' })),
  });
  const fail = (at: number, error: unknown): void =>
    tell(at, { state: 'failed', why: isCancelled(error) ? 'Cancelled.' : sentence(error) });
  const make = async (at: number, name: string, found: readonly Searched[]): Promise<void> => {
    const montage: Montage = { ...composeBest(name, found, order.accents, order.best), id: nanoid() };
    await addMontage(montage);
    tell(at, { montage: montage.id });
    if (order.films) {
      tell(at, { state: 'filming' });
      tell(at, { film: await film(montage, found, order.films.folder) });
    }
    tell(at, { state: 'done' });
  };
  try {
    const all: Searched[] = [];
    for (const [i, brought] of files.entries()) {
      tell(i, { state: 'searching' });
      try {
        const found = await search(brought, `recording-${i + 1}`, order.profile);
        if (order.together === null) await make(i, brought.file.name, [found]);
        else {
          all.push(found);
          tell(i, { state: 'done' });
        }
      } catch (error) {
        fail(i, error);
      }
    }
    if (order.together !== null)
      try {
        if (!all.length) throw new EngineError('nothing-to-do', 'None of the recordings can be read.');
        await make(files.length, order.together, all);
      } catch (error) {
        fail(files.length, error);
      }
  } finally {
    useMany.setState({ running: false });
  }
}
