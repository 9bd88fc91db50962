/** Measuring the mix, bringing it to a loudness, and writing it as WAV; each in a thread of its own. */
import { create } from 'zustand';
import { setSettings } from '../../core/document/edits.ts';
import { DEFAULT_MASTER, type Montage } from '../../core/document/types.ts';
import {
  isCancelled,
  resultFile,
  sentence,
  startExporter,
  type Job,
  type Levels,
  type WaveOptions,
} from '../../engine/index.ts';
import { jobs } from './jobs.ts';
import { mediaLocations, useMedia } from './media.ts';
import { edit, useMontage } from './montage.ts';
import { fileNameOf } from './opening.ts';
import { notice } from './view.ts';

/** `of`: the montage that was measured; after an edit it is an older state. */
export const useLevels = create<{ levels: Levels | null; of: Montage | null; busy: boolean }>(() => ({
  levels: null,
  of: null,
  busy: false,
}));

type Api = ReturnType<typeof startExporter>['api'];

async function run<T>(label: string, work: (api: Api, montage: Montage) => Promise<T>): Promise<T | null> {
  const { montage } = useMontage.getState();
  if (!montage || useLevels.getState().busy) return null;
  useLevels.setState({ busy: true });
  try {
    return await jobs.run({ kind: 'levels', owner: montage.id, label }, async (job: Job) => {
      const api = job.use(startExporter());
      job.signal.addEventListener('abort', () => void api.cancel().catch(() => undefined));
      return work(api, montage);
    });
  } catch (error) {
    if (!isCancelled(error)) notice(sentence(error), 'error');
    return null;
  } finally {
    useLevels.setState({ busy: false });
  }
}

const jobOf = (montage: Montage) => ({
  montage,
  locations: new Map(mediaLocations()),
  listed: useMedia.getState().listed,
});

export async function measureLevels(): Promise<void> {
  await run('Listening to the mix', async (api, montage) => {
    useLevels.setState({ levels: await api.levels(jobOf(montage)), of: montage });
  });
}

/** Sets the gain of the whole so that the mix is as loud as is wanted, LUFS. */
export async function bringTo(target: number): Promise<void> {
  const gain = await run('Bringing the mix to its loudness', (api, montage) => api.gainFor(jobOf(montage), target));
  if (gain === null) {
    if (!useLevels.getState().busy) notice('Nothing is heard: there is no loudness to bring to a target.', 'error');
    return;
  }
  const { montage } = useMontage.getState();
  edit(setSettings({ master: { ...(montage?.settings.master ?? DEFAULT_MASTER), gain, target } }));
  notice(`The mix is at ${target} LUFS: ${gain > 0 ? '+' : ''}${gain.toFixed(1)} dB. Undo takes it back.`);
  await measureLevels();
}

export async function exportWave(options: WaveOptions): Promise<void> {
  await run('Writing a WAV', async (api, montage) => {
    const file = await resultFile();
    try {
      await api.wave(jobOf(montage), options, { kind: 'stored', handle: file.handle });
      const name = `${fileNameOf(montage.name)}-${options.what}.wav`;
      const url = URL.createObjectURL(await file.handle.getFile());
      const link = document.createElement('a');
      Object.assign(link, { href: url, download: name });
      link.click();
      notice(`${name} is whole.`);
      // The browser reads it while it is saved.
      window.setTimeout(() => {
        URL.revokeObjectURL(url);
        void file.drop();
      }, 60_000);
    } catch (error) {
      await file.drop();
      throw error;
    }
  });
}
