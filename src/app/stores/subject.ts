/** Cutting out a source's subject: its paths, its key and what is brushed, and carrying these through the clip. */
import { nanoid } from 'nanoid';
import { updateSource } from '../../core/document/edits.ts';
import { LIMITS } from '../../core/document/limits.ts';
import type { Brushed, Montage, Point, Source, Subject, SubjectKey, SubjectPath } from '../../core/document/types.ts';
import { proxy } from '../../engine/index.ts';
import { subjectPathAt } from '../../core/subject/matte.ts';
import { matteNear, SAME, withMattes, type KeptMatte } from '../../core/subject/pieces.ts';
import { overlap } from '../../core/subject/working.ts';
import { seek } from './actions.ts';
import { derivedNow } from './derived.ts';
import { shownAt, type Shown } from './focus.ts';
import { jobs, say } from './jobs.ts';
import { frameServer } from './media.ts';
import { edit, editMontage } from './montage.ts';
import { notice, useView } from './view.ts';

type PathKey = SubjectPath['keys'][number];
export type PathPoints = PathKey['points'];

const NONE: Subject = { paths: [], grow: 0, soft: 0.006 };

export const changed =
  (source: string, change: (subject: Subject) => Subject) =>
  (m: Montage): Montage => {
    const old = m.sources.find(({ id }) => id === source)?.subject ?? NONE;
    const next = change(old);
    return updateSource(source, { subject: next.paths.length || next.key || next.brushed ? next : undefined })(m);
  };

export const changeSubject = (source: string, change: (subject: Subject) => Subject, group?: string): void =>
  edit(changed(source, change), group);

export const changePath = (
  source: string,
  id: string,
  change: (path: SubjectPath) => SubjectPath | null,
  group?: string,
): void =>
  changeSubject(
    source,
    (subject) => ({
      ...subject,
      paths: subject.paths.flatMap((path) => (path.id === id ? (change(path) ?? []) : path)),
    }),
    group,
  );

/** A path whose points are these at a source time. */
export const keyedAt = (path: SubjectPath, t: number, points: PathPoints, found = false): SubjectPath => ({
  ...path,
  keys: [...path.keys.filter((key) => Math.abs(key.t - t) > SAME), { t, points, ...(found && { found }) }]
    .sort((a, b) => a.t - b.t)
    .slice(0, LIMITS.subjectKeys),
});

export function addPath(source: string, t: number, points: readonly Point[]): void {
  const keys = [{ t, points: points.map(({ x, y }) => ({ x, y, smooth: false })) }];
  changeSubject(source, (subject) => ({
    ...subject,
    paths: [...subject.paths, { id: nanoid(8), does: 'adds', keys }],
  }));
}

export const KEY: SubjectKey = {
  by: 'brightness',
  low: 0.6,
  high: 1,
  red: 0,
  green: 0.7,
  blue: 0.2,
  near: 0.2,
  soft: 0.08,
  invert: false,
};

/** What stands at the playhead; where that is another source than this one, it is asked for. */
export function subjectShown({ id, name }: Source): Shown | null {
  const derived = derivedNow();
  const shown = derived && shownAt(derived, useView.getState().playhead);
  if (shown?.source.id === id) return shown;
  notice(`Bring ${name} to the playhead first.`, 'error');
  return null;
}

/** Keys the colour at a place of the shown picture, shares of it. */
export async function pickColour(source: Source, { x, y }: Point): Promise<void> {
  const size = { width: 64, height: 36 };
  const bitmap = await frameServer().bitmap(useView.getState().playhead, { plain: true, ...size });
  const context = new OffscreenCanvas(1, 1).getContext('2d')!;
  context.drawImage(bitmap, -Math.floor(x * size.width), -Math.floor(y * size.height));
  const [red, green, blue] = [...context.getImageData(0, 0, 1, 1).data].map((v) => Math.round((v / 255) * 1000) / 1000);
  changeSubject(source.id, (subject) => ({
    ...subject,
    key: { ...KEY, ...subject.key, by: 'colour', red: red!, green: green!, blue: blue! },
  }));
}

type Stroke = Brushed['strokes'][number];

/** What is brushed is made into mattes one stroke after another: a fast hand is not overtaken by its own strokes. */
let brushing: Promise<void> = Promise.resolve();

