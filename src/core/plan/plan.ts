/**
 * What one output frame is made of. The only place that knows the time logic: preview, frame
 * strip, export and tests all ask here.
 */
import type { EffectRegistry, Uniforms } from '../accents/effect-spec.ts';
import { evaluate } from '../envelopes/envelope.ts';
import type { Clip, Montage } from '../montage/types.ts';
import { hash } from '../random/hash.ts';
import { placements, type Placement, type ScaledAccent } from '../rules/placements.ts';
import { timeline, type MediaIndex, type Timeline } from './timeline.ts';

/** One effect with everything resolved to numbers. */
export interface Pass {
  readonly effect: string;
  readonly uniforms: Uniforms;
}

export interface FramePlan {
  readonly frame: number;
  /** Montage seconds. */
  readonly time: number;
  readonly duration: number;
  /** The source frame to show; null where the montage is empty. */
  readonly picture: { readonly source: string; readonly frame: number; readonly fit: Clip['fit'] } | null;
  /** In drawing order. Empty: the frame is shown as it was decoded. */
  readonly passes: readonly Pass[];
}

export interface Planner {
  readonly timeline: Timeline;
  readonly placements: readonly Placement[];
  /** `plain` leaves every accent out, for comparison. */
  at(frame: number, plain?: boolean): FramePlan;
}

/**
 * Passes of one accent `age` frames from its hit. Parameters that have an identity move towards it
 * as intensity falls; all are clamped to their limits. Unknown effects are skipped.
 */
export function accentPasses(
  accent: ScaledAccent, age: number, intensity: number, seed: number, rate: number, effects: EffectRegistry,
): Pass[] {
  if (age < -accent.lead || age > accent.tail || intensity <= 0) return [];
  const passes: Pass[] = [];
  accent.effects.forEach((use, index) => {
    const spec = effects.get(use.effect);
    if (!spec || !use.on) return;
    const values: Record<string, number> = {};
    for (const [name, param] of Object.entries(spec.params)) {
      let value = evaluate(use.params[name] ?? param.default, age);
      if (!Number.isFinite(value)) value = param.default;
      if (param.identity !== undefined) value = param.identity + (value - param.identity) * intensity;
      values[name] = Math.min(param.max, Math.max(param.min, value));
    }
    const uniforms = spec.resolve(values, {
      seed: hash(seed, index), age, lead: accent.lead, tail: accent.tail, fps: rate,
    });
    if (uniforms) passes.push({ effect: spec.id, uniforms });
  });
  return passes;
}

export function planner(montage: Montage, media: MediaIndex, effects: EffectRegistry): Planner {
  const line = timeline(montage, media);
  const all = placements(montage, line);
  const active = all.filter((p) => !p.muted);
  // Placements sorted by the frame they begin on, with the longest reach, for a short search.
  const starts = [...active].sort((a, b) => a.frame - a.accent.lead - (b.frame - b.accent.lead));
  const begins = starts.map((p) => p.frame - p.accent.lead);
  const reach = starts.reduce((most, p) => Math.max(most, p.accent.lead + p.accent.tail), 0);

  const passesAt = (frame: number): Pass[] => {
    let low = 0;
    let high = begins.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (begins[middle]! < frame - reach) low = middle + 1;
      else high = middle;
    }
    const passes: Pass[] = [];
    for (let i = low; i < starts.length && begins[i]! <= frame; i++) {
      const p = starts[i]!;
      passes.push(...accentPasses(p.accent, frame - p.frame, p.intensity, p.seed, line.fps, effects));
    }
    return passes;
  };

  return {
    timeline: line,
    placements: all,
    at(frame, plain = false) {
      const time = line.timeOf(frame);
      const span = line.spanAt(frame);
      return {
        frame, time,
        duration: line.timeOf(frame + 1) - time,
        picture: span && media.has(span.clip.source)
          ? { source: span.clip.source, frame: line.sourceFrame(span, frame), fit: span.clip.fit }
          : null,
        passes: plain ? [] : passesAt(frame),
      };
    },
  };
}

/** The pure function itself, for a single frame. */
export const plan = (montage: Montage, media: MediaIndex, effects: EffectRegistry, frame: number): FramePlan =>
  planner(montage, media, effects).at(frame);
