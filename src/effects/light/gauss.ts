/**
 * Gaussian blur of any radius at about the same cost: wide ones are drawn on a smaller copy.
 * Separable, as any Gaussian is; weights from the normal density.
 */
import type { Kernel, Step, View } from '../../core/accents/effect-spec.ts';
import { num, vec } from '../helpers.ts';
import { shrinkSteps } from '../shrink.ts';

/** Standard deviations up to which weights are summed. */
const REACH = 3.4;
/** Largest standard deviation, in pixels, that is drawn as it is. */
const WIDEST = 4;

/** One direction: `step` is one pixel in frame heights, `sigma` the deviation in pixels. */
export const gauss: Kernel = {
  id: 'gauss',
  stage: 'sample',
  taps: 33,
  uniforms: { step: 2, sigma: 1 },
  // Two neighbouring pixels are read at once, between them, where the weights say.
  glsl: `
vec4 EFFECT(Gauss u, vec2 p) {
  vec4 sum = SRC(p);
  float total = 1.0;
  float k = -0.5 / (u.sigma * u.sigma);
  float last = ceil(u.sigma * ${REACH});
  for (float i = 1.0; i <= last; i += 2.0) {
    float a = exp(k * i * i);
    float b = exp(k * (i + 1.0) * (i + 1.0));
    float w = a + b;
    vec2 off = u.step * (i + b / w);
    sum += (SRC(p + off) + SRC(p - off)) * w;
    total += 2.0 * w;
  }
  return sum / total;
}`,
  reference(u, source) {
    const [sx, sy] = vec(u, 'step');
    const sigma = num(u, 'sigma');
    const last = Math.ceil(sigma * REACH);
    const one = new Float64Array(4);
    return (x, y, out) => {
      out.fill(0);
      let total = 0;
      for (let i = -last - ((last + 1) % 2 === 0 ? 0 : 1); i <= last + ((last + 1) % 2 === 0 ? 0 : 1); i++) {
        const w = Math.exp((-0.5 * i * i) / (sigma * sigma));
        source(x + sx! * i, y + sy! * i, one);
        for (let c = 0; c < 4; c++) out[c] = out[c]! + one[c]! * w;
        total += w;
      }
      for (let c = 0; c < 4; c++) out[c] = out[c]! / total;
    };
  },
};

/** Steps of a blur with these standard deviations, in frame heights. */
export function gaussSteps(sigmaX: number, sigmaY: number, view: View): Step[] {
  const px = [sigmaX * view.height, sigmaY * view.height];
  const by = px.map((sigma) => 2 ** Math.max(0, Math.ceil(Math.log2(sigma / WIDEST))));
  const steps = shrinkSteps(view, by[0]!, by[1]!);
  const scale = by[0]! > 1 || by[1]! > 1 ? ([1 / by[0]!, 1 / by[1]!] as const) : undefined;
  px.forEach((sigma, axis) => {
    const d = by[axis]!;
    // Shrinking is a mean over d pixels, growing again joins their middles by lines: both blur a little already.
    const left = (sigma / d) ** 2 - (d > 1 ? 1 / 12 + 1 / 6 : 0);
    if (left <= 0.01) return;
    const pixel =
      axis === 0
        ? view.width / view.height / Math.max(1, Math.round(view.width / d))
        : 1 / Math.max(1, Math.round(view.height / d));
    steps.push({
      kernel: 'gauss',
      uniforms: { step: axis === 0 ? [pixel, 0] : [0, pixel], sigma: Math.sqrt(left) },
      ...(scale && { scale }),
    });
  });
  return steps;
}
