/** A file as a source of a montage. */
import { DEFAULT_GRID, type AudioTrackInfo, type Source, type TrackRole } from '../../core/document/types.ts';
import type { MediaDescription } from './open.ts';

/** @param as a sound for accents: it is neither music nor searched */
export function sourceOf(
  { video, audio, duration }: MediaDescription,
  { name, ...file }: Pick<Source, 'id' | 'name' | 'fingerprint' | 'size'>,
  as?: 'sound' | 'overlay',
): Source {
  const listen = audio.findIndex((track) => track.readable);
  return {
    ...file,
    name: name.slice(0, 500),
    role: as ?? (video ? 'footage' : 'music'),
    duration,
    video,
    audio,
    tracks: audio.map((track) => (as ? 'off' : roleOf(track, video ? 'game' : 'music'))),
    delay: null,
    grid: DEFAULT_GRID,
    content: 'unsaid',
    ...(video?.codec === 'still' && { still: true }),
    listen: listen < 0 ? null : listen,
  };
}

/** What a track's name says it holds. */
const roleOf = ({ name, readable }: AudioTrackInfo, fallback: TrackRole): TrackRole =>
  !readable
    ? 'off'
    : /voice|mic|comment|chat|talk|speech/i.test(name)
      ? 'voice'
      : /music|song|score/i.test(name)
        ? 'music'
        : fallback;
