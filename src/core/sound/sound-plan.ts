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
    });
  }
  return segments.filter((segment) => segment.gain > 0 && segment.out > segment.in);
}
