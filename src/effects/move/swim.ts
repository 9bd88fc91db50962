import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { gradientNoise } from '../../core/base/hash.ts';
import { grown, moved, num, seed24, vec } from '../helpers.ts';

export const swim: EffectSpec = {
  id: 'swim',
  also: 'drift float handheld wobble breathe',
  version: 1,
  name: 'Swim',
  group: 'move',
  stage: 'move',
  taps: 1,
  doc: 'Bends the picture by smooth noise, as if seen through moving water.',
  params: {
    amount: {
      label: 'Amount',
      unit: '%',
      min: 0,
      max: 50,
      default: 0,
      identity: 0,
      doc: 'Largest shift in % of the frame height.',
    },
    size: {
      label: 'Size',
      unit: '%',
      min: 2,
      max: 300,
      default: 40,
      doc: 'Size of the waves in % of the frame height.',
    },
    rate: { label: 'Rate', unit: 'Hz', min: 0, max: 30, default: 1.5, doc: 'How fast the waves change.' },
  },
  uniforms: { amount: 1, field: 2, seed: 1 },
  thumbnail: { amount: 6 },
  resolve(p, { seed, summed }) {
    return p['amount'] === 0
      ? null
      : { amount: p['amount']! / 100, field: [100 / p['size']!, summed('rate')], seed: seed24(seed) };
  },
  glsl: `
vec2 EFFECT(Swim u, vec2 p) { return p - u.amount * gradientNoise(vec3(p * u.field.x, u.field.y), uint(u.seed)); }`,
  reference(u, source) {
    const [per, z] = vec(u, 'field');
    const [amount, seed] = [num(u, 'amount'), num(u, 'seed')];
    const n: [number, number] = [0, 0];
    return moved((x, y, q) => {
      gradientNoise(x * per!, y * per!, z!, seed, n);
      q[0] = x - amount * n[0];
      q[1] = y - amount * n[1];
    }, source);
  },
  reads: (u, box) => grown(box, num(u, 'amount'), num(u, 'amount')),
};
