/**
 * A stack of effects is a composition of functions on the picture: image_n(p) = effect_n(image_n-1)(p).
 * Here that composition is written out twice from the same declarations, as GLSL and on the CPU.
 * However many moves a stack holds, the picture is sampled once.
 */
import type { EffectSpec, Image } from '../core/accents/effect-spec.ts';
import type { Pass } from '../core/plan/plan.ts';
import { EFFECTS } from './index.ts';

/** More reads of the source than this for one pixel, and the stack is cut into two draws. */
const MOST_TAPS = 32;

const specOf = (id: string): EffectSpec => {
  const spec = EFFECTS.get(id);
  if (!spec) throw new RangeError(`no effect "${id}"`);
  return spec;
};

/** Splits a stack into groups that are each drawn at once. */
export function drawGroups(passes: readonly Pass[]): Pass[][] {
  const groups: Pass[][] = [];
  let taps = Infinity;
  for (const pass of passes) {
    taps *= specOf(pass.effect).taps;
    if (taps > MOST_TAPS) {
      groups.push([]);
      taps = specOf(pass.effect).taps;
    }
    groups.at(-1)!.push(pass);
  }
  return groups;
}

const structName = (id: string): string => id[0]!.toUpperCase() + id.slice(1);
const glslType = (size: number): string => (size === 1 ? 'float' : `vec${size}`);

/** Integer hash of core/random/hash.ts, bit for bit. */
const PRELUDE = `
uint pcg(uint v) {
  uint state = v * 747796405u + 2891336453u;
  uint word = ((state >> ((state >> 28u) + 4u)) ^ state) * 277803737u;
  return (word >> 22u) ^ word;
}
float unit(uint h) { return float(h >> 8u) / 16777216.0; }
`;

/**
 * GLSL that defines `vec4 picture(vec2 p)` for a group, reading through a `vec4 source(vec2 p)`
 * that must be defined before it. Uniforms are structs u0, u1, ...
 */
export function composeGlsl(group: readonly string[]): string {
  const lines = [PRELUDE];
  for (const id of new Set(group)) {
    const fields = Object.entries(specOf(id).uniforms).map(([name, size]) => `  ${glslType(size)} ${name};`);
    lines.push(`struct ${structName(id)} {\n${fields.join('\n')}\n};`);
  }
  let below = 'source';
  group.forEach((id, i) => {
    const spec = specOf(id);
    lines.push(
      `uniform ${structName(id)} u${i};`,
      `#define EFFECT effect${i}`, `#define SRC ${below}`,
      spec.glsl.trim(),
      `#undef EFFECT`, `#undef SRC`,
    );
    const body = {
      move: `${below}(effect${i}(u${i}, p))`,
      colour: `effect${i}(u${i}, ${below}(p), p)`,
      sample: `effect${i}(u${i}, p)`,
    }[spec.stage];
    lines.push(`vec4 image${i}(vec2 p) { return ${body}; }`);
    below = `image${i}`;
  });
  lines.push(`vec4 picture(vec2 p) { return ${below}(p); }`);
  return lines.join('\n');
}

/** The same composition on the CPU. */
export const composeReference = (passes: readonly Pass[], source: Image): Image =>
  passes.reduce((image, pass) => specOf(pass.effect).reference(pass.uniforms, image), source);

/**
 * A linear-light RGBA picture as an image function: bilinear, mirrored without end at its edges,
 * so that a moving picture never shows a border. Matches the renderer's texture sampling.
 */
export function pictureImage(pixels: Float32Array | Float64Array, width: number, height: number): Image {
  const mirror = (i: number, n: number): number => {
    const m = ((i % (2 * n)) + 2 * n) % (2 * n);
    return m < n ? m : 2 * n - 1 - m;
  };
  return (x, y, out) => {
    const sx = x * height + width / 2 - 0.5;
    const sy = y * height + height / 2 - 0.5;
    const x0 = Math.floor(sx), y0 = Math.floor(sy);
    const fx = sx - x0, fy = sy - y0;
    const xa = mirror(x0, width), xb = mirror(x0 + 1, width);
    const ya = mirror(y0, height) * width, yb = mirror(y0 + 1, height) * width;
    for (let c = 0; c < 4; c++) {
      const top = pixels[(ya + xa) * 4 + c]! * (1 - fx) + pixels[(ya + xb) * 4 + c]! * fx;
      const low = pixels[(yb + xa) * 4 + c]! * (1 - fx) + pixels[(yb + xb) * 4 + c]! * fx;
      out[c] = top * (1 - fy) + low * fy;
    }
  };
}
