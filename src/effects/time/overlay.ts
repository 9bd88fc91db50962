/** A layer laid over the picture, moved, scaled and blended. */
import type { Kernel, Layer, Step } from '../../core/accents/effect-spec.ts';
import { fromLinear, toLinear } from '../../core/base/colour.ts';
import { vec } from '../helpers.ts';

/** How two pictures are joined: in linear light but for the last two, which are made for displayed values. */
export const BLENDS = [
  'mix',
  'add',
  'screen',
  'lighten',
  'darken',
  'multiply',
  'difference',
  'overlay',
  'soft light',
] as const;

/** Of displayed values 0-1: W3C, Compositing and Blending Level 1, 10.1.4 (overlay) and 10.1.12 (soft-light). */
const hardLight = (b: number, s: number): number => (s <= 0.5 ? b * 2 * s : b + 2 * s - 1 - b * (2 * s - 1));
const softLight = (b: number, s: number): number => {
  if (s <= 0.5) return b - (1 - 2 * s) * b * (1 - b);
  const d = b <= 0.25 ? ((16 * b - 12) * b + 4) * b : Math.sqrt(b);
  return b + (2 * s - 1) * (d - b);
};

/** The light of `b` laid over `a`. */
export function blended(mode: number, a: number, b: number): number {
  if (mode < 7)
    return [b, a + b, a + b - Math.min(1, a) * Math.min(1, b), Math.max(a, b), Math.min(a, b), a * b, Math.abs(a - b)][
      mode
    ]!;
  const [below, over] = [a, b].map((v) => Math.min(1, Math.max(0, fromLinear(v)))) as [number, number];
  return toLinear(mode === 7 ? hardLight(over, below) : softLight(below, over));
}

/** GLSL of {@link blended}. */
export const BLEND = `
float shownBlend(float mode, float a, float b) {
  float below = clamp(fromLinear(a), 0.0, 1.0);
  float over = clamp(fromLinear(b), 0.0, 1.0);
  float v = 0.0;
  if (mode < 7.5) {
    v = below <= 0.5 ? over * 2.0 * below : over + 2.0 * below - 1.0 - over * (2.0 * below - 1.0);
  } else if (over <= 0.5) {
    v = below - (1.0 - 2.0 * over) * below * (1.0 - below);
  } else {
    float d = below <= 0.25 ? ((16.0 * below - 12.0) * below + 4.0) * below : sqrt(below);
    v = below + (2.0 * over - 1.0) * (d - below);
  }
  return toLinear(v);
}
vec3 blended(float mode, vec3 a, vec3 b) {
  if (mode > 6.5) return vec3(shownBlend(mode, a.r, b.r), shownBlend(mode, a.g, b.g), shownBlend(mode, a.b, b.b));
  if (mode > 5.5) return abs(a - b);
  if (mode > 4.5) return a * b;
  if (mode > 3.5) return min(a, b);
  if (mode > 2.5) return max(a, b);
  if (mode > 1.5) return a + b - min(a, 1.0) * min(b, 1.0);
  if (mode > 0.5) return a + b;
  return b;
}`;

export const overlay: Kernel = {
  id: 'overlay',
  stage: 'sample',
  taps: 1,
  uniforms: { place: 3, blend: 2 },
  prelude: BLEND,
  // place: offset and one over the size; blend: opacity and mode.
  glsl: `
vec4 EFFECT(Overlay u, vec2 p) {
  vec4 a = SRC(p);
  vec3 m = blended(u.blend.y, a.rgb, LAYER0((p - u.place.xy) * u.place.z).rgb);
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
