/** Kernels by which a subject is looked at: before checks or a colour, or with its edge drawn. No effects: never exported. */
import type { Kernel } from '../../core/accents/effect-spec.ts';
import { num, vec } from '../helpers.ts';

/** Squares of two colours in linear light, so many frame heights wide, in place of the picture. */
export const backdrop: Kernel = {
  id: 'backdrop',
  stage: 'colour',
  taps: 1,
  uniforms: { one: 3, other: 3, side: 1 },
  glsl: `
vec4 EFFECT(Backdrop u, vec4 c, vec2 p) {
  vec2 q = floor(p / u.side);
  float both = (q.x + q.y) * 0.5;
  return vec4(both - floor(both) < 0.25 ? u.one : u.other, c.a);
}`,
  reference(u, source) {
    const [one, other, side] = [vec(u, 'one'), vec(u, 'other'), num(u, 'side')];
    return (x, y, out) => {
      source(x, y, out);
      const both = (Math.floor(x / side) + Math.floor(y / side)) / 2;
      const colour = both - Math.floor(both) < 0.25 ? one : other;
      for (let c = 0; c < 3; c++) out[c] = colour[c]!;
    };
  },
};

/** A line of a colour where a layer changes between two places `reach` frame heights on either side. */
export const rim: Kernel = {
  id: 'rim',
  stage: 'sample',
  taps: 5,
  uniforms: { light: 3, reach: 1 },
  glsl: `
vec4 EFFECT(Rim u, vec2 p) {
  vec4 c = SRC(p);
  float l = LAYER0(p - vec2(u.reach, 0.0)).g;
  float r = LAYER0(p + vec2(u.reach, 0.0)).g;
  float t = LAYER0(p - vec2(0.0, u.reach)).g;
  float b = LAYER0(p + vec2(0.0, u.reach)).g;
  float apart = max(max(l, r), max(t, b)) - min(min(l, r), min(t, b));
  return vec4(mix(c.rgb, u.light, smoothstep(0.2, 0.6, apart)), c.a);
}`,
  reference(u, source, { layers }) {
    const [light, reach] = [vec(u, 'light'), num(u, 'reach')];
    const near = new Float64Array(4);
    return (x, y, out) => {
      const found = [
        [-reach, 0],
        [reach, 0],
        [0, -reach],
        [0, reach],
      ].map(([dx, dy]) => {
        layers[0]!(x + dx!, y + dy!, near);
        return near[1]!;
      });
      source(x, y, out);
      const t = Math.min(1, Math.max(0, (Math.max(...found) - Math.min(...found) - 0.2) / 0.4));
      const share = t * t * (3 - 2 * t);
      for (let c = 0; c < 3; c++) out[c] = out[c]! + share * (light[c]! - out[c]!);
    };
  },
};
