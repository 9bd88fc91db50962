/** The point of action of hits: set by hand on the picture, proposed from it, followed through it. */
import { setFocus, setFoundFocus, together } from '../../core/document/edits.ts';
import type { Hit, Point, Source } from '../../core/document/types.ts';
import type { PlannedPicture } from '../../core/accents/plan.ts';
import { focusAt, inOutput, inPicture } from '../../core/timeline/framing.ts';
import { carries } from '../../core/document/hits.ts';
import { proxy } from '../../engine/index.ts';
import { chosenNow } from './actions.ts';
import { derivedNow, type Derived } from './derived.ts';
import { jobs, say } from './jobs.ts';
import { frameServer } from './media.ts';
import { edit, editMontage } from './montage.ts';
import { notice, useView } from './view.ts';

/** What of which source stands on the picture at a frame, and how places of the two lead to each other. */
export interface Shown {
  readonly source: Source;
  readonly picture: PlannedPicture;
  /** Source seconds. */
  readonly t: number;
  toSource(onScreen: Point): Point;
  toScreen(inSource: Point): Point;
}

export function shownAt({ montage, planner, media }: Derived, frame: number): Shown | null {
  const { picture } = planner.at(frame, { plain: true });
  const source = picture && montage.sources.find(({ id }) => id === picture.source);
  const times = picture && media.get(picture.source);
  if (!picture || !source?.video || !times) return null;
  const { width, height } = montage.settings;
  const shapes = [source.video.width / source.video.height, width / height] as const;
  return {
    source,
    picture,
    t: times.timeOf(picture.frame),
    toSource: (point) => inPicture(point, picture, ...shapes),
    toScreen: (point) => inOutput(point, picture, ...shapes),
  };
}

/** Where the focus of a hit is on the picture at a frame, shares of it; null where it is not to be seen. */
export function focusOnScreen(derived: Derived, hit: Hit, frame: number): Point | null {
  const shown = shownAt(derived, frame);
  const point = shown?.source.id === hit.source ? focusAt(hit, shown.t) : null;
  return point && shown ? shown.toScreen(point) : null;
}

const inside = ({ x, y }: Point): boolean => x >= 0 && x <= 1 && y >= 0 && y <= 1;

/** The chosen hit happens at a place of the picture, in shares of what is shown; one drag is one step of undo. */
export function setFocusHere(onScreen: Point, gesture?: string): void {
  const derived = derivedNow();
  const hit = chosenNow()?.hit;
  if (!derived || !hit || hit.kind === 'join')
    return notice('Choose a hit first: its focus is set on the picture.', 'error');
  const shown = shownAt(derived, useView.getState().playhead);
  if (shown?.source.id !== hit.source) return notice('The playhead stands on another source than the hit.', 'error');
  const point = shown.toSource(onScreen);
  if (inside(point)) edit(setFocus(hit, point), gesture);
  else notice('There is no picture at that place.', 'error');
}

export function clearFocus(): void {
  const hit = chosenNow()?.hit;
  if (hit) edit(setFocus(hit, null));
}

/** Frames before and after a hit in which a moving focus is followed. */
const FOLLOWED_BEFORE = 15;
const FOLLOWED_AFTER = 60;

/** Follows the chosen hit's focus through the frames around it. */
export async function followFocus(): Promise<void> {
  const derived = derivedNow();
  const hit = chosenNow()?.hit;
  const owner = derived?.montage.id;
  const times = hit && derived?.media.get(hit.source);
  if (!derived || !owner || !hit?.focus || !times) return notice('Set the focus of the chosen hit first.', 'error');
  const at = times.indexAt(hit.t);
  const [from, to] = [Math.max(0, at - FOLLOWED_BEFORE), Math.min(times.count - 1, at + FOLLOWED_AFTER)];
  const { focus } = hit;
  await jobs
    .run({ kind: 'focus', owner, label: 'Following the focus' }, async (job) => {
      const found = await frameServer().track(
        hit.source,
        at,
        focus,
        from,
        to,
        proxy((share: number) => {
          job.progress(share);
          return !job.signal.aborted;
        }),
      );
      const track = found.map(({ frame, x, y }) => ({ t: times.timeOf(frame), x, y }));
      if (job.signal.aborted) return;
      await editMontage(owner, setFoundFocus(hit, focus, track, hit.around));
      const [first, last] = [found[0]!.frame - at, found.at(-1)!.frame - at];
      notice(
        first + at > from || last + at < to
          ? `The focus was followed from ${first} to +${last} frames; beyond, it was lost and stands still.`
          : `The focus was followed from ${first} to +${last} frames.`,
      );
    })
    .catch(say);
}

/** Kept hits of pictures that have no focus yet. */
export const withoutFocus = ({ montage }: Pick<Derived, 'montage'>): Hit[] =>
  montage.hits.filter(
    (hit) =>
      carries(hit) &&
      !hit.focus &&
      hit.kind !== 'join' &&
      montage.sources.some(({ id, video, role, still }) => id === hit.source && video && role === 'footage' && !still),
  );

/** Looks at the frames of hits and sets the focus of those in which something stands out, in one step of undo. */
export async function proposeFocus(hits: readonly Hit[]): Promise<void> {
  const derived = derivedNow();
  const owner = derived?.montage.id;
  if (!derived || !owner || !hits.length) return;
  await jobs
    .run({ kind: 'focus', owner, label: 'Looking where the hits are' }, async (job) => {
      const found: [Hit, { readonly focus: Point; readonly around: Hit['around'] | null }][] = [];
      for (const [i, hit] of hits.entries()) {
        if (job.signal.aborted) return;
        job.progress(i / hits.length, { detail: `${i} of ${hits.length}` });
        const times = derived.media.get(hit.source);
        const point = times && (await frameServer().proposeFocus(hit.source, times.indexAt(hit.t)));
        if (point) found.push([hit, point]);
      }
      if (job.signal.aborted) return;
      await editMontage(
        owner,
        together(found.map(([hit, { focus, around }]) => setFoundFocus(hit, focus, undefined, around ?? undefined))),
      );
      notice(
        found.length === hits.length
          ? `A focus was found for ${found.length === 1 ? 'the hit' : `all ${found.length} hits`}.`
          : `A focus was found for ${found.length} of ${hits.length} hits: in the others nothing stands out. Set it by hand where it matters.`,
      );
    })
    .catch(say);
}
