/** An accent or an effect on the person's own frame; under the pointer it moves. */
import { useEffect, useMemo, useState } from 'react';
import { DEFAULT_ACCENT, type Accent, type EffectUse } from '../../core/document/types.ts';
import type { Audition } from '../../core/accents/plan.ts';
import { EFFECTS } from '../../effects/index.ts';
import { FramePicture } from '../parts/frame-picture.tsx';
import { useDerived } from '../stores/derived.ts';

/** Milliseconds a frame of a moving picture stays: slower than life, so that single frames are seen. */
const STAY = 80;

/** Whether the person asks for no movement that was not asked for. */
const STILL = matchMedia('(prefers-reduced-motion: reduce)');

const auditions = new WeakMap<Accent, Map<number, Audition>>();
/** One value per accent and frame, so that pictures are drawn once. */
function auditionOf(accent: Accent, frame: number): Audition {
  let byFrame = auditions.get(accent);
  if (!byFrame) auditions.set(accent, (byFrame = new Map<number, Audition>()));
  let audition = byFrame.get(frame);
  if (!audition) byFrame.set(frame, (audition = { accent, frame, intensity: 1 }));
  return audition;
}

export function AccentPicture({ accent, frame }: { accent: Accent; frame: number }) {
  const derived = useDerived();
  const [moving, setMoving] = useState<number | null>(null);
  const audition = auditionOf(accent, frame);
  const placed = useMemo(() => derived?.planner.placed(audition), [derived, audition]);
  const length = placed ? Math.min(48, placed.to - placed.from + 1) : 1;
  useEffect(() => {
    if (moving === null) return;
    const timer = setTimeout(() => setMoving((moving + 1) % length), STAY);
    return () => clearTimeout(timer);
  }, [moving, length]);
  const still = placed ? placed.frame + (placed.accent.tail > 1 && accent.align !== 'end' ? 1 : 0) : frame;
  const at = Math.min(
    (derived?.line.count ?? 1) - 1,
    Math.max(0, moving === null || !placed ? still : placed.from + moving),
  );
  return (
    <span
      className="block"
      onPointerEnter={() => setMoving(STILL.matches ? null : 0)}
      onPointerLeave={() => setMoving(null)}
    >
      <FramePicture
        frame={at}
        width={192}
        height={108}
        plain={false}
        audition={audition}
        label={`${accent.name} on the hit`}
      />
    </span>
  );
}

/** What an effect looks like by itself: its shelf values, rising and falling over a few frames. */
const shelf = new Map<string, Accent>();
export function shelfAccent(id: string): Accent {
  let accent = shelf.get(id);
  if (!accent) {
    const spec = EFFECTS.get(id)!;
    const params = Object.fromEntries(
      Object.entries(spec.thumbnail).map(([name, value]) => {
        const identity = spec.params[name]?.identity;
        return [
          name,
          identity === undefined || spec.params[name]?.scales === false
            ? value
            : [
                { at: 0, value: identity, ease: 'fast out' as const },
                { at: 4, value, ease: 'slow out' as const },
                { at: 12, value: identity, ease: 'linear' as const },
              ],
        ];
      }),
    );
    const own: EffectUse = { id: `shelf-${id}`, effect: id, version: spec.version, on: true, params };
    const below = (spec.thumbnailBelow ?? []).map(({ effect, params }, i): EffectUse => ({
      id: `shelf-below-${i}`,
      effect,
      version: 1,
      on: true,
      params,
    }));
    accent = {
      ...DEFAULT_ACCENT,
      id: `shelf-${id}`,
      name: spec.name,
      rate: { num: 30, den: 1 },
      lead: 3,
      tail: 12,
      seed: 5,
      effects: [...below, own],
    };
    shelf.set(id, accent);
  }
  return accent;
}
