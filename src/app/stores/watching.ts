/** Watched rectangles: taking an example, and reading every source for each. */
import { fromByteArray, toByteArray } from 'base64-js';
import { nanoid } from 'nanoid';
import { addWatch } from '../../core/document/edits.ts';
import type { Region, Source, Watch } from '../../core/document/types.ts';
import type { Sought, WatchSignal } from '../../core/finding/watch/watch.ts';
import { keepWatch, keptWatch, proxy, startAnalyser, watchKey, type MediaLocation } from '../../engine/index.ts';
import { jobs, say } from './jobs.ts';
import { isOpen, mediaLocations, useMedia } from './media.ts';
import { editMontage, useMontage } from './montage.ts';
import { notice } from './view.ts';

/** Takes a rectangle of the picture at a source time as something to watch for, and looks for it at once. */
export async function watchFor(
  source: Source,
  region: Region,
  t: number,
  mode: Watch['mode'],
  name: string,
): Promise<void> {
  const owner = useMontage.getState().montage?.id;
  const location = mediaLocations().get(source.id);
  if (!owner) return;
  if (!location) return notice(`The file of ${source.name} is missing.`, 'error');
  await jobs
    .run({ kind: 'watch', owner, label: `Taking an example from ${source.name}` }, async (job) => {
      const api = job.use(startAnalyser());
      const sought = mode === 'appears' ? await api.takeExample(location, source.name, region, t) : null;
      await editMontage(
        owner,
        addWatch({
          id: nanoid(8),
          name,
          mode,
          region,
          sensitivity: 0.5,
          sought: sought && {
            width: sought.width,
            height: sought.height,
            y: fromByteArray(sought.y),
            u: fromByteArray(sought.u),
            v: fromByteArray(sought.v),
            weight: fromByteArray(sought.weight),
          },
        }),
      );
    })
    .catch(say);
}

const soughtBytes = (sought: NonNullable<Watch['sought']>): Sought => ({
  width: sought.width,
  height: sought.height,
  y: toByteArray(sought.y),
  u: toByteArray(sought.u),
  v: toByteArray(sought.v),
  weight: toByteArray(sought.weight),
});

const watching = new Set<string>();

/** Reads every source that is here for every watch that has no signal yet. */
async function watchSources(): Promise<void> {
  const { montage } = useMontage.getState();
  if (!montage) return;
  for (const source of montage.sources) {
    for (const watch of montage.watches) {
      const key = `${source.id} ${watch.id}`;
      if (!source.video || watching.has(key) || useMedia.getState().watched[source.id]?.[watch.id]) continue;
      watching.add(key);
      try {
        const location = mediaLocations().get(source.id);
        const kept = await keptWatch(source.fingerprint, watchKey(watch)).catch(() => null);
        const signal = kept ?? (location ? await watchOne(montage.id, source, watch, location) : null);
        if (signal && isOpen(montage.id))
          useMedia.setState((s) => ({
            watched: { ...s.watched, [source.id]: { ...s.watched[source.id], [watch.id]: signal } },
          }));
      } catch (error) {
        say(error);
      } finally {
        watching.delete(key);
      }
    }
  }
}

const watchOne = (owner: string, source: Source, watch: Watch, location: MediaLocation): Promise<WatchSignal> =>
  jobs.run({ kind: 'watch', owner, label: `Watching for ${watch.name} in ${source.name}` }, async (job) => {
    const api = job.use(startAnalyser());
    job.signal.addEventListener('abort', () => void api.cancel().catch(() => undefined));
    const signal = await api.watch(
      location,
      { name: source.name, duration: source.duration },
      watch.region,
      watch.sought && soughtBytes(watch.sought),
      proxy((share: number) => job.progress(share)),
    );
    await keepWatch(source.fingerprint, watchKey(watch), signal);
    return signal;
  });

useMontage.subscribe(({ montage }, before) => {
  if (
    montage &&
    (montage.watches !== before.montage?.watches || montage.sources.length !== before.montage.sources.length)
  )
    void watchSources();
});
useMedia.subscribe(({ epoch }, before) => {
  if (epoch !== before.epoch) void watchSources();
});
