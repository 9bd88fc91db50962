/** Streaming picture features on small luma frames. */
import { Keep } from './keep.ts';
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
/** Blocks to each side that count as one local movement. */
const LOCAL = 2;

const KEPT = ['times', 'mean', 'rise', 'change', 'histogram', 'shiftX', 'shiftY', 'motion', 'motionX', 'motionY', 'after'] as const;

/** All that the analyser must remember to go on later. */
export interface PictureState extends PictureSignals {
  readonly last: Uint8Array;
  readonly moving: Float64Array;
}

/** Rounded to a 2048th: finer than any threshold, and much smaller once compressed. */
const kept = (value: number): number => Math.round(value * 2048) / 2048;

export class PictureAnalyser {
  private readonly times = new Keep(Float64Array);
  private readonly mean = new Keep(Float32Array);
  private readonly rise = new Keep(Float32Array);
  private readonly change = new Keep(Float32Array);
  private readonly histogram = new Keep(Float32Array);
  private readonly shiftX = new Keep(Float32Array);
  private readonly shiftY = new Keep(Float32Array);
  private readonly motion = new Keep(Float32Array);
  private readonly motionX = new Keep(Float32Array);
  private readonly motionY = new Keep(Float32Array);
  private readonly after = new Keep(Float32Array);
  private readonly last = new Uint8Array(PIXELS);
  /** Local movement of each block in the frame before, smoothed over its neighbours. */
  private moving = new Float64Array(BLOCKS);
  private measures = new Measures();
  private lastMeasures = new Measures();
  private lastDuration = 0;

  /** Goes on from where {@link state} was taken. */
  static resumed(state: PictureState): PictureAnalyser {
    const analyser = new PictureAnalyser();
    for (const name of KEPT) analyser[name].put(state[name] as never);
    analyser.last.set(state.last);
    analyser.moving.set(state.moving);
    analyser.lastMeasures.take(state.last, state.last);
    analyser.lastDuration = state.lastDuration;
    return analyser;
  }

  state(): PictureState {
    return { ...this.finish(), last: this.last.slice(), moving: this.moving.slice() };
  }

