/** Streaming picture features on small luma frames. */
import { Arena } from '../../base/simd/kernels.ts';
import { GrowingArray } from './growing-array.ts';
import type { PictureSignals } from './types.ts';

export const LUMA_WIDTH = 160;
export const LUMA_HEIGHT = 90;
const PIXELS = LUMA_WIDTH * LUMA_HEIGHT;
const BLOCK = 10;
const COLUMNS = LUMA_WIDTH / BLOCK;
const ROWS = LUMA_HEIGHT / BLOCK;
const BLOCKS = COLUMNS * ROWS;
const BINS = 32;
/** Pixels that the whole picture may have moved from one frame to the next. */
const REACH = 14;
/** Differences up to this are noise and half a pixel of shift: no movement. */
const STILL = 12;
/** Blocks to each side that count as one local movement. */
const LOCAL = 2;

const KEPT = [
  'times',
  'mean',
  'rise',
  'change',
  'histogram',
  'shiftX',
  'shiftY',
  'motion',
  'motionX',
  'motionY',
  'after',
] as const;

/** All that the analyser must remember to go on later. */
export interface PictureState extends PictureSignals {
  readonly last: Uint8Array;
  readonly moving: Float64Array;
}

/** Rounded to a 2048th: finer than any threshold, and much smaller once compressed. */
const kept = (value: number): number => Math.round(value * 2048) / 2048;

export class PictureAnalyser {
  private readonly times = new GrowingArray(Float64Array);
  private readonly mean = new GrowingArray(Float32Array);
  private readonly rise = new GrowingArray(Float32Array);
  private readonly change = new GrowingArray(Float32Array);
  private readonly histogram = new GrowingArray(Float32Array);
  private readonly shiftX = new GrowingArray(Float32Array);
  private readonly shiftY = new GrowingArray(Float32Array);
  private readonly motion = new GrowingArray(Float32Array);
  private readonly motionX = new GrowingArray(Float32Array);
  private readonly motionY = new GrowingArray(Float32Array);
  private readonly after = new GrowingArray(Float32Array);
  private readonly arena = new Arena(8 * PIXELS);
  private readonly luma = this.arena.bytes(PIXELS);
  private readonly last = this.arena.bytes(PIXELS);
  private readonly strip = this.arena.sums(LUMA_WIDTH);
  private readonly shifts = new Shifts(this.arena);
  /** Local movement of each block in the frame before, smoothed over its neighbours. */
  private moving = new Float64Array(BLOCKS);
  private measures = new Measures(this.arena);
  private lastMeasures = new Measures(this.arena);
  private lastDuration = 0;

  /** Goes on from where {@link state} was taken. */
  static resumed(state: PictureState): PictureAnalyser {
    const analyser = new PictureAnalyser();
    for (const name of KEPT) analyser[name].put(state[name] as never);
    analyser.last.set(state.last);
    analyser.moving.set(state.moving);
    analyser.lastMeasures.take(analyser.last, analyser.last);
    analyser.lastDuration = state.lastDuration;
    return analyser;
  }

  state(): PictureState {
    return { ...this.finish(), last: this.last.slice(), moving: this.moving.slice() };
  }

  /** `frame`: 160x90 full-range values, rows top first; `t` and `duration` in source seconds. */
  push(frame: Uint8Array, t: number, duration: number): void {
    const { luma, measures: now, lastMeasures: before, shifts } = this;
    luma.set(frame);
    now.take(luma, this.last);
    const first = this.times.length === 0;
    let rise = 0;
    let spread = 0;
    let shift = { x: 0, y: 0 };
    if (!first) {
      rise = riseOf(now.blocks, before.blocks);
      for (let b = 0; b < BINS; b++) spread += Math.abs(now.bins[b]! - before.bins[b]!);
      const [x, y] = [this.shiftX, this.shiftY].map((list) => list.at(list.length - 1) * LUMA_HEIGHT) as [
        number,
        number,
      ];
      shift = {
        x: shifts.common(now.top, now.bottom, before.top, before.bottom, x),
        y: shifts.common(now.left, now.right, before.left, before.right, y),
      };
    }
    this.times.push(t);
    this.mean.push(kept(now.sum / PIXELS / 255));
    this.rise.push(kept(rise / (BLOCK * BLOCK) / 255));
    this.change.push(kept(first ? 0 : now.change / PIXELS / 255));
    this.histogram.push(kept(spread / (2 * PIXELS)));
    this.shiftX.push(kept(shift.x / LUMA_HEIGHT));
    this.shiftY.push(kept(shift.y / LUMA_HEIGHT));
    this.keepLocal(luma, first, Math.round(shift.x), Math.round(shift.y));
    this.last.set(luma);
    [this.measures, this.lastMeasures] = [before, now];
    this.lastDuration = duration;
  }

