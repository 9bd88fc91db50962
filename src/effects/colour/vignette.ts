import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { placeX, placeY, share, vec } from '../helpers.ts';

export const vignette: EffectSpec = {
  id: 'vignette',
  also: 'dark corners edges focus',
  version: 1,
  name: 'Vignette',
  group: 'colour',
  stage: 'colour',
  taps: 1,
  doc: 'Darkens towards the rim, in linear light.',
  params: {
    amount: share('Amount', 'Light taken at the rim; below 0 it is added.', { min: -100 }),
    size: {
      label: 'Size',
      unit: '%',
      min: 0,
      max: 300,
      default: 60,
      doc: 'Distance from the centre at which it begins, in % of the frame height.',
    },
    soft: { label: 'Softness', unit: '%', min: 1, max: 300, default: 60, doc: 'Over which distance it grows full.' },
    centreX: placeX('Centre'),
    centreY: placeY('Centre'),
  },
  uniforms: { amount: 1, ring: 2, centre: 2 },
  thumbnail: { amount: 85, size: 30 },
  resolve: (p) =>
    p['amount'] === 0
      ? null
      : {
          amount: p['amount']! / 100,
          ring: [p['size']! / 100, 100 / p['soft']!],
          centre: [p['centreX']! / 100, p['centreY']! / 100],
        },
  glsl: `
vec4 EFFECT(Vignette u, vec4 c, vec2 p) {
  float t = clamp((length(p - u.centre) - u.ring.x) * u.ring.y, 0.0, 1.0);
  return vec4(c.rgb * (1.0 - u.amount * t * t * (3.0 - 2.0 * t)), c.a);
}`,
  reference(u, source) {
    const amount = u['amount'] as number;
    const [size, per] = vec(u, 'ring');
    const [cx, cy] = vec(u, 'centre');
    return (x, y, out) => {
      source(x, y, out);
      const t = Math.min(1, Math.max(0, (Math.hypot(x - cx!, y - cy!) - size!) * per!));
      const keep = 1 - amount * t * t * (3 - 2 * t);
      for (let c = 0; c < 3; c++) out[c] = out[c]! * keep;
    };
  },
};
