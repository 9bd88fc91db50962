import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { share, turnOf, vec } from '../helpers.ts';

export const flip: EffectSpec = {
  id: 'flip',
  also: 'mirror flop reverse',
  version: 1,
  name: 'Flip',
  group: 'move',
  stage: 'sample',
  taps: 2,
  doc: 'Mirrors the picture or turns it by half, steadily or in turns, mixed with the plain frame.',
  params: {
    amount: share('Amount', 'How much of the flipped picture shows; the rest is the plain one.'),
    way: {
      label: 'Direction',
      unit: 'choice',
      min: 0,
      max: 3,
      default: 0,
      choices: ['left to right', 'upside down', 'half-turn', 'in turns'],
      doc: 'Which way, or each of the three in turn.',
    },
    every: {
      label: 'Every',
      unit: 'frames',
      min: 1,
      max: 60,
      default: 1,
      doc: 'How long each way stays, when they take turns.',
    },
  },
  uniforms: { sign: 2, amount: 1 },
  thumbnail: { amount: 100 },
  resolve(p, context) {
    if (p['amount'] === 0) return null;
    const turn = turnOf(context, p['every']!);
    const way = Math.round(p['way']!) === 3 ? ((turn % 3) + 3) % 3 : Math.round(p['way']!);
    return { sign: [way === 1 ? 1 : -1, way === 0 ? 1 : -1], amount: p['amount']! / 100 };
  },
  glsl: `
vec4 EFFECT(Flip u, vec2 p) { return mix(SRC(p), SRC(p * u.sign), u.amount); }`,
  reference(u, source) {
    const [sx, sy] = vec(u, 'sign');
    const amount = u['amount'] as number;
    const other = new Float64Array(4);
    return (x, y, out) => {
      source(x * sx!, y * sy!, other);
      source(x, y, out);
      for (let c = 0; c < 4; c++) out[c] = out[c]! * (1 - amount) + other[c]! * amount;
    };
  },
};
