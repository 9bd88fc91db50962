/**
 * A stack of effects is a composition of functions on the picture: image_n(p) = effect_n(image_n-1)(p).
 * Here passes are lowered to kernels for a size, the kernels are grouped into as few draws as may
 * be, and each group is written out twice from the same declarations: as GLSL and on the CPU.
 * However many moves a group holds, the picture is sampled once.
 */
import type { EffectSpec, Image, Kernel, Layer, Step, Uniforms, View } from '../core/accents/effect-spec.ts';
import type { OpenShutter, Pass } from '../core/accents/passes.ts';
import { lookUp } from '../core/document/colour-table.ts';
import { MASK_GLSL, maskValue, MOST_SEGMENTS, type Mask } from '../core/accents/region.ts';
import { EFFECTS, KERNELS } from './index.ts';
import { scaledSize } from './shrink.ts';

/** More reads of the source than this for one pixel, and the stack is cut into two draws. */
const MOST_TAPS = 32;
/** Pictures and tables that one draw reads beside the one below. */
const MOST_SAMPLERS = 8;
/** Uniform vectors that the moments of a shutter may take in one draw. */
const MOMENT_VECTORS = 160;
const MOST_MOMENTS = 64;
const DRAFT_MOMENTS = 8;

/** The masked result of steps that cannot be masked by themselves: a layer shown in place of the picture. */
const through: Kernel = {
  id: 'through',
  stage: 'sample',
  taps: 1,
  uniforms: {},
  glsl: 'vec4 EFFECT(Through u, vec2 p) { return LAYER0(p); }',
  reference: (_, __, { layers }) => layers[0]!,
};

/** The mean of two pictures. */
const half: Kernel = {
  id: 'half',
  stage: 'sample',
  taps: 1,
  uniforms: {},
  glsl: 'vec4 EFFECT(Half u, vec2 p) { return 0.5 * (LAYER0(p) + LAYER1(p)); }',
  reference: (_, __, { layers }) => {
    const other = new Float64Array(4);
    return (x, y, out) => {
      layers[0]!(x, y, out);
      layers[1]!(x, y, other);
      for (let c = 0; c < 4; c++) out[c] = 0.5 * (out[c]! + other[c]!);
    };
  },
};

/** The mean of a power of two of stacks on what lies below, two by two: few pictures are held at once. */
function meanOf(stacks: readonly (readonly Step[])[]): Step {
  const layer = (list: readonly (readonly Step[])[]): Layer => ({
    picture: 'below',
    steps: list.length === 1 ? list[0]! : [meanOf(list)],
  });
  const middle = stacks.length / 2;
  return { kernel: half.id, uniforms: {}, layers: [layer(stacks.slice(0, middle)), layer(stacks.slice(middle))] };
}

const kernelOf = (id: string): Kernel => {
  const kernel = id === through.id ? through : id === half.id ? half : KERNELS.get(id);
  if (!kernel) throw new RangeError(`no kernel "${id}"`);
  return kernel;
};

/** Lowers passes to kernels for a picture of this size. A draft takes fewer moments of an open shutter. */
export function lower(passes: readonly Pass[], view: View, draft = false): Step[] {
  return passes.flatMap((pass) => {
    const { mask, edge, table, moments } = pass;
    if (moments) return [meanOf(moments.map((moment) => lower(moment, view, draft)))];
    if (pass.shutter) return shutterSteps(pass.shutter, view, draft ? DRAFT_MOMENTS : MOST_MOMENTS);
    // What the plan asks for by itself is a kernel without an effect.
    const spec: Kernel & Partial<EffectSpec> = EFFECTS.get(pass.effect) ?? kernelOf(pass.effect);
    const layers = pass.copies?.flatMap(({ picture, passes, matte, behind }): Layer[] => [
      { picture: picture < 0 ? 'below' : picture, steps: lower(passes, view, draft) },
      ...(matte ? [{ picture: matte.picture, steps: lower(matte.passes, view, draft), matte: true as const }] : []),
      ...(behind ? [{ picture: behind.picture, steps: lower(behind.passes, view, draft) }] : []),
    ]);
    const self: Step = { kernel: spec.id, uniforms: pass.uniforms, ...(table && { table }), ...(layers && { layers }) };
    const steps = (spec.expand?.(pass.uniforms, view, self) ?? [self]).map((step) => (edge ? { ...step, edge } : step));
    if (!mask) return steps;
    return steps.length === 1 && !steps[0]!.scale
      ? [{ ...steps[0]!, mask }]
      : [{ kernel: through.id, uniforms: {}, mask, layers: [{ picture: 'below' as const, steps }] }];
  });
}

