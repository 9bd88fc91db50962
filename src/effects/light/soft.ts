import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { NO_KERNEL, num } from '../helpers.ts';
import { gaussSteps } from './gauss.ts';

export const soft: EffectSpec = {
  id: 'soft',
  also: 'blur gaussian defocus out of focus',
  version: 1,
  name: 'Soft',
  group: 'light',
  ...NO_KERNEL,
  doc: 'Gaussian blur in linear light: bright points grow into discs.',
  params: {
    radius: {
      label: 'Radius',
      unit: '%',
      min: 0,
      max: 100,
      default: 0,
      identity: 0,
      doc: 'Two standard deviations, in % of the frame height.',
    },
  },
  uniforms: { sigma: 1 },
  thumbnail: { radius: 5 },
  resolve: (p) => (p['radius'] === 0 ? null : { sigma: p['radius']! / 200 }),
  expand: (u, view) => gaussSteps(num(u, 'sigma'), num(u, 'sigma'), view),
};
