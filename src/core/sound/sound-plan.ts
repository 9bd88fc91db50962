/** Which stretches of which sound are heard when; the same for preview and export. */
import {
  DEFAULT_CLIP_SOUND,
  DEFAULT_MASTER,
  type Lane,
  type Montage,
  type Settings,
  type SlowedSound,
  type Source,
} from '../document/types.ts';
import { joinsOf, type PlacedJoin } from '../timeline/joins.ts';
import { accentSegments, laneMoves, type Sounding } from './accent-sounds.ts';
import type { PlacedMove } from './lane-moves.ts';
import type { TimeMap } from '../timeline/speed.ts';
import type { ClipSpan, Timeline } from '../timeline/timeline.ts';

export interface SoundSegment {
  readonly lane: Lane;
  /** Empty for what is made, and for what is lost. */
  readonly source: string;
  /** One of the sounds that Akmeon makes, instead of a source's. */
  readonly made?: { readonly made: string; readonly params: Readonly<Record<string, number>>; readonly seed: number };
  /** The name of a file that no source of the montage is. */
  readonly lost?: string | undefined;
  /** Index of the sound track within the source. */
  readonly track: number;
  /** Montage seconds at which the segment begins. */
  readonly at: number;
  /** Source seconds; in inclusive, out exclusive. */
  readonly in: number;
  readonly out: number;
  /** Linear factor, and one that hangs on the seconds since it begins. */
  readonly gain: number;
  readonly curve?: ((seconds: number) => number) | undefined;
  /** Where it is heard from: -1 left, 1 right. */
  readonly side?: number | undefined;
  /** Of what keeps its pitch: how much higher it is all the same. */
  readonly semitones?: number | undefined;
  /** Seconds over which it comes in from silence, and goes out to it at its end. */
  readonly fadeIn?: number | undefined;
  readonly fadeOut?: number | undefined;
  /** Source seconds heard so many seconds after it begins, where it runs at another speed: then `out` is only how long it is. */
  readonly runs?: ((seconds: number) => number) | undefined;
  /** Of what runs at another speed: lower and higher with it where absent. */
  readonly pitch?: 'kept' | undefined;
}

/** Seconds of the fades where sound leaves its picture and comes back to it: a jump would click. */
const BLENDED = 0.008;

/** What does not meet what is heard before and after it. */
const JUMPS: ReadonlySet<SlowedSound | 'plain'> = new Set(['goes on', 'silent', 'stretched']);

/** What is heard of a clip that does not run as it was recorded, stretch by stretch of its speed. */
function mappedSegments(span: ClipSpan, map: TimeMap, perFrame: number, whole: SoundSegment): SoundSegment[] {
  const heardIn = ({ ramp, from, to }: TimeMap['pieces'][number]): SlowedSound | 'plain' =>
    ramp?.sound ?? (from === 1 && to === 1 && (span.clip.speed ?? 1) > 0 ? 'plain' : (span.clip.slowed ?? 'follows'));
  const stretches: { heard: SlowedSound | 'plain'; first: number; end: number }[] = [];
  for (const piece of map.pieces) {
    const [heard, last] = [heardIn(piece), stretches.at(-1)];
    const end = Math.min(map.frames, piece.first + piece.frames);
    if (end <= piece.first) continue;
    if (last?.heard === heard) last.end = end;
    else stretches.push({ heard, first: piece.first, end });
  }
  return stretches.flatMap(({ heard, first, end }, i): SoundSegment[] => {
    if (heard === 'silent') return [];
    const from = map.at(first);
    const length = (end - first) * perFrame;
    // What follows the picture meets what is heard as it was recorded without a jump.
    const loose = (other: (typeof stretches)[number] | undefined): boolean =>
      other !== undefined && (JUMPS.has(heard) || JUMPS.has(other.heard));
    return [
      {
        ...whole,
        at: whole.at + first * perFrame,
        in: from,
        out: heard === 'follows' || heard === 'stretched' ? from + length : Math.min(from + length, whole.out),
        ...(loose(stretches[i - 1]) && { fadeIn: BLENDED }),
        ...(loose(stretches[i + 1]) && { fadeOut: BLENDED }),
        ...(heard === 'stretched' && { pitch: 'kept' as const }),
        ...((heard === 'follows' || heard === 'stretched') && {
          runs: (seconds: number) => map.at(first + seconds / perFrame),
        }),
      },
    ];
  });
}

interface Ends {
  readonly from: number;
  readonly cut: number;
  readonly to: number;
}

const ends = ({ first, after, end }: PlacedJoin, line: Timeline): Ends => ({
  from: line.timeOf(first),
  cut: line.timeOf(after.first),
  to: line.timeOf(end),
});

/** Sound goes on over a join as its picture does, as far as its source goes, and comes and goes with it. */
function overJoins(segment: SoundSegment, into: Ends | undefined, out: Ends | undefined, length: number): SoundSegment {
  const early = into ? Math.min(into.cut - into.from, segment.in) : 0;
  const late = out ? Math.min(out.to - out.cut, length - segment.out) : 0;
  return {
    ...segment,
    at: segment.at - early,
    in: segment.in - early,
    out: segment.out + Math.max(0, late),
    ...(into && { fadeIn: into.to - into.cut + early }),
    ...(out && { fadeOut: out.cut - out.from + late }),
  };
}

