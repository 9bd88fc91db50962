/** Smaller copies of a picture: means over squares of pixels. */
import type { Kernel, Step, View } from '../core/accents/effect-spec.ts';
import { vec } from './helpers.ts';

export const shrink: Kernel = {
  id: 'shrink',
  stage: 'sample',
  taps: 64,
  uniforms: { cell: 2, reads: 2 },
  glsl: `
vec4 EFFECT(Shrink u, vec2 p) {
  vec4 sum = vec4(0.0);
  for (float j = 0.5; j < u.reads.y; j += 1.0) for (float i = 0.5; i < u.reads.x; i += 1.0) {
    sum += SRC(p + u.cell * (vec2(i, j) / u.reads - 0.5));
  }
  return sum / (u.reads.x * u.reads.y);
}`,
  reference(u, source) {
    const [cw, ch] = vec(u, 'cell');
    const [nx, ny] = vec(u, 'reads');
    const one = new Float64Array(4);
    return (x, y, out) => {
      out.fill(0);
      for (let j = 0.5; j < ny!; j++)
        for (let i = 0.5; i < nx!; i++) {
          source(x + cw! * (i / nx! - 0.5), y + ch! * (j / ny! - 0.5), one);
          for (let c = 0; c < 4; c++) out[c] = out[c]! + one[c]! / (nx! * ny!);
        }
    };
  },
};

/** Pixels of a target that is drawn at a share of a view. */
export const scaledSize = (view: View, scale: readonly [number, number] | undefined): View =>
  scale
    ? { width: Math.max(1, Math.round(view.width * scale[0])), height: Math.max(1, Math.round(view.height * scale[1])) }
    : view;

/** Steps that shrink a picture by about `dx` and `dy`, at most eight times at once. */
export function shrinkSteps(view: View, dx: number, dy: number): Step[] {
  const steps: Step[] = [];
  const aspect = view.width / view.height;
  let [x, y] = [1, 1];
  while (x < dx || y < dy) {
    const [fx, fy] = [Math.min(8, dx / x), Math.min(8, dy / y)];
    [x, y] = [x * fx, y * fy];
    const scale = [1 / x, 1 / y] as const;
    const size = scaledSize(view, scale);
    steps.push({
      kernel: 'shrink',
      scale,
      uniforms: {
        cell: [aspect / size.width, 1 / size.height],
        reads: [fx > 1 ? Math.max(2, Math.ceil(fx / 2)) : 1, fy > 1 ? Math.max(2, Math.ceil(fy / 2)) : 1],
      },
    });
  }
  return steps;
}

/** Down to one pixel: the mean of the picture. */
export const meanSteps = (view: View): Step[] => shrinkSteps(view, view.width, view.height);
