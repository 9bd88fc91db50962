import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { pcg, unit } from '../../core/base/hash.ts';
import { angleOf, heading, num, portion, seed24, share, vec } from '../helpers.ts';
import { CELLS, cellHash, phaseOf } from './falling.ts';

/** Sheets of rain behind one another: how much smaller and slower each is than the one before. */
const SHEETS = 3;
const DEEPER = 1.6;

export const rain: EffectSpec = {
  id: 'rain',
  also: 'weather water drops overlay storm',
  version: 1,
  name: 'Rain',
  group: 'light',
  stage: 'colour',
  taps: 1,
  doc: 'Rain before the picture, in three sheets of different depth, screened over it in linear light.',
  params: {
    amount: share('Amount', 'How bright the streaks are.'),
    density: portion('Density', 'How many of the places for a drop have one.', 50),
    length: {
      label: 'Length',
      unit: '%',
      min: 1,
      max: 60,
      default: 14,
      doc: 'Length of the nearest streaks, in % of the frame height.',
    },
    angle: { ...angleOf('Direction that it falls in.'), default: 98 },
    speed: {
      label: 'Speed',
      unit: 'Hz',
      min: 0,
      max: 30,
      default: 7,
      doc: 'Places for a drop that the nearest sheet passes in a second.',
    },
  },
  uniforms: { fall: 4, look: 4, seed: 1 },
  thumbnail: { amount: 90, density: 80 },
  resolve(p, { seed, summed }) {
    if (p['amount'] === 0 || p['density'] === 0) return null;
    const [dx, dy] = heading(p['angle']!);
    const [part, whole] = phaseOf(summed('speed'));
    return {
      fall: [dx, dy, part, whole],
      look: [p['amount']! / 100, p['density']! / 100, 50 / p['length']!, 0],
      seed: seed24(seed),
    };
  },
  prelude: CELLS,
  glsl: `
vec4 EFFECT(Rain u, vec4 c, vec2 p) {
  float light = 0.0;
  float per = u.look.z;
  for (int i = 0; i < ${SHEETS}; i++) {
    float along = dot(p, u.fall.xy) * per - u.fall.z;
    float across = dot(p, vec2(-u.fall.y, u.fall.x)) * per * 9.0;
    float late = unit(pcg(cellHash(vec2(floor(across), 0.0), uint(u.seed) + uint(i))));
    vec2 cell = vec2(floor(across), floor(along + late) - u.fall.w);
    uint h = cellHash(cell, uint(u.seed) ^ uint(i + 7));
    float x = abs(across - floor(across) - 0.5);
    float y = along + late - floor(along + late);
    float streak = max(0.0, 1.0 - x * 6.0) * y * y * max(0.0, min(1.0, (1.0 - y) * 12.0));
    if (unit(h) < u.look.y) light += streak * (0.3 + 0.7 * unit(pcg(h))) / float(i + 1);
    per *= ${DEEPER};
  }
  float v = min(1.0, light * u.look.x);
  return vec4(c.rgb + v * vec3(0.86, 0.93, 1.0) * (1.0 - min(c.rgb, 1.0)), c.a);
}`,
  reference(u, source) {
    const [dx, dy, part, whole] = vec(u, 'fall');
    const [amount, density, first] = vec(u, 'look');
    const seed = num(u, 'seed');
    return (px, py, out) => {
      source(px, py, out);
      let light = 0;
      let per = first!;
      for (let i = 0; i < SHEETS; i++) {
        const along = (px * dx! + py * dy!) * per - part!;
        const across = (-px * dy! + py * dx!) * per * 9;
        const column = Math.floor(across);
        const late = unit(pcg(cellHash(column, 0, seed + i)));
        const row = Math.floor(along + late) - whole!;
        const h = cellHash(column, row, (seed ^ (i + 7)) >>> 0);
        const x = Math.abs(across - column - 0.5);
        const y = along + late - Math.floor(along + late);
        const streak = Math.max(0, 1 - x * 6) * y * y * Math.max(0, Math.min(1, (1 - y) * 12));
        if (unit(h) < density!) light += (streak * (0.3 + 0.7 * unit(pcg(h)))) / (i + 1);
        per *= DEEPER;
      }
      const v = Math.min(1, light * amount!);
      [0.86, 0.93, 1].forEach((tone, k) => (out[k] = out[k]! + v * tone * (1 - Math.min(out[k]!, 1))));
    };
  },
};
