import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { luminance } from '../../core/base/colour.ts';
import { colourOf, lightOf, share, vec } from '../helpers.ts';

export const tint: EffectSpec = {
  id: 'tint',
  also: 'colorize duotone sepia',
  version: 1,
  name: 'Tint',
  group: 'colour',
  stage: 'colour',
  taps: 1,
  doc: 'Dyes the picture: its light in one colour, or the colour laid over it as glass.',
  params: {
    amount: share('Amount', 'How far the picture is dyed.'),
    ...colourOf(100, 30, 20),
    mode: {
      label: 'Mode',
      unit: 'choice',
      min: 0,
      max: 1,
      default: 0,
      choices: ['dye', 'glass'],
      doc: 'A dye replaces the colours, glass takes away what it is not.',
    },
  },
  uniforms: { tint: 4, mode: 1 },
  thumbnail: { amount: 80 },
  resolve: (p) =>
    p['amount'] === 0 ? null : { tint: [...lightOf(p), p['amount']! / 100], mode: Math.round(p['mode']!) },
  // A dye of dark colour would darken all: it is brought to luminance one, but no further than four times.
  glsl: `
vec4 EFFECT(Tint u, vec4 c, vec2 p) {
  float y = dot(c.rgb, vec3(0.2126, 0.7152, 0.0722));
  float own = dot(u.tint.rgb, vec3(0.2126, 0.7152, 0.0722));
  vec3 dyed = u.mode < 0.5 ? u.tint.rgb * (y * min(4.0, 1.0 / max(own, 1e-4))) : c.rgb * u.tint.rgb;
  return vec4(mix(c.rgb, dyed, u.tint.a), c.a);
}`,
  reference(u, source) {
    const [r, g, b, amount] = vec(u, 'tint');
    const gain = Math.min(4, 1 / Math.max(1e-4, luminance(r!, g!, b!)));
    const dye = u['mode'] === 0;
    return (x, y, out) => {
      source(x, y, out);
      const light = luminance(out[0]!, out[1]!, out[2]!);
      [r!, g!, b!].forEach(
        (v, c) => (out[c] = out[c]! * (1 - amount!) + (dye ? v * light * gain : out[c]! * v) * amount!),
      );
    };
  },
};
