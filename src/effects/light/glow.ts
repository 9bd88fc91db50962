import type { EffectSpec, Kernel, Step, Uniforms } from '../../core/accents/effect-spec.ts';
import { luminance, toLinear } from '../../core/base/colour.ts';
import { colourOf, lightOf, NO_KERNEL, vec } from '../helpers.ts';
import { gaussSteps } from './gauss.ts';

/** Keeps what is brighter than a threshold, with a soft knee. */
export const bright: Kernel = {
  id: 'bright',
  stage: 'colour',
  taps: 1,
  uniforms: { range: 2 },
  glsl: `
vec4 EFFECT(Bright u, vec4 c, vec2 p) {
  return vec4(c.rgb * smoothstep(u.range.x, u.range.y, dot(c.rgb, vec3(0.2126, 0.7152, 0.0722))), c.a);
}`,
  reference(u, source) {
    const [low, high] = vec(u, 'range');
    return (x, y, out) => {
      source(x, y, out);
      const t = Math.min(1, Math.max(0, (luminance(out[0]!, out[1]!, out[2]!) - low!) / (high! - low!)));
      for (let c = 0; c < 3; c++) out[c] = out[c]! * t * t * (3 - 2 * t);
    };
  },
};

/** Light of a layer added to the picture. */
export const lit: Kernel = {
  id: 'lit',
  stage: 'sample',
  taps: 1,
  uniforms: { light: 3 },
  glsl: `
vec4 EFFECT(Lit u, vec2 p) {
  vec4 c = SRC(p);
  return vec4(c.rgb + LAYER0(p).rgb * u.light, c.a);
}`,
  reference(u, source, { layers }) {
    const light = vec(u, 'light');
    const one = new Float64Array(4);
    return (x, y, out) => {
      layers[0]!(x, y, one);
      source(x, y, out);
      for (let c = 0; c < 3; c++) out[c] = out[c]! + one[c]! * light[c]!;
    };
  },
};

/** Displayed threshold in % to the knee in linear light. */
export const knee = (threshold: number): [number, number] => [
  toLinear(Math.max(0, threshold / 100 - 0.1)) - 1e-6,
  toLinear(Math.min(1.2, threshold / 100 + 0.1)),
];

/** What is bright, spread by some steps, as light over the picture. Uniforms `range` and `light`. */
export const shining = (u: Uniforms, spread: readonly Step[]): Step[] => [
  {
    kernel: 'lit',
    uniforms: { light: vec(u, 'light') },
    layers: [{ picture: 'below', steps: [{ kernel: 'bright', uniforms: { range: vec(u, 'range') } }, ...spread] }],
  },
];

export const glow: EffectSpec = {
  id: 'glow',
  also: 'bloom light halo shine',
  version: 1,
  name: 'Glow',
  group: 'light',
  ...NO_KERNEL,
  doc: 'What is bright shines over what is beside it; stretched in one axis it becomes a wide streak of light.',
  params: {
    gain: {
      label: 'Gain',
      unit: '%',
      min: 0,
      max: 1000,
      default: 0,
      identity: 0,
      doc: 'How much of the light is added.',
    },
    threshold: {
      label: 'Threshold',
      unit: '%',
      min: 0,
      max: 100,
      default: 60,
      doc: 'Displayed brightness from which a place shines.',
    },
    radius: {
      label: 'Radius',
      unit: '%',
      min: 0.2,
      max: 100,
      default: 10,
      doc: 'How far the light spreads, in % of the frame height.',
    },
    stretch: {
      label: 'Stretch',
      unit: 'ratio',
      min: -30,
      max: 30,
      default: 0,
      doc: 'Times wider than high when above 0, higher than wide when below.',
    },
    ...colourOf(100, 100, 100),
  },
  uniforms: { sigma: 2, range: 2, light: 3 },
  thumbnail: { gain: 150, threshold: 45 },
  resolve(p) {
    if (p['gain'] === 0) return null;
    const sigma = p['radius']! / 200;
    const stretch = p['stretch']!;
    return {
      sigma: [sigma * (1 + Math.max(0, stretch)), sigma * (1 + Math.max(0, -stretch))],
      range: knee(p['threshold']!),
      light: lightOf(p, p['gain']! / 100),
    };
  },
  expand(u, view) {
    const [sx, sy] = vec(u, 'sigma');
    return shining(u, gaussSteps(sx!, sy!, view));
  },
};
