/** Pinning a title to something in the picture, which is followed through its clip. */
import type { Montage, Title } from '../../core/document/types.ts';
import { LIMITS } from '../../core/document/limits.ts';
import { proxy } from '../../engine/index.ts';
import { derivedNow } from './derived.ts';
import { shownAt } from './focus.ts';
import { jobs, say } from './jobs.ts';
import { frameServer } from './media.ts';
import { edit, editMontage } from './montage.ts';
import { notice, useView } from './view.ts';

const setPin =
  (id: string, pin: Title['pin']) =>
  (montage: Montage): Montage => ({
    ...montage,
    titles: montage.titles?.map((one) => {
      const { pin: _, ...rest } = one;
      return one.id === id ? { ...rest, ...(pin && { pin }) } : one;
    }),
  });

export const unpinTitle = (id: string): void => edit(setPin(id, undefined));

/** Follows what lies under the title at the playhead, both ways through the clip, as far as it is recognised. */
export async function pinTitle(title: Title): Promise<void> {
  const derived = derivedNow();
  const { playhead } = useView.getState();
  const shown = derived && shownAt(derived, playhead);
  const span = derived?.line.spanAt(playhead);
  const times = shown && derived.media.get(shown.source.id);
  if (!derived || !shown || !span || !times) return notice('No footage stands at the playhead.', 'error');
  const { id: owner, settings } = derived.montage;
  const planned = derived.planner.at(playhead).titles.find(({ id }) => id === title.id);
  if (!planned) return notice('Go to a frame that shows the title.', 'error');
  const point = shown.toSource({ x: 0.5 + (planned.x * settings.height) / settings.width, y: 0.5 + planned.y });
  if (!(point.x >= 0 && point.x <= 1 && point.y >= 0 && point.y <= 1))
    return notice('There is no picture under the title.', 'error');
  const at = shown.picture.frame;
  const most = LIMITS.trackPoints >> 1;
  const first = Math.max(0, at - most + 1, times.indexAt(span.clip.in));
  const last = Math.min(times.count - 1, at + most - 1, times.indexAt(span.clip.out) - 1);
  await jobs
    .run({ kind: 'focus', owner, label: 'Following what is under the title' }, async (job) => {
      const found = await frameServer().track(
        shown.source.id,
        at,
        point,
        first,
        Math.max(at, last),
        proxy((share: number) => job.progress(share)),
      );
      if (job.signal.aborted) return;
      const track = found.map(({ frame, x, y }) => ({ t: times.timeOf(frame), x, y }));
      await editMontage(owner, setPin(title.id, { source: shown.source.id, at: shown.t, track }));
      const lost = found[0]!.frame > first || found.at(-1)!.frame < last;
      notice(
        `The title goes along for ${found.length} frames${lost ? '; beyond, what it is pinned to was not recognised' : ''}.`,
      );
    })
    .catch(say);
}
