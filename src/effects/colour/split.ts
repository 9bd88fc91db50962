import type { EffectSpec, Image, Kernel, Uniforms } from '../../core/accents/effect-spec.ts';
import { hash, valueNoise } from '../../core/base/hash.ts';
import { angleOf, heading, placeX, placeY, vec } from '../helpers.ts';

/** Spectral samples of the smear. */
const SAMPLES = 12;

const channel = (label: string) =>
  ({
    label,
    unit: '%',
    min: -100,
    max: 100,
    default: 0,
    doc: `Own share of the shift of ${label.toLowerCase()}, added to its usual one.`,
  }) as const;

/** Shift of red, green and blue at a point; the radial one grows with the distance from a centre. */
const SHIFT = `
vec2 splitShift(vec3 radial, vec2 centre, vec2 shift, vec2 p) {
  if (radial.x < 0.5) return shift;
  vec2 d = p - centre;
  float r = length(d);
  float w = min(1.0, r * radial.y);
  if (radial.z > 0.5) w = 1.0 - w;
  return r > 0.0 ? d / r * (shift.x * w) : vec2(0.0);
}`;

const shiftOf = (u: Uniforms, name: string): ((x: number, y: number, q: [number, number]) => void) => {
  const [radial, per, inwards] = vec(u, 'radial');
  const [cx, cy] = vec(u, 'centre');
  const [sx, sy] = vec(u, name);
  return (x, y, q) => {
    if (radial! < 0.5) {
      q[0] = sx!;
      q[1] = sy!;
      return;
    }
    const [dx, dy] = [x - cx!, y - cy!];
    const r = Math.hypot(dx, dy);
    let w = Math.min(1, r * per!);
    if (inwards! > 0.5) w = 1 - w;
    q[0] = r > 0 ? (dx / r) * sx! * w : 0;
    q[1] = r > 0 ? (dy / r) * sx! * w : 0;
  };
};

const UNIFORMS = { red: 2, green: 2, blue: 2, centre: 2, radial: 3 } as const;

export const split: EffectSpec = {
  id: 'split',
  also: 'chromatic aberration rgb shift channels',
  version: 2,
  name: 'Colour split',
  group: 'colour',
  stage: 'sample',
  taps: 3,
  doc: 'Shifts red, green and blue apart: along an angle, outwards from a centre, or each on its own way. A smear fills the gap with the colours between.',
  params: {
    amount: {
      label: 'Amount',
      unit: '%',
      min: -30,
      max: 30,
      default: 0,
      identity: 0,
      doc: 'How far red and blue each lie from green, in % of the frame height.',
    },
    mode: {
      label: 'Direction',
      unit: 'choice',
      min: 0,
      max: 2,
      default: 0,
      choices: ['angle', 'radial', 'wander'],
      doc: 'Along one angle, outwards from the centre, or each channel on a random walk.',
    },
    angle: angleOf('Direction of red; 0 is right, 90 is down.'),
    centreX: placeX('Centre'),
    centreY: placeY('Centre'),
    falloff: {
      label: 'Falloff',
      unit: '%',
      min: 1,
      max: 300,
      default: 50,
      doc: 'Distance from the centre at which a radial shift is full.',
    },
    invert: {
      label: 'Falloff runs',
      unit: 'choice',
      min: 0,
      max: 1,
      default: 0,
      choices: ['outwards', 'inwards'],
      doc: 'Full at the rim or full at the centre.',
    },
    red: channel('Red'),
    green: channel('Green'),
    blue: channel('Blue'),
    rate: { label: 'Rate', unit: 'Hz', min: 0, max: 60, default: 6, doc: 'How fast channels wander.' },
    smear: {
      label: 'Smear',
      unit: 'choice',
      min: 0,
      max: 1,
      default: 0,
      choices: ['none', 'spectral'],
      doc: 'Fills the gap between red and blue with samples of the colours between.',
    },
  },
  uniforms: UNIFORMS,
  thumbnail: { amount: 3, mode: 1 },
  resolve(p, { seed, summed }) {
    if (p['amount'] === 0) return null;
    const amount = p['amount']! / 100;
    const mode = Math.round(p['mode']!);
    const [cos, sin] = heading(p['angle']!);
    const way = (usual: number, own: number, i: number): [number, number] => {
      const by = amount * (usual + own / 100);
      if (mode === 1) return [by, 0];
      if (mode === 0) return [cos * by, sin * by];
      const at = summed('rate') * 2;
      const far = amount * (1 + own / 100);
      return [far * valueNoise(at, hash(seed, i)), far * valueNoise(at, hash(seed, i + 8))];
    };
    return {
      red: way(1, p['red']!, 0),
      green: way(0, p['green']!, 1),
      blue: way(-1, p['blue']!, 2),
      centre: [p['centreX']! / 100, p['centreY']! / 100],
      radial: [mode === 1 ? 1 : 0, 100 / p['falloff']!, Math.round(p['invert']!)],
      // For expand only: which kernel draws it.
      smear: Math.round(p['smear']!),
    };
  },
  expand: (u, _, self) => [u['smear'] === 1 ? { ...self, kernel: 'smear' } : self],
  prelude: SHIFT,
  glsl: `
vec4 EFFECT(Split u, vec2 p) {
  vec2 g = p - splitShift(u.radial, u.centre, u.green, p);
  vec4 mid = SRC(g);
  return vec4(SRC(p - splitShift(u.radial, u.centre, u.red, p)).r, mid.g, SRC(p - splitShift(u.radial, u.centre, u.blue, p)).b, mid.a);
}`,
  reference(u, source) {
    const shifts = ['red', 'green', 'blue'].map((name) => shiftOf(u, name));
    const one = new Float64Array(4);
    const q: [number, number] = [0, 0];
    const image: Image = (x, y, out) => {
      const [r, g, b] = shifts.map((shift, c) => {
        shift(x, y, q);
        source(x - q[0], y - q[1], one);
        if (c === 1) out[3] = one[3]!;
        return one[c]!;
      });
      out[0] = r!;
      out[1] = g!;
      out[2] = b!;
    };
    return image;
  },
};

