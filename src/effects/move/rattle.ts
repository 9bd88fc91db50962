import type { EffectSpec, Uniforms } from '../../core/accents/effect-spec.ts';
import { angleOf, heading, moved, num, type Read, straightReads, turnOf, vec } from '../helpers.ts';

/** Offsets in turn, as shares of the amount. */
const PATTERNS = [
  [1, -1],
  [1, 0, -1, 0],
  [1, 0],
  [1, 1, -1, -1],
] as const;

const readOf = (u: Uniforms): Read => {
  const [ox, oy] = vec(u, 'offset');
  const scale = num(u, 'scale');
  return (x, y, q) => {
    q[0] = (x - ox!) * scale;
    q[1] = (y - oy!) * scale;
  };
};

export const rattle: EffectSpec = {
  id: 'rattle',
  also: 'shake jitter vibrate rumble camera',
  version: 1,
  name: 'Rattle',
  group: 'move',
  stage: 'move',
  taps: 1,
  doc: 'Throws the picture to and fro along an angle from one frame to the next, inside an enlargement if wanted.',
  params: {
    amount: {
      label: 'Offset',
      unit: '%',
      min: -100,
      max: 100,
      default: 0,
      identity: 0,
      doc: 'In % of the frame height, or of the travel that the enlargement leaves.',
    },
    of: {
      label: 'Offset in',
      unit: 'choice',
      min: 0,
      max: 1,
      default: 0,
      choices: ['% of height', '% of travel'],
      doc: 'What the offset is a share of: an enlargement s leaves (s - 1) / 2 of the frame on each side.',
    },
    angle: angleOf('Direction of the first offset; 0 is right, 90 is down.'),
    pattern: {
      label: 'Pattern',
      unit: 'choice',
      min: 0,
      max: 3,
      default: 0,
      choices: ['to and fro', 'with rests', 'one side', 'in pairs'],
      doc: 'The order of offsets and rests.',
    },
    every: { label: 'Every', unit: 'frames', min: 1, max: 60, default: 1, doc: 'How long each offset stays.' },
    enlarge: {
      label: 'Enlargement',
      unit: '%',
      min: 100,
      max: 400,
      default: 100,
      identity: 100,
      doc: 'Size of the picture inside which it is thrown.',
    },
  },
  uniforms: { offset: 2, scale: 1 },
  thumbnail: { amount: 5, enlarge: 110 },
  resolve(p, context) {
    if (p['amount'] === 0 && p['enlarge'] === 100) return null;
    const pattern = PATTERNS[Math.round(p['pattern']!)]!;
    const turn = turnOf(context, p['every']!);
    const offset =
      (p['amount']! / 100) *
      pattern[((turn % pattern.length) + pattern.length) % pattern.length]! *
      (Math.round(p['of']!) === 1 ? (p['enlarge']! / 100 - 1) / 2 : 1);
    const [cos, sin] = heading(p['angle']!);
    return { offset: [cos * offset, sin * offset], scale: 100 / p['enlarge']! };
  },
  glsl: `
vec2 EFFECT(Rattle u, vec2 p) { return (p - u.offset) * u.scale; }`,
  reference: (u, source) => moved(readOf(u), source),
  reads: (u, box) => straightReads(readOf(u), box),
};
