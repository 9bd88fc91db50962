/** Regions: where in the picture an effect acts. Lengths in % of the frame height, the middle is 0, 0. */
import { applied, scaleOf, turnOf, type Similarity } from '../base/similarity.ts';
import {
  COMBINE,
  SHAPE_KINDS,
  type Envelope,
  type PathKey,
  type PathPoint,
  type RegionShape,
  type ShapeKind,
  type ShapeParam,
} from '../document/types.ts';
import { evaluate } from './envelope.ts';

/** Numbers of a shape that can be shaped over frames, with limits, defaults and units. */
export const SHAPE_PARAMS = {
  x: { label: 'Centre x', unit: '%', min: -300, max: 300, default: 0 },
  y: { label: 'Centre y', unit: '%', min: -300, max: 300, default: 0 },
  w: { label: 'Width', unit: '%', min: 0, max: 600, default: 60 },
  h: { label: 'Height', unit: '%', min: 0, max: 600, default: 60 },
  turn: { label: 'Rotation', unit: '°', min: -3600, max: 3600, default: 0 },
  soft: { label: 'Softness', unit: '%', min: 0, max: 200, default: 8 },
  softLeft: { label: 'Softness left', unit: '%', min: 0, max: 200, default: 0 },
  softRight: { label: 'Softness right', unit: '%', min: 0, max: 200, default: 0 },
  softTop: { label: 'Softness above', unit: '%', min: 0, max: 200, default: 20 },
  softBottom: { label: 'Softness below', unit: '%', min: 0, max: 200, default: 20 },
} as const;

/** Which of them a kind of shape uses. A path has its points in place of a size. */
export const paramsOf = (kind: ShapeKind): readonly ShapeParam[] =>
  kind === 'band'
    ? ['x', 'y', 'w', 'h', 'turn', 'softLeft', 'softRight', 'softTop', 'softBottom']
    : kind === 'path'
      ? ['x', 'y', 'turn', 'soft']
      : ['x', 'y', 'w', 'h', 'turn', 'soft'];

/** Softness below this is a stair at small sizes and a thin line at large ones. */
const LEAST_SOFT = 0.002;
/** Most segments of an outline; the shader's array is as long. */
export const MOST_SEGMENTS = 48;
/** Most shapes on one effect. */
export const MOST_SHAPES = 4;

/** One shape resolved to numbers, in frame heights: what shader and reference are given. */
export interface MaskShape {
  /** Middle x, y, half width, half height. */
  readonly box: readonly [number, number, number, number];
  /** Softness left, right, above, below; the first serves all sides but for a band. */
  readonly soft: readonly [number, number, number, number];
  /** Kind (0 box, 1 ellipse, 2 band, 3 path), cosine, sine, combine + 4 when inverted. */
  readonly form: readonly [number, number, number, number];
  /** Outline of a path about its middle, x and y in turn; empty for the other kinds. */
  readonly outline: readonly number[];
}
export type Mask = readonly MaskShape[];

/** Points of a path at a frame. Between keys with different counts the earlier points stay. */
export function pathAt(keys: readonly PathKey[], age: number): readonly PathPoint[] {
  let from = keys[0];
  for (const key of keys) if (key.at <= age) from = key;
  if (!from) return [];
  const to = keys[keys.indexOf(from) + 1];
  if (!to || age <= from.at || to.points.length !== from.points.length) return from.points;
  const share = (age - from.at) / (to.at - from.at);
  return from.points.map((p, i) => ({
    x: p.x + (to.points[i]!.x - p.x) * share,
    y: p.y + (to.points[i]!.y - p.y) * share,
    smooth: p.smooth,
  }));
}

/**
 * The closed outline as straight segments. Curves are Catmull-Rom splines: at a smooth
 * point the tangent is half the way between its neighbours, at a corner there is none.
 * Source: E. Catmull and R. Rom, "A class of local interpolating splines", 1974.
 */
export function outline(points: readonly PathPoint[]): number[] {
  const n = points.length;
  if (n < 3) return [];
  if (n >= MOST_SEGMENTS) return points.slice(0, MOST_SEGMENTS).flatMap((p) => [p.x / 100, p.y / 100]);
  const curved = points.filter((p, i) => p.smooth || points[(i + 1) % n]!.smooth).length;
  const steps = curved ? Math.max(1, Math.floor((MOST_SEGMENTS - (n - curved)) / curved)) : 1;
  const result: number[] = [];
  points.forEach((p1, i) => {
    const [p0, p2, p3] = [points[(i + n - 1) % n]!, points[(i + 1) % n]!, points[(i + 2) % n]!];
    const count = p1.smooth || p2.smooth ? steps : 1;
    for (let s = 0; s < count; s++) {
      const t = s / count;
      const at = (axis: 'x' | 'y'): number => {
        const m1 = p1.smooth ? (p2[axis] - p0[axis]) / 2 : 0;
        const m2 = p2.smooth ? (p3[axis] - p1[axis]) / 2 : 0;
        const [t2, t3] = [t * t, t * t * t];
        // Between two corners the line is straight: the cubic without tangents covers it at another pace.
        return (
          (p1[axis] * (2 * t3 - 3 * t2 + 1) + m1 * (t3 - 2 * t2 + t) + p2[axis] * (3 * t2 - 2 * t3) + m2 * (t3 - t2)) /
          100
        );
      };
      result.push(at('x'), at('y'));
    }
  });
  return result;
}

