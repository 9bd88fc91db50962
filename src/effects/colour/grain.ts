import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { fromLinear, toLinear } from '../../core/base/colour.ts';
import { gradientNoise, hash } from '../../core/base/hash.ts';
import { num, portion, seed24, share, turnOf, vec } from '../helpers.ts';

export const grain: EffectSpec = {
  id: 'grain',
  also: 'film noise texture old',
  version: 1,
  name: 'Grain',
  group: 'colour',
  stage: 'colour',
  taps: 1,
  doc: 'Film grain: smooth random specks, new ones every few frames.',
  params: {
    amount: share('Amount', 'Strength of the specks.'),
    size: {
      label: 'Size',
      unit: '%',
      min: 0.2,
      max: 10,
      default: 0.6,
      doc: 'Size of a speck in % of the frame height.',
    },
    colour: portion('Colour', 'How much the channels differ.'),
    refresh: { label: 'Refresh', unit: 'frames', min: 1, max: 60, default: 1, doc: 'Frames until the specks change.' },
  },
  uniforms: { amount: 2, field: 2, seed: 1 },
  thumbnail: { amount: 60, size: 1.5 },
  resolve(p, context) {
    const step = turnOf(context, p['refresh']!);
    return p['amount'] === 0
      ? null
      : {
          amount: [p['amount']! / 250, p['colour']! / 100],
          field: [100 / p['size']!, 0.5],
          seed: seed24(hash(context.seed, step)),
        };
  },
  glsl: `
vec4 EFFECT(Grain u, vec4 c, vec2 p) {
  vec2 a = gradientNoise(vec3(p * u.field.x, u.field.y), uint(u.seed));
  float b = u.amount.y > 0.0 ? gradientNoise(vec3(p * u.field.x, u.field.y + 7.0), uint(u.seed)).x : 0.0;
  vec3 v = vec3(fromLinear(c.r), fromLinear(c.g), fromLinear(c.b));
  v = max(vec3(0.0), v + u.amount.x * mix(vec3(a.x), vec3(a.x, a.y, b), u.amount.y));
  return vec4(toLinear(v.r), toLinear(v.g), toLinear(v.b), c.a);
}`,
  reference(u, source) {
    const [amount, colour] = vec(u, 'amount');
    const [per, z] = vec(u, 'field');
    const seed = num(u, 'seed');
    const a: [number, number] = [0, 0];
    const b: [number, number] = [0, 0];
    return (x, y, out) => {
      source(x, y, out);
      gradientNoise(x * per!, y * per!, z!, seed, a);
      if (colour! > 0) gradientNoise(x * per!, y * per!, z! + 7, seed, b);
      [a[0], a[1], b[0]].forEach(
        (own, c) =>
          (out[c] = toLinear(Math.max(0, fromLinear(out[c]!) + amount! * (a[0] * (1 - colour!) + own * colour!)))),
      );
    };
  },
};
