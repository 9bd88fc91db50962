import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { angleOf, heading, NO_KERNEL, vec } from '../helpers.ts';
import { FLOW, flowSteps } from './flow.ts';

export const streak: EffectSpec = {
  id: 'streak',
  also: 'directional blur motion light',
  version: 1,
  name: 'Streak',
  group: 'light',
  ...NO_KERNEL,
  doc: 'Blur along one direction, to both sides or to one.',
  params: {
    length: { label: 'Length', unit: '%', min: 0, max: 200, default: 0, identity: 0, doc: 'In % of the frame height.' },
    angle: angleOf('Direction; 0 is right, 90 is down.'),
    side: {
      label: 'Sides',
      unit: 'choice',
      min: 0,
      max: 1,
      default: 0,
      choices: ['both sides', 'one side'],
      doc: 'Whether light is drawn out to both sides or only along the direction.',
    },
  },
  uniforms: { way: 2, range: 2 },
  thumbnail: { length: 20 },
  resolve(p) {
    const length = p['length']! / 100;
    return length === 0
      ? null
      : { way: heading(p['angle']!), range: Math.round(p['side']!) === 1 ? [-length, 0] : [-length / 2, length / 2] };
  },
  expand(u, view) {
    const [from, to] = vec(u, 'range');
    const [wx, wy] = vec(u, 'way');
    return flowSteps({
      kind: FLOW.line,
      centre: [0, 0],
      way: [wx!, wy!],
      from: from!,
      to: to!,
      pixels: (to! - from!) * view.height,
    });
  },
};