/**
 * Resolves a region at a frame. Paths with fewer than three points cover nothing.
 * @param focus where shapes count from that follow the focus, frame heights from the middle
 * @param gone how all of them have gone, turned and grown
 */
export function maskAt(
  region: readonly RegionShape[],
  age: number,
  focus: readonly [number, number] = [0, 0],
  gone: Similarity | null = null,
  resolve: (envelope: Envelope) => Envelope = (e) => e,
): Mask {
  return region.slice(0, MOST_SHAPES).map((shape, index) => {
    const value = (name: ShapeParam): number => {
      const spec = SHAPE_PARAMS[name];
      const raw = evaluate(resolve(shape.params[name] ?? spec.default), age);
      return (
        Math.min(spec.max, Math.max(spec.min, Number.isFinite(raw) ? raw : spec.default)) /
        (spec.unit === '°' ? 1 : 100)
      );
    };
    const soft = (name: ShapeParam): number => Math.max(LEAST_SOFT, value(name));
    const scale = gone ? scaleOf(gone) : 1;
    const turn = (value('turn') * Math.PI) / 180 + (gone ? turnOf(gone) : 0);
    const one = soft('soft');
    const own = { x: value('x') + (shape.focus ? focus[0] : 0), y: value('y') + (shape.focus ? focus[1] : 0) };
    const { x, y } = gone ? applied(gone, own) : own;
    return {
      box: [x, y, (scale * value('w')) / 2, (scale * value('h')) / 2],
      soft:
        shape.kind === 'band'
          ? [soft('softLeft'), soft('softRight'), soft('softTop'), soft('softBottom')]
          : [one, one, one, one],
      form: [
        SHAPE_KINDS.indexOf(shape.kind),
        Math.cos(turn),
        Math.sin(turn),
        (index === 0 ? 0 : COMBINE.indexOf(shape.combine)) + (shape.invert ? 4 : 0),
      ],
      outline: shape.kind === 'path' ? outline(pathAt(shape.path ?? [], age)).map((at) => scale * at) : [],
    };
  });
}

const ramp = (inside: number, soft: number): number => {
  const t = Math.min(1, Math.max(0, 0.5 + inside / soft));
  return t * t * (3 - 2 * t);
};

/** How far a point lies inside an outline (negative: outside); even-odd, so a crossing outline has holes. */
function insideOutline(points: readonly number[], x: number, y: number): number {
  let nearest = Infinity;
  let odd = false;
  const n = points.length / 2;
  for (let i = 0; i < n; i++) {
    const j = i === 0 ? n - 1 : i - 1;
    const [ax, ay, bx, by] = [points[2 * i]!, points[2 * i + 1]!, points[2 * j]!, points[2 * j + 1]!];
    const [ex, ey, wx, wy] = [bx - ax, by - ay, x - ax, y - ay];
    const t = Math.min(1, Math.max(0, (wx * ex + wy * ey) / Math.max(1e-12, ex * ex + ey * ey)));
    nearest = Math.min(nearest, (wx - ex * t) ** 2 + (wy - ey * t) ** 2);
    if (ay > y !== by > y && x < (ex * (y - ay)) / ey + ax) odd = !odd;
  }
  return odd ? Math.sqrt(nearest) : -Math.sqrt(nearest);
}

/** 0 (outside) to 1 (inside) of one shape at a point in frame heights from the middle. */
function coverOf({ box, soft, form, outline: points }: MaskShape, px: number, py: number): number {
  const [dx, dy] = [px - box[0], py - box[1]];
  const x = form[1] * dx + form[2] * dy;
  const y = form[1] * dy - form[2] * dx;
  switch (form[0]) {
    case 1: {
      const [rx, ry] = [Math.max(1e-6, box[2]), Math.max(1e-6, box[3])];
      const f = Math.hypot(x / rx, y / ry);
      const g = Math.hypot(x / (rx * rx), y / (ry * ry));
      return ramp(g < 1e-9 ? Math.min(rx, ry) : (-f * (f - 1)) / g, soft[0]);
    }
    case 2:
      return (
        ramp(box[2] + x, soft[0]) * ramp(box[2] - x, soft[1]) * ramp(box[3] + y, soft[2]) * ramp(box[3] - y, soft[3])
      );
    case 3:
      return points.length < 6 ? 0 : ramp(insideOutline(points, x, y), soft[0]);
    default: {
      const [qx, qy] = [Math.abs(x) - box[2], Math.abs(y) - box[3]];
      return ramp(-(Math.hypot(Math.max(qx, 0), Math.max(qy, 0)) + Math.min(Math.max(qx, qy), 0)), soft[0]);
    }
  }
}

