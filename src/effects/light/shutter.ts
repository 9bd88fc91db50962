/** Motion blur of an accent's own movement: what lies below it, drawn at several moments while the shutter is open. */
import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { NO_KERNEL } from '../helpers.ts';

export const shutter: EffectSpec = {
  id: 'shutter',
  also: 'motion blur',
  version: 1,
  name: 'Shutter',
  group: 'light',
  ...NO_KERNEL,
  doc: 'Motion blur of all effects above it in the list, as an open shutter makes it; effects after it stay sharp.',
  params: {
    opening: {
      label: 'Shutter angle',
      unit: '°',
      min: 0,
      max: 720,
      default: 0,
      identity: 0,
      scales: false,
      doc: 'How long it is open: 360° is one frame, 180° half of it.',
    },
  },
  uniforms: {},
  thumbnail: { opening: 360 },
  thumbnailBelow: [{ effect: 'shake', params: { x: 9, rateX: 6 } }],
  resolve: (p) => (p['opening'] === 0 ? null : {}),
  shutter: (p) => p['opening']! / 360,
};
