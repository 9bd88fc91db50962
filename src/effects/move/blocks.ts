import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { hash, pcg, signed, unit } from '../../core/base/hash.ts';
import { grown, moved, num, seed24, turnOf, vec } from '../helpers.ts';

export const blocks: EffectSpec = {
  id: 'blocks',
  also: 'glitch digital datamosh pixel damage broken',
  version: 1,
  name: 'Blocks',
  group: 'move',
  stage: 'move',
  taps: 1,
  doc: 'Cuts the picture into cells and throws some of them aside.',
  params: {
    amountX: {
      label: 'Sideways',
      unit: '%',
      min: 0,
      max: 100,
      default: 0,
      identity: 0,
      doc: 'Largest sideways throw in % of the frame height.',
    },
    amountY: {
      label: 'Up and down',
      unit: '%',
      min: 0,
      max: 100,
      default: 0,
      identity: 0,
      doc: 'Largest vertical throw in % of the frame height.',
    },
    width: { label: 'Cell width', unit: '%', min: 1, max: 200, default: 24, doc: 'In % of the frame height.' },
    height: { label: 'Cell height', unit: '%', min: 1, max: 100, default: 6, doc: 'In % of the frame height.' },
    contrast: {
      label: 'Contrast',
      unit: '%',
      min: 0,
      max: 100,
      default: 50,
      doc: 'At 0 the throws are spread evenly, at 100 each is full.',
    },
    coverage: {
      label: 'Coverage',
      unit: '%',
      min: 0,
      max: 100,
      default: 50,
      doc: 'Share of the cells that are thrown.',
    },
    refresh: {
      label: 'Refresh',
      unit: 'frames',
      min: 1,
      max: 60,
      default: 2,
      doc: 'Frames until the cells are thrown anew.',
    },
  },
  uniforms: { amount: 2, cell: 2, shape: 2, seed: 1 },
  thumbnail: { amountX: 12, amountY: 2, coverage: 60 },
  resolve(p, context) {
    if ((p['amountX'] === 0 && p['amountY'] === 0) || p['coverage'] === 0) return null;
    const step = turnOf(context, p['refresh']!);
    return {
      amount: [p['amountX']! / 100, p['amountY']! / 100],
      cell: [p['width']! / 100, p['height']! / 100],
      shape: [p['contrast']! / 100, p['coverage']! / 100],
      seed: seed24(hash(context.seed, step)),
    };
  },
  glsl: `
vec2 EFFECT(Blocks u, vec2 p) {
  ivec2 cell = ivec2(floor(p / u.cell));
  uint h = pcg(pcg(uint(u.seed) ^ uint(cell.x)) ^ uint(cell.y));
  if (unit(h) >= u.shape.y) return p;
  vec2 throwTo = vec2(unit(pcg(h ^ 1u)), unit(pcg(h ^ 2u))) * 2.0 - 1.0;
  throwTo = mix(throwTo, vec2(throwTo.x < 0.0 ? -1.0 : 1.0, throwTo.y < 0.0 ? -1.0 : 1.0), u.shape.x);
  return p - throwTo * u.amount;
}`,
  reference(u, source) {
    const [ax, ay] = vec(u, 'amount');
    const [cw, ch] = vec(u, 'cell').map(Math.fround);
    const [contrast, coverage] = vec(u, 'shape');
    const seed = num(u, 'seed');
    const thrown = (h: number): number => {
      const value = signed(h);
      return value * (1 - contrast!) + (value < 0 ? -1 : 1) * contrast!;
    };
    return moved((x, y, q) => {
      const column = Math.floor(Math.fround(x) / cw!);
      const row = Math.floor(Math.fround(y) / ch!);
      const h = pcg((pcg((seed ^ column) >>> 0) ^ row) >>> 0);
      const stays = unit(h) >= coverage!;
      q[0] = stays ? x : x - thrown(pcg((h ^ 1) >>> 0)) * ax!;
      q[1] = stays ? y : y - thrown(pcg((h ^ 2) >>> 0)) * ay!;
    }, source);
  },
  reads: (u, box) => grown(box, vec(u, 'amount')[0]!, vec(u, 'amount')[1]!),
};
