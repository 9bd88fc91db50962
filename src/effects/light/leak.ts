import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { gradientNoise } from '../../core/base/hash.ts';
import { angleOf, colourOf, heading, lightOf, num, portion, seed24, share, vec } from '../helpers.ts';
import { phaseOf } from './falling.ts';

export const leak: EffectSpec = {
  id: 'leak',
  also: 'light leak film burn flare overlay warm',
  version: 1,
  name: 'Light leak',
  group: 'light',
  stage: 'colour',
  taps: 1,
  doc: 'Light that falls in from one side and drifts, screened over the picture in linear light.',
  params: {
    amount: share('Amount', 'How strong the light is.'),
    reach: portion('Reach', 'How far across the picture it comes.', 45),
    angle: angleOf('The side that it comes from: 0 from the right.'),
    drift: {
      label: 'Drift',
      unit: 'Hz',
      min: 0,
      max: 10,
      default: 0.5,
      doc: 'How fast its shape changes, in shapes a second.',
    },
    ...colourOf(100, 48, 16),
  },
  uniforms: { side: 4, light: 3, seed: 1 },
  thumbnail: { amount: 100, reach: 70 },
  resolve(p, { seed, summed }) {
    if (p['amount'] === 0 || p['reach'] === 0) return null;
    const [dx, dy] = heading(p['angle']!);
    // The noise's own period is far longer than any montage.
    const [part, whole] = phaseOf(summed('drift'));
    return {
      side: [dx, dy, part + (whole % 4096), p['reach']! / 100],
      light: lightOf(p, p['amount']! / 100),
      seed: seed24(seed),
    };
  },
  glsl: `
vec4 EFFECT(Leak u, vec4 c, vec2 p) {
  float along = dot(p, u.side.xy) / (0.5 * (abs(u.side.x) * ASPECT + abs(u.side.y)));
  float across = dot(p, vec2(-u.side.y, u.side.x));
  vec2 n = gradientNoise(vec3(across * 1.7, along * 0.6, u.side.z), uint(u.seed));
  float t = clamp((along + 0.7 * n.x - 1.0 + 2.0 * u.side.w) / (0.4 + u.side.w), 0.0, 1.0);
  float v = t * t * (3.0 - 2.0 * t) * (0.75 + 0.5 * n.y);
  vec3 lit = min(vec3(1.0), v * u.light * (1.0 + v));
  return vec4(c.rgb + lit * (1.0 - min(c.rgb, 1.0)), c.a);
}`,
  reference(u, source, { view }) {
    const [dx, dy, z, reach] = vec(u, 'side');
    const light = vec(u, 'light');
    const seed = num(u, 'seed');
    const half = 0.5 * ((Math.abs(dx!) * view.width) / view.height + Math.abs(dy!));
    const n: [number, number] = [0, 0];
    return (x, y, out) => {
      source(x, y, out);
      const along = (x * dx! + y * dy!) / half;
      gradientNoise((-x * dy! + y * dx!) * 1.7, along * 0.6, z!, seed, n);
      const t = Math.min(1, Math.max(0, (along + 0.7 * n[0] - 1 + 2 * reach!) / (0.4 + reach!)));
      const v = t * t * (3 - 2 * t) * (0.75 + 0.5 * n[1]);
      for (let k = 0; k < 3; k++) out[k] = out[k]! + Math.min(1, v * light[k]! * (1 + v)) * (1 - Math.min(out[k]!, 1));
    };
  },
};
