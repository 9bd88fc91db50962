import type { EffectSpec } from '../core/accents/effect-spec.ts';

export const punch: EffectSpec = {
  id: 'punch', version: 1, name: 'Punch', stage: 'move', taps: 1,
  doc: 'Enlarges the picture about a focus point, with an optional roll.',
  params: {
    zoom: { label: 'Zoom', unit: '%', min: 50, max: 400, default: 100, identity: 100, doc: 'Size of the picture; 100 leaves it as it is.' },
    roll: { label: 'Roll', unit: '°', min: -180, max: 180, default: 0, identity: 0, doc: 'Clockwise turn about the focus.' },
    focusX: { label: 'Focus x', unit: '%', min: -100, max: 100, default: 0, doc: 'Focus right of the middle, in % of the frame height.' },
    focusY: { label: 'Focus y', unit: '%', min: -50, max: 50, default: 0, doc: 'Focus below the middle, in % of the frame height.' },
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
  reference(u, source) {
    const [fx, fy] = u['focus'] as readonly number[];
    const [c, s] = u['turn'] as readonly number[];
    return (x, y, out) => {
      const dx = x - fx!;
      const dy = y - fy!;
      source(fx! + c! * dx + s! * dy, fy! + c! * dy - s! * dx, out);
    };
  },
};
