import type { EffectSpec, Uniforms } from '../../core/accents/effect-spec.ts';
import { moved, placeX, placeY, straightReads, type Read, vec } from '../helpers.ts';

const readOf = (u: Uniforms): Read => {
  const [fx, fy] = vec(u, 'focus');
  const [c, s] = vec(u, 'turn');
  return (x, y, q) => {
    q[0] = fx! + c! * (x - fx!) + s! * (y - fy!);
    q[1] = fy! + c! * (y - fy!) - s! * (x - fx!);
  };
};

export const punch: EffectSpec = {
  id: 'punch',
  also: 'zoom push in scale bump enlarge crash',
  version: 1,
  name: 'Punch',
  group: 'move',
  stage: 'move',
  taps: 1,
  doc: 'Enlarges the picture about a focus point, with an optional roll.',
  params: {
    zoom: {
      label: 'Zoom',
      unit: '%',
      min: 50,
      max: 400,
      default: 100,
      identity: 100,
      doc: 'Size of the picture; 100 leaves it as it is.',
    },
    roll: {
      label: 'Roll',
      unit: '°',
      min: -180,
      max: 180,
      default: 0,
      identity: 0,
      mirrors: 'sign',
      doc: 'Clockwise turn about the focus.',
    },
    focusX: placeX('Focus'),
    focusY: placeY('Focus'),
  },
  uniforms: { focus: 2, turn: 2 },
  thumbnail: { zoom: 140, roll: 4 },
  resolve({ zoom, roll, focusX, focusY }) {
    if (zoom === 100 && roll === 0) return null;
    const scale = 100 / zoom!;
    const angle = (roll! * Math.PI) / 180;
    return { focus: [focusX! / 100, focusY! / 100], turn: [Math.cos(angle) * scale, Math.sin(angle) * scale] };
  },
  glsl: `
vec2 EFFECT(Punch u, vec2 p) {
  vec2 d = p - u.focus;
  return u.focus + vec2(u.turn.x * d.x + u.turn.y * d.y, u.turn.x * d.y - u.turn.y * d.x);
}`,
  reference: (u, source) => moved(readOf(u), source),
  enlarge: (factor) => ({ focus: [0, 0], turn: [1 / factor, 0] }),
  reads: (u, box) => straightReads(readOf(u), box),
};
