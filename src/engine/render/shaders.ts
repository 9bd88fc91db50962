/**
 * The shaders that both renderers draw with: each defines `vec4 shade(vec2 pixel)` for the middle of an output pixel, rows
 * top first. One is compiled for the graphics unit, the other for the processor's lanes.
 */
import { yuvCoefficients } from '../../core/base/colour.ts';
import { windowOf } from '../../core/timeline/framing.ts';
import type { Point } from '../../core/document/types.ts';
import type { View } from '../../core/accents/effect-spec.ts';
import { composeGlsl, groupUniforms, type Group } from '../../effects/compose.ts';
import type { Picture } from './frame-renderer.ts';

/** Light of an output pixel from decoded planes, after `size` and `toLinear`. */
const DEVELOPED = `
uniform sampler2D planeY;
uniform sampler2D planeU;
uniform sampler2D planeV;
uniform vec2 stored;    // luma pixels
uniform vec2 cover;     // share of the picture seen across the output, upright x and y
uniform vec2 centre;    // what of the picture is in the output's middle, upright, from its own middle
uniform vec2 turn;      // cosine and sine, upright to stored
uniform vec3 range;     // yOffset, yScale, cScale
uniform vec4 matrix;    // rv, gu, gv, bu
uniform float detail;   // box samples a side, for shrinking
vec2 turned(vec2 at) {
  vec2 q = (at - 0.5) * cover + centre;
  return vec2(turn.x * q.x - turn.y * q.y, turn.y * q.x + turn.x * q.y);
}
vec4 developed(vec2 pixel) {
  vec2 base = pixel / size;
  float y = 0.0;
  float seen = 0.0;
  float n = max(1.0, detail);
  vec2 q = turned(base);
  float shown = abs(q.x) > 0.5 || abs(q.y) > 0.5 ? 0.0 : 1.0;
  if (n < 1.5) {
    y = texture(planeY, q + 0.5).r;
    seen = 1.0;
  } else {
    for (float j = 0.0; j < n; j += 1.0) for (float i = 0.0; i < n; i += 1.0) {
      vec2 part = turned(base + (vec2(i, j) + 0.5 - n * 0.5) / n / size);
      float inside = abs(part.x) > 0.5 || abs(part.y) > 0.5 ? 0.0 : 1.0;
      y += inside * texture(planeY, part + 0.5).r;
      seen += inside;
    }
    shown *= seen / (n * n);
  }
  // Chroma sits on the left luma column and between the rows (ITU-T H.264 annex E, type 0).
  vec2 luma = (q + 0.5) * stored;
  vec2 chroma = vec2(luma.x * 0.5 + 0.25, luma.y * 0.5) / floor((stored + 1.0) * 0.5);
  y = (y / max(seen, 1.0) - range.x) * range.y;
  float u = (texture(planeU, chroma).r - 128.0 / 255.0) * range.z;
  float v = (texture(planeV, chroma).r - 128.0 / 255.0) * range.z;
  vec3 rgb = clamp(vec3(y + matrix.x * v, y - matrix.y * u - matrix.z * v, y + matrix.w * u), 0.0, 1.0);
  return vec4(vec3(toLinear(rgb.r), toLinear(rgb.g), toLinear(rgb.b)) * shown, 1.0);
}`;

const SIZE = 'uniform vec2 size;      // output pixels';

/** Decoded planes to linear light at the output's size; what `lanes/develop.ts` does on the processor. */
export const DEVELOP = `
float toLinear(float v) { return v <= 0.04045 ? v / 12.92 : pow((v + 0.055) / 1.055, 2.4); }
${SIZE}
${DEVELOPED}
vec4 shade(vec2 pixel) { return developed(pixel); }`;

/** What of an upright picture is seen: its share across the output, and what is in the middle from its own middle. */
export interface Seen {
  readonly cover: Point;
  readonly centre: Point;
}

export function seenOf({ framed, aspect }: Picture, { width, height }: View): Seen {
  const seen = windowOf(framed, aspect, width / height);
  return { cover: { x: seen.width, y: seen.height }, centre: { x: seen.centre.x - 0.5, y: seen.centre.y - 0.5 } };
}

