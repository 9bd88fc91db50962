/** Decoded frames made small enough to be looked at quickly. */
import { Arena } from '../../base/simd/kernels.ts';
import { LUMA_HEIGHT, LUMA_WIDTH } from './picture.ts';

/** Where each box of a row or column begins and ends, one after another. */
const edges = (size: number, boxes: number): Int32Array =>
  Int32Array.from({ length: 2 * boxes }, (_, i) => {
    const from = Math.floor(((i >> 1) * size) / boxes);
    return i & 1 ? Math.max(from + 1, Math.floor((((i >> 1) + 1) * size) / boxes)) : from;
  });

/** Bytes past a plane that may be read, and sums past a row that may be written. */
const MARGIN = 32;

/** Box averages of luma planes of one size to 160x90 full-range, taking every second row, and every second column where boxes are wide. */
export class Shrinker {
  /** Two frames may be put here in turn, luma first: what lies here need not be copied. */
  readonly frames: readonly [Uint8Array<ArrayBuffer>, Uint8Array<ArrayBuffer>];
  /** For planes that lie elsewhere. */
  private readonly copied: Uint8Array;
  private readonly arena: Arena;
  private readonly sums: Uint16Array;
  private readonly line: Int32Array;
  private readonly across: Int32Array;
  private readonly down: Int32Array;
  private readonly shares: Float32Array;
  /** Every second column where boxes have four and more. */
  private readonly step: number;
  private readonly out: Uint8Array;

  /** @param bytes of a whole frame */
  constructor(
    readonly width: number,
    readonly height: number,
    bytes: number,
  ) {
    this.arena = new Arena(
      2 * bytes +
        width * height +
        2 * width +
        8 * MARGIN +
        LUMA_WIDTH * LUMA_HEIGHT +
        16 * LUMA_WIDTH +
        8 * LUMA_HEIGHT,
    );
    this.sums = this.arena.sums(width + MARGIN);
    this.line = this.arena.whole(LUMA_WIDTH);
    this.across = this.arena.whole(2 * LUMA_WIDTH);
    this.down = this.arena.whole(2 * LUMA_HEIGHT);
    this.step = width < 4 * LUMA_WIDTH ? 1 : 2;
    this.across.set(edges(width, LUMA_WIDTH).map((x) => Math.ceil(x / this.step)));
    this.down.set(edges(height, LUMA_HEIGHT));
    this.shares = this.arena.floats(LUMA_WIDTH);
    this.shares.set(this.shares.map((_, u) => 1 / (this.across[2 * u + 1]! - this.across[2 * u]!)));
    this.out = this.arena.bytes(LUMA_WIDTH * LUMA_HEIGHT);
    this.frames = [this.arena.bytes(bytes), this.arena.bytes(bytes)];
    this.copied = this.arena.bytes(width * height + MARGIN);
  }

  /** The small frame; valid until the next call. */
  take(luma: Uint8Array, fullRange: boolean): Uint8Array {
    const {
      arena: { kernels },
      copied,
      width,
      height,
      across,
      shares,
      step,
      down,
      sums,
      line,
      out,
    } = this;
    const here = luma.buffer === copied.buffer;
    if (!here) copied.set(luma.subarray(0, width * height));
    const from = here ? luma : copied;
    kernels.shrink(
      from.byteOffset,
      width,
      across.byteOffset,
      shares.byteOffset,
      step,
      LUMA_WIDTH,
      down.byteOffset,
      LUMA_HEIGHT,
      sums.byteOffset,
      line.byteOffset,
      out.byteOffset,
      fullRange ? 0 : 16,
      fullRange ? 1 : 255 / 219,
    );
    return out;
  }
}
