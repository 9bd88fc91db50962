import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { NO_KERNEL, num, placeX, placeY, vec } from '../helpers.ts';
import { FLOW, flowSteps } from './flow.ts';

export const rush: EffectSpec = {
  id: 'rush',
  also: 'zoom blur radial speed',
  version: 1,
  name: 'Rush',
  group: 'light',
  ...NO_KERNEL,
  doc: 'Blur towards and away from a focus, as if rushing at it.',
  params: {
    amount: {
      label: 'Amount',
      unit: '%',
      min: 0,
      max: 200,
      default: 0,
      identity: 0,
      doc: 'By how much the largest of the summed pictures is larger than the smallest.',
    },
    focusX: placeX('Focus'),
    focusY: placeY('Focus'),
  },
  uniforms: { length: 1, centre: 2 },
  thumbnail: { amount: 30 },
  resolve: (p) =>
    p['amount'] === 0
      ? null
      : { length: Math.log(1 + p['amount']! / 100), centre: [p['focusX']! / 100, p['focusY']! / 100] },
  expand(u, view) {
    const [cx, cy] = vec(u, 'centre');
    const length = num(u, 'length');
    return flowSteps({
      kind: FLOW.zoom,
      centre: [cx!, cy!],
      from: -length / 2,
      to: length / 2,
      pixels: length * 0.7 * view.height,
    });
  },
};
