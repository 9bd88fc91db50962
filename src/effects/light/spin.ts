import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { NO_KERNEL, num, placeX, placeY, radians, vec } from '../helpers.ts';
import { FLOW, flowSteps } from './flow.ts';

export const spin: EffectSpec = {
  id: 'spin',
  also: 'radial blur rotate twirl',
  version: 1,
  name: 'Spin',
  group: 'light',
  ...NO_KERNEL,
  doc: 'Blur round a centre.',
  params: {
    angle: {
      label: 'Angle',
      unit: '°',
      min: 0,
      max: 180,
      default: 0,
      identity: 0,
      doc: 'Over how many degrees the picture is turned while it is summed.',
    },
    focusX: placeX('Centre'),
    focusY: placeY('Centre'),
  },
  uniforms: { length: 1, centre: 2 },
  thumbnail: { angle: 14 },
  resolve: (p) =>
    p['angle'] === 0 ? null : { length: radians(p['angle']!), centre: [p['focusX']! / 100, p['focusY']! / 100] },
  expand(u, view) {
    const [cx, cy] = vec(u, 'centre');
    const length = num(u, 'length');
    return flowSteps({
      kind: FLOW.turn,
      centre: [cx!, cy!],
      from: -length / 2,
      to: length / 2,
      pixels: length * 0.9 * view.height,
    });
  },
};