/** 0-1 of a whole region at a point. */
export function maskValue(mask: Mask, x: number, y: number): number {
  return mask.reduce((sum, shape) => {
    const inverted = shape.form[3] >= 4;
    const combine = shape.form[3] - (inverted ? 4 : 0);
    const cover = inverted ? 1 - coverOf(shape, x, y) : coverOf(shape, x, y);
    return combine === 0 ? Math.max(sum, cover) : combine === 1 ? Math.min(sum, 1 - cover) : Math.min(sum, cover);
  }, 0);
}

/** The same maths in GLSL: `float cover(vec4 box, vec4 soft, vec4 form, vec2 p)`; outlines are drawn by `coverOutline`. */
export const MASK_GLSL = `
float ramp(float inside, float soft) { float t = clamp(0.5 + inside / soft, 0.0, 1.0); return t * t * (3.0 - 2.0 * t); }
float coverShape(vec4 box, vec4 soft, vec4 form, vec2 p) {
  vec2 d = p - box.xy;
  d = vec2(form.y * d.x + form.z * d.y, form.y * d.y - form.z * d.x);
  if (form.x > 1.5) return ramp(box.z + d.x, soft.x) * ramp(box.z - d.x, soft.y) * ramp(box.w + d.y, soft.z) * ramp(box.w - d.y, soft.w);
  if (form.x > 0.5) {
    vec2 r = max(box.zw, vec2(1e-6));
    float f = length(d / r);
    float g = length(d / (r * r));
    return ramp(g < 1e-9 ? min(r.x, r.y) : -f * (f - 1.0) / g, soft.x);
  }
  vec2 q = abs(d) - box.zw;
  return ramp(-(length(max(q, 0.0)) + min(max(q.x, q.y), 0.0)), soft.x);
}
float coverOutline(vec2 points[${MOST_SEGMENTS}], int n, vec4 box, vec4 soft, vec4 form, vec2 p) {
  if (n < 3) return 0.0;
  vec2 d = p - box.xy;
  d = vec2(form.y * d.x + form.z * d.y, form.y * d.y - form.z * d.x);
  float nearest = 1e9;
  bool odd = false;
  for (int i = 0; i < n; i++) {
    vec2 a = points[i];
    vec2 b = points[i == 0 ? n - 1 : i - 1];
    vec2 e = b - a;
    vec2 w = d - a;
    vec2 off = w - e * clamp(dot(w, e) / max(1e-12, dot(e, e)), 0.0, 1.0);
    nearest = min(nearest, dot(off, off));
    if ((a.y > d.y) != (b.y > d.y) && d.x < e.x * (d.y - a.y) / e.y + a.x) odd = !odd;
  }
  return ramp(odd ? sqrt(nearest) : -sqrt(nearest), soft.x);
}
float combined(float sum, float cover, float form) {
  if (form >= 4.0) { cover = 1.0 - cover; form -= 4.0; }
  return form < 0.5 ? max(sum, cover) : form < 1.5 ? min(sum, 1.0 - cover) : min(sum, cover);
}
`;

/** Half the way of each chosen point towards the middle of its neighbours; corners become smooth. */
export const smoothed = (points: readonly PathPoint[], chosen: ReadonlySet<number>): PathPoint[] =>
  points.map((p, i) => {
    if (!chosen.has(i) || points.length < 3) return p;
    const [a, b] = [points[(i + points.length - 1) % points.length]!, points[(i + 1) % points.length]!];
    return { x: p.x / 2 + (a.x + b.x) / 4, y: p.y / 2 + (a.y + b.y) / 4, smooth: true };
  });

/** The path with its points at a frame set: a key is made there once the path moves. */
export function withPath(keys: readonly PathKey[], at: number, points: readonly PathPoint[]): PathKey[] {
  if (keys.length === 1 && keys[0]!.at === at) return [{ at, points }];
  // Another count of points is another outline: every key takes it, so that none jumps.
  const others = keys
    .filter((key) => key.at !== at)
    .map((key) => (key.points.length === points.length ? key : { ...key, points }));
  return [...others, { at, points }].sort((a, b) => a.at - b.at);
}
