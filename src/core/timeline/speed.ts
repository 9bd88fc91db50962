/**
 * How fast a clip runs: at a speed of its own, and through ramps about its hits. From output frames to source seconds and
 * back, exactly: pieces of an even speed or of one that runs smoothly to the next, integrated in closed form.
 */
import { lowerBound } from '../base/search.ts';
import { LIMITS } from '../document/limits.ts';
import type { Clip, Ramp } from '../document/types.ts';

/** Output frames through which the speed stays, or runs from one to the other. Speeds are shares, 1 as recorded, never negative. */
export interface Piece {
  /** At least 0; not whole where a piece fills what lies between two others. */
  readonly frames: number;
  readonly from: number;
  readonly to: number;
  /** The ramp it is of; null for what lies between ramps. */
  readonly ramp: Ramp | null;
}

/** A ramp where it lies in a clip. */
export interface PlacedRamp {
  readonly ramp: Ramp;
  /** Source seconds that its hit is at. */
  readonly t: number;
  /** Output frames for one of the ramp's. */
  readonly scale: number;
}

export interface TimeMap {
  /** Output frames a second. */
  readonly fps: number;
  /** Output frames of the clip. */
  readonly frames: number;
  /** Output frames that ramps have won and nothing has paid back; negative where they have lost some. */
  readonly gained: number;
  readonly pieces: readonly (Piece & { readonly first: number })[];
  /** Source seconds shown at an output frame since the clip's first, fractions too; held within the clip. */
  at(frame: number): number;
  /** Source seconds an output second, at a frame: 1 as recorded, negative backwards. */
  speedAt(frame: number): number;
  /** The ramp that a frame is in; null where the clip runs at its own speed. */
  rampAt(frame: number): Ramp | null;
  /** The first output frame, fractions too, at which a source time is shown; null where it is not. */
  frameOf(seconds: number): number | null;
}

/** The integral of 3x² - 2x³ from 0: a smooth way from one speed to another. */
const SMOOTH = (x: number): number => x ** 3 - x ** 4 / 2;

/** Frames' worth of source that `frames` of a piece show. */
const travelled = ({ frames, from, to }: Piece, passed: number): number =>
  from === to || frames === 0 ? from * passed : from * passed + (to - from) * frames * SMOOTH(passed / frames);

/** How many frames of a piece it takes to show so much of the source; it shows that much. */
function passedIn(piece: Piece, wanted: number): number {
  if (piece.from === piece.to) return piece.from > 0 ? Math.min(piece.frames, wanted / piece.from) : 0;
  let [low, high] = [0, piece.frames];
  for (let round = 0; round < 60 && high - low > 1e-9; round++) {
    const middle = (low + high) / 2;
    if (travelled(piece, middle) < wanted) low = middle;
    else high = middle;
  }
  return high;
}

const piecesOf = ({ ramp, scale }: PlacedRamp, base: number): Piece[] =>
  ramp.steps.map(({ speed, frames }, i) => ({
    frames: frames * scale,
    from: speed,
    to: ramp.smooth ? (ramp.steps[i + 1]?.speed ?? base) : speed,
    ramp,
  }));

/** Speeds along a clip, the last for as long as there is anything left; what stands still at its end goes no further. */
function keyedPieces(speeds: NonNullable<Clip['speeds']>, base: number): Piece[] {
  const [first] = speeds;
  const keys = first!.at > 0 ? [{ ...first!, at: 0, smooth: false }, ...speeds] : speeds;
  // No slower than a clip by itself can be, but for what stands still.
  const of = (speed: number): number => (speed > 0 ? Math.max(LIMITS.speed.min, speed * base) : 0);
  return keys.map(({ at, speed, smooth }, i) => {
    const next = keys[i + 1];
    return {
      frames: next ? Math.max(0, next.at - at) : speed > 0 ? Infinity : 0,
      from: of(speed),
      to: of(smooth && next ? next.speed : speed),
      ramp: null,
    };
  });
}

/** What a piece shows between two of its frames, at its mean speed there. */
function evened(piece: Piece, from: number, to: number): Piece {
  const mean = to > from ? (travelled(piece, to) - travelled(piece, from)) / (to - from) : piece.from;
  return { ...piece, frames: to - from, from: mean, to: mean };
}

/** What of pieces is left after so many frames. */
function after(pieces: readonly Piece[], frames: number): Piece[] {
  const left: Piece[] = [];
  let rest = frames;
  for (const piece of pieces) {
    const cut = Math.min(rest, piece.frames);
    rest -= cut;
    if (cut < piece.frames - 1e-9) left.push(cut === 0 ? piece : evened(piece, cut, piece.frames));
  }
  return left;
}

/** What of pieces comes in their first frames. */
function untilFrame(pieces: readonly Piece[], frames: number): Piece[] {
  const kept: Piece[] = [];
  let rest = frames;
  for (const piece of pieces) {
    if (rest <= 1e-9) break;
    kept.push(piece.frames <= rest ? piece : evened(piece, 0, rest));
    rest -= Math.min(rest, piece.frames);
  }
  return kept;
}