/** Points of the frame whose paths say how far an accent moves. */
const PROBES = [-0.5, 0, 0.5].flatMap((x) => [-0.5, 0, 0.5].map((y) => [x, y] as const));

/** Where the lowest picture is read for a point, after the moves of one moment. */
function readAt(
  effects: readonly string[],
  uniforms: readonly (Uniforms | null)[],
  view: View,
  x: number,
  y: number,
): [number, number] {
  let found: [number, number] = [x, y];
  const catcher: Image = (px, py, out) => {
    found = [px, py];
    out.fill(0);
  };
  const image = effects.reduce<Image>((below, id, i) => {
    const u = uniforms[i];
    return u && kernelOf(id).stage === 'move'
      ? kernelOf(id).reference(u, below, { layers: [], view, table: null })
      : below;
  }, catcher);
  image(x, y, new Float64Array(4));
  return found;
}

/** Pixels that the fastest of a few points moves while the shutter is open. */
function distance(shutter: OpenShutter, view: View): number {
  const aspect = view.width / view.height;
  const times = [-0.5, -0.25, 0, 0.25, 0.5].map((share) => shutter.at(share * shutter.open));
  return (
    Math.max(
      ...PROBES.map(([px, py]) => {
        const path = times.map((uniforms) => readAt(shutter.effects, uniforms, view, px * aspect, py));
        return path.slice(1).reduce((sum, p, i) => sum + Math.hypot(p[0] - path[i]![0], p[1] - path[i]![1]), 0);
      }),
    ) * view.height
  );
}

/** How far, in frame heights, the moves of a frame's passes throw the fastest of a few points. */
export function displacement(passes: readonly Pass[], view: View): number {
  const aspect = view.width / view.height;
  const moves = passes.filter((pass) => !pass.shutter && KERNELS.get(pass.effect)?.stage === 'move');
  return Math.max(
    0,
    ...PROBES.map(([px, py]) => {
      const [x, y] = readAt(
        moves.map((m) => m.effect),
        moves.map((m) => m.uniforms),
        view,
        px * aspect,
        py,
      );
      return Math.hypot(x - px * aspect, y - py);
    }),
  );
}

/** Moments at most a pixel apart, in as many draws as their numbers need; each adds to what the draws before it made. */
function shutterSteps(shutter: OpenShutter, view: View, most: number): Step[] {
  const count = Math.min(most, Math.max(2, Math.ceil(distance(shutter, view))));
  const vectors = shutter.effects.reduce((n, id) => n + 1 + Object.keys(kernelOf(id).uniforms).length, 0);
  const chunk = Math.max(1, Math.min(16, Math.floor(MOMENT_VECTORS / vectors)));
  let below: Step | undefined;
  for (let first = 0; first < count; first += chunk) {
    const moments = Array.from({ length: Math.min(chunk, count - first) }, (_, i) =>
      shutter.at(((first + i + 0.5) / count - 0.5) * shutter.open),
    );
    below = {
      kernel: 'shutter',
      uniforms: { weight: 1 / count },
      moments: { effects: shutter.effects, uniforms: moments },
      ...(below ? { layers: [{ picture: 'below' as const, steps: [below] }] } : {}),
    };
  }
  return below ? [below] : [];
}

/** Steps that are drawn at once. */
export interface Group {
  readonly steps: readonly Step[];
  readonly scale: Step['scale'];
  readonly edge: Step['edge'];
}

const tapsOf = (step: Step): number =>
  step.moments
    ? step.moments.uniforms.length * step.moments.effects.reduce((n, id) => n * kernelOf(id).taps, 1)
    : kernelOf(step.kernel).taps + (step.mask && kernelOf(step.kernel).stage === 'move' ? 1 : 0);

