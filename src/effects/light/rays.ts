import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { colourOf, lightOf, NO_KERNEL, num, placeX, placeY, vec } from '../helpers.ts';
import { FLOW, flowSteps } from './flow.ts';
import { gaussSteps } from './gauss.ts';
import { knee, shining } from './glow.ts';

export const rays: EffectSpec = {
  id: 'rays',
  also: 'god light beams shine burst',
  version: 1,
  name: 'Rays',
  group: 'light',
  ...NO_KERNEL,
  doc: 'Light that streams from a point past what is bright.',
  params: {
    gain: {
      label: 'Gain',
      unit: '%',
      min: 0,
      max: 1000,
      default: 0,
      identity: 0,
      doc: 'How much of the light is added.',
    },
    length: {
      label: 'Length',
      unit: '%',
      min: 1,
      max: 500,
      default: 80,
      doc: 'How far rays reach: by how much the largest summed picture is larger.',
    },
    soft: {
      label: 'Softness',
      unit: '%',
      min: 0,
      max: 30,
      default: 1,
      doc: 'Blur of the light before it streams, in % of the frame height.',
    },
    threshold: {
      label: 'Threshold',
      unit: '%',
      min: 0,
      max: 100,
      default: 60,
      doc: 'Displayed brightness from which a place shines.',
    },
    x: placeX('Point'),
    y: placeY('Point'),
    ...colourOf(100, 92, 75),
  },
  uniforms: { length: 1, sigma: 1, range: 2, centre: 2, light: 3 },
  thumbnail: { gain: 220, threshold: 40 },
  resolve(p) {
    if (p['gain'] === 0) return null;
    return {
      length: Math.log(1 + p['length']! / 100),
      sigma: p['soft']! / 200,
      range: knee(p['threshold']!),
      centre: [p['x']! / 100, p['y']! / 100],
      light: lightOf(p, p['gain']! / 100),
    };
  },
  expand(u, view) {
    const [cx, cy] = vec(u, 'centre');
    const length = num(u, 'length');
    // Read from nearer the point, so light runs outwards; it falls off along the way.
    const stream = flowSteps({
      kind: FLOW.zoom,
      centre: [cx!, cy!],
      from: -length,
      to: 0,
      fade: -2 / length,
      pixels: length * 0.9 * view.height,
    });
    return shining(u, [...gaussSteps(num(u, 'sigma'), num(u, 'sigma'), view), ...stream]);
  },
};
