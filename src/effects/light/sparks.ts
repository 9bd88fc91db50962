import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { pcg, unit } from '../../core/base/hash.ts';
import { angleOf, colourOf, heading, lightOf, num, portion, seed24, share, vec } from '../helpers.ts';
import { CELLS, cellHash, phaseOf } from './falling.ts';

/** Clouds of sparks, each with smaller ones. */
const CLOUDS = 2;

export const sparks: EffectSpec = {
  id: 'sparks',
  also: 'embers fire particles glitter overlay',
  version: 1,
  name: 'Sparks',
  group: 'light',
  stage: 'colour',
  taps: 1,
  doc: 'Glowing sparks that rise before the picture and flicker, added to its light.',
  params: {
    amount: share('Amount', 'How bright they are.'),
    density: portion('Density', 'How many of the places for a spark have one.', 35),
    size: {
      label: 'Size',
      unit: '%',
      min: 0.2,
      max: 6,
      default: 0.9,
      doc: 'Width of the largest, in % of the frame height.',
    },
    angle: { ...angleOf('Direction that they fly in.'), default: -80 },
    speed: {
      label: 'Speed',
      unit: 'Hz',
      min: 0,
      max: 20,
      default: 1.5,
      doc: 'Places for a spark that they pass in a second.',
    },
    ...colourOf(100, 62, 24),
  },
  uniforms: { fly: 4, look: 3, light: 3, seed: 1 },
  thumbnail: { amount: 100, density: 70, size: 3 },
  resolve(p, { seed, summed }) {
    if (p['amount'] === 0 || p['density'] === 0) return null;
    const [dx, dy] = heading(p['angle']!);
    const [part, whole] = phaseOf(summed('speed'));
    return {
      fly: [dx, dy, part, whole],
      // A place is ten times as wide as its spark.
      look: [p['density']! / 100, 10 / p['size']!, p['amount']! / 100],
      light: lightOf(p, 3),
      seed: seed24(seed),
    };
  },
  prelude: CELLS,
  glsl: `
vec4 EFFECT(Sparks u, vec4 c, vec2 p) {
  float glow = 0.0;
  float per = u.look.y;
  for (int i = 0; i < ${CLOUDS}; i++) {
    vec2 q = vec2(dot(p, vec2(-u.fly.y, u.fly.x)) * per, dot(p, u.fly.xy) * per - u.fly.z);
    vec2 cell = floor(q);
    uint h = cellHash(vec2(cell.x, cell.y - u.fly.w), uint(u.seed) + uint(i));
    vec2 at = q - cell - 0.5 - 0.6 * (vec2(unit(pcg(h ^ 1u)), unit(pcg(h ^ 2u))) - 0.5);
    float near = max(0.0, 1.0 - 5.0 * length(at));
    float flicker = 0.35 + 0.65 * unit(pcg(h ^ uint(int(floor(8.0 * u.fly.z)) + 16)));
    if (unit(h) < u.look.x) glow += near * near * flicker;
    per *= 1.9;
  }
  return vec4(c.rgb + u.look.z * glow * u.light, c.a);
}`,
  reference(u, source) {
    const [dx, dy, part, whole] = vec(u, 'fly');
    const [density, first, amount] = vec(u, 'look');
    const light = vec(u, 'light');
    const seed = num(u, 'seed');
    return (px, py, out) => {
      source(px, py, out);
      let glow = 0;
      let per = first!;
      for (let i = 0; i < CLOUDS; i++) {
        const x = (-px * dy! + py * dx!) * per;
        const y = (px * dx! + py * dy!) * per - part!;
        const [column, row] = [Math.floor(x), Math.floor(y)];
        const h = cellHash(column, row - whole!, seed + i);
        const ax = x - column - 0.5 - 0.6 * (unit(pcg((h ^ 1) >>> 0)) - 0.5);
        const ay = y - row - 0.5 - 0.6 * (unit(pcg((h ^ 2) >>> 0)) - 0.5);
        const near = Math.max(0, 1 - 5 * Math.hypot(ax, ay));
        const flicker = 0.35 + 0.65 * unit(pcg((h ^ (Math.floor(8 * part!) + 16)) >>> 0));
        if (unit(h) < density!) glow += near * near * flicker;
        per *= 1.9;
      }
      for (let k = 0; k < 3; k++) out[k] = out[k]! + amount! * glow * light[k]!;
    };
  },
};
