/** Patches and cells of two pictures held against each other, by kernels (core/base/simd). */
import { Arena, type Kernels } from '../base/simd/kernels.ts';
import type { Affine } from './movement.ts';
import type { Working } from './working.ts';

/** Where each pixel of a picture was in another one, pixels, one a pixel. */
export interface Origins {
  readonly x: Float32Array;
  readonly y: Float32Array;
}

/** Which pixels count: those of the layer that was laid with the picture, the others, or all. */
const PARTS = { layer: [0, 1], rest: [1, -1], all: [1, 0] } as const;
export type Part = keyof typeof PARTS;

/** Bytes a pixel of all that is set aside, and samples of a cell. */
const BYTES = 3 * 16 + 4 * 4 + 1;
const SAMPLES = 64;

export interface Cell {
  readonly x0: number;
  readonly y0: number;
  readonly x1: number;
  readonly y1: number;
}

/** Three pictures of one size: two that follow one another, and one of some time ago. */
export class Patches {
  private readonly kernels: Kernels;
  private readonly pictures: Readonly<Record<'one' | 'other' | 'ago', Float32Array>>;
  private readonly xs: Float32Array;
  private readonly ys: Float32Array;
  private readonly wanted: Uint8Array;
  private readonly gaps: Float32Array;
  private readonly samples: Int32Array;
  private readonly found: Float32Array;
  private width = 0;
  private height = 0;

  /** @param area the most pixels of a picture */
  constructor(area: number) {
    const arena = new Arena(BYTES * area + 12 * SAMPLES + 1024);
    this.kernels = arena.kernels;
    this.pictures = { one: arena.floats(4 * area), other: arena.floats(4 * area), ago: arena.floats(4 * area) };
    [this.xs, this.ys, this.gaps] = [arena.floats(area), arena.floats(area), arena.floats(area)];
    this.wanted = arena.bytes(area);
    this.samples = arena.whole(3 * SAMPLES);
    this.found = arena.floats(4);
  }

  /** @param layer how far each pixel belongs to a layer, 0-1 */
  lay(name: 'one' | 'other' | 'ago', { width, height, y, u, v }: Working, layer: Float32Array): void {
    [this.width, this.height] = [width, height];
    const picture = this.pictures[name];
    for (let i = 0, at = 0; i < y.length; i++, at += 4) {
      picture[at] = y[i]!;
      picture[at + 1] = u[i]!;
      picture[at + 2] = v[i]!;
      picture[at + 3] = layer[i]!;
    }
  }

  /**
   * How far off the patches about pixels of the other picture are from the best ones near their origins, 0-60; only those that
   * are wanted are told. Of the nine pixels of a patch those count that are of the part in both pictures.
   */
  off(from: 'one' | 'ago', part: Part, { x, y }: Origins, wanted: Uint8Array): Float32Array {
    this.xs.set(x);
    this.ys.set(y);
    this.wanted.set(wanted);
    const { one, ago, other } = this.pictures;
    const [base, sign] = PARTS[part];
    const picture = (from === 'one' ? one : ago).byteOffset;
    this.kernels.patchGaps(
      picture,
      other.byteOffset,
      this.width,
      this.height,
      base,
      sign,
      this.xs.byteOffset,
      this.ys.byteOffset,
      this.wanted.byteOffset,
      this.gaps.byteOffset,
    );
    return this.gaps.slice(0, x.length);
  }

  /**
   * By how much a cell of the other picture moved beside the whole of a part, which `back` takes to the one picture.
   * @returns dx, dy, pixels; the weight of what was compared, 0 where nothing was; what it costs. Valid until the next call.
   */
  cell(part: Part, { x0, y0, x1, y1 }: Cell, back: Affine, reach: number): Float32Array {
    const { one, other } = this.pictures;
    const [base, sign] = PARTS[part];
    this.kernels.seekCell(
      one.byteOffset,
      other.byteOffset,
      this.width,
      this.height,
      base,
      sign,
      x0,
      y0,
      x1,
      y1,
      ...back,
      reach,
      this.samples.byteOffset,
      this.found.byteOffset,
    );
    return this.found;
  }
}
