import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { fromLinear, toLinear } from '../../core/base/colour.ts';
import { portion, share, vec } from '../helpers.ts';

const channel = (label: string) =>
  portion(label, `Whether ${label.toLowerCase()} is inverted; between 0 and 100 it is mixed.`, 100);

export const negative: EffectSpec = {
  id: 'negative',
  also: 'invert inverse',
  version: 1,
  name: 'Negative',
  group: 'colour',
  stage: 'colour',
  taps: 1,
  doc: 'Turns light into dark, in all channels or in some, mixed with the plain frame.',
  params: {
    amount: share('Amount', 'How much of the negative shows; the rest is the plain frame.'),
    red: channel('Red'),
    green: channel('Green'),
    blue: channel('Blue'),
  },
  uniforms: { amount: 3 },
  thumbnail: { amount: 100 },
  resolve(p) {
    const amount = ['red', 'green', 'blue'].map((name) => (p['amount']! / 100) * (p[name]! / 100));
    return amount.every((a) => a === 0) ? null : { amount };
  },
  glsl: `
vec4 EFFECT(Negative u, vec4 c, vec2 p) {
  vec3 shown = vec3(fromLinear(c.r), fromLinear(c.g), fromLinear(c.b));
  shown = mix(shown, max(vec3(c.a) - shown, 0.0), u.amount);
  return vec4(toLinear(shown.r), toLinear(shown.g), toLinear(shown.b), c.a);
}`,
  reference(u, source) {
    const amount = vec(u, 'amount');
    return (x, y, out) => {
      source(x, y, out);
      for (let c = 0; c < 3; c++) {
        const shown = fromLinear(out[c]!);
        out[c] = toLinear(shown * (1 - amount[c]!) + Math.max(0, out[3]! - shown) * amount[c]!);
      }
    };
  },
};
