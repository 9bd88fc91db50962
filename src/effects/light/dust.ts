import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { hash, pcg, unit } from '../../core/base/hash.ts';
import { num, portion, seed24, share, turnOf, vec } from '../helpers.ts';
import { CELLS, cellHash } from './falling.ts';

/** Places for a speck over the frame's height, and for a scratch. */
const PLACES = 14;
const SCRATCHES = 18;

export const dust: EffectSpec = {
  id: 'dust',
  also: 'scratches film old specks dirt overlay',
  version: 1,
  name: 'Dust and scratches',
  group: 'light',
  stage: 'colour',
  taps: 1,
  doc: 'Specks and upright scratches of old film, bright and dark, others every few frames.',
  params: {
    amount: share('Amount', 'How strong they are.'),
    specks: portion('Specks', 'How many of the places for a speck have one.', 12),
    scratches: portion('Scratches', 'How many of the places for a scratch have one.', 6),
    size: {
      label: 'Size',
      unit: '%',
      min: 0.1,
      max: 3,
      default: 0.7,
      doc: 'Width of the largest speck, in % of the frame height.',
    },
    refresh: { label: 'Refresh', unit: 'frames', min: 1, max: 60, default: 2, doc: 'Frames until they are others.' },
  },
  uniforms: { look: 4, seed: 1 },
  thumbnail: { amount: 100, specks: 60, scratches: 20, size: 2.5 },
  resolve(p, context) {
    if (p['amount'] === 0 || (p['specks'] === 0 && p['scratches'] === 0)) return null;
    return {
      look: [p['amount']! / 100, p['specks']! / 100, p['scratches']! / 100, (p['size']! / 200) * PLACES],
      seed: seed24(hash(context.seed, turnOf(context, p['refresh']!))),
    };
  },
  prelude: CELLS,
  glsl: `
vec4 EFFECT(Dust u, vec4 c, vec2 p) {
  vec2 q = p * ${PLACES}.0;
  vec2 cell = floor(q);
  uint h = cellHash(cell, uint(u.seed));
  vec2 off = q - cell - 0.5 - 0.5 * (vec2(unit(pcg(h ^ 1u)), unit(pcg(h ^ 2u))) - 0.5);
  vec2 at = off * vec2(0.6 + unit(pcg(h ^ 3u)), 1.0);
  float radius = u.look.w * (0.25 + 0.75 * unit(pcg(h ^ 4u)));
  float v = unit(h) < u.look.y ? clamp(2.0 - 2.0 * length(at) / max(radius, 0.0001), 0.0, 1.0) : 0.0;
  bool bright = (h & 1u) == 0u;
  float along = p.x * ${SCRATCHES}.0;
  uint s = cellHash(vec2(floor(along), 4321.0), uint(u.seed));
  float aside = abs(along - floor(along) - 0.5 - 0.4 * (unit(pcg(s ^ 1u)) - 0.5) - 0.06 * sin(p.y * 3.0 + 6.0 * unit(pcg(s))));
  float line = unit(s) < u.look.z ? clamp(1.0 - aside * 45.0, 0.0, 1.0) * 0.6 : 0.0;
  if (line > v) bright = (s & 1u) == 0u;
  v = max(v, line) * u.look.x;
  return vec4(mix(c.rgb, vec3(bright ? 0.85 : 0.01), v), c.a);
}`,
  reference(u, source) {
    const [amount, specks, scratches, size] = vec(u, 'look');
    const seed = num(u, 'seed');
    const apart = (h: number, n: number): number => unit(pcg((h ^ n) >>> 0));
    return (x, y, out) => {
      source(x, y, out);
      const [qx, qy] = [x * PLACES, y * PLACES];
      const [column, row] = [Math.floor(qx), Math.floor(qy)];
      const h = cellHash(column, row, seed);
      const ax = (qx - column - 0.5 - 0.5 * (apart(h, 1) - 0.5)) * (0.6 + apart(h, 3));
      const ay = qy - row - 0.5 - 0.5 * (apart(h, 2) - 0.5);
      const radius = size! * (0.25 + 0.75 * apart(h, 4));
      let v = unit(h) < specks! ? Math.min(1, Math.max(0, 2 - (2 * Math.hypot(ax, ay)) / Math.max(radius, 1e-4))) : 0;
      let bright = (h & 1) === 0;
      const along = x * SCRATCHES;
      const s = cellHash(Math.floor(along), 4321, seed);
      const off = Math.abs(
        along - Math.floor(along) - 0.5 - 0.4 * (apart(s, 1) - 0.5) - 0.06 * Math.sin(y * 3 + 6 * unit(pcg(s))),
      );
      const line = unit(s) < scratches! ? Math.min(1, Math.max(0, 1 - off * 45)) * 0.6 : 0;
      if (line > v) bright = (s & 1) === 0;
      v = Math.max(v, line) * amount!;
      for (let k = 0; k < 3; k++) out[k] = out[k]! * (1 - v) + (bright ? 0.85 : 0.01) * v;
    };
  },
};