/** Puts a stroke over the shown frame, and grows what is said of that frame to the edge of the subject. */
export function brush(source: Source, { t, picture }: Shown, stroke: Omit<Stroke, 't'>): Promise<void> {
  const owner = derivedNow()?.montage.id;
  const run = async (): Promise<void> => {
    const now = derivedNow()?.montage;
    if (!owner || now?.id !== owner) return;
    const old = now.sources.find(({ id }) => id === source.id)?.subject?.brushed ?? { strokes: [], pieces: [] };
    if (old.strokes.length >= LIMITS.strokes) return notice('There are as many strokes as there can be.', 'error');
    const strokes = [...old.strokes, { t, ...stroke }].map((one) => ({ ...one, points: one.points.map(heldPoint) }));
    const kept = matteNear(old.pieces, t);
    // The frame that was stroked first is grown from its strokes alone; others mend what was carried there.
    const first = !old.people && Math.abs((strokes[0] as Stroke).t - t) < SAME;
    const ofFrame = strokes.filter((one) => Math.abs(one.t - t) < SAME);
    if (!ofFrame.some(({ on }) => on) && !kept) notice('Brush over the subject, too: nothing belongs to it yet.');
    const before = !first && kept && Math.abs(kept.t - t) < SAME ? kept.values : null;
    const made = await frameServer().growMatte(source.id, picture.frame, ofFrame, before);
    if (derivedNow()?.montage.id !== owner) return;
    changeSubject(source.id, (subject) => ({
      ...subject,
      brushed: {
        ...subject.brushed,
        strokes,
        pieces: withMattes(subject.brushed?.pieces ?? [], [{ t, values: made.values }], made).slice(0, LIMITS.pieces),
      },
    }));
  };
  brushing = brushing.then(run).catch(say);
  return brushing;
}

/** Where mattes from both sides overlap by less, they are not of one thing. */
const AGREE = 0.7;

/** Frames that are carried at once: between them the picture can be shown, and the work be stopped. */
const AT_ONCE = 6;

/**
 * Carries what was brushed from the stroked frame before the playhead, or the one after it, to the next stroked frames or
 * the clip's ends both ways. Between two stroked frames it is carried from both, and the nearer counts the more.
 */
export async function carryBrushed(source: Source): Promise<void> {
  const derived = derivedNow();
  const shown = subjectShown(source);
  const span = derived?.line.spanAt(useView.getState().playhead);
  const times = derived?.media.get(source.id);
  const owner = derived?.montage.id;
  const brushed = source.subject?.brushed;
  if (!shown || !span || !times || !owner || !brushed || !source.video) return;
  const { clip } = span;
  const marks = [...new Set(brushed.strokes.map(({ t }) => times.indexAt(t + SAME)))].sort((a, b) => a - b);
  const [first, last] = [
    Math.max(0, times.indexAt(clip.in + SAME)),
    Math.min(times.count - 1, times.indexAt(clip.out - SAME)),
  ];
  const here = shown.picture.frame;
  const from = marks.findLast((at) => at <= here) ?? marks[0];
  if (from === undefined || from < first || from > last)
    return notice('Brush over a frame of this clip first.', 'error');
  await jobs
    .run({ kind: 'focus', owner, label: `Carrying the subject through ${source.name}` }, async (job) => {
      const found: KeptMatte[] = [];
      const lost: number[] = [];
      let shape: { width: number; height: number } | null = null;
      let done = 0;
      const ends = [marks.findLast((at) => at < from) ?? first, marks.find((at) => at > from) ?? last];
      const all = ends.reduce((sum, end) => sum + Math.abs(end - from) * (marks.includes(end) ? 2 : 1), 0);
      /** Frame by frame from one towards another; what was reached, by frame. */
      const carried = async (start: number, end: number): Promise<Map<number, Uint8Array>> => {
        const kept = matteNear(brushed.pieces, times.timeOf(start));
        const reached = new Map<number, Uint8Array>();
        if (!kept) return reached;
        shape ??= { width: kept.width, height: kept.height };
        const step = end < start ? -1 : 1;
        let [at, values] = [start, kept.values];
        while (at !== end && !job.signal.aborted) {
          const to = step > 0 ? Math.min(end, at + AT_ONCE) : Math.max(end, at - AT_ONCE);
          const part = await frameServer().carryMatte(source.id, at, values, to);
          for (const one of part) reached.set(one.frame, one.values);
          done += part.length;
          job.progress(done / Math.max(1, all));
          const tip = part.at(-1);
          if (tip?.frame !== to) break;
          [at, values] = [tip.frame, tip.values];
        }
        return reached;
      };
      for (const end of ends) {
        if (end === from) continue;
        const onward = await carried(from, end);
        const back = marks.includes(end) ? await carried(end, from) : new Map<number, Uint8Array>();
        const step = end < from ? -1 : 1;
        for (let at = from + step; marks.includes(end) ? at !== end : at !== end + step; at += step) {
          const [one, other] = [onward.get(at), back.get(at)];
          const share = Math.abs(at - from) / Math.abs(end - from);
          const values = one && other ? one.map((v, i) => v * (1 - share) + other[i]! * share) : (one ?? other);
          if (values) found.push({ t: times.timeOf(at), values });
          // Where both ways come to different ends, neither is believed without a word.
          if (one && other ? overlap(one, other, 128) < AGREE : !values && !job.signal.aborted) lost.push(at);
        }
      }
      const sorted = found.sort((a, b) => a.t - b.t);
      // What was carried before the work was stopped is kept.
      if (sorted.length && shape)
        await editMontage(
          owner,
          changed(source.id, (subject) => ({
            ...subject,
            ...(subject.brushed && {
              brushed: {
                ...subject.brushed,
                pieces: withMattes(subject.brushed.pieces, sorted, shape!).slice(0, LIMITS.pieces),
              },
            }),
          })),
        );
      if (!lost.length) return notice(`The subject was carried through ${found.length} frames.`);
      const nearest = lost.reduce((a, b) => (Math.abs(a - from) <= Math.abs(b - from) ? a : b));
      const moments = derived.line.momentsOf(span, times.timeOf(nearest));
      if (moments.length) seek(derived.line.frameAt(moments[0]! + SAME));
      notice(
        `Carried through ${found.length} frames; from here it is not recognised. Brush over this frame and carry on.`,
        'error',
      );
    })
    .catch(say);
}

