import type { EffectSpec, Kernel, Uniforms } from '../../core/accents/effect-spec.ts';
import { luminance } from '../../core/base/colour.ts';
import { colourOf, lightOf, num, portion, share, vec } from '../helpers.ts';
import { meanSteps } from '../shrink.ts';

/** Mean light to which an adapting flash is fitted: that of a middling picture. Common practice, no source. */
const MIDDLING = 0.18;

const UNIFORMS = { gain: 1, tint: 4 } as const;

const lifted = (
  u: Uniforms,
  source: Parameters<EffectSpec['reference']>[1],
  gain: number,
): ReturnType<EffectSpec['reference']> => {
  const [r, g, b, mix] = vec(u, 'tint');
  return (x, y, out) => {
    source(x, y, out);
    out[0] = out[0]! * gain * (1 - mix!) + r! * out[3]! * mix!;
    out[1] = out[1]! * gain * (1 - mix!) + g! * out[3]! * mix!;
    out[2] = out[2]! * gain * (1 - mix!) + b! * out[3]! * mix!;
  };
};

export const flash: EffectSpec = {
  id: 'flash',
  also: 'white strobe light exposure blink',
  version: 2,
  name: 'Flash',
  group: 'colour',
  stage: 'colour',
  taps: 1,
  doc: 'Lifts or lowers the exposure in linear light, or mixes towards a colour. Adapting, it lifts bright pictures less and dark ones more.',
  params: {
    exposure: {
      label: 'Exposure',
      unit: 'stops',
      min: -8,
      max: 8,
      default: 0,
      identity: 0,
      doc: 'One stop doubles the light.',
    },
    mix: share('Colour mix', 'How far the picture goes to the colour.'),
    ...colourOf(100, 100, 100),
    adapt: portion('Adapt', 'How far the lift is fitted to the brightness of the picture at the hit.'),
  },
  uniforms: UNIFORMS,
  thumbnail: { exposure: 2 },
  resolve({ exposure, mix, red, green, blue, adapt }) {
    if (exposure === 0 && mix === 0) return null;
    return {
      gain: 2 ** exposure!,
      tint: [...lightOf({ red: red!, green: green!, blue: blue! }), mix! / 100],
      adapt: adapt! / 100,
    };
  },
  measures: true,
  copies: ({ adapt, exposure }, { age }) => (adapt! > 0 && exposure! > 0 ? [{ shift: -Math.round(age) }] : []),
  expand: (_, view, self) =>
    self.layers?.length
      ? [{ ...self, kernel: 'adapted', layers: [{ picture: self.layers[0]!.picture, steps: meanSteps(view) }] }]
      : [self],
  glsl: `
vec4 EFFECT(Flash u, vec4 c, vec2 p) {
  return vec4(mix(c.rgb * u.gain, u.tint.rgb * c.a, u.tint.a), c.a);
}`,
  reference: (u, source) => lifted(u, source, num(u, 'gain')),
};

/** The flash whose lift follows the mean light of its layer. */
export const adapted: Kernel = {
  id: 'adapted',
  stage: 'colour',
  taps: 1,
  uniforms: { ...UNIFORMS, adapt: 1 },
  glsl: `
vec4 EFFECT(Adapted u, vec4 c, vec2 p) {
  float mean = dot(LAYER0(vec2(0.0)).rgb, vec3(0.2126, 0.7152, 0.0722));
  float fitted = clamp(1.0 + log2(${MIDDLING} / max(mean, 0.005)) * 0.25, 0.25, 2.0);
  float gain = exp2(log2(u.gain) * mix(1.0, fitted, u.adapt));
  return vec4(mix(c.rgb * gain, u.tint.rgb * c.a, u.tint.a), c.a);
}`,
  reference(u, source, { layers }) {
    const pixel = new Float64Array(4);
    layers[0]!(0, 0, pixel);
    const mean = luminance(pixel[0]!, pixel[1]!, pixel[2]!);
    const fitted = Math.min(2, Math.max(0.25, 1 + Math.log2(MIDDLING / Math.max(mean, 0.005)) * 0.25));
    const adapt = num(u, 'adapt');
    return lifted(u, source, 2 ** (Math.log2(num(u, 'gain')) * (1 - adapt + fitted * adapt)));
  },
};
