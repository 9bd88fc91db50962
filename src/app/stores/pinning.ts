/** Pinning a title or a bed to something in the picture, which is followed through its clip. */
import type { Montage, Pin, Point } from '../../core/document/types.ts';
import { LIMITS } from '../../core/document/limits.ts';
import { mended, pinAt } from '../../core/timeline/pins.ts';
import { proxy } from '../../engine/index.ts';
import { derivedNow, type Derived } from './derived.ts';
import { shownAt } from './focus.ts';
import { jobs, say } from './jobs.ts';
import { frameServer } from './media.ts';
import { edit, editMontage } from './montage.ts';
import { notice, useView, type Pinned } from './view.ts';

const setPin =
  ({ list, id }: Pinned, pin: Pin | undefined) =>
  (montage: Montage): Montage => {
    const set = <T extends { readonly id: string; readonly pin?: Pin | undefined }>(one: T): T => {
      if (one.id !== id) return one;
      const { pin: _, ...rest } = one;
      return { ...rest, ...(pin && { pin }) } as T;
    };
    return list === 'beds'
      ? { ...montage, beds: montage.beds.map(set) }
      : { ...montage, ...(montage.titles && { titles: montage.titles.map(set) }) };
  };

export const unpin = (pinned: Pinned): void => edit(setPin(pinned, undefined));

/** Waits for a press on the picture, or no longer. */
export function waitForPin(pinned: Pinned): void {
  const { drawing, pinning } = useView.getState();
  const waiting = drawing !== 'pin' || pinning?.id !== pinned.id;
  useView.setState({ drawing: waiting ? 'pin' : null, pinning: waiting ? pinned : null });
}

const pinOf = ({ montage }: Pick<Derived, 'montage'>, { list, id }: Pinned): Pin | undefined =>
  (list === 'beds' ? montage.beds : (montage.titles ?? [])).find((one) => one.id === id)?.pin;

/** Where pins of a montage are on a frame's picture, shares of it, and how surely they were found there, 0-1. */
export function pinsOnScreen(
  derived: Derived,
  frame: number,
): (Pinned & { readonly at: Point; readonly sure: number })[] {
  const shown = shownAt(derived, frame);
  if (!shown) return [];
  const { beds, titles = [] } = derived.montage;
  const listed = [
    ...titles.map(({ id, pin }) => ({ list: 'titles' as const, id, pin })),
    ...beds.map(({ id, pin }) => ({ list: 'beds' as const, id, pin })),
  ];
  return listed.flatMap(({ list, id, pin }) => {
    if (pin?.source !== shown.source.id) return [];
    const { sure = 0 } = pin.track.find(({ t }) => Math.abs(t - shown.t) < 1e-6) ?? {};
    return [{ list, id, at: shown.toScreen(pinAt(pin, shown.t)), sure }];
  });
}

/**
 * Follows a place of the picture at the playhead, both ways through the clip, as far as it is recognised. What was pinned
 * there before is set right from here on.
 * @param onScreen shares of what is shown
 */
export async function pinHere(pinned: Pinned, onScreen: Point): Promise<void> {
  const derived = derivedNow();
  const { playhead } = useView.getState();
  const shown = derived && shownAt(derived, playhead);
  const span = derived?.line.spanAt(playhead);
  const times = shown && derived.media.get(shown.source.id);
  if (!derived || !shown || !span || !times) return notice('No footage stands at the playhead.', 'error');
  const { id: owner } = derived.montage;
  const point = shown.toSource(onScreen);
  if (!(point.x >= 0 && point.x <= 1 && point.y >= 0 && point.y <= 1))
    return notice('There is no picture at that place.', 'error');
  const at = shown.picture.frame;
  const most = LIMITS.trackPoints >> 1;
  const first = Math.max(0, at - most + 1, times.indexAt(span.clip.in));
  const last = Math.min(times.count - 1, at + most - 1, times.indexAt(span.clip.out) - 1);
  await jobs
    .run({ kind: 'focus', owner, label: 'Following what it is pinned to' }, async (job) => {
      const found = await frameServer().track(
        shown.source.id,
        at,
        point,
        first,
        Math.max(at, last),
        proxy((share: number) => {
          job.progress(share);
          return !job.signal.aborted;
        }),
      );
      if (job.signal.aborted) return;
      const track = found.map(({ frame, x, y, like }) => ({
        t: times.timeOf(frame),
        x,
        y,
        sure: Math.round(Math.max(0, like) * 100) / 100,
      }));
      await editMontage(owner, (montage) => {
        const old = pinOf({ montage }, pinned);
        const pin = old?.source === shown.source.id ? mended(old, shown.t, track) : null;
        return setPin(pinned, pin ?? { source: shown.source.id, at: shown.t, track })(montage);
      });
      const lost = found[0]!.frame > first || found.at(-1)!.frame < last;
      const least = Math.round(100 * Math.min(...track.map(({ sure }) => sure)));
      notice(
        `It goes along for ${found.length} frames, ${least} % sure at the least${lost ? '; beyond, what it is pinned to was not recognised' : ''}.`,
      );
    })
    .catch(say);
}
