/** Which stretches of which sound are heard when; the same for preview and export. */
import type { Montage, SlowedSound } from '../document/types.ts';
import { joinsOf, type PlacedJoin } from '../timeline/joins.ts';
import type { TimeMap } from '../timeline/speed.ts';
import type { ClipSpan, Timeline } from '../timeline/timeline.ts';

export interface SoundSegment {
  readonly source: string;
  /** Index of the sound track within the source. */
  readonly track: number;
  /** Montage seconds at which the segment begins. */
  readonly at: number;
  /** Source seconds; in inclusive, out exclusive. */
  readonly in: number;
  readonly out: number;
  /** Linear factor. */
  readonly gain: number;
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

export function soundPlan(montage: Montage, line: Timeline): SoundSegment[] {
  const sources = new Map(montage.sources.map((source) => [source.id, source]));
  const segments: SoundSegment[] = [];
  /** By the clip after them. */
  const joins = new Map(joinsOf(line).map((join) => [join.after.index, join]));
  for (const span of line.spans) {
    const source = sources.get(span.clip.source);
    if (!source || source.listen === null) continue;
    const length = line.timeOf(span.end) - line.timeOf(span.first);
    const segment: SoundSegment = {
      source: source.id,
      track: source.listen,
      at: line.timeOf(span.first),
      in: line.sourceStart(span),
      out: Math.min(line.sourceStart(span) + length, source.duration),
      gain: montage.settings.clipGain,
    };
    if (!span.map) {
      const [into, out] = [joins.get(span.index), joins.get(span.index + 1)];
      segments.push(overJoins(segment, into && ends(into, line), out && ends(out, line), source.duration));
    } else {
      const perFrame = length / (span.end - span.first);
      segments.push(...mappedSegments(span, span.map, perFrame, { ...segment, out: source.duration }));
    }
  }
  for (const item of montage.music) {
    const source = sources.get(item.source);
    if (!source || source.listen === null || item.at >= line.duration) continue;
    segments.push({
      source: source.id,
      track: source.listen,
      at: item.at,
      in: item.in,
      out: Math.min(item.out, item.in + line.duration - item.at),
      gain: item.gain,
      ...(item.fadeIn && { fadeIn: item.fadeIn }),
      ...(item.fadeOut && { fadeOut: item.fadeOut }),
    });
  }
  return segments.filter((segment) => segment.gain > 0 && segment.out > segment.in);
}

/** What a segment is multiplied by, `seconds` after it begins. Fades are straight in amplitude; where they meet both act. */
export function segmentGain({ in: from, out, gain, fadeIn = 0, fadeOut = 0 }: SoundSegment, seconds: number): number {
  const left = out - from - seconds;
  return gain * (fadeIn > 0 ? Math.min(1, seconds / fadeIn) : 1) * (fadeOut > 0 ? Math.min(1, left / fadeOut) : 1);
}
