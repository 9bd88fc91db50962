import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { luminance } from '../../core/base/colour.ts';

export const saturation: EffectSpec = {
  id: 'saturation',
  also: 'black and white grey desaturate vivid fade',
  version: 1,
  name: 'Saturation',
  group: 'colour',
  stage: 'colour',
  taps: 1,
  doc: 'More or less colour at the same luminance (ITU-R BT.709 weights, in linear light).',
  params: {
    amount: {
      label: 'Saturation',
      unit: '%',
      min: 0,
      max: 400,
      default: 100,
      identity: 100,
      doc: '0 is grey, 100 leaves it as it is.',
    },
  },
  uniforms: { amount: 1 },
  thumbnail: { amount: 0 },
  resolve: (p) => (p['amount'] === 100 ? null : { amount: p['amount']! / 100 }),
  glsl: `
vec4 EFFECT(Saturation u, vec4 c, vec2 p) {
  float y = dot(c.rgb, vec3(0.2126, 0.7152, 0.0722));
  return vec4(max(vec3(0.0), mix(vec3(y), c.rgb, u.amount)), c.a);
}`,
  reference(u, source) {
    const amount = u['amount'] as number;
    return (x, y, out) => {
      source(x, y, out);
      const light = luminance(out[0]!, out[1]!, out[2]!);
      for (let c = 0; c < 3; c++) out[c] = Math.max(0, light + (out[c]! - light) * amount);
    };
  },
};