/** Splits steps into groups that are each drawn at once; the last is always full size. */
export function drawGroups(steps: readonly Step[]): Group[] {
  const groups: { steps: Step[]; scale: Step['scale']; edge: Step['edge'] }[] = [];
  let taps = 1;
  let samplers = 0;
  for (const step of steps) {
    const open = groups.at(-1);
    const own = tapsOf(step);
    const more = (step.layers?.length ?? 0) + (step.table ? 1 : 0);
    const cut =
      !open ||
      (own > 1 && taps * own > MOST_TAPS) ||
      samplers + more > MOST_SAMPLERS ||
      step.edge !== open.edge ||
      String(step.scale) !== String(open.scale) ||
      (open.steps.length > 0 && (step.layers ?? []).some((layer) => layer.picture === 'below'));
    if (cut) {
      groups.push({ steps: [step], scale: step.scale, edge: step.edge });
      [taps, samplers] = [own, more];
    } else {
      open.steps.push(step);
      [taps, samplers] = [taps * own, samplers + more];
    }
  }
  if (!groups.length || groups.at(-1)!.scale) groups.push({ steps: [], scale: undefined, edge: undefined });
  return groups;
}

/** Whether a group reads nothing but the pixel that it draws. */
export const standsStill = ({ steps, scale }: Group): boolean =>
  !scale &&
  steps.every(({ kernel, moments, layers }) => !moments && !layers?.length && kernelOf(kernel).stage === 'colour');

/** Texture reads and draws of a stack for one frame of a size: the cost on a graphics unit. */
export function costOf(steps: readonly Step[]): { draws: number; reads: number } {
  let [draws, reads] = [0, 0];
  for (const group of drawGroups(steps)) {
    const share = group.scale ? group.scale[0] * group.scale[1] : 1;
    draws += 1;
    reads += share * group.steps.reduce((n, step) => n * tapsOf(step), 1);
    for (const step of group.steps) {
      for (const layer of step.layers ?? []) {
        reads += share;
        if (!layer.steps.length) continue;
        const own = costOf(layer.steps);
        draws += own.draws;
        reads += own.reads;
      }
    }
  }
  return { draws, reads: Math.round(reads * 100) / 100 };
}

const structName = (id: string): string => id[0]!.toUpperCase() + id.slice(1);
const glslType = (size: number): string => (size === 1 ? 'float' : `vec${size}`);

/** Integer hash and gradient noise of core/base/hash.ts; transfer of IEC 61966-2-1. */
const PRELUDE = `
float fromLinear(float v) { return v <= 0.0 ? 0.0 : v <= 0.0031308 ? v * 12.92 : 1.055 * pow(v, 1.0 / 2.4) - 0.055; }
float toLinear(float v) { return v <= 0.04045 ? v / 12.92 : pow((v + 0.055) / 1.055, 2.4); }
uint pcg(uint v) {
  uint state = v * 747796405u + 2891336453u;
  uint word = ((state >> ((state >> 28u) + 4u)) ^ state) * 277803737u;
  return (word >> 22u) ^ word;
}
float unit(uint h) { return float(h >> 8u) / 16777216.0; }
float slope(uint h, vec3 d) {
  float u = h < 8u ? d.x : d.y;
  float v = h < 4u ? d.y : h == 12u || h == 14u ? d.x : d.z;
  return ((h & 1u) == 0u ? u : -u) + ((h & 2u) == 0u ? v : -v);
}
vec2 gradientNoise(vec3 q, uint seed) {
  ivec3 cell = ivec3(floor(q));
  vec3 f = q - vec3(cell);
  vec3 w = f * f * f * (f * (f * 6.0 - 15.0) + 10.0);
  vec2 sum = vec2(0.0);
  for (int corner = 0; corner < 8; corner++) {
    ivec3 o = ivec3(corner & 1, (corner >> 1) & 1, corner >> 2);
    ivec3 at = cell + o;
    uint h = pcg(pcg(pcg(seed ^ uint(at.x)) ^ uint(at.y)) ^ uint(at.z));
    vec3 g = mix(1.0 - w, w, vec3(o));
    sum += g.x * g.y * g.z * vec2(slope(h >> 28u, f - vec3(o)), slope((h >> 24u) & 15u, f - vec3(o)));
  }
  return sum;
}
`;

