/** A layer laid over the picture, moved, scaled and blended. */
import type { Kernel, Layer, Step } from '../../core/accents/effect-spec.ts';
import { vec } from '../helpers.ts';

export const BLENDS = ['mix', 'add', 'screen', 'lighten', 'darken', 'multiply', 'difference'] as const;

const blended = (mode: number, a: number, b: number): number =>
  [b, a + b, a + b - Math.min(1, a) * Math.min(1, b), Math.max(a, b), Math.min(a, b), a * b, Math.abs(a - b)][mode]!;

export const overlay: Kernel = {
  id: 'overlay',
  stage: 'sample',
  taps: 1,
  uniforms: { place: 3, blend: 2 },
  // place: offset and one over the size; blend: opacity and mode, in linear light.
  glsl: `
vec4 EFFECT(Overlay u, vec2 p) {
  vec4 a = SRC(p);
  vec3 b = LAYER0((p - u.place.xy) * u.place.z).rgb;
  vec3 m = b;
  if (u.blend.y > 5.5) m = abs(a.rgb - b);
  else if (u.blend.y > 4.5) m = a.rgb * b;
  else if (u.blend.y > 3.5) m = min(a.rgb, b);
  else if (u.blend.y > 2.5) m = max(a.rgb, b);
  else if (u.blend.y > 1.5) m = a.rgb + b - min(a.rgb, 1.0) * min(b, 1.0);
  else if (u.blend.y > 0.5) m = a.rgb + b;
  return vec4(mix(a.rgb, m, u.blend.x), a.a);
}`,
  reference(u, source, { layers }) {
    const [ox, oy, scale] = vec(u, 'place');
    const [opacity, mode] = vec(u, 'blend');
    const one = new Float64Array(4);
    return (x, y, out) => {
      layers[0]!((x - ox!) * scale!, (y - oy!) * scale!, one);
      source(x, y, out);
      for (let c = 0; c < 3; c++) out[c] = out[c]! * (1 - opacity!) + blended(mode!, out[c]!, one[c]!) * opacity!;
    };
  },
};

/** One overlay for each copy that an effect has as a layer. */
export const overlaySteps = (
  layers: readonly Layer[],
  place: (i: number) => { place: [number, number, number]; blend: [number, number] },
): Step[] => layers.map((layer, i) => ({ kernel: 'overlay', uniforms: place(i), layers: [layer] }));