/** What of pieces comes before they have shown so much of the source. */
function until(pieces: readonly Piece[], shown: number): Piece[] {
  const kept: Piece[] = [];
  let rest = shown;
  for (const piece of pieces) {
    const all = travelled(piece, piece.frames);
    if (rest <= 0 && all > 0) break;
    kept.push(all <= rest ? piece : evened(piece, 0, passedIn(piece, rest)));
    rest -= Math.min(all, rest);
  }
  return kept;
}

const total = (pieces: readonly Piece[]): number => pieces.reduce((sum, one) => sum + travelled(one, one.frames), 0);
const lasting = (pieces: readonly Piece[]): number => pieces.reduce((sum, { frames }) => sum + frames, 0);

/** A ramp with the place of its hit along a clip, in frames' worth of source. */
interface AlongRamp extends PlacedRamp {
  readonly hit: number;
}

/** A stretch of a clip that is to last so many output frames. */
interface Stretch {
  readonly from: number;
  readonly to: number;
  readonly frames: number;
  readonly base: number;
}

/** Slack along a clip, frames' worth of source. */
const NEAR = 1e-6;

/** Pieces as many times as long, that show as many times as much. */
const scaled = (pieces: readonly Piece[], by: number): Piece[] =>
  pieces.map((piece) => ({ ...piece, frames: piece.frames * by }));

/** A stretch with ramps of a share of their length, and one speed for what lies between them; null where there is no room. */
function rampedStretch(
  { from, to, frames, base }: Stretch,
  ramps: readonly AlongRamp[],
  share: number,
): Piece[] | null {
  const parts = ramps.flatMap((placed) => {
    const own = piecesOf(placed, base);
    const before = placed.ramp.before * placed.scale;
    const [lead, rest] = [scaled(untilFrame(own, before), share), scaled(after(own, before), share)];
    // A hit on a pin has what comes before it in the stretch before.
    if (placed.hit >= to - NEAR) return [{ begin: to - total(lead), pieces: lead }];
    if (placed.hit <= from + NEAR) return [{ begin: from, pieces: rest }];
    return [{ begin: placed.hit - total(lead), pieces: [...lead, ...rest] }];
  });
  const placed: { gap: number; pieces: readonly Piece[] }[] = [];
  let along = from;
  for (const { begin, pieces } of parts) {
    if (begin < along - NEAR || begin + total(pieces) > to + NEAR) return null;
    placed.push({ gap: Math.max(0, begin - along), pieces });
    along = begin + total(pieces);
  }
  const ramped = placed.reduce((sum, { pieces }) => sum + lasting(pieces), 0);
  const shown = placed.reduce((sum, { pieces }) => sum + total(pieces), 0);
  const speed = (to - from - shown) / (frames - ramped);
  const most = Math.max((to - from) / frames, ...ramps.map(({ ramp }) => ramp.most));
  if (!(frames - ramped > 0) || speed < LIMITS.speed.min || speed > most + NEAR) return null;
  const run = (gap: number): Piece[] =>
    gap > NEAR ? [{ frames: gap / speed, from: speed, to: speed, ramp: null }] : [];
  return [...placed.flatMap(({ gap, pieces }) => [...run(gap), ...pieces]), ...run(to - along)];
}

/**
 * A stretch between two pins with the ramps of its hits: as long as without, since the rest of it runs the faster. Where
 * that is not fast enough within the ramps' largest speed, the ramps are shorter.
 */
function betweenPins(stretch: Stretch, all: readonly AlongRamp[]): Piece[] {
  const { from, to, frames } = stretch;
  const speed = (to - from) / frames;
  const ramps = all.filter(
    ({ hit, ramp, scale }) => hit >= from - NEAR && (hit < to - NEAR || (hit <= to + NEAR && ramp.before * scale > 0)),
  );
  let best = rampedStretch(stretch, ramps, 1);
  if (best) return best;
  for (let [low, high, round] = [0, 1, 0]; round < 30; round++) {
    const share = (low + high) / 2;
    const tried = rampedStretch(stretch, ramps, share);
    if (tried) [best, low] = [tried, share];
    else high = share;
  }
  return best ?? [{ frames, from: speed, to: speed, ramp: null }];
}

/**
 * A clip that is pinned runs evenly from pin to pin, at its own speed after the last, ramps taking their time from between
 * the same pins; one with speeds of its own runs through these, and takes no ramps.
 *
 * @param ramps about hits of the clip, in any order; one whose hit lies inside of an earlier one's slow part is passed over
 * @param marks source seconds that are to stay on their output frames where time is paid back
 * @param fps output frames a second
 */