/** Weights of red, green and blue at a place between red (0) and blue (1): three triangles whose sums over the samples are one. */
const spectrum = (t: number): [number, number, number] => [
  Math.max(0, 1 - 2 * t),
  1 - Math.abs(2 * t - 1),
  Math.max(0, 2 * t - 1),
];

export const smear: Kernel = {
  id: 'smear',
  stage: 'sample',
  taps: SAMPLES,
  uniforms: UNIFORMS,
  prelude: SHIFT,
  glsl: `
vec4 EFFECT(Smear u, vec2 p) {
  vec2 from = splitShift(u.radial, u.centre, u.red, p);
  vec2 mid = splitShift(u.radial, u.centre, u.green, p);
  vec2 to = splitShift(u.radial, u.centre, u.blue, p);
  vec4 sum = vec4(0.0);
  vec3 total = vec3(0.0);
  for (int i = 0; i < ${SAMPLES}; i++) {
    float t = (float(i) + 0.5) / ${SAMPLES}.0;
    vec3 w = vec3(max(0.0, 1.0 - 2.0 * t), 1.0 - abs(2.0 * t - 1.0), max(0.0, 2.0 * t - 1.0));
    vec4 c = SRC(p - (t < 0.5 ? mix(from, mid, 2.0 * t) : mix(mid, to, 2.0 * t - 1.0)));
    sum += vec4(c.rgb * w, c.a);
    total += w;
  }
  return vec4(sum.rgb / total, sum.a / ${SAMPLES}.0);
}`,
  reference(u, source) {
    const [from, mid, to] = ['red', 'green', 'blue'].map((name) => shiftOf(u, name));
    const one = new Float64Array(4);
    const [a, b, c]: [number, number][] = [
      [0, 0],
      [0, 0],
      [0, 0],
    ];
    return (x, y, out) => {
      from!(x, y, a!);
      mid!(x, y, b!);
      to!(x, y, c!);
      const total = [0, 0, 0];
      out.fill(0);
      for (let i = 0; i < SAMPLES; i++) {
        const t = (i + 0.5) / SAMPLES;
        const w = spectrum(t);
        const [p, q, s] = t < 0.5 ? [a!, b!, 2 * t] : [b!, c!, 2 * t - 1];
        source(x - (p[0] + (q[0] - p[0]) * s), y - (p[1] + (q[1] - p[1]) * s), one);
        for (let k = 0; k < 3; k++) {
          out[k] = out[k]! + one[k]! * w[k]!;
          total[k] = total[k]! + w[k]!;
        }
        out[3] = out[3]! + one[3]! / SAMPLES;
      }
      for (let k = 0; k < 3; k++) out[k] = out[k]! / total[k]!;
    };
  },
};