/** What tells one group's shader from another's. */
export const groupKey = (group: Group): string =>
  JSON.stringify([
    group.edge ?? 0,
    group.steps.map((step) => [
      step.kernel,
      step.layers?.length ?? 0,
      step.table?.size ?? 0,
      (step.mask ?? []).map((shape) => (shape.form[0] === 3 ? 1 : 0)),
      step.moments ? [step.moments.effects, momentRoom(step)] : 0,
    ]),
  ]);

/** Array length for the moments of a step: a few sizes, so that few shaders are made. */
const momentRoom = (step: Step): number => 2 ** Math.ceil(Math.log2(step.moments!.uniforms.length));

/** `vec4 call(p)` of one kernel over `below`, as the function body. */
const bodyOf = (kernel: Kernel, call: string, below: string): string =>
  ({
    move: `${below}(${call}, p))`,
    colour: `${call}, ${below}(p), p)`,
    sample: `${call}, p)`,
  })[kernel.stage];

/**
 * GLSL that defines `vec4 picture(vec2 p)` for a group, reading through a `vec4 source(vec2 p)` and a
 * `float aspect` that must be defined before it. Uniforms are named as `groupUniforms` names them.
 */
export function composeGlsl(group: Group): string {
  const lines = [PRELUDE, '#define ASPECT aspect'];
  const ids = new Set(group.steps.flatMap((step) => (step.moments ? step.moments.effects : [step.kernel])));
  for (const id of ids) {
    const fields = Object.entries(kernelOf(id).uniforms).map(([name, size]) => `  ${glslType(size)} ${name};`);
    lines.push(`struct ${structName(id)} {\n${fields.join('\n') || '  float none;'}\n};`);
  }
  lines.push(...new Set([...ids].flatMap((id) => kernelOf(id).prelude ?? [])));
  if (group.steps.some((step) => step.mask?.length)) lines.push(MASK_GLSL);
  let below = 'source';
  group.steps.forEach((step, i) => {
    const layers = step.layers ?? [];
    layers.forEach((_, k) =>
      lines.push(
        `uniform sampler2D layer${i}_${k};`,
        `vec4 layerAt${i}_${k}(vec2 p) { return texture(layer${i}_${k}, vec2(p.x / aspect, p.y) + 0.5); }`,
      ),
    );
    if (step.moments) {
      lines.push(momentsGlsl(step, i, below, layers.length > 0));
      below = `image${i}`;
      return;
    }
    const kernel = kernelOf(step.kernel);
    if (kernel.table) {
      const n = step.table?.size ?? 2;
      lines.push(
        `uniform mediump sampler3D table${i};`,
        `vec3 tableAt${i}(vec3 c) { return texture(table${i}, c * ${((n - 1) / n).toFixed(8)} + ${(0.5 / n).toFixed(8)}).rgb; }`,
        `#define TABLE tableAt${i}`,
      );
    }
    layers.forEach((_, k) => lines.push(`#define LAYER${k} layerAt${i}_${k}`));
    lines.push(
      `uniform ${structName(step.kernel)} u${i};`,
      `#define EFFECT effect${i}`,
      `#define SRC ${below}`,
      kernel.glsl.trim(),
      '#undef EFFECT',
      '#undef SRC',
    );
    layers.forEach((_, k) => lines.push(`#undef LAYER${k}`));
    if (kernel.table) lines.push('#undef TABLE');
    const body = bodyOf(kernel, `effect${i}(u${i}`, below);
    if (step.mask) {
      lines.push(
        maskGlsl(step.mask, i),
        `vec4 image${i}(vec2 p) {
  float m = mask${i}(p);
  if (m <= 0.0) return ${below}(p);
  vec4 e = ${body};
  return m >= 1.0 ? e : mix(${below}(p), e, m);
}`,
      );
    } else lines.push(`vec4 image${i}(vec2 p) { return ${body}; }`);
    below = `image${i}`;
  });
  lines.push(`vec4 picture(vec2 p) { return ${below}(p); }`);
  return lines.join('\n');
}

