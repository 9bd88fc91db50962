/** Movements that keep shapes: turned, scaled and moved. */

interface Place {
  readonly x: number;
  readonly y: number;
}

/** x' = c x - s y + x, y' = s x + c y + y. */
export interface Similarity {
  /** Scale times cosine and sine of the turn, clockwise where y runs down. */
  readonly c: number;
  readonly s: number;
  readonly x: number;
  readonly y: number;
}

export const applied = ({ c, s, x, y }: Similarity, p: Place): Place => ({
  x: c * p.x - s * p.y + x,
  y: s * p.x + c * p.y + y,
});

/** How much larger it makes things. */
export const scaleOf = ({ c, s }: Similarity): number => Math.hypot(c, s);
/** By how much it turns them, radians clockwise. */
export const turnOf = ({ c, s }: Similarity): number => Math.atan2(s, c);

/** The one that takes a place to another, turned (radians, clockwise) and scaled about it. */
export function takenTo(from: Place, to: Place, turn: number, scale: number): Similarity {
  const [c, s] = [scale * Math.cos(turn), scale * Math.sin(turn)];
  return { c, s, x: to.x - c * from.x + s * from.y, y: to.y - s * from.x - c * from.y };
}

/**
 * The one that brings points nearest to others, in the least squares (S. Umeyama, "Least-squares estimation of transformation
 * parameters between two point patterns", IEEE Trans. PAMI 13 (4), 1991).
 */
export function fitted(from: readonly Place[], to: readonly Place[]): Similarity {
  const mean = (list: readonly Place[]): Place => ({
    x: list.reduce((sum, p) => sum + p.x, 0) / list.length,
    y: list.reduce((sum, p) => sum + p.y, 0) / list.length,
  });
  const [a, b] = [mean(from), mean(to)];
  let [dot, cross, norm] = [0, 0, 0];
  from.forEach((p, i) => {
    const [px, py, qx, qy] = [p.x - a.x, p.y - a.y, to[i]!.x - b.x, to[i]!.y - b.y];
    dot += px * qx + py * qy;
    cross += px * qy - py * qx;
    norm += px * px + py * py;
  });
  const [c, s] = norm > 1e-12 ? [dot / norm, cross / norm] : [1, 0];
  return { c, s, x: b.x - c * a.x + s * a.y, y: b.y - s * a.x - c * a.y };
}
