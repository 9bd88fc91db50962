import type { EffectSpec } from '../../core/accents/effect-spec.ts';
import { fromLinear, toLinear } from '../../core/base/colour.ts';
import { vec } from '../helpers.ts';

export const levels: EffectSpec = {
  id: 'levels',
  also: 'exposure brightness contrast gamma fade dark black',
  version: 1,
  name: 'Levels',
  group: 'colour',
  stage: 'colour',
  taps: 1,
  doc: 'Black point, white point and middle: what is darker becomes black, what is brighter white.',
  params: {
    black: {
      label: 'Black point',
      unit: '%',
      min: -100,
      max: 95,
      default: 0,
      identity: 0,
      doc: 'Displayed value that becomes black; raised, the picture darkens; below 0, blacks turn grey.',
    },
    white: {
      label: 'White point',
      unit: '%',
      min: 5,
      max: 300,
      default: 100,
      identity: 100,
      doc: 'Displayed value that becomes white.',
    },
    middle: {
      label: 'Gamma',
      unit: 'ratio',
      min: 0.1,
      max: 10,
      default: 1,
      identity: 1,
      doc: 'Over 1 lifts the middle tones, under 1 lowers them.',
    },
  },
  uniforms: { range: 3 },
  thumbnail: { black: 40 },
  resolve(p) {
    if (p['black'] === 0 && p['white'] === 100 && p['middle'] === 1) return null;
    const black = p['black']! / 100;
    return { range: [black, 1 / Math.max(0.02, p['white']! / 100 - black), 1 / p['middle']!] };
  },
  glsl: `
vec4 EFFECT(Levels u, vec4 c, vec2 p) {
  vec3 v = (vec3(fromLinear(c.r), fromLinear(c.g), fromLinear(c.b)) - u.range.x) * u.range.y;
  v = pow(max(v, vec3(0.0)), vec3(u.range.z));
  return vec4(toLinear(v.r), toLinear(v.g), toLinear(v.b), c.a);
}`,
  reference(u, source) {
    const [black, scale, power] = vec(u, 'range');
    return (x, y, out) => {
      source(x, y, out);
      for (let c = 0; c < 3; c++) out[c] = toLinear(Math.max(0, (fromLinear(out[c]!) - black!) * scale!) ** power!);
    };
  },
};
