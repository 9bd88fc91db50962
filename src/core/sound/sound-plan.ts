/** Which stretches of which sound are heard when; the same for preview and export. */
import type { Montage } from '../document/types.ts';
import type { Timeline } from '../timeline/timeline.ts';

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
}

export function soundPlan(montage: Montage, line: Timeline): SoundSegment[] {
  const sources = new Map(montage.sources.map((source) => [source.id, source]));
  const segments: SoundSegment[] = [];
  for (const span of line.spans) {
    const source = sources.get(span.clip.source);
    if (!source || source.listen === null) continue;
    const length = line.timeOf(span.end) - line.timeOf(span.first);
    segments.push({
      source: source.id,
      track: source.listen,
      at: line.timeOf(span.first),
      in: line.sourceStart(span),
      out: Math.min(line.sourceStart(span) + length, source.duration),
      gain: montage.settings.clipGain,
    });
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
