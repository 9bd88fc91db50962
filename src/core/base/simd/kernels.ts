/** The inner loops that plain JavaScript is many times too slow for, as WebAssembly with SIMD (kernels.as.ts). */
import { toByteArray } from 'base64-js';
import compiled from './generated/kernels.js';

/** What kernels.as.ts exports; addresses in bytes. */
export interface Kernels {
  readonly memory: WebAssembly.Memory;
  convolve(
    input: number,
    rows: number,
    columns: number,
    inputs: number,
    weights: number,
    scale: number,
    bias: number,
    output: number,
    outputs: number,
    down: number,
    across: number,
    border: number,
  ): void;
  connect(
    input: number,
    inputs: number,
    weights: number,
    scale: number,
    bias: number,
    output: number,
    outputs: number,
  ): void;
  columnSums(bytes: number, stride: number, rows: number, step: number, columns: number, sums: number): void;
  shrink(
    bytes: number,
    width: number,
    across: number,
    shares: number,
    step: number,
    wide: number,
    down: number,
    high: number,
    sums: number,
    line: number,
    output: number,
    offset: number,
    gain: number,
  ): void;
  total(floats: number, count: number): number;
  products(one: number, other: number, count: number): number;
  resample(
    samples: number,
    count: number,
    phase: number,
    up: number,
    down: number,
    taps: number,
    table: number,
    output: number,
  ): number;
  largest(floats: number, count: number): number;
  logSums(floats: number, bands: number, weights: number, count: number, output: number): void;
  sumOf(bytes: number, count: number): number;
  difference(one: number, other: number, count: number): number;
  blockGap(one: number, other: number, stride: number, size: number): number;
  histogram(bytes: number, count: number, bins: number): void;
  movement(
    one: number,
    other: number,
    stride: number,
    rows: number,
    columns: number,
    least: number,
    sums: number,
  ): void;
  spectrum(
    samples: number,
    window: number,
    half: number,
    turns: number,
    work: number,
    powers: number,
    magnitudes: number,
  ): void;
  bitsApart(code: number, codes: number, count: number, output: number): void;
  alikeness(
    a: number,
    bedA: number,
    b: number,
    bedB: number,
    count: number,
    stands: number,
    spread: number,
    over: number,
    least: number,
    table: number,
  ): number;
  gaps(one: number, other: number, count: number, most: number): number;
  fitSums(
    one: number,
    other: number,
    weight: number,
    w: number,
    h: number,
    places: number,
    count: number,
    a: number,
    b: number,
    c: number,
    d: number,
    e: number,
    f: number,
    light: number,
    doubt: number,
    output: number,
  ): void;
  patchGaps(
    one: number,
    other: number,
    width: number,
    height: number,
    base: number,
    sign: number,
    xs: number,
    ys: number,
    wanted: number,
    output: number,
  ): void;
  seekCell(
    one: number,
    other: number,
    width: number,
    height: number,
    base: number,
    sign: number,
    x0: number,
    y0: number,
    x1: number,
    y1: number,
    a: number,
    b: number,
    c: number,
    d: number,
    e: number,
    f: number,
    reach: number,
    samples: number,
    output: number,
  ): void;
}

const PAGE = 65536;
let made: WebAssembly.Module | null = null;

/** Kernels with a memory of their own, in which arrays of zeros are set aside that stay where they are. */
export class Arena {
  readonly kernels: Kernels;
  private next = 0;

  /** @param bytes of all that will be set aside; half a page is added for what lies between */
  constructor(bytes: number) {
    made ??= new WebAssembly.Module(Uint8Array.from(toByteArray(compiled)));
    this.kernels = new WebAssembly.Instance(made, {}).exports as unknown as Kernels;
    // What the module itself keeps, if anything, lies in its first page.
    this.next = PAGE;
    this.kernels.memory.grow(Math.ceil((PAGE * 1.5 + bytes - this.kernels.memory.buffer.byteLength) / PAGE));
  }

  /** Lanes are read in sixteens of bytes. */
  private aside(bytes: number): number {
    const at = this.next;
    this.next += Math.ceil(bytes / 16) * 16;
    return at;
  }

  /** @throws RangeError, as the others do, when more is asked for than was announced */
  floats(count: number): Float32Array<ArrayBuffer> {
    return new Float32Array(this.kernels.memory.buffer, this.aside(count * 4), count);
  }

  whole(count: number): Int32Array<ArrayBuffer> {
    return new Int32Array(this.kernels.memory.buffer, this.aside(count * 4), count);
  }

  shorts(count: number): Int16Array<ArrayBuffer> {
    return new Int16Array(this.kernels.memory.buffer, this.aside(count * 2), count);
  }

  sums(count: number): Uint16Array<ArrayBuffer> {
    return new Uint16Array(this.kernels.memory.buffer, this.aside(count * 2), count);
  }

  bytes(count: number): Uint8Array<ArrayBuffer> {
    return new Uint8Array(this.kernels.memory.buffer, this.aside(count), count);
  }
}
