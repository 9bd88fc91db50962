/** Pins: what goes along with something that was followed in the picture. */
import { lowerBound } from '../base/search.ts';
import { LIMITS } from '../document/limits.ts';
import type { Pin, Point } from '../document/types.ts';

/** Where something is, how it is turned, radians clockwise, and how large it is. */
export interface Pose extends Point {
  readonly turn: number;
  readonly scale: number;
}

const mixed = (a: Pose, b: Pose, share: number): Pose => ({
  x: a.x + share * (b.x - a.x),
  y: a.y + share * (b.y - a.y),
  turn: a.turn + share * (b.turn - a.turn),
  scale: a.scale + share * (b.scale - a.scale),
});
const poseOf = ({ x, y, turn = 0, scale = 1 }: Pin['track'][number]): Pose => ({ x, y, turn, scale });

/** Where what is followed is at a source time, seconds; before and after it was seen it stands still. */
export function pinAt({ track }: Pick<Pin, 'track'>, t: number): Pose {
  const after = lowerBound(track, t, (point) => point.t);
  const [a, b] = [track[Math.max(0, after - 1)]!, track[Math.min(after, track.length - 1)]!];
  return mixed(poseOf(a), poseOf(b), b.t > a.t ? Math.min(1, Math.max(0, (t - a.t) / (b.t - a.t))) : 0);
}

/** Whether it was followed in its turn and size, too. */
export const turns = ({ track }: Pick<Pin, 'track'>): boolean => track.some(({ turn }) => turn !== undefined);

/**
 * A pin that is set right at a moment: from where it began up to there the old way bends to the new one, on from there it is
 * the new one, on the other side the old one.
 * @param track the new way, found from that moment both ways; ascending
 */
export function mended(pin: Pin, at: number, track: Pin['track']): Pin {
  const span = at - pin.at;
  const points = new Map([...pin.track, ...track].map((point) => [point.t, point]));
  const sorted = [...points.values()].sort((a, b) => a.t - b.t);
  const both = turns(pin) || turns({ track });
  // Turn and size go on from what they were: the new way counts them from its own beginning.
  const [old, fresh] = [pinAt(pin, at), pinAt({ track }, at)];
  const bent = sorted.map(({ t, sure }) => {
    const share = span === 0 ? 1 : Math.min(1, Math.max(0, (t - pin.at) / span));
    const next = pinAt({ track }, t);
    const going = { ...next, turn: next.turn - fresh.turn + old.turn, scale: (next.scale / fresh.scale) * old.scale };
    const { x, y, turn, scale } = mixed(pinAt(pin, t), going, share);
    return { t, x, y, ...(both && { turn, scale }), ...(sure !== undefined && { sure }) };
  });
  // Of too long a way the part about the moment is kept.
  const middle = bent.findIndex(({ t }) => t >= at);
  const first = Math.max(0, Math.min(middle - LIMITS.trackPoints / 2, bent.length - LIMITS.trackPoints));
  return { ...pin, track: bent.slice(first, first + LIMITS.trackPoints) };
}
