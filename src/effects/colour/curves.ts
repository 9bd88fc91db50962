import type { EffectSpec, ParamSpec } from '../../core/accents/effect-spec.ts';
import { fromLinear, toLinear } from '../../core/base/colour.ts';
import { vec } from '../helpers.ts';

const CURVES = ['master', 'red', 'green', 'blue'] as const;
const PLACES = [0, 25, 50, 75, 100] as const;

const params: Record<string, ParamSpec> = {};
for (const curve of CURVES)
  for (const at of PLACES) {
    const name = curve === 'master' ? 'All' : curve[0]!.toUpperCase() + curve.slice(1);
    params[`${curve}${at}`] = {
      label: `${name} at ${at}`,
      unit: '%',
      min: -50,
      max: 150,
      default: at,
      identity: at,
      doc: `Displayed value that ${at} % becomes ${curve === 'master' ? 'in all channels' : `in ${curve}`}.`,
    };
  }

/** A smooth curve through five points, straight on past its ends (Catmull-Rom tangents). */
function curveAt(v: number, points: readonly number[]): number {
  const at = v * 4;
  const i = Math.min(3, Math.max(0, Math.floor(at)));
  const tangent = (k: number): number =>
    (points[Math.min(4, k + 1)]! - points[Math.max(0, k - 1)]!) / (k === 0 || k === 4 ? 1 : 2);
  const t = at - i;
  if (t < 0) return points[0]! + t * tangent(0);
  if (t > 1) return points[4]! + (t - 1) * tangent(4);
  const [t2, t3] = [t * t, t * t * t];
  return (
    points[i]! * (2 * t3 - 3 * t2 + 1) +
    tangent(i) * (t3 - 2 * t2 + t) +
    points[i + 1]! * (3 * t2 - 2 * t3) +
    tangent(i + 1) * (t3 - t2)
  );
}

export const curves: EffectSpec = {
  id: 'curves',
  also: 'grade contrast s-curve tone',
  version: 1,
  name: 'Curves',
  group: 'colour',
  stage: 'colour',
  taps: 1,
  doc: 'A tone curve through five points, for all channels and for each.',
  params,
  tone: {
    curves: CURVES.map((curve) => ({
      name: curve === 'master' ? 'All' : curve[0]!.toUpperCase() + curve.slice(1),
      params: PLACES.map((at) => `${curve}${at}`),
    })),
    at: curveAt,
  },
  uniforms: { master: 4, red: 4, green: 4, blue: 4, ends: 4 },
  thumbnail: { master25: 12, master75: 88, blue0: 18, red100: 112 },
  resolve(p) {
    if (Object.entries(params).every(([name, spec]) => p[name] === spec.default)) return null;
    const four = (curve: string): number[] => PLACES.slice(0, 4).map((at) => p[`${curve}${at}`]! / 100);
    return {
      master: four('master'),
      red: four('red'),
      green: four('green'),
      blue: four('blue'),
      ends: CURVES.map((curve) => p[`${curve}100`]! / 100),
    };
  },
  prelude: `
float curveAt(float v, vec4 a, float e) {
  float at = v * 4.0;
  if (at < 0.0) return a.x + at * (a.y - a.x);
  if (at > 4.0) return e + (at - 4.0) * (e - a.w);
  float p[5] = float[5](a.x, a.y, a.z, a.w, e);
  int i = min(3, int(floor(at)));
  float t = at - float(i);
  float m0 = i == 0 ? p[1] - p[0] : (p[i + 1] - p[i - 1]) * 0.5;
  float m1 = i == 3 ? p[4] - p[3] : (p[min(4, i + 2)] - p[i]) * 0.5;
  float t2 = t * t;
  float t3 = t2 * t;
  return p[i] * (2.0 * t3 - 3.0 * t2 + 1.0) + m0 * (t3 - 2.0 * t2 + t) + p[i + 1] * (3.0 * t2 - 2.0 * t3) + m1 * (t3 - t2);
}`,
  glsl: `
vec4 EFFECT(Curves u, vec4 c, vec2 p) {
  vec3 v = vec3(fromLinear(c.r), fromLinear(c.g), fromLinear(c.b));
  v = vec3(curveAt(v.r, u.red, u.ends.y), curveAt(v.g, u.green, u.ends.z), curveAt(v.b, u.blue, u.ends.w));
  v = vec3(curveAt(v.r, u.master, u.ends.x), curveAt(v.g, u.master, u.ends.x), curveAt(v.b, u.master, u.ends.x));
  v = max(v, vec3(0.0));
  return vec4(toLinear(v.r), toLinear(v.g), toLinear(v.b), c.a);
}`,
  reference(u, source) {
    const ends = vec(u, 'ends');
    const points = CURVES.map((curve, i) => [...vec(u, curve), ends[i]!]);
    return (x, y, out) => {
      source(x, y, out);
      for (let c = 0; c < 3; c++)
        out[c] = toLinear(Math.max(0, curveAt(curveAt(fromLinear(out[c]!), points[c + 1]!), points[0]!)));
    };
  },
};
