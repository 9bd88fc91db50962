/** How a value runs from one key to the next. */
import { EASING_NAMES, type Cubic, type Easing, type EasingName } from '../document/types.ts';
import bezier from 'bezier-easing';

/**
 * Control points of cubics. CSS Easing Functions Level 1: `linear`, `ease`, `slow out` (its ease-in), `both slow` (its
 * ease-in-out), `hold` (its steps(1, jump-end)). `fast out` and `overshoot`: common practice, no source. `bounce` is no cubic.
 */
export const EASINGS = {
  hold: null,
  linear: [0, 0, 1, 1],
  ease: [0.25, 0.1, 0.25, 1],
  'fast out': [0.05, 0.7, 0.1, 1],
  'slow out': [0.42, 0, 1, 1],
  'both slow': [0.42, 0, 0.58, 1],
  overshoot: [0.34, 1.56, 0.64, 1],
  bounce: null,
} as const satisfies Record<EasingName, readonly number[] | null>;

/** Heights of a ball dropped on the end value: four parabolas, each bounce a quarter as high. Common practice, no source. */
function bounce(t: number): number {
  let half = 0.4;
  let height = 1;
  // The first arc falls from the top; the others rise and fall.
  let centre = 0;
  for (let arc = 0; arc < 4; arc++) {
    const end = centre + half;
    if (t <= end || arc === 3) {
      const x = Math.min(1, Math.abs(t - centre) / half);
      return 1 - height * (1 - x * x);
    }
    height /= 4;
    half /= 2;
    centre = end + half;
  }
  return 1;
}

const BOUNCE_LENGTH = 0.4 + 2 * (0.2 + 0.1 + 0.05);

const curves = new Map<string, (t: number) => number>();

/** Progress 0-1 to eased progress; overshooting cubics leave 0-1 in between. */
export function eased(easing: Easing, t: number): number {
  if (easing === 'hold') return t >= 1 ? 1 : 0;
  if (easing === 'linear') return Math.min(1, Math.max(0, t));
  if (t <= 0) return 0;
  if (t >= 1) return 1;
  if (easing === 'bounce') return bounce(t * BOUNCE_LENGTH);
  const points = typeof easing === 'string' ? EASINGS[easing]! : easing;
  const name = points.join();
  let curve = curves.get(name);
  if (!curve) curves.set(name, (curve = bezier(clampUnit(points[0]), points[1], clampUnit(points[2]), points[3])));
  return curve(t);
}

const clampUnit = (v: number): number => Math.min(1, Math.max(0, v));

/** The same curve run backwards in time: what rose fast at the start rises fast at the end. */
export function reversed(easing: Easing): Easing {
  if (easing === 'hold' || easing === 'linear' || easing === 'both slow' || easing === 'bounce') return easing;
  const [x1, y1, x2, y2] = typeof easing === 'string' ? EASINGS[easing]! : easing;
  const cubic: Cubic = [1 - x2, 1 - y2, 1 - x1, 1 - y1];
  const named = EASING_NAMES.find((name) => EASINGS[name]?.every((v, i) => Math.abs(v - cubic[i]!) < 1e-9));
  return named ?? cubic;
}