  /** What moved against the picture as a whole: where most, how much, and how much of the last frame's movement is left there. */
  private keepLocal(luma: Uint8Array, first: boolean, dx: number, dy: number): void {
    const raw = new Float64Array(BLOCKS);
    const {
      strip,
      last,
      arena: { kernels },
    } = this;
    // Every second pixel of every second row, where both frames show it.
    for (let row = 0; row < ROWS && !first; row++) {
      const from = Math.max(row * BLOCK, dy + (dy & 1));
      const rows = Math.min((row + 1) * BLOCK, LUMA_HEIGHT + dy) - from;
      if (rows <= 0) continue;
      const at = from * LUMA_WIDTH;
      kernels.movement(
        luma.byteOffset + at,
        last.byteOffset + at - dy * LUMA_WIDTH - dx,
        LUMA_WIDTH,
        rows,
        LUMA_WIDTH,
        STILL,
        strip.byteOffset,
      );
      const end = Math.min(LUMA_WIDTH, LUMA_WIDTH + dx);
      for (let column = 0, x = 0; column < COLUMNS; column++) {
        let sum = 0;
        for (const to = Math.min(end, x + BLOCK); x < to; x += 2) if (x >= dx) sum += strip[x]!;
        raw[row * COLUMNS + column] = sum;
      }
    }
    // Sums over the blocks around, along rows and then down columns.
    const along = new Float64Array(BLOCKS);
    for (let r = 0; r < BLOCKS; r += COLUMNS) {
      for (let c = 0; c < COLUMNS; c++)
        for (let x = Math.max(0, c - LOCAL); x <= Math.min(COLUMNS - 1, c + LOCAL); x++) along[r + c]! += raw[r + x]!;
    }
    const smooth = new Float64Array(BLOCKS);
    let most = 0;
    let at = 0;
    for (let r = 0, b = 0; r < ROWS; r++) {
      for (let c = 0; c < COLUMNS; c++, b++) {
        let sum = 0;
        for (let y = Math.max(0, r - LOCAL); y <= Math.min(ROWS - 1, r + LOCAL); y++) sum += along[y * COLUMNS + c]!;
        smooth[b] = sum;
        if (sum > most) {
          most = sum;
          at = b;
        }
      }
    }
    let x = 0;
    let y = 0;
    let weight = 1e-9;
    const [row, column] = [Math.floor(at / COLUMNS), at % COLUMNS];
    for (let r = Math.max(0, row - LOCAL); r <= Math.min(ROWS - 1, row + LOCAL); r++) {
      for (let c = Math.max(0, column - LOCAL); c <= Math.min(COLUMNS - 1, column + LOCAL); c++) {
        const w = raw[r * COLUMNS + c]!;
        x += (c + 0.5) * w;
        y += (r + 0.5) * w;
        weight += w;
      }
    }
    let before = 0;
    for (let b = 0; b < BLOCKS; b++) if (this.moving[b]! > this.moving[before]!) before = b;
    // Of a quarter of the pixels, against a full change of a whole neighbourhood.
    const scale = 255 * (BLOCK / 2) ** 2 * (2 * LOCAL + 1) ** 2;
    this.motion.push(kept(most / scale));
    this.motionX.push(kept(x / weight / COLUMNS));
    this.motionY.push(kept(y / weight / ROWS));
    this.after.push(kept(smooth[before]! / scale));
    this.moving = smooth;
  }

  get frames(): number {
    return this.times.length;
  }

  /** Source seconds of the last frame; minus infinity before the first. */
  get lastTime(): number {
    return this.times.length ? this.times.at(this.times.length - 1) : -Infinity;
  }

  finish(): PictureSignals {
    return {
      times: this.times.all(),
      lastDuration: this.lastDuration,
      mean: this.mean.all(),
      rise: this.rise.all(),
      change: this.change.all(),
      histogram: this.histogram.all(),
      shiftX: this.shiftX.all(),
      shiftY: this.shiftY.all(),
      motion: this.motion.all(),
      motionX: this.motionX.all(),
      motionY: this.motionY.all(),
      after: this.after.all(),
    };
  }
}

/** Sums of one frame: blocks, histogram, and profiles of its halves. */
class Measures {
  readonly blocks = new Int32Array(BLOCKS);
  readonly bins: Int32Array;
  /** Column sums of the upper and lower half, row sums of the left and right half. */
  readonly top = new Int32Array(LUMA_WIDTH);
  readonly bottom = new Int32Array(LUMA_WIDTH);
  readonly left = new Int32Array(LUMA_HEIGHT);
  readonly right = new Int32Array(LUMA_HEIGHT);
  sum = 0;
  /** Sum of absolute differences from the frame before. */
  change = 0;
  private readonly strip: Uint16Array;

  constructor(private readonly arena: Arena) {
    this.strip = arena.sums(LUMA_WIDTH);
    this.bins = arena.whole(BINS);
  }

