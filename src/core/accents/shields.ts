/** Areas of a source's picture that accents leave as they are, wherever they lie in the output. */
import { SHAPE_KINDS, type Shield } from '../document/types.ts';
import { inOutput, type Framed } from '../timeline/framing.ts';
import { MOST_SHAPES, type Mask, type MaskShape } from './region.ts';

/** Least width of an edge, frame heights: a sharper one is a stair. */
const LEAST_SOFT = 0.002;

/**
 * Masks that together cover all of them, at most {@link MOST_SHAPES} shapes each.
 * @param aspect the upright picture's width / height
 * @param out the output's
 */
export function shieldMasks(shields: readonly Shield[], framed: Framed, aspect: number, out: number): Mask[] {
  const shapes = shields.map(({ region: { x, y, w, h }, path, soft }): MaskShape => {
    const [from, to] = [inOutput({ x, y }, framed, aspect, out), inOutput({ x: x + w, y: y + h }, framed, aspect, out)];
    // Enlarged where the picture is cut, smaller where it has bars.
    const edge = Math.max(LEAST_SOFT, (soft * (to.y - from.y)) / h);
    const [middleX, middleY] = [((from.x + to.x) / 2 - 0.5) * out, (from.y + to.y) / 2 - 0.5];
    const corners = path?.map((p) => inOutput(p, framed, aspect, out)) ?? [];
    return {
      box: [middleX, middleY, ((to.x - from.x) / 2) * out, (to.y - from.y) / 2],
      soft: [edge, edge, edge, edge],
      form: [SHAPE_KINDS.indexOf(path ? 'path' : 'box'), 1, 0, 0],
      outline: corners.flatMap((p) => [(p.x - 0.5) * out - middleX, p.y - 0.5 - middleY]),
    };
  });
  return Array.from({ length: Math.ceil(shapes.length / MOST_SHAPES) }, (_, i) =>
    shapes.slice(i * MOST_SHAPES, (i + 1) * MOST_SHAPES),
  );
}