export function timeMap(
  { in: begin, out: end, speed = 1, pins = [], speeds = [] }: Pick<Clip, 'in' | 'out' | 'speed' | 'pins' | 'speeds'>,
  ramps: readonly PlacedRamp[],
  marks: readonly number[],
  fps: number,
): TimeMap {
  const back = speed < 0;
  const base = Math.abs(speed);
  /** All that is shown, and how far along it a source time is, in frames' worth of source. */
  const whole = (end - begin) * fps;
  const alongOf = (t: number): number => (back ? end - t : t - begin) * fps;
  const stops = marks.map(alongOf).sort((a, b) => a - b);

  const pieces: Piece[] = [];
  let along = 0;
  let debt = 0;
  let most = base;
  /**
   * Runs on at the clip's own speed, or faster while there is something to pay back, up to a place; what will be won
   * there before its hit is paid on the last stretch, so that the hit stays on its frame.
   */
  const runTo = (place: number, ahead = 0): void => {
    for (const stop of [...stops.filter((s) => s > along + 1e-6 && s < place - 1e-6), place]) {
      if (stop === place) debt += ahead;
      const stretch = stop - along;
      if (stretch <= 0) continue;
      const usual = stretch / base;
      const frames = debt > 0 ? Math.max(usual - debt, stretch / most) : usual;
      debt -= usual - frames;
      pieces.push({ frames, from: stretch / frames, to: stretch / frames, ramp: null });
      along = stop;
    }
  };
  let cutAt = Infinity;
  const ordered = ramps.map((one): AlongRamp => ({ ...one, hit: alongOf(one.t) })).sort((a, b) => a.hit - b.hit);
  let pinned = 0;
  for (const { t, at } of pins) {
    const [to, frames] = [alongOf(t), at - pinned];
    if (to <= along || frames <= 0 || to > whole) continue;
    pieces.push(...betweenPins({ from: along, to, frames, base }, ordered));
    along = to;
    pinned = at;
  }
  // After its last pin it runs at its own speed, for as long with ramps as without: what follows stays where it is.
  if (pinned && along < whole) {
    pieces.push(...betweenPins({ from: along, to: whole, frames: (whole - along) / base, base }, ordered));
    along = whole;
  }
  const keyed = !pinned && speeds.length > 0;
  if (keyed) {
    pieces.push(...until(keyedPieces(speeds, base), whole));
    if (!lasting(pieces)) pieces.push({ frames: 1, from: 0, to: 0, ramp: null });
    // What stands still at its end shows no more of its source.
    along = whole;
  }
  for (const placed of pinned || keyed ? [] : ordered) {
    const { hit } = placed;
    if (hit < along - 1e-6 || hit > whole) continue;
    let own = piecesOf(placed, base);
    const before = placed.ramp.before * placed.scale;
    const lead = total(own) - total(after(own, before));
    const { gained } = placed.ramp;
    let ahead = 0;
    if (gained === 'paid back') most = Math.max(base, placed.ramp.most);
    if (hit - lead > along) {
      if (gained === 'paid back') ahead = before - lead / base;
      runTo(hit - lead, ahead);
    } else {
      // Ramps meet, or the clip begins inside of one: what of it comes before the hit is as long as there is room.
      let [low, high] = [0, Math.min(before, lasting(own))];
      for (let round = 0; round < 60; round++) {
        const middle = (low + high) / 2;
        if (lead - (total(own) - total(after(own, middle))) > hit - along) low = middle;
        else high = middle;
      }
      own = after(own, high);
    }
    const shown = total(own);
    const room = whole - along;
    if (shown > room) own = until(own, room);
    pieces.push(...own);
    const moved = Math.min(shown, room);
    along += moved;
    const won = lasting(own) - moved / base;
    if (gained === 'paid back') debt += won - ahead;
    if (gained === 'cut') cutAt = whole / base;
  }
  runTo(whole);

  const frames = Math.min(lasting(pieces), Math.max(cutAt, 1));
  let first = 0;
  let shown = 0;
  const placed = pieces.map((piece) => {
    const one = { ...piece, first, shown };
    first += piece.frames;
    shown += travelled(piece, piece.frames);
    return one;
  });
  const sourceOf = (place: number): number => {
    const held = Math.min(whole, Math.max(0, place)) / fps;
    return back ? end - held : begin + held;
  };
  /** The last piece that begins on a frame or before it. */
  const pieceAt = (frame: number): (typeof placed)[number] => {
    const next = lowerBound(placed, frame, (one) => one.first);
    return placed[next]?.first === frame ? placed[next] : placed[Math.max(0, next - 1)]!;
  };
  return {
    fps,
    frames,
    gained: pinned || keyed ? 0 : frames - whole / base,
    pieces: placed,
    at(frame) {
      const piece = pieceAt(frame);
      return sourceOf(piece.shown + travelled(piece, Math.min(piece.frames, Math.max(0, frame - piece.first))));
    },
    speedAt(frame) {
      const { from, to, first: start, frames: length } = pieceAt(frame);
      const x = length > 0 ? Math.min(1, Math.max(0, (frame - start) / length)) : 0;
      return (back ? -1 : 1) * (from + (to - from) * x * x * (3 - 2 * x));
    },
    rampAt: (frame) => pieceAt(frame).ramp,
    frameOf(t) {
      const place = alongOf(t);
      if (place < -1e-6 || place > whole + 1e-6) return null;
      const piece = placed[lowerBound(placed, place - 1e-9, (one) => one.shown + travelled(one, one.frames))];
      if (!piece) return null;
      const frame = piece.first + passedIn(piece, Math.max(0, place - piece.shown));
      return frame <= frames ? frame : null;
    },
  };
}
