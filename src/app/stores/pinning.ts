/** Pinning a title or a bed to something in the picture, which is followed through its clip. */
import { applied, fitted, scaleOf, turnOf } from '../../core/base/similarity.ts';
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

type Track = Pin['track'];

/** Of a box that is followed where its middle is, how it is turned and how large, by where its corners are. */
function posed(corners: readonly Point[], found: readonly Point[], aspect: number): Omit<Track[number], 't'> {
  const inHeights = (list: readonly Point[]) => list.map(({ x, y }) => ({ x: x * aspect, y }));
  const by = fitted(inHeights(corners), inHeights(found));
  const middle = { x: (corners[0]!.x + corners[2]!.x) / 2, y: (corners[0]!.y + corners[2]!.y) / 2 };
  const at = applied(by, { x: middle.x * aspect, y: middle.y });
  return { x: at.x / aspect, y: at.y, turn: turnOf(by), scale: scaleOf(by) };
}

/** Turns go on past half a circle instead of jumping back. */
const unwound = (track: Track): Track => {
  let last = 0;
  return track.map((place) => {
    if (place.turn === undefined) return place;
    last += Math.atan2(Math.sin(place.turn - last), Math.cos(place.turn - last));
    return { ...place, turn: last };
  });
};

/**
 * Follows a place of the picture at the playhead, both ways through the clip, as far as it is recognised; of a box its turn
 * and size, too. What was pinned there before is set right from here on.
 * @param from shares of what is shown
 * @param to the other corner of a box; null: it is a place alone
 */
export async function pinHere(pinned: Pinned, from: Point, to: Point | null): Promise<void> {
  const derived = derivedNow();
  const { playhead } = useView.getState();
  const shown = derived && shownAt(derived, playhead);
  const span = derived?.line.spanAt(playhead);
  const times = shown && derived.media.get(shown.source.id);
  if (!derived || !shown || !span || !times) return notice('No footage stands at the playhead.', 'error');
  const { id: owner } = derived.montage;
  const [a, b] = [shown.toSource(from), shown.toSource(to ?? from)];
  if ([a, b].some(({ x, y }) => !(x >= 0 && x <= 1 && y >= 0 && y <= 1)))
    return notice('There is no picture at that place.', 'error');
  const { id } = shown.source;
  const at = shown.picture.frame;
  const most = LIMITS.trackPoints >> 1;
  const first = Math.max(0, at - most + 1, times.indexAt(span.clip.in));
  const last = Math.max(at, Math.min(times.count - 1, at + most - 1, times.indexAt(span.clip.out) - 1));
  await jobs
    .run({ kind: 'focus', owner, label: 'Following what it is pinned to' }, async (job) => {
      const going = (done: number, part: number) =>
        proxy((share: number) => {
          job.progress(done + share * part);
          return !job.signal.aborted;
        });
      const surely = (sure: number): number => Math.round(Math.max(0, sure) * 100) / 100;
      let track: Track;
      if (to) {
        const corners = [a, { x: b.x, y: a.y }, b, { x: a.x, y: b.y }];
        const { width, height } = shown.source.video!;
        const [before, after] = [
          await frameServer().followOutline(id, at, corners, first, going(0, 0.5)),
          await frameServer().followOutline(id, at, corners, last, going(0.5, 0.5)),
        ];
        const places = (list: typeof before): Track =>
          unwound(
            list.map(({ frame, points, sure }) => ({
              t: times.timeOf(frame),
              ...posed(corners, points, width / height),
              sure: surely(sure),
            })),
          );
        const own = { t: shown.t, ...posed(corners, corners, width / height), sure: 1 };
        track = [...places(before).toReversed(), own, ...places(after)];
      } else
        track = (await frameServer().track(id, at, a, first, last, going(0, 1))).map(({ frame, x, y, like }) => ({
          t: times.timeOf(frame),
          x,
          y,
          sure: surely(like),
        }));
      if (job.signal.aborted) return;
      await editMontage(owner, (montage) => {
        const old = pinOf({ montage }, pinned);
        const pin = old?.source === id ? mended(old, shown.t, track) : null;
        return setPin(pinned, pin ?? { source: id, at: shown.t, track })(montage);
      });
      const lost = track.length < last - first + 1;
      const least = Math.round(100 * Math.min(...track.map(({ sure = 0 }) => sure)));
      const beyond = lost ? '; beyond, what it is pinned to was not recognised' : '';
      notice(`It goes along for ${track.length} frames, ${least} % sure at the least${beyond}.`);
    })
    .catch(say);
}
