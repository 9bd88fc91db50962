/** Another picture or clip over the picture. */
import type { EffectSpec, Image, Kernel, Layer } from '../../core/accents/effect-spec.ts';
import { angleOf, NO_KERNEL, portion, radians, share, vec } from '../helpers.ts';
import { BLEND, blended, BLENDS } from './overlay.ts';

/** place: offset, one over the size, how bright black is that shows; turn: cosine, sine; box: half width, half height. */
const UNIFORMS = { place: 4, turn: 2, blend: 2, box: 2 } as const;

const glsl = (share: string): string => `
  vec4 a = SRC(p);
  vec2 d = p - u.place.xy;
  vec2 q = vec2(u.turn.x * d.x + u.turn.y * d.y, u.turn.x * d.y - u.turn.y * d.x) * u.place.z;
  if (abs(q.x) > u.box.x || abs(q.y) > u.box.y) return a;
  vec3 b = LAYER0(q).rgb;
  float seen = u.blend.x${share};
  if (u.place.w > 0.0) seen *= clamp(max(b.r, max(b.g, b.b)) / u.place.w, 0.0, 1.0);
  return vec4(mix(a.rgb, blended(u.blend.y, a.rgb, b), seen), a.a);
}`;

const reference =
  (shared: (layers: readonly Image[], x: number, y: number, into: Float64Array) => number): Kernel['reference'] =>
  (u, source, { layers }) => {
    const [ox, oy, scale, black] = vec(u, 'place');
    const [cos, sin] = vec(u, 'turn');
    const [opacity, mode] = vec(u, 'blend');
    const [wide, high] = vec(u, 'box');
    const [b, matte] = [new Float64Array(4), new Float64Array(4)];
    return (x, y, out) => {
      source(x, y, out);
      const [dx, dy] = [x - ox!, y - oy!];
      const [qx, qy] = [(cos! * dx + sin! * dy) * scale!, (cos! * dy - sin! * dx) * scale!];
      if (Math.abs(qx) > wide! || Math.abs(qy) > high!) return;
      layers[0]!(qx, qy, b);
      let seen = opacity! * shared(layers, qx, qy, matte);
      if (black! > 0) seen *= Math.min(1, Math.max(0, Math.max(b[0]!, b[1]!, b[2]!) / black!));
      for (let c = 0; c < 3; c++) out[c] = out[c]! * (1 - seen) + blended(mode!, out[c]!, b[c]!) * seen;
    };
  };

export const laid: Kernel = {
  id: 'laid',
  stage: 'sample',
  taps: 1,
  uniforms: UNIFORMS,
  prelude: BLEND,
  glsl: `\nvec4 EFFECT(Laid u, vec2 p) {${glsl('')}`,
  reference: reference(() => 1),
};

/** The same with a second layer that says how far the first is seen: a subject's matte, or what of a picture is not clear. */
export const matted: Kernel = {
  id: 'matted',
  stage: 'sample',
  taps: 1,
  uniforms: UNIFORMS,
  prelude: BLEND,
  glsl: `\nvec4 EFFECT(Matted u, vec2 p) {${glsl(' * min(LAYER1(q).g, 1.0)')}`,
  reference: reference((layers, x, y, matte) => {
    layers[1]!(x, y, matte);
    return Math.min(1, matte[1]!);
  }),
};

/**
 * A subject over what is behind it, both as they came or changed. Layers: the picture, how far it is of the subject, and
 * what is behind that, the first and the last changed as the subject is. A picture is m F + (1 - m) B; so what is changed
 * behind, A, is laid as picture + (1 - m) (A - B): where nothing is changed that is the picture itself, however soft the
 * matte (T. Porter and T. Duff, "Compositing digital images", SIGGRAPH 1984, solved for F).
 */
