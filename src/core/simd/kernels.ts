/** The inner loops that plain JavaScript is many times too slow for, as WebAssembly with SIMD (kernels.as.ts). */
import { toByteArray } from 'base64-js';
import compiled from './generated/kernels.js';

/** What kernels.as.ts exports; addresses in bytes. */
export interface Kernels {
  readonly memory: WebAssembly.Memory;
  convolve(input: number, rows: number, columns: number, inputs: number, weights: number, bias: number, output: number, outputs: number, down: number, across: number, border: number): void;
  connect(input: number, inputs: number, weights: number, bias: number, output: number, outputs: number, least: number): void;
}

const PAGE = 65536;
let made: WebAssembly.Module | null = null;

/** Kernels with a memory of their own, in which `floats(n)` sets zeros aside that stay where they are. */
export class Arena {
  readonly kernels: Kernels;
  private next = 0;

  /** @param bytes of all that will be set aside */
  constructor(bytes: number) {
    made ??= new WebAssembly.Module(Uint8Array.from(toByteArray(compiled)));
    this.kernels = new WebAssembly.Instance(made, {}).exports as unknown as Kernels;
    // What the module itself keeps, if anything, lies in its first page.
    this.next = PAGE;
    this.kernels.memory.grow(Math.ceil((this.next + bytes - this.kernels.memory.buffer.byteLength) / PAGE));
  }

  /** @throws RangeError when more is asked for than was announced */
  floats(count: number): Float32Array {
    const values = new Float32Array(this.kernels.memory.buffer, this.next, count);
    // Lanes are read in sixteens of bytes.
    this.next += Math.ceil(count / 4) * 16;
    return values;
  }
}
