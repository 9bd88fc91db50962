/** Pins: what goes along with something that was followed in the picture. */
import { LIMITS } from '../document/limits.ts';
import type { Pin, Point } from '../document/types.ts';
import { focusAt } from './framing.ts';

/** Where what is followed is at a source time, seconds; before and after it was seen it stands still. */
export const pinAt = ({ track }: Pick<Pin, 'track'>, t: number): Point => focusAt({ focus: track[0]!, track }, t)!;

/**
 * A pin that is set right at a moment: from where it began up to there the old way bends to the new one, on from there it is
 * the new one, on the other side the old one.
 * @param track the new way, found from that moment both ways; ascending
 */
export function mended(pin: Pin, at: number, track: Pin['track']): Pin {
  const span = at - pin.at;
  const fresh = { track };
  const points = new Map([...pin.track, ...track].map((point) => [point.t, point]));
  const sorted = [...points.values()].sort((a, b) => a.t - b.t);
  const bent = sorted.map((point) => {
    const { t } = point;
    const share = span === 0 ? 1 : Math.min(1, Math.max(0, (t - pin.at) / span));
    const [old, next] = [pinAt(pin, t), pinAt(fresh, t)];
    return { ...point, x: old.x + share * (next.x - old.x), y: old.y + share * (next.y - old.y) };
  });
  // Of too long a way the part about the moment is kept.
  const middle = bent.findIndex(({ t }) => t >= at);
  const first = Math.max(0, Math.min(middle - LIMITS.trackPoints / 2, bent.length - LIMITS.trackPoints));
  return { ...pin, track: bent.slice(first, first + LIMITS.trackPoints) };
}
