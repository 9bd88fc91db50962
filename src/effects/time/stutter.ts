import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { NO_KERNEL, share } from '../helpers.ts';

export const stutter: EffectSpec = {
  id: 'stutter',
  also: 'repeat frames slow lag choppy',
  version: 1,
  name: 'Stutter',
  group: 'time',
  ...NO_KERNEL,
  doc: 'Shows only every n-th frame, or runs the same few frames again and again.',
  params: {
    on: share('On', 'On from 50 upwards.', { scales: false }),
    every: {
      label: 'Every',
      unit: 'frames',
      min: 1,
      max: 120,
      default: 3,
      doc: 'Frames that one shown frame stays, or that are run again.',
    },
    way: {
      label: 'Order',
      unit: 'choice',
      min: 0,
      max: 1,
      default: 0,
      choices: ['holds', 'runs again'],
      doc: 'Holds each n-th frame, or repeats the first n frames.',
    },
    creep: { label: 'Speed', unit: '%', min: 0, max: 100, default: 0, doc: 'Speed within a held frame.' },
  },
  uniforms: {},
  thumbnail: { on: 100 },
  resolve: (p) => (p['on']! >= 50 ? {} : null),
  retime(p, { age, lead }) {
    const every = Math.max(1, Math.round(p['every']!));
    const frames = age + lead;
    const into = frames - Math.floor(frames / every) * every;
    return Math.round(p['way']!) === 1 ? into - frames : (into * p['creep']!) / 100 - into;
  },
};
