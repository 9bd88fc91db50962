import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { share } from '../helpers.ts';

/** Reads a side of one cell: enough that a cell has its mean colour and not that of one place. */
const SIDE = 4;

export const mosaic: EffectSpec = {
  id: 'mosaic',
  also: 'pixelate pixel censor low resolution',
  version: 1,
  name: 'Mosaic',
  group: 'move',
  stage: 'sample',
  taps: SIDE * SIDE + 1,
  doc: 'Coarse square pixels of the mean colour of what they cover.',
  params: {
    amount: share('Amount', 'How much of the mosaic shows; the rest is the plain frame.'),
    size: {
      label: 'Size',
      unit: '%',
      min: 0.5,
      max: 100,
      default: 8,
      doc: 'Side of a square in % of the frame height.',
    },
  },
  uniforms: { size: 1, amount: 1 },
  thumbnail: { amount: 100 },
  resolve: (p) => (p['amount'] === 0 ? null : { size: p['size']! / 100, amount: p['amount']! / 100 }),
  glsl: `
vec4 EFFECT(Mosaic u, vec2 p) {
  vec2 corner = floor(p / u.size) * u.size;
  vec4 sum = vec4(0.0);
  for (int j = 0; j < ${SIDE}; j++) for (int i = 0; i < ${SIDE}; i++) sum += SRC(corner + (vec2(i, j) + 0.5) * (u.size / ${SIDE}.0));
  return mix(SRC(p), sum / ${SIDE * SIDE}.0, u.amount);
}`,
  reference(u, source) {
    const size = Math.fround(u['size'] as number);
    const amount = u['amount'] as number;
    const one = new Float64Array(4);
    const sum = new Float64Array(4);
    return (x, y, out) => {
      const [cx, cy] = [Math.floor(Math.fround(x) / size) * size, Math.floor(Math.fround(y) / size) * size];
      sum.fill(0);
      for (let j = 0; j < SIDE; j++)
        for (let i = 0; i < SIDE; i++) {
          source(cx + ((i + 0.5) * size) / SIDE, cy + ((j + 0.5) * size) / SIDE, one);
          for (let c = 0; c < 4; c++) sum[c] = sum[c]! + one[c]!;
        }
      source(x, y, out);
      for (let c = 0; c < 4; c++) out[c] = out[c]! * (1 - amount) + (sum[c]! / (SIDE * SIDE)) * amount;
    };
  },
};
