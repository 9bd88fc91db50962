import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { angleOf, placeX, placeY, radians, share, vec } from '../helpers.ts';

export const fold: EffectSpec = {
  id: 'fold',
  also: 'mirror kaleidoscope symmetry',
  version: 1,
  name: 'Fold',
  group: 'move',
  stage: 'sample',
  taps: 2,
  doc: 'Mirrors one side of a line onto the other.',
  params: {
    amount: share('Amount', 'How much of the mirrored side shows; the rest is the plain one.'),
    angle: angleOf('Direction of the line; 90 stands upright.'),
    side: {
      label: 'Kept side',
      unit: 'choice',
      min: 0,
      max: 1,
      default: 0,
      choices: ['one side', 'the other side'],
      doc: 'Which side is mirrored onto the other.',
    },
    centreX: placeX('Line'),
    centreY: placeY('Line'),
  },
  uniforms: { normal: 2, centre: 2, amount: 1 },
  thumbnail: { amount: 100, angle: 90 },
  resolve(p) {
    if (p['amount'] === 0) return null;
    const sign = Math.round(p['side']!) === 1 ? -1 : 1;
    const angle = radians(p['angle']!);
    return {
      normal: [-Math.sin(angle) * sign, Math.cos(angle) * sign],
      centre: [p['centreX']! / 100, p['centreY']! / 100],
      amount: p['amount']! / 100,
    };
  },
  glsl: `
vec4 EFFECT(Fold u, vec2 p) {
  float far = dot(p - u.centre, u.normal);
  vec4 plain = SRC(p);
  return far >= 0.0 ? plain : mix(plain, SRC(p - 2.0 * far * u.normal), u.amount);
}`,
  reference(u, source) {
    const [nx, ny] = vec(u, 'normal');
    const [cx, cy] = vec(u, 'centre');
    const amount = u['amount'] as number;
    const other = new Float64Array(4);
    return (x, y, out) => {
      const far = (x - cx!) * nx! + (y - cy!) * ny!;
      source(x, y, out);
      if (far >= 0) return;
      source(x - 2 * far * nx!, y - 2 * far * ny!, other);
      for (let c = 0; c < 4; c++) out[c] = out[c]! * (1 - amount) + other[c]! * amount;
    };
  },
};
