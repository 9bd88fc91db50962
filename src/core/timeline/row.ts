/** The row of clips and the music: adding, trimming, slipping, moving, cutting, laying. Times are seconds. */
import { frameEnd, type Edit } from '../document/edits.ts';
import { LIMITS } from '../document/limits.ts';
import type { Clip, ClipSound, MusicItem, Source } from '../document/types.ts';
import { musicSourceTime } from './music.ts';

/** Source seconds between which a source has anything: its first frame, or 0, and its end. */
export const boundsOf = (source: Pick<Source, 'video' | 'duration'>): { from: number; to: number } =>
  source.video ? { from: source.video.first, to: frameEnd(source) } : { from: 0, to: source.duration };

/** Least length of a clip: a frame of its source; of sound a hundredth of a second. */
export const leastLength = ({ video }: Pick<Source, 'video'>): number =>
  video ? video.rate.den / video.rate.num : 0.01;

/** A stretch within a source and no shorter than a frame: the end that was not asked for stays where it is. */
function bounded(
  source: Source,
  now: { readonly in: number; readonly out: number },
  wanted: { readonly in?: number | undefined; readonly out?: number | undefined },
): { in: number; out: number } {
  const { from, to } = boundsOf(source);
  const least = Math.min(leastLength(source), to - from);
  const begin = Math.min(Math.max(from, wanted.in ?? now.in), to - least);
  const end = Math.min(Math.max(from + least, wanted.out ?? now.out), to);
  if (end >= begin + least) return { in: begin, out: end };
  return wanted.out === undefined ? { in: end - least, out: end } : { in: begin, out: begin + least };
}

/** Puts a stretch of a source into the row, before the clip at `index`, or at the end. */
export const addClip =
  (source: string, stretch: { readonly in: number; readonly out: number }, id: string, index = Infinity): Edit =>
  (m) => {
    const of = m.sources.find((s) => s.id === source);
    if (!of?.video) return m;
    const clip: Clip = { id, source, ...bounded(of, stretch, stretch), fit: 'fit' };
    const clips = [...m.clips];
    clips.splice(Math.min(index, clips.length), 0, clip);
    return { ...m, clips };
  };

/** Trims a clip, within its source and to no less than a frame. */
export const trimClip =
  (id: string, change: Partial<Pick<Clip, 'in' | 'out'>>): Edit =>
  (m) => ({
    ...m,
    clips: m.clips.map((clip) => {
      const source = m.sources.find((s) => s.id === clip.source);
      if (clip.id !== id || !source) return clip;
      const next = { ...clip, ...change, ...bounded(source, clip, change) };
      return next.in === clip.in ? next : unpinned(next);
    }),
  });

/** Pins and speeds count from a clip's first frame: one that begins elsewhere has none of either. */
function unpinned({ pins: _, speeds: __, ...rest }: Clip): Clip {
  return rest;
}

/** Pins source times of a clip to output frames since its first, or lets all of them go. */
export const pinClip =
  (id: string, pins: NonNullable<Clip['pins']>): Edit =>
  (m) => ({
    ...m,
    clips: m.clips.map((clip) => (clip.id === id ? { ...unpinned(clip), ...(pins.length && { pins }) } : clip)),
  });

/** Sets speeds along a clip, in their order, or lets all of them go. */
export const keySpeeds =
  (id: string, speeds: NonNullable<Clip['speeds']>): Edit =>
  (m) => ({
    ...m,
    clips: m.clips.map((clip) =>
      clip.id === id
        ? { ...unpinned(clip), ...(speeds.length && { speeds: [...speeds].sort((a, b) => a.at - b.at) }) }
        : clip,
    ),
  });

/** Without its join: what follows from its own other half is cut. */
function unjoined({ join: _, ...rest }: Clip): Clip {
  return rest;
}

/** Joins a clip to the one before it, or cuts them again. */
export const joinClip =
  (id: string, join: Clip['join']): Edit =>
  (m) => ({
    ...m,
    clips: m.clips.map((clip) => (clip.id === id ? { ...unjoined(clip), ...(join && { join }) } : clip)),
  });

/** Changes how fast a clip runs and what that looks and sounds like; at its recorded speed nothing is kept of it. */
export const setSpeed =
  (id: string, change: Pick<Clip, 'speed' | 'between' | 'slowed'>): Edit =>
  (m) => ({
    ...m,
    clips: m.clips.map((clip) => {
      if (clip.id !== id) return clip;
      const turned = change.speed !== undefined && Math.sign(change.speed) !== Math.sign(clip.speed ?? 1);
      const { speed = 1, between, slowed, ...rest } = { ...(turned ? unpinned(clip) : clip), ...change };
      const { min, max } = LIMITS.speed;
      const held = Math.sign(speed || 1) * Math.min(max, Math.max(min, Math.abs(speed)));
      if (held === 1 && !rest.pins && !rest.speeds) return rest;
      return { ...rest, ...(held !== 1 && { speed: held }), ...(between && { between }), ...(slowed && { slowed }) };
    }),
  });

/** Sets how a clip is heard. */
export const soundClip =
  (id: string, sound: ClipSound): Edit =>
  (m) => ({ ...m, clips: m.clips.map((clip) => (clip.id === id ? { ...clip, sound } : clip)) });

/** What of a clip changes when an end of its block is moved by output seconds: backwards it begins with its last frame. */
export function endMoved(
  { in: from, out: to, speed = 1 }: Pick<Clip, 'in' | 'out' | 'speed'>,
  end: 'in' | 'out',
  by: number,
): Partial<Pick<Clip, 'in' | 'out'>> {
  return (end === 'in') === speed > 0 ? { in: from + by * speed } : { out: to + by * speed };
}

