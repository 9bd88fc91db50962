import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { hash, signed, unit } from '../../core/base/hash.ts';
import { NO_KERNEL, share, vec } from '../helpers.ts';
import { BLENDS, overlaySteps } from './overlay.ts';

export const blink: EffectSpec = {
  id: 'blink',
  also: 'strobe flicker cut black',
  version: 1,
  name: 'Blink',
  group: 'time',
  ...NO_KERNEL,
  doc: 'One copy of another frame, moved and scaled, that appears at random.',
  params: {
    opacity: share('Opacity', 'How much the copy shows when it appears.'),
    chance: {
      label: 'Chance',
      unit: '%',
      min: 0,
      max: 100,
      default: 50,
      scales: false,
      doc: 'How likely it appears at each decision.',
    },
    period: { label: 'Period', unit: 'frames', min: 1, max: 120, default: 3, doc: 'Frames from decision to decision.' },
    open: { label: 'Duration', unit: 'frames', min: 1, max: 120, default: 1, doc: 'Frames it stays once it appears.' },
    shift: {
      label: 'Frame offset',
      unit: 'frames',
      min: -300,
      max: 300,
      default: -3,
      doc: 'Which frame is shown; below 0 an earlier one.',
    },
    x: {
      label: 'Sideways',
      unit: '%',
      min: -100,
      max: 100,
      default: 0,
      mirrors: 'sign',
      doc: 'How far it lies to the right, in % of the frame height.',
    },
    y: {
      label: 'Down',
      unit: '%',
      min: -100,
      max: 100,
      default: 0,
      doc: 'How far it lies below, in % of the frame height.',
    },
    scatter: {
      label: 'Scatter',
      unit: '%',
      min: 0,
      max: 100,
      default: 0,
      doc: 'Random offset added at each appearance, in % of the frame height.',
    },
    scale: { label: 'Scale', unit: '%', min: 20, max: 400, default: 100, doc: 'Size of the copy.' },
    blend: {
      label: 'Blend',
      unit: 'choice',
      min: 0,
      max: BLENDS.length - 1,
      default: 0,
      choices: BLENDS,
      doc: 'How the copy is joined with the picture: in linear light, overlay and soft light in displayed values.',
    },
  },
  uniforms: { place: 3, blend: 2 },
  thumbnail: { opacity: 80, chance: 100, open: 3, scale: 130 },
  resolve(p, { age, lead, seed }) {
    if (p['opacity'] === 0) return null;
    const period = Math.max(1, Math.round(p['period']!));
    const slot = Math.floor((age + lead) / period + 1e-9);
    const h = hash(seed, slot);
    if (age + lead - slot * period >= p['open']! - 1e-9 || unit(h) >= p['chance']! / 100) return null;
    const scattered = (i: number): number => (p['scatter']! / 100) * signed(hash(h, i));
    return {
      place: [p['x']! / 100 + scattered(1), p['y']! / 100 + scattered(2), 100 / p['scale']!],
      blend: [p['opacity']! / 100, Math.round(p['blend']!)],
    };
  },
  copies: (p) => [{ shift: Math.round(p['shift']!) }],
  expand: (u, _, self) =>
    overlaySteps(self.layers ?? [], () => ({
      place: [...vec(u, 'place')] as [number, number, number],
      blend: [...vec(u, 'blend')] as [number, number],
    })),
};