  /** `luma`: 160x90 full-range values, rows top first; `t` and `duration` in source seconds. */
  push(luma: Uint8Array, t: number, duration: number): void {
    const { measures: now, lastMeasures: before } = this;
    now.take(luma, this.last);
    const first = this.times.length === 0;
    let rise = 0;
    let spread = 0;
    let shift = { x: 0, y: 0 };
    if (!first) {
      rise = riseOf(now.blocks, before.blocks);
      for (let b = 0; b < BINS; b++) spread += Math.abs(now.bins[b]! - before.bins[b]!);
      const [x, y] = [this.shiftX, this.shiftY].map((list) => list.at(list.length - 1) * LUMA_HEIGHT) as [number, number];
      shift = { x: common(now.top, now.bottom, before.top, before.bottom, x), y: common(now.left, now.right, before.left, before.right, y) };
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
    if (!first) {
      for (let y = 0; y < LUMA_HEIGHT; y += 2) {
        const from = y - dy;
        if (from < 0 || from >= LUMA_HEIGHT) continue;
        const row = Math.floor(y / BLOCK) * COLUMNS;
        for (let x = Math.max(0, dx) + ((Math.max(0, dx)) & 1); x < LUMA_WIDTH + Math.min(0, dx); x += 2) {
          const gap = Math.abs(luma[y * LUMA_WIDTH + x]! - this.last[from * LUMA_WIDTH + x - dx]!);
          // Noise and half a pixel of shift are no movement.
          if (gap > 12) raw[row + Math.floor(x / BLOCK)]! += gap;
        }
      }
    }
    const smooth = new Float64Array(BLOCKS);
    let most = 0;
    let at = 0;
    for (let r = 0; r < ROWS; r++) {
      for (let c = 0; c < COLUMNS; c++) {
        let sum = 0;
        for (let y = Math.max(0, r - LOCAL); y <= Math.min(ROWS - 1, r + LOCAL); y++) {
          for (let x = Math.max(0, c - LOCAL); x <= Math.min(COLUMNS - 1, c + LOCAL); x++) sum += raw[y * COLUMNS + x]!;
        }
        smooth[r * COLUMNS + c] = sum;
        if (sum > most) {
          most = sum;
          at = r * COLUMNS + c;
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
      times: this.times.all(), lastDuration: this.lastDuration, mean: this.mean.all(), rise: this.rise.all(), change: this.change.all(),
      histogram: this.histogram.all(), shiftX: this.shiftX.all(), shiftY: this.shiftY.all(),
      motion: this.motion.all(), motionX: this.motionX.all(), motionY: this.motionY.all(), after: this.after.all(),
    };
  }
}

/** Sums of one frame: blocks, histogram, and profiles of its halves. */
class Measures {
  readonly blocks = new Int32Array(BLOCKS);
  readonly bins = new Int32Array(BINS);
  /** Column sums of the upper and lower half, row sums of the left and right half. */
  readonly top = new Int32Array(LUMA_WIDTH);
  readonly bottom = new Int32Array(LUMA_WIDTH);
  readonly left = new Int32Array(LUMA_HEIGHT);
  readonly right = new Int32Array(LUMA_HEIGHT);
  sum = 0;
  /** Sum of absolute differences from the frame before. */
  change = 0;

  /** One pass for each sum: simple loops are compiled to what one loop for all is not. */
  take(luma: Uint8Array, last: Uint8Array): void {
    const { blocks, bins, top, bottom, left, right } = this;
    blocks.fill(0);
    bins.fill(0);
    left.fill(0);
    right.fill(0);
    let sum = 0;
    for (let y = 0, i = 0; y < LUMA_HEIGHT; y++) {
      const row = Math.floor(y / BLOCK) * COLUMNS;
      for (let column = 0; column < COLUMNS; column++) {
        let block = 0;
        for (const end = i + BLOCK; i < end; i++) block += luma[i]!;
        blocks[row + column]! += block;
        if (column < COLUMNS / 2) left[y]! += block;
        else right[y]! += block;
        sum += block;
      }
    }
    let change = 0;
    for (let i = 0; i < PIXELS; i++) {
      const gap = luma[i]! - last[i]!;
      change += gap < 0 ? -gap : gap;
    }
    for (let i = 0; i < PIXELS; i++) bins[luma[i]! >> 3]!++;
    columnSums(luma, 0, top);
    columnSums(luma, PIXELS / 2, bottom);
    this.sum = sum;
    this.change = change;
  }
}

/** Sums of the columns of half a frame, from its pixel `from` on. */
function columnSums(luma: Uint8Array, from: number, into: Int32Array): void {
  for (let x = 0; x < LUMA_WIDTH; x++) {
    let sum = 0;
    for (let i = from + x, end = from + PIXELS / 2; i < end; i += LUMA_WIDTH) sum += luma[i]!;
    into[x] = sum;
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
        for (let x = Math.max(0, c - 1); x <= Math.min(COLUMNS - 1, c + 1); x++) top = Math.max(top, before[y * COLUMNS + x]!);
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

/**
 * The shift of the whole picture in pixels, to a fraction by a parabola: what both halves together fit
 * best, and neither refuses. An object that moves in one half leaves the other still.
 */
function common(a: Int32Array, b: Int32Array, aBefore: Int32Array, bBefore: Int32Array, last: number): number {
  const [one, other] = [shiftCosts(a, aBefore), shiftCosts(b, bBefore)];
  const both = new Float64Array(2 * REACH + 1);
  let best = REACH;
  for (let k = 0; k < both.length; k++) both[k] = one[k]! + other[k]!;
  for (let k = 0; k < both.length; k++) if (both[k]! < both[best]!) best = k;
  if (both[best]! > both[REACH]! * BETTER || one[best]! > one[REACH]! * UNWILLING || other[best]! > other[REACH]! * UNWILLING) {
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
function shiftCosts(now: Int32Array, before: Int32Array): Float64Array {
  const n = now.length;
  const slopes = new Int32Array(n);
  const slopesBefore = new Int32Array(n);
  let usual = 1e-9;
  for (let i = 1; i < n; i++) {
    slopes[i] = now[i]! - now[i - 1]!;
    const slope = before[i]! - before[i - 1]!;
    slopesBefore[i] = slope;
    usual += (slope < 0 ? -slope : slope) / n;
  }
  // A whole number, so that all sums are.
  const most = Math.ceil(usual * 3);
  const costs = new Float64Array(2 * REACH + 1);
  let mean = 1e-9;
  for (let s = -REACH; s <= REACH; s++) {
    let sum = 0;
    const from = Math.max(1, 1 + s);
    const to = Math.min(n, n + s);
    for (let i = from; i < to; i++) {
      const slope = (slopes[i]! - slopesBefore[i - s]!) | 0;
      const gap = slope < 0 ? -slope | 0 : slope;
      sum = (sum + (gap < most ? gap : most)) | 0;
    }
    costs[s + REACH] = sum / (to - from);
    mean += costs[s + REACH]! / (2 * REACH + 1);
  }
  for (let k = 0; k < costs.length; k++) costs[k]! /= mean;
  return costs;
}

/** Where the pixels lie that a row or column of boxes is averaged from: every second one. */
interface Spots {
  readonly size: number;
  /** First of each box. */
  readonly first: Int32Array;
  readonly count: Int32Array;
}

function spotsOf(size: number, boxes: number): Spots {
  const first = new Int32Array(boxes);
  const count = new Int32Array(boxes);
  for (let box = 0; box < boxes; box++) {
    first[box] = Math.floor((box * size) / boxes);
    count[box] = Math.ceil((Math.max(first[box]! + 1, Math.floor(((box + 1) * size) / boxes)) - first[box]!) / 2);
  }
  return { size, first, count };
}
let across = spotsOf(LUMA_WIDTH, LUMA_WIDTH);
let down = spotsOf(LUMA_HEIGHT, LUMA_HEIGHT);

/**
 * Box average of a luma plane to 160x90 full-range, taking every second pixel of every second row
 * (mean error 0.03 of a step, half the time).
 */
export function shrinkLuma(y: Uint8Array, stride: number, width: number, height: number, fullRange: boolean, out: Uint8Array): void {
  if (across.size !== width) across = spotsOf(width, LUMA_WIDTH);
  if (down.size !== height) down = spotsOf(height, LUMA_HEIGHT);
  const { first, count } = across;
  const gain = fullRange ? 1 : 255 / 219;
  const offset = fullRange ? 0 : 16;
  for (let oy = 0, o = 0; oy < LUMA_HEIGHT; oy++) {
    const rows = down.count[oy]!;
    const top = down.first[oy]! * stride;
    for (let ox = 0; ox < LUMA_WIDTH; ox++, o++) {
      const columns = count[ox]!;
      let sum = 0;
      let at = top + first[ox]!;
      if (columns === 3) {
        // 960 pixels wide, the commonest of small copies: without an inner loop.
        for (let row = 0; row < rows; row++, at += 2 * stride) sum += y[at]! + y[at + 2]! + y[at + 4]!;
      } else {
        for (let row = 0; row < rows; row++, at += 2 * stride) for (let i = at, end = at + 2 * columns; i < end; i += 2) sum += y[i]!;
      }
      const value = (sum / (rows * columns) - offset) * gain;
      out[o] = value < 0 ? 0 : value > 255 ? 255 : value + 0.5;
    }
  }
}