/**
 * Follows a path from the playhead both ways, as far as the clip goes or as another key was set by hand, and stops where it
 * is lost.
 */
export async function followPath(source: Source, path: SubjectPath): Promise<void> {
  const derived = derivedNow();
  const shown = subjectShown(source);
  const span = derived?.line.spanAt(useView.getState().playhead);
  const times = derived?.media.get(source.id);
  const owner = derived?.montage.id;
  if (!shown || !span || !times || !owner) return;
  const points = subjectPathAt(path, shown.t);
  const at = shown.picture.frame;
  const byHand = path.keys.filter(({ found, t }) => !found && Math.abs(t - shown.t) > SAME).map(({ t }) => t);
  const { clip } = span;
  const first = Math.max(clip.in, ...byHand.filter((t) => t < shown.t).map((t) => t + SAME));
  const last = Math.min(clip.out, ...byHand.filter((t) => t > shown.t).map((t) => t - SAME));
  const ends = [
    Math.max(0, times.indexAt(first + SAME)),
    Math.min(times.count - 1, times.indexAt(last - SAME)),
  ] as const;
  await jobs
    .run({ kind: 'focus', owner, label: `Following the outline in ${source.name}` }, async (job) => {
      const keys: PathKey[] = [];
      let lost: number | null = null;
      for (const [i, end] of ends.entries()) {
        const found = await frameServer().followOutline(
          source.id,
          at,
          points,
          end,
          proxy((share: number) => {
            job.progress((i + share) / 2);
            return !job.signal.aborted;
          }),
        );
        for (const { frame, points: moved } of found)
          keys.push({
            t: times.timeOf(frame),
            found: true,
            points: moved.map((p, k) => ({ x: held(p.x), y: held(p.y), smooth: points[k]!.smooth })),
          });
        // What was followed before the work was stopped is kept.
        if (job.signal.aborted) break;
        const reached = found.at(-1)?.frame ?? at;
        if (reached !== end) lost = reached + (end < at ? -1 : 1);
      }
      await editMontage(
        owner,
        changed(source.id, (subject) => ({
          ...subject,
          paths: subject.paths.map((one) =>
            one.id === path.id
              ? {
                  ...one,
                  keys: [
                    ...one.keys.filter(
                      ({ t, found }) =>
                        !found && Math.abs(t - shown.t) > SAME && !keys.some((k) => Math.abs(k.t - t) <= SAME),
                    ),
                    { t: shown.t, points },
                    ...keys,
                  ].sort((a, b) => a.t - b.t),
                }
              : one,
          ),
        })),
      );
      if (lost === null) return notice(`The outline was followed through ${keys.length} frames.`);
      const moments = derived.line.momentsOf(span, times.timeOf(lost));
      if (moments.length) seek(derived.line.frameAt(moments[0]! + SAME));
      notice(
        `Followed through ${keys.length} frames, then lost here: set it right on this frame and follow on.`,
        'error',
      );
    })
    .catch(say);
}

const heldPoint = ({ x, y }: Point): Point => ({ x: held(x), y: held(y) });
const held = (v: number): number => Math.round(Math.min(4.9, Math.max(-3.9, v)) * 1e5) / 1e5;
