import type { EffectSpec, Step } from '../../core/accents/effect-spec.ts';
import { angleOf, heading, NO_KERNEL, portion, share, vec } from '../helpers.ts';
import { laidBy } from './layer.ts';

const MOST = 6;

export const sweep: EffectSpec = {
  id: 'sweep',
  also: 'copies fly pass cut-out subject across slide',
  version: 1,
  name: 'Sweep',
  group: 'time',
  ...NO_KERNEL,
  doc: 'Copies of the frame, or of its subject alone, travel across the picture from edge to edge, again and again.',
  params: {
    opacity: share('Opacity', 'How much the copy shows.'),
    what: {
      label: 'Copies',
      unit: 'choice',
      min: 0,
      max: 1,
      default: 1,
      choices: ['of the frame', 'of the subject'],
      doc: 'What travels; where its source has no subject it is the frame.',
    },
    time: {
      label: 'Crosses in',
      unit: 'frames',
      min: 1,
      max: 300,
      default: 6,
      doc: 'Frames from edge to edge.',
    },
    gap: { label: 'Waits', unit: 'frames', min: 0, max: 300, default: 6, doc: 'Frames until the next copy sets out.' },
    angle: angleOf('Direction it travels in, clockwise from the right.'),
    size: { label: 'Size', unit: '%', min: 10, max: 400, default: 100, doc: 'Size of the copy against the picture.' },
    aside: {
      label: 'Aside',
      unit: '%',
      min: -100,
      max: 100,
      default: 0,
      mirrors: 'sign',
      doc: 'How far beside the middle it passes, in % of the frame height.',
    },
    trail: {
      label: 'Trail',
      unit: 'ratio',
      min: 1,
      max: MOST,
      default: 3,
      doc: 'Copies one behind another.',
    },
    keeps: portion('Keeps', 'How much of its opacity each copy passes on to the one behind.', 45),
  },
  uniforms: { way: 4, look: 4 },
  thumbnail: { opacity: 90, what: 0, size: 50, time: 8 },
  fresh: { what: 1, size: 100 },
  resolve(p, { age, lead }) {
    if (p['opacity'] === 0) return null;
    const [time, gap] = [Math.max(1, p['time']!), p['gap']!];
    const since = (((age + lead) % (time + gap)) + time + gap) % (time + gap);
    // In the middle of a frame, so that both edges are passed alike.
    if (since >= time) return null;
    const [dx, dy] = heading(p['angle']!);
    return {
      way: [dx, dy, (since + 0.5) / time, 1 / time],
      look: [p['opacity']! / 100, p['size']! / 100, p['aside']! / 100, p['keeps']! / 100],
    };
  },
  copies: (p) =>
    Array.from({ length: Math.round(p['trail']!) }, () => ({ shift: 0, subject: Math.round(p['what']!) === 1 })),
  expand(u, { width, height }, self) {
    const [dx, dy, passed, step] = vec(u, 'way');
    const [opacity, size, aside, keeps] = vec(u, 'look');
    const copies = self.layers ?? [];
    const kernel = laidBy(copies);
    const each = copies.some(({ matte }) => matte) ? 2 : 1;
    const count = copies.length / each;
    // From where the whole copy is out of sight to where it is again.
    const far = ((Math.abs(dx!) * width) / height + Math.abs(dy!)) * 0.5 * (1 + size!);
    return Array.from({ length: count }, (_, i): Step => {
      const behind = count - 1 - i;
      const at = (2 * (passed! - behind * step! * 0.6) - 1) * far;
      return {
        kernel,
        uniforms: {
          place: [dx! * at - dy! * aside!, dy! * at + dx! * aside!, 1 / size!, 0],
          turn: [1, 0],
          blend: [opacity! * keeps! ** behind, 0],
          box: [(0.5 * width) / height, 0.5],
        },
        layers: copies.slice(i * each, (i + 1) * each),
      };
    });
  },
};
