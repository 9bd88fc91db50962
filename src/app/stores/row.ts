/** What a person does with the row of clips and the music. */
import { nanoid } from 'nanoid';
import type { HitKind, MusicItem, Source } from '../../core/document/types.ts';
import { secondsToFrame, timecode } from '../../core/base/time.ts';
import { gridOf } from '../../core/finding/detectors/index.ts';
import { musicLaidAt, musicTime } from '../../core/timeline/music.ts';
import type { Occurrence } from '../../core/timeline/occurrences.ts';
import { addClip, boundsOf, changeMusic, slipClip, splitClip, trimClip } from '../../core/timeline/row.ts';
import { kindName } from '../parts/kinds.ts';
import { chosenNow, seek } from './actions.ts';
import { derivedNow, type Derived } from './derived.ts';
import { useMedia } from './media.ts';
import { edit, useMontage } from './montage.ts';
import { notice, useView } from './view.ts';

/** Montage seconds of the playhead. */
export const secondsNow = (): number => derivedNow()?.line.timeOf(useView.getState().playhead) ?? 0;

/** Seconds to each side of a hit that are brought into the row with it. */
const AROUND = 2;

/** Puts the surroundings of the chosen hit at the end of the row. */
export function addAroundHit(source: Source): void {
  const hit = chosenNow()?.hit;
  if (!hit || hit.source !== source.id) return notice(`Choose a hit of ${source.name} first.`, 'error');
  const { from, to } = boundsOf(source);
  edit(addClip(source.id, { in: Math.max(from, hit.t - AROUND), out: Math.min(to, hit.t + AROUND) }, nanoid(8)));
  notice(`The surroundings of the ${kindName(hit.kind)} at ${hit.t.toFixed(1)} s are at the end of the row.`);
}

/** The clip under the playhead, and the source time that it shows there. */
function clipHere(): { id: string; back: boolean; t: number; end: number; first: number } | null {
  const derived = derivedNow();
  const { playhead } = useView.getState();
  const span = derived?.line.spanAt(playhead);
  const times = span && derived?.media.get(span.clip.source);
  if (!derived || !span || !times) {
    notice('There is no clip under the playhead.', 'error');
    return null;
  }
  const frame = derived.line.sourceFrame(span, playhead);
  const end = frame + 1 < times.count ? times.timeOf(frame + 1) : times.end;
  return { id: span.clip.id, back: (span.clip.speed ?? 1) < 0, t: times.timeOf(frame), end, first: span.first };
}

/** The clip under the playhead begins with the frame that is shown, ends with it, or is cut before it. */
export function trimHere(end: 'in' | 'out'): void {
  const clip = clipHere();
  if (!clip) return;
  edit(trimClip(clip.id, (end === 'in') !== clip.back ? { in: clip.t } : { out: clip.end }));
  if (end === 'in') seek(clip.first);
}

export function cutHere(): void {
  const clip = clipHere();
  if (clip) edit(splitClip(clip.id, clip.back ? clip.end : clip.t, nanoid(8)));
}

export interface Moment {
  readonly id: string;
  readonly name: string;
  readonly kind: HitKind;
  /** Source seconds. */
  readonly t: number;
}

/** Beats offered beside drops and marks: those nearest to the playhead. */
const BEATS = 8;