export const parted: Kernel = {
  id: 'parted',
  stage: 'sample',
  taps: 1,
  uniforms: {},
  glsl: `
vec4 EFFECT(Parted u, vec2 p) {
  vec4 a = SRC(p);
  float behind = 1.0 - min(LAYER1(p).g, 1.0);
  return vec4(max(LAYER0(p).rgb + behind * (a.rgb - LAYER2(p).rgb), vec3(0.0)), a.a);
}`,
  reference: (_, source, { layers }) => {
    const [own, matte, plain] = [new Float64Array(4), new Float64Array(4), new Float64Array(4)];
    return (x, y, out) => {
      source(x, y, out);
      layers[0]!(x, y, own);
      layers[1]!(x, y, matte);
      layers[2]!(x, y, plain);
      const behind = 1 - Math.min(matte[1]!, 1);
      for (let c = 0; c < 3; c++) out[c] = Math.max(0, own[c]! + behind * (out[c]! - plain[c]!));
    };
  },
};

/** The kernel that lays a picture over, by whether a matte follows it. */
export const laidBy = (layers: readonly Layer[] = []): string =>
  layers.some((one) => one.matte) ? matted.id : laid.id;

export const layer: EffectSpec = {
  id: 'layer',
  also: 'overlay picture clip logo texture grain image background put over',
  version: 1,
  name: 'Picture over',
  group: 'time',
  ...NO_KERNEL,
  source: true,
  doc: 'A picture or clip of your own over the picture: blended, placed, turned, looped; its sound is not heard.',
  params: {
    opacity: share('Opacity', 'How much it shows.'),
    blend: {
      label: 'Blend',
      unit: 'choice',
      min: 0,
      max: BLENDS.length - 1,
      default: 2,
      choices: BLENDS,
      doc: 'How it is joined with the picture: in linear light, overlay and soft light in displayed values.',
    },
    lies: {
      label: 'Lies',
      unit: 'choice',
      min: 0,
      max: 1,
      default: 0,
      choices: ['over all', 'whole'],
      doc: 'Whether it covers the whole picture, cut where it is of another shape, or is seen whole.',
    },
    x: {
      label: 'Sideways',
      unit: '%',
      min: -200,
      max: 200,
      default: 0,
      mirrors: 'sign',
      place: 'x',
      doc: 'Its middle right of the middle, in % of the frame height.',
    },
    y: {
      label: 'Down',
      unit: '%',
      min: -200,
      max: 200,
      default: 0,
      place: 'y',
      doc: 'Its middle below the middle, in % of the frame height.',
    },
    size: {
      label: 'Size',
      unit: '%',
      min: 1,
      max: 800,
      default: 100,
      pinned: 'size',
      doc: 'Size against the one it lies in.',
    },
    turn: { ...angleOf('By which it is turned, clockwise.'), pinned: 'turn' },
    black: portion('Clear black', 'Brightness up to which it fades out: its black is nothing.'),
    speed: {
      label: 'Speed',
      unit: '%',
      min: 0,
      max: 400,
      default: 100,
      doc: 'How fast a clip runs; it begins again at its end.',
    },
  },
  uniforms: UNIFORMS,
  thumbnail: { opacity: 70, size: 60, lies: 1 },
  fresh: { size: 100 },
  resolve: (p) =>
    p['opacity'] === 0
      ? null
      : {
          place: [p['x']! / 100, p['y']! / 100, 100 / p['size']!, (p['black']! / 100) ** 2],
          turn: [Math.cos(radians(p['turn']!)), Math.sin(radians(p['turn']!))],
          blend: [p['opacity']! / 100, Math.round(p['blend']!)],
          // The plan knows the shape of what lies there; until then it is endless.
          box: [1e3, 1e3],
        },
  copies: (p, { summed }) => [
    { shift: 0, layer: { seconds: summed('speed') / 100, whole: Math.round(p['lies']!) === 1 } },
  ],
  expand: (u, _, self) => [{ ...self, kernel: laidBy(self.layers), uniforms: u }],
};
