import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { fromLinear, toLinear } from '../../core/base/colour.ts';
import { share } from '../helpers.ts';

export const lut: EffectSpec = {
  id: 'lut',
  also: 'grade look cube film',
  version: 1,
  name: 'Colour table',
  group: 'colour',
  stage: 'colour',
  taps: 1,
  table: true,
  doc: 'Colours looked up in a table from a .cube file (Cube LUT 1.0), mixed with the plain frame.',
  params: { amount: share('Amount', 'How much of the looked-up colours shows.') },
  uniforms: { amount: 1 },
  thumbnail: { amount: 100 },
  resolve: (p) => (p['amount'] === 0 ? null : { amount: p['amount']! / 100 }),
  glsl: `
vec4 EFFECT(Lut u, vec4 c, vec2 p) {
  vec3 v = clamp(vec3(fromLinear(c.r), fromLinear(c.g), fromLinear(c.b)), 0.0, 1.0);
  v = TABLE(v);
  return vec4(mix(c.rgb, vec3(toLinear(v.r), toLinear(v.g), toLinear(v.b)), u.amount), c.a);
}`,
  reference(u, source, { table }) {
    const amount = u['amount'] as number;
    const rgb = new Float64Array(3);
    return (x, y, out) => {
      source(x, y, out);
      if (!table) return;
      for (let c = 0; c < 3; c++) rgb[c] = Math.min(1, Math.max(0, fromLinear(out[c]!)));
      table(rgb);
      for (let c = 0; c < 3; c++) out[c] = out[c]! * (1 - amount) + toLinear(rgb[c]!) * amount;
    };
  },
};
