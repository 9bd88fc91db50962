import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { grown, moved, vec } from '../helpers.ts';

const distance = (label: string, doc: string, mirrors?: 'sign') =>
  ({
    label,
    unit: '%',
    min: -1000,
    max: 1000,
    default: 0,
    identity: 0,
    travels: true,
    ...(mirrors && { mirrors }),
    doc,
  }) as const;
const speed = (label: string, doc: string, mirrors?: 'sign') =>
  ({ label, unit: '%/s', min: -3000, max: 3000, default: 0, identity: 0, ...(mirrors && { mirrors }), doc }) as const;

export const slide: EffectSpec = {
  id: 'slide',
  also: 'pan move push whip position offset',
  version: 1,
  name: 'Slide',
  group: 'move',
  stage: 'move',
  taps: 1,
  doc: 'Scrolls the picture by a distance or at a speed: wrapping, mirrored or with its edge stretched.',
  params: {
    x: distance('Sideways', 'Distance to the right in % of the frame height.', 'sign'),
    y: distance('Down', 'Distance down in % of the frame height.'),
    speedX: speed(
      'Speed sideways',
      'To the right, % of the frame height a second; summed from the first frame on.',
      'sign',
    ),
    speedY: speed('Speed down', 'Down, % of the frame height a second; summed from the first frame on.'),
    edge: {
      label: 'At the edge',
      unit: 'choice',
      min: 0,
      max: 2,
      default: 0,
      choices: ['wraps', 'mirrors', 'stretches'],
      doc: 'What fills the border that moves in.',
    },
  },
  uniforms: { offset: 2, edge: 1 },
  thumbnail: { x: 40 },
  resolve(p, { summed }) {
    const x = (p['x']! + summed('speedX')) / 100;
    const y = (p['y']! + summed('speedY')) / 100;
    return x === 0 && y === 0 ? null : { offset: [x, y], edge: Math.round(p['edge']!) };
  },
  glsl: `
vec2 EFFECT(Slide u, vec2 p) {
  vec2 q = p - u.offset;
  vec2 half_ = vec2(ASPECT, 1.0) * 0.5;
  if (u.edge < 0.5) return mod(q + half_, half_ * 2.0) - half_;
  return u.edge < 1.5 ? q : clamp(q, -half_, half_);
}`,
  reference(u, source, { view }) {
    const [ox, oy] = vec(u, 'offset');
    const edge = u['edge'] as number;
    const [hw, hh] = [view.width / view.height / 2, 0.5];
    const into = (v: number, half: number): number => {
      if (edge === 0) return ((((v + half) % (2 * half)) + 2 * half) % (2 * half)) - half;
      return edge === 1 ? v : Math.min(half, Math.max(-half, v));
    };
    return moved((x, y, q) => {
      q[0] = into(x - ox!, hw);
      q[1] = into(y - oy!, hh);
    }, source);
  },
  // Wrapped and stretched pictures have no border to hide; nor has a mirrored one that is meant to be.
  reads: (_, box) => grown(box, 0, 0),
};