/** Seconds over which a clip that was cut comes and goes by itself, so that nothing clicks. */
const DECLICK = 0.004;

/** How loud each track of a source is heard. */
function tracksOf({ mix, listen, audio }: Source): (readonly [track: number, gain: number])[] {
  if (!mix) return listen === null ? [] : [[listen, 1]];
  return mix.flatMap((gain, track) => (gain > 0 && audio[track]?.readable ? [[track, gain] as const] : []));
}

/** True where one clip goes on with what the one before it ended with. */
const goesOn = (before: ClipSpan | undefined, after: ClipSpan | undefined): boolean =>
  Boolean(before && after && !before.map && !after.map) &&
  before!.clip.source === after!.clip.source &&
  Math.abs(before!.clip.out - after!.clip.in) < 1e-6;

/** What is heard of a clip: its own levels, ends that lie elsewhere than those of its picture, joins, and no clicks. */
function clipSegments(span: ClipSpan, source: Source, line: Timeline, gain: number, joins: Joins): SoundSegment[] {
  const own = span.clip.sound ?? DEFAULT_CLIP_SOUND;
  if (own.mute) return [];
  const length = line.timeOf(span.end) - line.timeOf(span.first);
  const perFrame = length / (span.end - span.first);
  const begins = line.sourceStart(span);
  return tracksOf(source).flatMap(([track, level]): SoundSegment[] => {
    const segment: SoundSegment = {
      lane: 'clips',
      source: source.id,
      track,
      at: line.timeOf(span.first),
      in: begins,
      out: Math.min(begins + length, source.duration),
      gain: gain * own.gain * level,
    };
    if (span.map) return mappedSegments(span, span.map, perFrame, { ...segment, out: source.duration });
    const [into, out] = [joins.get(span.index), joins.get(span.index + 1)];
    const joined = overJoins(segment, into && ends(into, line), out && ends(out, line), source.duration);
    const [before, after] = [line.spans[span.index - 1], line.spans[span.index + 1]];
    const early = Math.max(0, Math.min(own.early * perFrame, joined.in, joined.at));
    const late = Math.max(0, Math.min(own.late * perFrame, source.duration - joined.out));
    const [clickIn, clickOut] = [
      joined.in - early > 0 && (early > 0 || !goesOn(before, span)) ? DECLICK : 0,
      late > 0 || !goesOn(span, after) ? DECLICK : 0,
    ];
    const fadeIn = Math.max(joined.fadeIn ?? 0, own.fadeIn, clickIn);
    const fadeOut = Math.max(joined.fadeOut ?? 0, own.fadeOut, clickOut);
    return [
      {
        ...joined,
        at: joined.at - early,
        in: joined.in - early,
        out: joined.out + late,
        ...(fadeIn > 0 && { fadeIn }),
        ...(fadeOut > 0 && { fadeOut }),
      },
    ];
  });
}

/** By the index of the clip after them. */
type Joins = ReadonlyMap<number, PlacedJoin>;

/** @param laid accents where they lie; without them only clips and music are heard */
export function soundPlan(montage: Montage, line: Timeline, laid: readonly Sounding[] = []): SoundSegment[] {
  const sources = new Map(montage.sources.map((source) => [source.id, source]));
  const joins: Joins = new Map(joinsOf(line).map((join) => [join.after.index, join]));
  const segments = line.spans.flatMap((span) => {
    const source = sources.get(span.clip.source);
    return source ? clipSegments(span, source, line, montage.settings.clipGain, joins) : [];
  });
  for (const item of montage.music) {
    const source = sources.get(item.source);
    if (!source || item.at >= line.duration) continue;
    for (const [track, level] of tracksOf(source))
      segments.push({
        lane: 'music',
        source: source.id,
        track,
        at: item.at,
        in: item.in,
        out: Math.min(item.out, item.in + line.duration - item.at),
        gain: item.gain * level,
        ...(item.fadeIn && { fadeIn: item.fadeIn }),
        ...(item.fadeOut && { fadeOut: item.fadeOut }),
      });
  }
  for (const segment of accentSegments(montage, line, laid)) segments.push(segment);
  return segments.filter((segment) => segment.gain > 0 && segment.out > segment.in);
}

/** All that is mixed. */
export interface Mix {
  readonly voices: readonly SoundSegment[];
  readonly moves: readonly PlacedMove[];
  readonly master: NonNullable<Settings['master']>;
}

export const mixOf = (montage: Montage, line: Timeline, laid: readonly Sounding[]): Mix => ({
  voices: soundPlan(montage, line, laid),
  moves: laneMoves(line, laid),
  master: montage.settings.master ?? DEFAULT_MASTER,
});

/** What a segment is multiplied by, `seconds` after it begins. Fades are straight in amplitude; where they meet both act. */
export function segmentGain(
  { in: from, out, gain, fadeIn = 0, fadeOut = 0, curve }: SoundSegment,
  seconds: number,
): number {
  const left = out - from - seconds;
  return (
    gain *
    (curve ? curve(seconds) : 1) *
    (fadeIn > 0 ? Math.min(1, seconds / fadeIn) : 1) *
    (fadeOut > 0 ? Math.min(1, left / fadeOut) : 1)
  );
}
