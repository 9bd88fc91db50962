import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { gradientNoise } from '../../core/base/hash.ts';
import { grown, heading, moved, num, placeX, placeY, seed24, vec } from '../helpers.ts';

export const wave: EffectSpec = {
  id: 'wave',
  also: 'ripple distort warp water lens bulge',
  version: 1,
  name: 'Wave',
  group: 'move',
  stage: 'move',
  taps: 1,
  doc: 'A wave that travels through the picture, straight or as rings from a point.',
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
    length: {
      label: 'Wavelength',
      unit: '%',
      min: 1,
      max: 400,
      default: 30,
      doc: 'From crest to crest, in % of the frame height.',
    },
    heading: {
      label: 'Heading',
      unit: '°',
      min: -3600,
      max: 3600,
      default: 0,
      mirrors: 'angle',
      doc: 'Where a straight wave travels to; 0 is right, 90 is down.',
    },
    rate: {
      label: 'Rate',
      unit: 'Hz',
      min: -60,
      max: 60,
      default: 2,
      doc: 'Crests a second that pass a place; negative runs back.',
    },
    form: {
      label: 'Form',
      unit: 'choice',
      min: 0,
      max: 3,
      default: 0,
      choices: ['straight', 'straight noise', 'rings', 'rings of noise'],
      doc: 'How the wave is laid out.',
    },
    push: {
      label: 'Displacement',
      unit: 'choice',
      min: 0,
      max: 1,
      default: 0,
      choices: ['across', 'along'],
      doc: 'Across the heading as a rope swings, or along it as sound does.',
    },
    centreX: placeX('Centre'),
    centreY: placeY('Centre'),
  },
  uniforms: { amount: 1, heading: 2, wave: 2, form: 2, centre: 2, seed: 1 },
  thumbnail: { amount: 4 },
  resolve(p, { seed, summed }) {
    if (p['amount'] === 0) return null;
    return {
      amount: p['amount']! / 100,
      heading: heading(p['heading']!),
      wave: [100 / p['length']!, summed('rate')],
      form: [Math.round(p['form']!), Math.round(p['push']!)],
      centre: [p['centreX']! / 100, p['centreY']! / 100],
      seed: seed24(seed),
    };
  },
  glsl: `
vec2 EFFECT(Wave u, vec2 p) {
  vec2 along = u.heading;
  float at = dot(p, along);
  if (u.form.x > 1.5) {
    vec2 d = p - u.centre;
    at = length(d);
    along = at > 1e-6 ? d / at : vec2(0.0);
  }
  float phase = at * u.wave.x - u.wave.y;
  float odd = mod(u.form.x, 2.0);
  float height = odd > 0.5 ? gradientNoise(vec3(phase * 2.0, 0.5, 0.5), uint(u.seed)).x * 1.6 : sin(6.283185307179586 * phase);
  vec2 way = u.form.y > 0.5 ? along : vec2(-along.y, along.x);
  return p - u.amount * clamp(height, -1.0, 1.0) * way;
}`,
  reference(u, source) {
    const [hx, hy] = vec(u, 'heading');
    const [per, phaseAt] = vec(u, 'wave');
    const [form, push] = vec(u, 'form');
    const [cx, cy] = vec(u, 'centre');
    const [amount, seed] = [num(u, 'amount'), num(u, 'seed')];
    const n: [number, number] = [0, 0];
    return moved((x, y, q) => {
      let [ax, ay] = [hx!, hy!];
      let at = x * ax + y * ay;
      if (form! > 1.5) {
        at = Math.hypot(x - cx!, y - cy!);
        [ax, ay] = at > 1e-6 ? [(x - cx!) / at, (y - cy!) / at] : [0, 0];
      }
      const phase = at * per! - phaseAt!;
      if (form! % 2 > 0.5) gradientNoise(phase * 2, 0.5, 0.5, seed, n);
      const height = Math.min(1, Math.max(-1, form! % 2 > 0.5 ? n[0] * 1.6 : Math.sin(2 * Math.PI * phase)));
      q[0] = x - amount * height * (push! > 0.5 ? ax : -ay);
      q[1] = y - amount * height * (push! > 0.5 ? ay : ax);
    }, source);
  },
  reads: (u, box) => grown(box, num(u, 'amount'), num(u, 'amount')),
};
