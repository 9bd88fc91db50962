import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { gradientNoise } from '../../core/base/hash.ts';
import { num, radians, seed24, vec } from '../helpers.ts';

/**
 * Turning hues at equal luminance: the matrix of `hue-rotate`.
 * Source: W3C Filter Effects Module Level 1, section on feColorMatrix type hueRotate.
 */
export function hueMatrix(angle: number): number[] {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return [
    0.213 + c * 0.787 - s * 0.213,
    0.715 - c * 0.715 - s * 0.715,
    0.072 - c * 0.072 + s * 0.928,
    0.213 - c * 0.213 + s * 0.143,
    0.715 + c * 0.285 + s * 0.14,
    0.072 - c * 0.072 - s * 0.283,
    0.213 - c * 0.213 - s * 0.787,
    0.715 - c * 0.715 + s * 0.715,
    0.072 + c * 0.928 + s * 0.072,
  ];
}

export const hue: EffectSpec = {
  id: 'hue',
  also: 'rainbow colour cycle shift',
  version: 1,
  name: 'Hue drift',
  group: 'colour',
  stage: 'colour',
  taps: 1,
  doc: 'Turns hues: everywhere alike, and by a cloudy field that drifts.',
  params: {
    turn: {
      label: 'Rotation',
      unit: '°',
      min: -360,
      max: 360,
      default: 0,
      identity: 0,
      scales: false,
      doc: 'Turn of all hues.',
    },
    amount: { label: 'Drift', unit: '°', min: 0, max: 360, default: 0, identity: 0, doc: 'Largest turn by the field.' },
    size: {
      label: 'Size',
      unit: '%',
      min: 2,
      max: 300,
      default: 60,
      doc: 'Size of the clouds in % of the frame height.',
    },
    rate: { label: 'Rate', unit: 'Hz', min: 0, max: 30, default: 0.5, doc: 'How fast the clouds change.' },
  },
  uniforms: { turn: 2, field: 2, seed: 1 },
  thumbnail: { amount: 120 },
  resolve(p, { seed, summed }) {
    return p['turn'] === 0 && p['amount'] === 0
      ? null
      : {
          turn: [radians(p['turn']!), radians(p['amount']!)],
          field: [100 / p['size']!, summed('rate')],
          seed: seed24(seed),
        };
  },
  glsl: `
vec4 EFFECT(Hue u, vec4 c, vec2 p) {
  float a = u.turn.x;
  if (u.turn.y > 0.0) a += u.turn.y * gradientNoise(vec3(p * u.field.x, u.field.y), uint(u.seed)).x;
  float k = cos(a), s = sin(a);
  return vec4(max(vec3(0.0), vec3(
    dot(c.rgb, vec3(0.213 + k * 0.787 - s * 0.213, 0.715 - k * 0.715 - s * 0.715, 0.072 - k * 0.072 + s * 0.928)),
    dot(c.rgb, vec3(0.213 - k * 0.213 + s * 0.143, 0.715 + k * 0.285 + s * 0.140, 0.072 - k * 0.072 - s * 0.283)),
    dot(c.rgb, vec3(0.213 - k * 0.213 - s * 0.787, 0.715 - k * 0.715 + s * 0.715, 0.072 + k * 0.928 + s * 0.072)))), c.a);
}`,
  reference(u, source) {
    const [turn, amount] = vec(u, 'turn');
    const [per, z] = vec(u, 'field');
    const seed = num(u, 'seed');
    const n: [number, number] = [0, 0];
    const steady = hueMatrix(turn!);
    return (x, y, out) => {
      source(x, y, out);
      if (amount! > 0) gradientNoise(x * per!, y * per!, z!, seed, n);
      const m = amount! > 0 ? hueMatrix(turn! + amount! * n[0]) : steady;
      const [r, g, b] = [out[0]!, out[1]!, out[2]!];
      for (let c = 0; c < 3; c++) out[c] = Math.max(0, r * m[3 * c]! + g * m[3 * c + 1]! + b * m[3 * c + 2]!);
    };
  },
};