/** Samples a side that an output pixel takes of the luma, 1 where nothing is shrunk. */
export function detailOf(picture: Picture, view: View): number {
  const { yuv, rotation } = picture;
  const upright = rotation % 180 ? yuv.height : yuv.width;
  const shrunk = Math.ceil((upright * seenOf(picture, view).cover.x) / view.width - 0.01);
  return Math.min(4, shrunk > 1 ? 2 * Math.ceil(shrunk / 3) : 1);
}

/** Name and value of each of its uniforms but for the planes. */
export function developUniforms(picture: Picture, view: View): [string, number | number[]][] {
  const { yuv } = picture;
  const k = yuvCoefficients(yuv.colour);
  const { cover, centre } = seenOf(picture, view);
  const angle = (-picture.rotation * Math.PI) / 180;
  return [
    ['size', [view.width, view.height]],
    ['stored', [yuv.width, yuv.height]],
    ['cover', [cover.x, cover.y]],
    ['centre', [centre.x, centre.y]],
    ['turn', [Math.round(Math.cos(angle)), Math.round(Math.sin(angle))]],
    ['range', [k.yOffset, k.yScale, k.cScale]],
    ['matrix', [k.rv, k.gu, k.gv, k.bu]],
    ['detail', detailOf(picture, view)],
  ];
}

/**
 * Half a step of eight bits at the most, by the 8x8 ordered pattern, so that smooth ramps keep their
 * local mean. Source: B. E. Bayer, "An optimum method for two-level rendition of continuous-tone pictures", ICC 1973.
 */
const DITHER = `
float bayer(ivec2 q) {
  int v = 0;
  for (int bit = 0; bit < 3; bit++) {
    int x = (q.x >> bit) & 1;
    int y = (q.y >> bit) & 1;
    v |= ((x ^ y) << (5 - 2 * bit)) | (y << (4 - 2 * bit));
  }
  return (float(v) + 0.5) / 64.0 - 0.5;
}`;

/** What of eight bits a group draws into, if it does: dithered, but for a frame without effects. */
export type Encoding = 'dithered' | 'plain' | null;

/** What ends a group's shader: its picture at a pixel, encoded where it is the last one. */
const shaded = (encode: Encoding): string => `
${encode === 'dithered' ? DITHER : ''}
vec4 shadeOver(vec2 pixel) {
  vec4 c = picture(vec2((pixel.x / size.x - 0.5) * aspect, pixel.y / size.y - 0.5));
  ${
    encode
      ? `vec3 l = min(c.rgb, 1.0);
  vec3 v = vec3(fromLinear(l.r), fromLinear(l.g), fromLinear(l.b));
  return vec4(v${encode === 'dithered' ? ' + bayer(ivec2(pixel)) / 255.0' : ''}, 1.0);`
      : 'return c;'
  }
}`;

/** A group of steps over the picture `below`. */
export const drawShader = (group: Group, encode: Encoding): string => `
${SIZE}
uniform sampler2D below;
uniform float aspect;   // of the whole frame
vec4 source(vec2 p) {
  vec2 uv = vec2(p.x / aspect, p.y) + 0.5;
  ${group.edge === 'clamp' ? 'vec2 rim = 0.5 / vec2(textureSize(below, 0));\n  uv = clamp(uv, rim, 1.0 - rim);' : ''}
  return texture(below, uv);
}
${composeGlsl(group)}
${shaded(encode)}
vec4 shade(vec2 pixel) { return shadeOver(pixel); }`;

/** A group that stands still over the decoded planes themselves: these are read once, however often it asks for its pixel. */
export const drawDevelopedShader = (group: Group, encode: Encoding): string => `
${SIZE}
uniform float aspect;   // of the whole frame
vec4 here;
vec4 source(vec2 p) { return here; }
${composeGlsl(group)}
${DEVELOPED}
${shaded(encode)}
vec4 shade(vec2 pixel) {
  here = developed(pixel);
  return shadeOver(pixel);
}`;

/** Name and value of each of its uniforms but for the pictures. */
export function* drawUniforms(group: Group, size: View, view: View): ReturnType<typeof groupUniforms> {
  yield ['size', [size.width, size.height]];
  yield ['aspect', view.width / view.height];
  yield* groupUniforms(group);
}