function maskGlsl(mask: Mask, i: number): string {
  const lines: string[] = [];
  const parts = mask.map((shape, s) => {
    const at = `m${i}_${s}`;
    lines.push(`uniform vec4 ${at}_box, ${at}_soft, ${at}_form;`);
    if (shape.form[0] === 3) {
      lines.push(`uniform vec2 ${at}_points[${MOST_SEGMENTS}];`, `uniform float ${at}_count;`);
      return `  sum = combined(sum, coverOutline(${at}_points, int(${at}_count), ${at}_box, ${at}_soft, ${at}_form, p), ${at}_form.w);`;
    }
    return `  sum = combined(sum, coverShape(${at}_box, ${at}_soft, ${at}_form, p), ${at}_form.w);`;
  });
  return `${lines.join('\n')}\nfloat mask${i}(vec2 p) {\n  float sum = 0.0;\n${parts.join('\n')}\n  return sum;\n}`;
}

/** A stack at several moments: the same functions over arrays of uniforms, summed. */
function momentsGlsl(step: Step, i: number, below: string, adds: boolean): string {
  const { effects } = step.moments!;
  const room = momentRoom(step);
  const lines = [`uniform float count${i}, weight${i};`, `int moment${i} = 0;`];
  let under = below;
  effects.forEach((id, k) => {
    const kernel = kernelOf(id);
    const name = `s${i}_${k}`;
    lines.push(
      `uniform ${structName(id)} ${name}[${room}];`,
      `uniform float ${name}_on[${room}];`,
      `#define EFFECT ${name}_effect`,
      `#define SRC ${under}`,
      kernel.glsl.trim(),
      '#undef EFFECT',
      '#undef SRC',
      `vec4 ${name}_image(vec2 p) { return ${name}_on[moment${i}] < 0.5 ? ${under}(p) : ${bodyOf(kernel, `${name}_effect(${name}[moment${i}]`, under)}; }`,
    );
    under = `${name}_image`;
  });
  lines.push(`vec4 image${i}(vec2 p) {
  vec4 sum = vec4(0.0);
  for (int m = 0; m < ${room}; m++) {
    if (float(m) >= count${i}) break;
    moment${i} = m;
    sum += ${under}(p);
  }
  return sum * weight${i}${adds ? ` + layerAt${i}_0(p)` : ''};
}`);
  return lines.join('\n');
}

/** Name and value of each uniform of a group: numbers, 2-4 vectors, or a flat list of 2-vectors under a name that ends in `[0]`. */
export function* groupUniforms(group: Group): Generator<readonly [string, number | readonly number[]]> {
  for (const [i, step] of group.steps.entries()) {
    if (step.moments) {
      yield [`count${i}`, step.moments.uniforms.length];
      yield [`weight${i}`, step.uniforms['weight'] as number];
      for (const [m, uniforms] of step.moments.uniforms.entries()) {
        for (const [k, id] of step.moments.effects.entries()) {
          const u = uniforms[k];
          yield [`s${i}_${k}_on[${m}]`, u ? 1 : 0];
          if (u)
            for (const name of Object.keys(kernelOf(id).uniforms)) yield [`s${i}_${k}[${m}].${name}`, u[name] ?? 0];
        }
      }
      continue;
    }
    for (const name of Object.keys(kernelOf(step.kernel).uniforms)) yield [`u${i}.${name}`, step.uniforms[name] ?? 0];
    for (const [s, shape] of (step.mask ?? []).entries()) {
      yield [`m${i}_${s}_box`, shape.box];
      yield [`m${i}_${s}_soft`, shape.soft];
      yield [`m${i}_${s}_form`, shape.form];
      if (shape.form[0] === 3) {
        yield [`m${i}_${s}_count`, shape.outline.length / 2];
        yield [`m${i}_${s}_points[0]`, shape.outline];
      }
    }
  }
}

/** A linear-light RGBA picture, rows top first. */
export interface Pixels extends View {
  readonly data: Float32Array | Float64Array;
}

/**
 * A picture as an image function over a frame of this aspect: bilinear, past its border an endless
 * mirror or its edge pixels, so that a moving picture never shows a border. Matches the renderer.
 */
function pictureImage({ data, width, height }: Pixels, aspect = width / height, edge?: 'clamp'): Image {
  const outside =
    edge === 'clamp'
      ? (i: number, n: number): number => Math.min(n - 1, Math.max(0, i))
      : (i: number, n: number): number => {
          const m = ((i % (2 * n)) + 2 * n) % (2 * n);
          return m < n ? m : 2 * n - 1 - m;
        };
  return (x, y, out) => {
    const sx = (x / aspect + 0.5) * width - 0.5;
    const sy = (y + 0.5) * height - 0.5;
    const x0 = Math.floor(sx),
      y0 = Math.floor(sy);
    const fx = sx - x0,
      fy = sy - y0;
    const xa = outside(x0, width),
      xb = outside(x0 + 1, width);
    const ya = outside(y0, height) * width,
      yb = outside(y0 + 1, height) * width;
    for (let c = 0; c < 4; c++) {
      const top = data[(ya + xa) * 4 + c]! * (1 - fx) + data[(ya + xb) * 4 + c]! * fx;
      const low = data[(yb + xa) * 4 + c]! * (1 - fx) + data[(yb + xb) * 4 + c]! * fx;
      out[c] = top * (1 - fy) + low * fy;
    }
  };
}

/** An image function over one step, masked where the step is. */
function stepImage(step: Step, below: Image, layers: readonly Image[], view: View): Image {
  if (step.moments) {
    const { effects, uniforms } = step.moments;
    const images = uniforms.map((set) =>
      effects.reduce<Image>(
        (under, id, k) => (set[k] ? kernelOf(id).reference(set[k], under, { layers: [], view, table: null }) : under),
        below,
      ),
    );
    const weight = step.uniforms['weight'] as number;
    const one = new Float64Array(4);
    return (x, y, out) => {
      const sum = new Float64Array(4);
      layers[0]?.(x, y, sum);
      for (const image of images) {
        image(x, y, one);
        for (let c = 0; c < 4; c++) sum[c] = sum[c]! + one[c]! * weight;
      }
      out.set(sum);
    };
  }
  const image = kernelOf(step.kernel).reference(step.uniforms, below, {
    layers,
    view,
    table: step.table ? lookUp(step.table) : null,
  });
  const { mask } = step;
  if (!mask) return image;
  const plain = new Float64Array(4);
  return (x, y, out) => {
    const m = maskValue(mask, x, y);
    if (m <= 0) return below(x, y, out);
    image(x, y, out);
    if (m >= 1) return;
    below(x, y, plain);
    for (let c = 0; c < 4; c++) out[c] = plain[c]! * (1 - m) + out[c]! * m;
  };
}

/** The same draws on the CPU, in double precision: what the renderer is held against. */
export function drawReference(
  steps: readonly Step[],
  below: Pixels,
  others: readonly Pixels[] = [],
  view: View = below,
): Pixels {
  const aspect = view.width / view.height;
  return drawGroups(steps).reduce<Pixels>((under, group) => {
    const size = scaledSize(view, group.scale);
    const image = group.steps.reduce<Image>(
      (source, step) =>
        stepImage(
          step,
          source,
          (step.layers ?? []).map((layer) => {
            const base = layer.picture === 'below' ? under : (others[layer.picture] ?? under);
            return pictureImage(layer.steps.length ? drawReference(layer.steps, base, others, view) : base, aspect);
          }),
          view,
        ),
      pictureImage(under, aspect, group.edge),
    );
    const data = new Float64Array(size.width * size.height * 4);
    const pixel = new Float64Array(4);
    for (let y = 0; y < size.height; y++)
      for (let x = 0; x < size.width; x++) {
        image(((x + 0.5) / size.width - 0.5) * aspect, (y + 0.5) / size.height - 0.5, pixel);
        data.set(pixel, (y * size.width + x) * 4);
      }
    return { ...size, data };
  }, below);
}