  /** Both frames lie in the arena. */
  take(luma: Uint8Array, last: Uint8Array): void {
    const {
      blocks,
      bins,
      top,
      bottom,
      left,
      right,
      strip,
      arena: { kernels },
    } = this;
    const half = LUMA_WIDTH / 2;
    const columnSums = (row: number, rows: number): Uint16Array => {
      kernels.columnSums(luma.byteOffset + row * LUMA_WIDTH, LUMA_WIDTH, rows, 1, LUMA_WIDTH, strip.byteOffset);
      return strip;
    };
    top.set(columnSums(0, LUMA_HEIGHT / 2));
    bottom.set(columnSums(LUMA_HEIGHT / 2, LUMA_HEIGHT / 2));
    for (let row = 0, block = 0; row < LUMA_HEIGHT; row += BLOCK) {
      columnSums(row, BLOCK);
      for (let x = 0; x < LUMA_WIDTH; block++) {
        let sum = 0;
        for (const end = x + BLOCK; x < end; x++) sum += strip[x]!;
        blocks[block] = sum;
      }
    }
    this.sum = 0;
    for (let y = 0, at = luma.byteOffset; y < LUMA_HEIGHT; y++, at += LUMA_WIDTH) {
      this.sum += (left[y] = kernels.sumOf(at, half)) + (right[y] = kernels.sumOf(at + half, half));
    }
    bins.fill(0);
    kernels.histogram(luma.byteOffset, PIXELS, bins.byteOffset);
    this.change = kernels.difference(luma.byteOffset, last.byteOffset, PIXELS);
  }
}

/** Largest rise of a block over the brightest of the blocks around it a frame before: what merely moves does not rise. */
function riseOf(now: Int32Array, before: Int32Array): number {
  let rise = 0;
  for (let r = 0; r < ROWS; r++) {
    for (let c = 0; c < COLUMNS; c++) {
      const value = now[r * COLUMNS + c]!;
      if (value - before[r * COLUMNS + c]! <= rise) continue;
      let top = 0;
      for (let y = Math.max(0, r - 1); y <= Math.min(ROWS - 1, r + 1); y++) {
        for (let x = Math.max(0, c - 1); x <= Math.min(COLUMNS - 1, c + 1); x++)
          top = Math.max(top, before[y * COLUMNS + x]!);
      }
      rise = Math.max(rise, value - top);
    }
  }
  return rise;
}

/** How much dearer the shift may be for one half of the picture than standing still. */
const UNWILLING = 1.02;
/** How much cheaper it must be for both together. */
const BETTER = 0.92;

/** How a frame as a whole moved out of the one before. */
class Shifts {
  private readonly slopes: Int32Array;
  private readonly slopesBefore: Int32Array;

  constructor(private readonly arena: Arena) {
    this.slopes = arena.whole(LUMA_WIDTH);
    this.slopesBefore = arena.whole(LUMA_WIDTH);
  }

  /**
   * The shift of the whole picture in pixels, to a fraction by a parabola: what both halves together fit
   * best, and neither refuses. An object that moves in one half leaves the other still.
   */
  common(a: Int32Array, b: Int32Array, aBefore: Int32Array, bBefore: Int32Array, last: number): number {
    const [one, other] = [this.costs(a, aBefore), this.costs(b, bBefore)];
    const both = new Float64Array(2 * REACH + 1);
    let best = REACH;
    for (let k = 0; k < both.length; k++) both[k] = one[k]! + other[k]!;
    for (let k = 0; k < both.length; k++) if (both[k]! < both[best]!) best = k;
    if (
      both[best]! > both[REACH]! * BETTER ||
      one[best]! > one[REACH]! * UNWILLING ||
      other[best]! > other[REACH]! * UNWILLING
    ) {
      // In doubt a movement goes on.
      const going = Math.max(0, Math.min(2 * REACH, Math.round(last) + REACH));
      return both[going]! < both[REACH]! ? last : 0;
    }
    const [left, middle, right] = [both[best - 1] ?? Infinity, both[best]!, both[best + 1] ?? Infinity];
    const bend = left + right - 2 * middle;
    const part = Number.isFinite(bend) && bend > 0 ? (left - right) / (2 * bend) : 0;
    return best - REACH + part;
  }

  /**
   * How badly each shift of a profile explains the next: mean absolute difference of its slopes, a
   * large one not counted in full, over the mean of all shifts. Slopes, so that a change of
   * brightness is no movement.
   */
  private costs(now: Int32Array, before: Int32Array): Float64Array {
    const {
      slopes,
      slopesBefore,
      arena: { kernels },
    } = this;
    const n = now.length;
    let usual = 1e-9;
    for (let i = 1; i < n; i++) {
      slopes[i] = now[i]! - now[i - 1]!;
      const slope = before[i]! - before[i - 1]!;
      slopesBefore[i] = slope;
      usual += (slope < 0 ? -slope : slope) / n;
    }
    const most = Math.ceil(usual * 3);
    const costs = new Float64Array(2 * REACH + 1);
    let mean = 1e-9;
    for (let s = -REACH; s <= REACH; s++) {
      const from = Math.max(1, 1 + s);
      const to = Math.min(n, n + s);
      costs[s + REACH] =
        kernels.gaps(slopes.byteOffset + 4 * from, slopesBefore.byteOffset + 4 * (from - s), to - from, most) /
        (to - from);
      mean += costs[s + REACH]! / (2 * REACH + 1);
    }
    for (let k = 0; k < costs.length; k++) costs[k]! /= mean;
    return costs;
  }
}
