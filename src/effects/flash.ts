import type { EffectSpec } from '../core/accents/effect-spec.ts';
import { toLinear } from '../core/media/colour.ts';

export const flash: EffectSpec = {
  id: 'flash', version: 1, name: 'Flash', stage: 'colour', taps: 1,
  doc: 'Lifts or lowers the exposure in linear light, or mixes towards a colour.',
  params: {
    exposure: { label: 'Exposure', unit: 'stops', min: -8, max: 8, default: 0, identity: 0, doc: 'One stop doubles the light.' },
    mix: { label: 'Colour mix', unit: '%', min: 0, max: 100, default: 0, identity: 0, doc: 'How far the picture goes to the colour.' },
    red: { label: 'Red', unit: '%', min: 0, max: 100, default: 100, doc: 'Red of the colour, as displayed.' },
    green: { label: 'Green', unit: '%', min: 0, max: 100, default: 100, doc: 'Green of the colour, as displayed.' },
    blue: { label: 'Blue', unit: '%', min: 0, max: 100, default: 100, doc: 'Blue of the colour, as displayed.' },
  },
  uniforms: { gain: 1, tint: 4 },
  thumbnail: { exposure: 2 },
  resolve({ exposure, mix, red, green, blue }) {
    if (exposure === 0 && mix === 0) return null;
    return { gain: 2 ** exposure!, tint: [toLinear(red! / 100), toLinear(green! / 100), toLinear(blue! / 100), mix! / 100] };
  },
  glsl: `
vec4 EFFECT(Flash u, vec4 c, vec2 p) {
  return vec4(mix(c.rgb * u.gain, u.tint.rgb * c.a, u.tint.a), c.a);
}`,
  reference(u, source) {
    const gain = u['gain'] as number;
    const [r, g, b, mix] = u['tint'] as readonly number[];
    return (x, y, out) => {
      source(x, y, out);
      out[0] = out[0]! * gain * (1 - mix!) + r! * out[3]! * mix!;
      out[1] = out[1]! * gain * (1 - mix!) + g! * out[3]! * mix!;
      out[2] = out[2]! * gain * (1 - mix!) + b! * out[3]! * mix!;
    };
  },
};
