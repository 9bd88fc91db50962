import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { NO_KERNEL, share } from '../helpers.ts';

export const freeze: EffectSpec = {
  id: 'freeze',
  also: 'hold still stop slow frame',
  version: 1,
  name: 'Freeze',
  group: 'time',
  ...NO_KERNEL,
  doc: 'The picture stands still while it is on, or creeps on. What is drawn over it goes on moving.',
  params: {
    on: share('On', 'On from 50 upwards.', { scales: false }),
    from: {
      label: 'Frame shown',
      unit: 'frames',
      min: -300,
      max: 300,
      default: 0,
      doc: 'Which frame stands still, counted from the hit.',
    },
    creep: {
      label: 'Speed',
      unit: '%',
      min: 0,
      max: 100,
      default: 0,
      doc: 'Speed at which it goes on all the same; 1 % hardly shows.',
    },
  },
  uniforms: {},
  thumbnail: { on: 100 },
  resolve: (p) => (p['on']! >= 50 ? {} : null),
  retime: (p, { age }) => p['from']! + ((age - p['from']!) * p['creep']!) / 100 - age,
};