/** Cuts a clip in two at a source time inside it; hits' placements stay as they are in both halves. */
export const splitClip =
  (id: string, at: number, newId: string): Edit =>
  (m) => ({
    ...m,
    clips: m.clips.flatMap((clip) => {
      const source = m.sources.find((s) => s.id === clip.source);
      const least = source ? leastLength(source) - 1e-6 : Infinity;
      if (clip.id !== id || at < clip.in + least || at > clip.out - least) return [clip];
      const [earlier, later] = [{ out: at }, { in: at }];
      const back = (clip.speed ?? 1) < 0;
      return [
        { ...clip, ...(back ? later : earlier) },
        { ...unjoined(unpinned(clip)), ...(back ? earlier : later), id: newId, lineage: clip.lineage ?? clip.id },
      ];
    }),
    // What lies on the whole clip goes on lying on both halves.
    beds: m.beds.flatMap((bed) =>
      bed.stretch.kind === 'clip' && bed.stretch.clip === id
        ? [bed, { ...bed, id: `${bed.id}-${newId}`, stretch: { kind: 'clip' as const, clip: newId } }]
        : [bed],
    ),
  });

export const removeClip =
  (id: string): Edit =>
  (m) => ({ ...m, clips: m.clips.filter((c) => c.id !== id) });

/** Shows another stretch of the same length, `by` seconds later in its source, no further than that goes. */
export const slipClip =
  (id: string, by: number): Edit =>
  (m) => ({
    ...m,
    clips: m.clips.map((clip) => {
      const source = m.sources.find((s) => s.id === clip.source);
      if (clip.id !== id || !source) return clip;
      const { from, to } = boundsOf(source);
      const shift = Math.min(Math.max(by, from - clip.in), to - clip.out);
      return shift === 0 ? clip : { ...unpinned(clip), in: clip.in + shift, out: clip.out + shift };
    }),
  });

/** Moves the join before a clip: the clip before it ends later as this one begins later, as far as both go. */
export const moveJoin =
  (id: string, by: number): Edit =>
  (m) => {
    const at = m.clips.findIndex((clip) => clip.id === id);
    const [before, after] = [m.clips[at - 1], m.clips[at]];
    const sources = [before, after].map((clip) => m.sources.find((s) => s.id === clip?.source));
    if (!before || !after || !sources[0] || !sources[1]) return m;
    const most = Math.min(boundsOf(sources[0]).to - before.out, after.out - after.in - leastLength(sources[1]));
    const least = Math.max(before.in + leastLength(sources[0]) - before.out, boundsOf(sources[1]).from - after.in);
    const shift = Math.min(most, Math.max(least, by));
    return {
      ...m,
      clips: m.clips.map((clip) =>
        clip === before
          ? { ...clip, out: clip.out + shift }
          : clip === after && shift !== 0
            ? { ...unpinned(clip), in: clip.in + shift }
            : clip,
      ),
    };
  };

/** Puts a clip at a place of the row: before the one that stood there. */
export const placeClip =
  (id: string, index: number): Edit =>
  (m) => {
    const clip = m.clips.find((one) => one.id === id);
    if (!clip) return m;
    const clips = m.clips.filter((one) => one !== clip);
    clips.splice(Math.min(Math.max(0, index), clips.length), 0, clip);
    return { ...m, clips };
  };

/** Lays a piece of music, or of any sound, from a montage time on. */
export const addMusic =
  (source: string, id: string, at = 0): Edit =>
  (m) => {
    const of = m.sources.find((s) => s.id === source);
    if (!of?.audio.length) return m;
    return { ...m, music: [...m.music, { id, source, at: placed(at), in: 0, out: of.duration, gain: 1 }] };
  };

const placed = (at: number): number => Math.min(LIMITS.montageSeconds, Math.max(0, at));

/** Moves, trims, or fades a piece of music, within its source; the fades are no longer than it is. */
export const changeMusic =
  (id: string, change: Partial<Omit<MusicItem, 'id' | 'source'>>): Edit =>
  (m) => ({
    ...m,
    music: m.music.map((item) => {
      const source = m.sources.find((s) => s.id === item.source);
      if (item.id !== id || !source) return item;
      const next: MusicItem = { ...item, ...change, ...bounded(source, item, change) };
      const length = next.out - next.in;
      return {
        ...next,
        at: placed(next.at),
        ...(next.fadeIn !== undefined && { fadeIn: Math.min(Math.max(0, next.fadeIn), length) }),
        ...(next.fadeOut !== undefined && { fadeOut: Math.min(Math.max(0, next.fadeOut), length) }),
      };
    }),
  });

/** Cuts a piece of music in two at a montage time inside it; nothing is heard otherwise than before. */
export const splitMusic =
  (id: string, seconds: number, newId: string): Edit =>
  (m) => ({
    ...m,
    music: m.music.flatMap((item) => {
      const at = musicSourceTime(item, seconds);
      if (item.id !== id || at === null || at < item.in + 0.01 || at > item.out - 0.01) return [item];
      const { fadeIn, fadeOut, ...rest } = item;
      return [
        { ...rest, out: at, ...(fadeIn && { fadeIn }) },
        { ...rest, id: newId, at: seconds, in: at, ...(fadeOut && { fadeOut }) },
      ];
    }),
  });

export const removeMusic =
  (id: string): Edit =>
  (m) => ({ ...m, music: m.music.filter((item) => item.id !== id) });
