import type { EffectSpec, Image } from '../core/accents/effect-spec.ts';

const MODES = ['angle', 'radial'] as const;

export const split: EffectSpec = {
  id: 'split', version: 1, name: 'Colour split', stage: 'sample', taps: 3,
  doc: 'Shifts red and blue apart from green, along an angle or outwards from a centre.',
  params: {
    amount: { label: 'Amount', unit: '%', min: -30, max: 30, default: 0, identity: 0, doc: 'How far red and blue each lie from green, in % of the frame height.' },
    mode: { label: 'Direction', unit: 'choice', min: 0, max: 1, default: 0, choices: MODES, doc: 'Along one angle, or outwards from the centre.' },
    angle: { label: 'Angle', unit: '°', min: -360, max: 360, default: 0, doc: 'Direction of red; 0 is right, 90 is down.' },
    centreX: { label: 'Centre x', unit: '%', min: -100, max: 100, default: 0, doc: 'Right of the middle, in % of the frame height.' },
    centreY: { label: 'Centre y', unit: '%', min: -50, max: 50, default: 0, doc: 'Below the middle, in % of the frame height.' },
    falloff: { label: 'Falloff', unit: '%', min: 1, max: 300, default: 50, doc: 'Distance from the centre at which a radial shift is full.' },
    invert: { label: 'Falloff runs', unit: 'choice', min: 0, max: 1, default: 0, choices: ['outwards', 'inwards'], doc: 'Full at the rim or full at the centre.' },
  },
  uniforms: { shift: 2, centre: 2, radial: 3 },
  thumbnail: { amount: 3, mode: 1 },
  resolve(p) {
    if (p['amount'] === 0) return null;
    const amount = p['amount']! / 100;
    const angle = (p['angle']! * Math.PI) / 180;
    const radial = Math.round(p['mode']!) === 1;
    return {
      shift: radial ? [amount, 0] : [Math.cos(angle) * amount, Math.sin(angle) * amount],
      centre: [p['centreX']! / 100, p['centreY']! / 100],
      radial: [radial ? 1 : 0, 100 / p['falloff']!, Math.round(p['invert']!)],
    };
  },
  glsl: `
vec4 EFFECT(Split u, vec2 p) {
  vec2 shift = u.shift;
  if (u.radial.x > 0.5) {
    vec2 d = p - u.centre;
    float r = length(d);
    float w = min(1.0, r * u.radial.y);
    if (u.radial.z > 0.5) w = 1.0 - w;
    shift = r > 0.0 ? d / r * (u.shift.x * w) : vec2(0.0);
  }
  vec4 mid = SRC(p);
  return vec4(SRC(p - shift).r, mid.g, SRC(p + shift).b, mid.a);
}`,
  reference(u, source) {
    const [sx, sy] = u['shift'] as readonly number[];
    const [cx, cy] = u['centre'] as readonly number[];
    const [radial, perDistance, inwards] = u['radial'] as readonly number[];
    const side = new Float64Array(4);
    const image: Image = (x, y, out) => {
      let dx = sx!;
      let dy = sy!;
      if (radial! > 0.5) {
        const rx = x - cx!;
        const ry = y - cy!;
        const r = Math.hypot(rx, ry);
        let w = Math.min(1, r * perDistance!);
        if (inwards! > 0.5) w = 1 - w;
        dx = r > 0 ? (rx / r) * sx! * w : 0;
        dy = r > 0 ? (ry / r) * sx! * w : 0;
      }
      source(x - dx, y - dy, side);
      const red = side[0]!;
      source(x + dx, y + dy, side);
      const blue = side[2]!;
      source(x, y, out);
      out[0] = red;
      out[2] = blue;
    };
    return image;
  },
};
