/** Cutting out a source's subject: its paths and its key, and following a path through the picture. */
import { nanoid } from 'nanoid';
import { updateSource } from '../../core/document/edits.ts';
import { LIMITS } from '../../core/document/limits.ts';
import type { Montage, Point, Source, Subject, SubjectKey, SubjectPath } from '../../core/document/types.ts';
import { proxy } from '../../engine/index.ts';
import { subjectPathAt } from '../../core/subject/matte.ts';
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

/** Keys within so many seconds are of one frame. */
const SAME = 0.004;

const changed =
  (source: string, change: (subject: Subject) => Subject) =>
  (m: Montage): Montage => {
    const old = m.sources.find(({ id }) => id === source)?.subject ?? NONE;
    const next = change(old);
    return updateSource(source, { subject: next.paths.length || next.key ? next : undefined })(m);
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
          proxy((share: number) => job.progress((i + share) / 2)),
        );
        if (job.signal.aborted) return;
        for (const { frame, points: moved } of found)
          keys.push({
            t: times.timeOf(frame),
            found: true,
            points: moved.map((p, k) => ({ x: held(p.x), y: held(p.y), smooth: points[k]!.smooth })),
          });
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

const held = (v: number): number => Math.round(Math.min(4.9, Math.max(-3.9, v)) * 1e5) / 1e5;
