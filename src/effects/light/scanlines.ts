import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { portion, share, vec } from '../helpers.ts';

export const scanlines: EffectSpec = {
  id: 'scanlines',
  also: 'old tape tv vhs screen crt',
  version: 1,
  name: 'Scanlines',
  group: 'light',
  stage: 'colour',
  taps: 1,
  doc: 'Dark lines and coloured stripes as on an old tube, which may roll.',
  params: {
    amount: share('Amount', 'How dark the gaps between lines are.'),
    pitch: {
      label: 'Line spacing',
      unit: '%',
      min: 0.3,
      max: 20,
      default: 1.2,
      doc: 'From line to line, in % of the frame height.',
    },
    roll: {
      label: 'Roll',
      unit: 'Hz',
      min: -60,
      max: 60,
      default: 0,
      doc: 'Lines a second that pass a place, downwards.',
    },
    mask: portion('Mask', 'Strength of the red, green and blue stripes.'),
  },
  uniforms: { line: 4 },
  thumbnail: { amount: 80, pitch: 4, mask: 30 },
  resolve: (p, { summed }) =>
    p['amount'] === 0
      ? null
      : {
          line: [p['amount']! / 100, 100 / p['pitch']!, summed('roll') % 1, (p['mask']! / 100) * (p['amount']! / 100)],
        },
  glsl: `
vec4 EFFECT(Scanlines u, vec4 c, vec2 p) {
  float gap = 0.5 + 0.5 * cos(6.283185307179586 * (p.y * u.line.y - u.line.z));
  vec3 stripe = 0.5 + 0.5 * cos(6.283185307179586 * (p.x * u.line.y - vec3(0.0, 1.0, 2.0) / 3.0));
  return vec4(c.rgb * (1.0 - u.line.x * (1.0 - gap)) * (1.0 - u.line.w * (1.0 - stripe)), c.a);
}`,
  reference(u, source) {
    const [amount, per, roll, mask] = vec(u, 'line');
    return (x, y, out) => {
      source(x, y, out);
      const gap = 0.5 + 0.5 * Math.cos(2 * Math.PI * (y * per! - roll!));
      for (let c = 0; c < 3; c++) {
        const stripe = 0.5 + 0.5 * Math.cos(2 * Math.PI * (x * per! - c / 3));
        out[c] = out[c]! * (1 - amount! * (1 - gap)) * (1 - mask! * (1 - stripe));
      }
    };
  },
};
