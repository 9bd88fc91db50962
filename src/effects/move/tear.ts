import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { hash, pcg, unit } from '../../core/base/hash.ts';
import { grown, moved, num, seed24, turnOf, vec } from '../helpers.ts';

export const tear: EffectSpec = {
  id: 'tear',
  also: 'glitch slice horizontal sync broken',
  version: 1,
  name: 'Tear',
  group: 'move',
  stage: 'move',
  taps: 1,
  doc: 'Pushes random horizontal bands sideways.',
  params: {
    amount: {
      label: 'Amount',
      unit: '%',
      min: 0,
      max: 200,
      default: 0,
      identity: 0,
      doc: 'Largest push in % of the frame height.',
    },
    band: {
      label: 'Band',
      unit: '%',
      min: 0.5,
      max: 100,
      default: 7,
      doc: 'Mean height of a band in % of the frame height.',
    },
    uneven: {
      label: 'Unevenness',
      unit: '%',
      min: 0,
      max: 100,
      default: 60,
      doc: 'How much the heights of the bands differ.',
    },
    coverage: {
      label: 'Coverage',
      unit: '%',
      min: 0,
      max: 100,
      default: 40,
      doc: 'Share of the bands that are pushed.',
    },
    refresh: {
      label: 'Refresh',
      unit: 'frames',
      min: 1,
      max: 60,
      default: 1,
      doc: 'Frames until the bands are drawn anew.',
    },
  },
  uniforms: { push: 2, band: 2, seed: 1 },
  thumbnail: { amount: 14 },
  resolve(p, context) {
    if (p['amount'] === 0 || p['coverage'] === 0) return null;
    const step = turnOf(context, p['refresh']!);
    return {
      push: [p['amount']! / 100, p['coverage']! / 100],
      band: [p['band']! / 100, p['uneven']! / 100],
      seed: seed24(hash(context.seed, step)),
    };
  },
  // A band's lower border is shifted by up to half a band, so a point belongs to its cell or to a neighbour.
  prelude: `
float tearBorder(int cell, uint seed, float uneven) { return float(cell) + (unit(pcg(seed ^ uint(cell))) - 0.5) * uneven; }`,
  glsl: `
vec2 EFFECT(Tear u, vec2 p) {
  float y = p.y / u.band.x;
  int cell = int(floor(y));
  if (y < tearBorder(cell, uint(u.seed), u.band.y)) cell -= 1;
  else if (y >= tearBorder(cell + 1, uint(u.seed), u.band.y)) cell += 1;
  uint h = pcg(pcg(uint(u.seed) ^ 77u) ^ uint(cell));
  if (unit(h) >= u.push.y) return p;
  return vec2(p.x - (unit(pcg(h ^ 1u)) * 2.0 - 1.0) * u.push.x, p.y);
}`,
  reference(u, source) {
    const [push, coverage] = vec(u, 'push');
    const [band, uneven] = vec(u, 'band').map(Math.fround);
    const seed = num(u, 'seed');
    const border = (cell: number): number => cell + (unit(pcg((seed ^ cell) >>> 0)) - 0.5) * uneven!;
    return moved((x, y, q) => {
      const at = Math.fround(Math.fround(y) / band!);
      let cell = Math.floor(at);
      if (at < border(cell)) cell -= 1;
      else if (at >= border(cell + 1)) cell += 1;
      const h = pcg((pcg((seed ^ 77) >>> 0) ^ cell) >>> 0);
      q[0] = unit(h) >= coverage! ? x : x - (unit(pcg((h ^ 1) >>> 0)) * 2 - 1) * push!;
      q[1] = y;
    }, source);
  },
  reads: (u, box) => grown(box, vec(u, 'push')[0]!, 0),
};
