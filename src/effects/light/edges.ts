import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { fromLinear, luminance } from '../../core/base/colour.ts';
import { colourOf, lightOf, num, share, vec } from '../helpers.ts';

export const edges: EffectSpec = {
  id: 'edges',
  also: 'outline neon contour',
  version: 1,
  name: 'Edge light',
  group: 'light',
  stage: 'sample',
  taps: 10,
  doc: 'Edges glow and are laid over the picture as light; the glowing copy may be larger or smaller.',
  params: {
    brightness: share('Brightness', 'How bright the edges are.', { max: 400 }),
    width: {
      label: 'Width',
      unit: '%',
      min: 0.05,
      max: 5,
      default: 0.6,
      doc: 'Width of the edges in % of the frame height.',
    },
    gamma: {
      label: 'Gamma',
      unit: 'ratio',
      min: 0.2,
      max: 5,
      default: 1,
      doc: 'Over 1 leaves strong edges only, under 1 lifts weak ones.',
    },
    size: { label: 'Copy size', unit: '%', min: 20, max: 500, default: 100, doc: 'Size of the glowing copy.' },
    plain: share('Picture', 'How much of the picture itself stays.', { default: 100, identity: 100 }),
    ...colourOf(100, 100, 100),
  },
  uniforms: { light: 3, shape: 3, plain: 1 },
  thumbnail: { brightness: 200, plain: 35 },
  resolve(p) {
    if (p['brightness'] === 0 && p['plain'] === 100) return null;
    return {
      light: lightOf(p, p['brightness']! / 100),
      shape: [p['width']! / 100, p['gamma']!, 100 / p['size']!],
      plain: p['plain']! / 100,
    };
  },
  // Gradient of the displayed brightness by the 3x3 operator of I. Sobel and G. Feldman (1968), as quoted in handbooks.
  prelude: `
float edgeShown(vec4 c) { return fromLinear(dot(c.rgb, vec3(0.2126, 0.7152, 0.0722))); }`,
  glsl: `
vec4 EFFECT(Edges u, vec2 p) {
  vec2 q = p * u.shape.z;
  float w = u.shape.x;
  float a = edgeShown(SRC(q + vec2(-w, -w))), b = edgeShown(SRC(q + vec2(0.0, -w))), c = edgeShown(SRC(q + vec2(w, -w)));
  float d = edgeShown(SRC(q + vec2(-w, 0.0))), f = edgeShown(SRC(q + vec2(w, 0.0)));
  float g = edgeShown(SRC(q + vec2(-w, w))), h = edgeShown(SRC(q + vec2(0.0, w))), i = edgeShown(SRC(q + vec2(w, w)));
  float s = length(vec2(c + 2.0 * f + i - a - 2.0 * d - g, g + 2.0 * h + i - a - 2.0 * b - c)) * 0.25;
  vec3 light = min(vec3(1.0), pow(min(1.0, s * 2.0), u.shape.y) * u.light);
  vec4 below = SRC(p);
  vec3 kept = below.rgb * u.plain;
  return vec4(kept + light - kept * light, below.a);
}`,
  reference(u, source) {
    const light = vec(u, 'light');
    const [w, gamma, scale] = vec(u, 'shape');
    const plain = num(u, 'plain');
    const one = new Float64Array(4);
    return (x, y, out) => {
      const [qx, qy] = [x * scale!, y * scale!];
      const at = (i: number, j: number): number => {
        source(qx + i * w!, qy + j * w!, one);
        return fromLinear(luminance(one[0]!, one[1]!, one[2]!));
      };
      const [a, b, c, d, f, g, h, i] = [
        at(-1, -1),
        at(0, -1),
        at(1, -1),
        at(-1, 0),
        at(1, 0),
        at(-1, 1),
        at(0, 1),
        at(1, 1),
      ];
      const s = Math.hypot(c + 2 * f + i - a - 2 * d - g, g + 2 * h + i - a - 2 * b - c) * 0.25;
      source(x, y, out);
      for (let k = 0; k < 3; k++) {
        const lit = Math.min(1, Math.min(1, s * 2) ** gamma! * light[k]!);
        const kept = out[k]! * plain;
        out[k] = kept + lit - kept * lit;
      }
    };
  },
};
