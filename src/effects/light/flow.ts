/**
 * Blur along a movement: straight, towards a point or round it. Many evenly spaced reads are made as
 * a few blurs one after the other: 16 reads of a picture in which 16 reads are summed are 256.
 */
import type { Kernel, Step } from '../../core/accents/effect-spec.ts';
import { num, vec } from '../helpers.ts';

const READS = 16;

export const FLOW = { line: 0, zoom: 1, turn: 2 } as const;

export const flow: Kernel = {
  id: 'flow',
  stage: 'sample',
  taps: READS,
  uniforms: { kind: 1, centre: 2, range: 2, way: 2, fade: 1 },
  // range: first place and distance between places; fade: how fast weights fall along the way.
  glsl: `
vec4 EFFECT(Flow u, vec2 p) {
  vec4 sum = vec4(0.0);
  float total = 0.0;
  vec2 d = p - u.centre;
  for (int i = 0; i < ${READS}; i++) {
    float t = u.range.x + float(i) * u.range.y;
    float w = exp(-u.fade * float(i) * u.range.y);
    vec2 q = p + u.way * t;
    if (u.kind > 1.5) q = u.centre + vec2(cos(t) * d.x - sin(t) * d.y, sin(t) * d.x + cos(t) * d.y);
    else if (u.kind > 0.5) q = u.centre + d * exp(t);
    sum += SRC(q) * w;
    total += w;
  }
  return sum / total;
}`,
  reference(u, source) {
    const kind = num(u, 'kind');
    const fade = num(u, 'fade');
    const [cx, cy] = vec(u, 'centre');
    const [first, step] = vec(u, 'range');
    const [wx, wy] = vec(u, 'way');
    const one = new Float64Array(4);
    return (x, y, out) => {
      out.fill(0);
      let total = 0;
      const [dx, dy] = [x - cx!, y - cy!];
      for (let i = 0; i < READS; i++) {
        const t = first! + i * step!;
        const w = Math.exp(-fade * i * step!);
        if (kind > 1.5)
          source(cx! + Math.cos(t) * dx - Math.sin(t) * dy, cy! + Math.sin(t) * dx + Math.cos(t) * dy, one);
        else if (kind > 0.5) source(cx! + dx * Math.exp(t), cy! + dy * Math.exp(t), one);
        else source(x + wx! * t, y + wy! * t, one);
        for (let c = 0; c < 4; c++) out[c] = out[c]! + one[c]! * w;
        total += w;
      }
      for (let c = 0; c < 4; c++) out[c] = out[c]! / total;
    };
  },
};

export interface FlowAlong {
  readonly kind: number;
  readonly centre: readonly [number, number];
  readonly way?: readonly [number, number];
  /** From and to along the way: frame heights times `way`, powers of e, or radians. */
  readonly from: number;
  readonly to: number;
  readonly fade?: number;
  /** Pixels that the longest path covers. */
  readonly pixels: number;
}

/** Steps whose reads together lie at most about a pixel apart. */
export function flowSteps({ kind, centre, way = [0, 0], from, to, fade = 0, pixels }: FlowAlong): Step[] {
  const stages = Math.max(1, Math.min(3, Math.ceil(Math.log(Math.max(2, pixels)) / Math.log(READS))));
  const length = to - from;
  const steps = Array.from({ length: stages }, (_, i) => length / READS ** (i + 1));
  // The finer stages lie on the side that the whole lies on, so that none reads past the border by itself.
  const side = from === -to ? (READS - 1) / 2 : -from > to ? READS - 1 : 0;
  const finer = steps.slice(1).map((step) => -side * step);
  const firsts = [from + steps.at(-1)! / 2 - finer.reduce((sum, first) => sum + first, 0), ...finer];
  // Fine ones first; together they are the middles of READS ** stages equal parts.
  return steps
    .map((step, i) => ({ kernel: 'flow', uniforms: { kind, centre, range: [firsts[i]!, step], way, fade } }))
    .reverse();
}
