/** What accents do to lanes while they last: lowering them, or cutting off their highs or lows. */
import type { Lane, LaneChange } from '../document/types.ts';
import { Biquad, highPass, lowPass } from './biquad.ts';
import { echo, room, type Reflections } from './echo.ts';

/** Montage seconds. */
export interface PlacedMove {
  readonly lane: Exclude<Lane, 'accents'>;
  readonly change: LaneChange;
  /** Decibels down, hertz, milliseconds of an echo, or seconds of a room. */
  readonly amount: number;
  readonly adds: boolean;
  readonly from: number;
  readonly attack: number;
  readonly hold: number;
  readonly release: number;
}

/** Decibels from which nothing is left. */
const SILENT = 96;
/** Samples from one value of a gain to the next; between them it runs straight. */
const STEP = 32;
/** Seconds that a filter runs before it is heard, and the share of its way on which it comes in. */
const FILTER_RUN_IN = 0.02;
const COMES_IN = 0.1;
/** Where filters stand open, hertz. */
const OPEN = { 'low-pass': 20_000, 'high-pass': 20 } as const;

export const endOf = ({ from, attack, hold, release }: PlacedMove): number => from + attack + hold + release;

/** Echoes that are heard after the last sound that went in. */
const ECHOES = 8;
/** Seconds for which something comes back after a move is over. */
const tailOf = ({ change, amount }: PlacedMove): number =>
  change === 'echo' ? (ECHOES * amount) / 1000 : change === 'room' ? amount : 0;
const isFilter = (change: LaneChange): change is keyof typeof OPEN => change in OPEN;

/** How far a move is in at a time, 0 to 1. */
export function moveShape(move: PlacedMove, seconds: number): number {
  const t = seconds - move.from;
  if (t < 0) return 0;
  if (t < move.attack) return t / move.attack;
  if (t <= move.attack + move.hold) return 1;
  const out = t - move.attack - move.hold;
  return out < move.release ? 1 - out / move.release : 0;
}

/** Linear factor of a lane at a time: of several moves the deepest counts, and what adds goes on top. */
export function loweredTo(moves: readonly PlacedMove[], seconds: number): number {
  let [deepest, more] = [0, 0];
  for (const move of moves) {
    if (move.change !== 'lower') continue;
    const down = moveShape(move, seconds) * move.amount;
    if (move.adds) more += down;
    else deepest = Math.max(deepest, down);
  }
  const all = deepest + more;
  return all >= SILENT ? 0 : 10 ** (-all / 20);
}

/** One lane's moves over its samples, block after block. */
export class LaneMoves {
  private readonly moves: readonly PlacedMove[];
  private readonly filters = new Map<PlacedMove, readonly Biquad[]>();
  private readonly reflections = new Map<PlacedMove, Reflections>();
  private next = Number.NaN;

  constructor(
    moves: readonly PlacedMove[],
    lane: Lane,
    private readonly rate: number,
  ) {
    this.moves = moves.filter((move) => move.lane === lane).sort((a, b) => a.from - b.from);
  }

  /** Changes left and right in place. @param from montage sample of the first */
  run(left: Float32Array, right: Float32Array, from: number): void {
    if (from !== this.next) {
      this.filters.clear();
      this.reflections.clear();
    }
    this.next = from + left.length;
    const [begin, end] = [from / this.rate, this.next / this.rate];
    const near = this.moves.filter((move) => move.from - FILTER_RUN_IN < end && endOf(move) + tailOf(move) >= begin);
    if (!near.length) return;
    for (const move of near) {
      if (isFilter(move.change)) this.filter(move, move.change, left, right, from);
      else if (move.change !== 'lower') this.reflect(move, left, right, from);
    }
    const lowering = near.filter(({ change }) => change === 'lower');
    if (!lowering.length) return;
    let gain = loweredTo(lowering, begin);
    for (let at = 0; at < left.length; at += STEP) {
      const length = Math.min(STEP, left.length - at);
      const after = loweredTo(lowering, (from + at + length) / this.rate);
      for (let i = 0; i < length; i++) {
        const factor = gain + ((after - gain) * i) / length;
        left[at + i]! *= factor;
        right[at + i]! *= factor;
      }
      gain = after;
    }
  }

  /** Two in a row, 24 decibels an octave, whose frequency glides from where it stands open. */
  private filter(
    move: PlacedMove,
    kind: keyof typeof OPEN,
    left: Float32Array,
    right: Float32Array,
    from: number,
  ): void {
    const made = kind === 'low-pass' ? lowPass : highPass;
    const at = (hertz: number) => made(hertz, this.rate);
    let filters = this.filters.get(move);
    if (!filters) this.filters.set(move, (filters = [0, 1, 2, 3].map(() => new Biquad(at(OPEN[kind])))));
    const [l1, l2, r1, r2] = filters as [Biquad, Biquad, Biquad, Biquad];
    for (let begin = 0; begin < left.length; begin += STEP) {
      const shape = moveShape(move, (from + begin) / this.rate);
      const by = at(OPEN[kind] * (move.amount / OPEN[kind]) ** shape);
      for (const one of filters) one.by = by;
      const wet = Math.min(1, shape / COMES_IN);
      for (let i = begin; i < Math.min(left.length, begin + STEP); i++) {
        left[i]! += wet * (l2.next(l1.next(left[i]!)) - left[i]!);
        right[i]! += wet * (r2.next(r1.next(right[i]!)) - right[i]!);
      }
    }
  }

  /** What sounds while the move lasts comes back, after it too. */
  private reflect(move: PlacedMove, left: Float32Array, right: Float32Array, from: number): void {
    let own = this.reflections.get(move);
    if (!own) {
      own = move.change === 'echo' ? echo(move.amount / 1000, this.rate) : room(Math.max(0.05, move.amount), this.rate);
      this.reflections.set(move, own);
    }
    for (let begin = 0; begin < left.length; begin += STEP) {
      const send = moveShape(move, (from + begin) / this.rate);
      for (let i = begin; i < Math.min(left.length, begin + STEP); i++) {
        const [l, r] = own.next(send * left[i]!, send * right[i]!);
        left[i]! += l;
        right[i]! += r;
      }
    }
  }
}
