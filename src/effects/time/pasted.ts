/** A picture pasted over another, all of it or its subject alone. */
import type { Image, Kernel } from '../../core/accents/effect-spec.ts';
import { num, vec } from '../helpers.ts';

/** place: offset and one over the size. */
const UNIFORMS = { place: 3, opacity: 1 } as const;

const glsl = (share: string): string => `
  vec4 below = SRC(p);
  vec2 q = (p - u.place.xy) * u.place.z;
  if (abs(q.x) > 0.5 * ASPECT || abs(q.y) > 0.5) return below;
  return vec4(mix(below.rgb, LAYER0(q).rgb, u.opacity${share}), below.a);
}`;

const reference =
  (shared: (layers: readonly Image[], x: number, y: number) => number): Kernel['reference'] =>
  (u, source, { layers, view }) => {
    const [ox, oy, scale] = vec(u, 'place');
    const opacity = num(u, 'opacity');
    const one = new Float64Array(4);
    return (x, y, out) => {
      source(x, y, out);
      const [qx, qy] = [(x - ox!) * scale!, (y - oy!) * scale!];
      if (Math.abs(qx) > (0.5 * view.width) / view.height || Math.abs(qy) > 0.5) return;
      const share = opacity * shared(layers, qx, qy);
      layers[0]!(qx, qy, one);
      for (let c = 0; c < 3; c++) out[c] = out[c]! * (1 - share) + one[c]! * share;
    };
  };

/** Cut off at its own borders. */
export const pasted: Kernel = {
  id: 'pasted',
  stage: 'sample',
  taps: 1,
  uniforms: UNIFORMS,
  glsl: `\nvec4 EFFECT(Pasted u, vec2 p) {${glsl('')}`,
  reference: reference(() => 1),
};

/** The same as far as its matte, its second layer, says that it is the subject. */
export const matted: Kernel = {
  id: 'matted',
  stage: 'sample',
  taps: 1,
  uniforms: UNIFORMS,
  glsl: `\nvec4 EFFECT(Matted u, vec2 p) {${glsl(' * min(LAYER1(q).g, 1.0)')}`,
  reference: reference((layers, x, y) => {
    const matte = new Float64Array(4);
    layers[1]!(x, y, matte);
    return Math.min(1, matte[1]!);
  }),
};
