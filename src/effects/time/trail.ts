import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { NO_KERNEL, portion, share, vec } from '../helpers.ts';
import { BLENDS, overlaySteps } from './overlay.ts';

const MOST = 8;

export const trail: EffectSpec = {
  id: 'trail',
  also: 'echo ghost copies smear',
  version: 1,
  name: 'Trail',
  group: 'time',
  ...NO_KERNEL,
  doc: 'Lays earlier or later frames over the picture, each moved and scaled further, with a small stack of effects of their own.',
  params: {
    opacity: share('Opacity', 'How much the first copy shows.'),
    count: {
      label: 'Copies',
      unit: 'ratio',
      min: 1,
      max: MOST,
      default: 3,
      doc: 'How many other frames are laid over.',
    },
    every: {
      label: 'Apart',
      unit: 'frames',
      min: -60,
      max: 60,
      default: -2,
      doc: 'Frames from copy to copy; below 0 they are earlier ones.',
    },
    fade: portion('Keeps', 'How much of its opacity each copy passes on to the next.', 60),
    x: {
      label: 'Sideways',
      unit: '%',
      min: -100,
      max: 100,
      default: 0,
      mirrors: 'sign',
      doc: 'How far each copy lies right of the one before, in % of the frame height.',
    },
    y: {
      label: 'Down',
      unit: '%',
      min: -100,
      max: 100,
      default: 0,
      doc: 'How far each copy lies below the one before, in % of the frame height.',
    },
    scale: {
      label: 'Scale',
      unit: '%',
      min: 20,
      max: 400,
      default: 100,
      doc: 'Size of each copy against the one before.',
    },
    blend: {
      label: 'Blend',
      unit: 'choice',
      min: 0,
      max: BLENDS.length - 1,
      default: 0,
      choices: BLENDS,
      doc: 'How copies are joined with the picture: in linear light, overlay and soft light in displayed values.',
    },
  },
  uniforms: { place: 3, blend: 3 },
  thumbnail: { opacity: 60, scale: 108 },
  resolve: (p) =>
    p['opacity'] === 0
      ? null
      : {
          place: [p['x']! / 100, p['y']! / 100, p['scale']! / 100],
          blend: [p['opacity']! / 100, Math.round(p['blend']!), p['fade']! / 100],
        },
  // The furthest copy lies lowest.
  copies: (p) =>
    Array.from({ length: Math.round(p['count']!) }, (_, i) => ({
      shift: (Math.round(p['count']!) - i) * Math.round(p['every']!),
    })),
  expand(u, _, self) {
    const [x, y, scale] = vec(u, 'place');
    const [opacity, mode, fade] = vec(u, 'blend');
    const n = self.layers?.length ?? 0;
    return overlaySteps(self.layers ?? [], (i) => {
      const far = n - i;
      return { place: [x! * far, y! * far, 1 / scale! ** far], blend: [opacity! * fade! ** (far - 1), mode!] };
    });
  },
};
