/** Seeks more of the families that it is asked for, in every source that is analysed. */
import type { NamedFamily } from '../../core/document/types.ts';
import { isCancelled, sentence, startAnalyser } from '../../engine/index.ts';
import { familyName } from './families.ts';
import { jobs } from './jobs.ts';
import { isOpen, useMedia } from './media.ts';
import { useMontage } from './montage.ts';
import { notice } from './view.ts';

const seeking = new Set<string>();

const isKnown = (source: string, { id, examples }: NamedFamily): boolean => {
  const known = useMedia.getState().alike[source]?.[id]?.examples;
  return known !== undefined && known.join() === examples.join();
};

async function seekInSources(): Promise<void> {
  const { montage } = useMontage.getState();
  if (!montage) return;
  for (const source of montage.sources) {
    const sounds = useMedia.getState().signals[source.id]?.sounds;
    if (!sounds || useMedia.getState().partial[source.id]) continue;
    for (const family of montage.families) {
      const key = `${source.id} ${family.id}`;
      if (family.more === null || seeking.has(key) || isKnown(source.id, family)) continue;
      seeking.add(key);
      const label = `Looking for more ${familyName({ named: family, kind: family.kind })} in ${source.name}`;
      try {
        const signal = await jobs.run({ kind: 'sort', owner: montage.id, label }, (job) =>
          job.use(startAnalyser()).familySignal(sounds, family),
        );
        if (isOpen(montage.id))
          useMedia.setState((s) => ({
            alike: { ...s.alike, [source.id]: { ...s.alike[source.id], [family.id]: signal } },
          }));
      } catch (error) {
        if (!isCancelled(error)) notice(sentence(error), 'error');
      } finally {
        seeking.delete(key);
      }
    }
  }
}

useMontage.subscribe(({ montage }, before) => {
  if (montage && montage.families !== before.montage?.families) void seekInSources();
});
useMedia.subscribe(({ signals }, before) => {
  if (signals !== before.signals) void seekInSources();
});