/** Moments of a piece of music that can be laid on a hit: its drops and marks, the playhead, and beats near it. */
export function momentsOf({ montage, line, found }: Derived, item: MusicItem): Moment[] {
  const source = montage.sources.find(({ id }) => id === item.source);
  const signals = useMedia.getState().signals[item.source];
  const named = (t: number, kind: HitKind, id: string): Moment => {
    const at = musicTime(item, t)!;
    const past = at >= line.duration ? ', after the last clip' : '';
    return { id, kind, name: `${kindName(kind)} at ${timecode(secondsToFrame(at, line.rate), line.rate)}${past}`, t };
  };
  const within = (t: number): boolean => musicTime(item, t) !== null;
  const marks = montage.hits.filter((hit) => hit.source === item.source && hit.state !== 'rejected' && within(hit.t));
  const drops = (found.get(item.source)?.hits ?? []).filter(
    ({ kind, t, id }) => kind === 'drop' && within(t) && !montage.hits.some((hit) => hit.id === id),
  );
  const beats = source && signals ? (gridOf(source, signals, montage.sensitivity.beat ?? 0.5)?.beats ?? []) : [];
  const here = secondsNow();
  const near = beats
    .filter(within)
    .sort((a, b) => Math.abs(musicTime(item, a)! - here) - Math.abs(musicTime(item, b)! - here))
    .slice(0, BEATS)
    .sort((a, b) => a - b);
  return [
    ...drops.map(({ t, id }) => named(t, 'drop', id)),
    ...marks.map(({ t, id, kind }) => named(t, kind, id)),
    ...near.map((t) => named(t, 'beat', `beat-${t.toFixed(3)}`)),
  ];
}

/** Brings a moment of the music, source seconds, and a hit of the picture together: by moving the music, or by slipping the clip. */
export function layMomentOnHit(item: MusicItem, t: number, { hit, frame }: Occurrence, by: 'music' | 'clip'): void {
  const derived = derivedNow();
  const span = derived?.line.spanAt(frame);
  const lies = musicTime(item, t);
  if (!derived || !span || lies === null) return notice('There is no clip under that hit.', 'error');
  const { line } = derived;
  const at = line.timeOf(frame);
  const what = `the ${kindName(hit.kind)} at ${timecode(frame, line.rate)}`;
  if (by === 'music') {
    const { at: begins, in: from } = musicLaidAt(item, t, at);
    edit(changeMusic(item.id, { at: begins, in: from }));
    notice(
      `The music was moved by ${(at - lies).toFixed(2)} s onto ${what}${from > item.in ? ', and its beginning trimmed off' : ''}.`,
    );
    return;
  }
  if (lies < line.timeOf(span.first) || lies >= line.timeOf(span.end))
    return notice('That moment of the music lies outside of the clip: move the music, or trim the clip.', 'error');
  // What is to be shown where the moment lies is what is shown at the hit now.
  const wanted = line.sourceTime(span, at) - line.sourceTime(span, line.timeOf(line.frameAt(lies)));
  edit(slipClip(span.clip.id, wanted));
  const after = useMontage.getState().montage?.clips.find(({ id }) => id === span.clip.id);
  const slipped = (after?.in ?? span.clip.in) - span.clip.in;
  const all = Math.abs(slipped - wanted) < 1e-6;
  notice(
    all
      ? `The clip was slipped by ${slipped.toFixed(2)} s: ${what} falls on the music's moment.`
      : `The clip could be slipped by ${slipped.toFixed(2)} s only: its source goes no further.`,
    all ? 'note' : 'error',
  );
}

export interface MusicTimes {
  /** Montage seconds, ascending. */
  readonly beats: readonly number[];
  readonly bars: readonly number[];
  /** Where the music changes: its beginning and its drops. */
  readonly parts: readonly number[];
}

/** Beats, bars and parts of all music that lies in the montage. */
export function musicTimes({ montage, found }: Derived): MusicTimes {
  const { signals } = useMedia.getState();
  const times = (of: (item: MusicItem) => readonly number[]): number[] =>
    montage.music.flatMap((item) => of(item).flatMap((t) => musicTime(item, t) ?? [])).sort((a, b) => a - b);
  const grid = (item: MusicItem) => {
    const source = montage.sources.find(({ id }) => id === item.source);
    return source && signals[item.source] ? gridOf(source, signals[item.source]!, montage.sensitivity.beat) : null;
  };
  const drops = times((item) =>
    (found.get(item.source)?.hits ?? []).filter(({ kind }) => kind === 'drop').map(({ t }) => t),
  );
  return {
    beats: times((item) => grid(item)?.beats ?? []),
    bars: times((item) => grid(item)?.downbeats ?? []),
    parts: [0, ...drops.filter((at) => at > 0.5)],
  };
}
