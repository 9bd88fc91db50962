/** Writes the instructions of one function over lanes. */
import { get, LANES, lanes, set, V128, type ValueType } from './wasm.ts';

export type Scalar = 'float' | 'int' | 'uint' | 'bool';
/** Instructions that leave four lanes on the stack. */
export type Lanes = readonly number[];
export type Four = readonly [Lanes, Lanes, Lanes, Lanes];

const F32 = new DataView(new ArrayBuffer(4));
const bytesOf = (): number[] => [0, 1, 2, 3].map((i) => F32.getUint8(i));
export function constant(value: number, scalar: Scalar): Lanes {
  if (scalar === 'float') F32.setFloat32(0, value, true);
  else F32.setUint32(0, scalar === 'bool' ? (value ? 0xffffffff : 0) : value >>> 0, true);
  const bytes = bytesOf();
  return [...lanes(LANES.const), ...bytes, ...bytes, ...bytes, ...bytes];
}
/** Another float in each lane. */
export const series = (...values: readonly [number, number, number, number]): Lanes => [
  ...lanes(LANES.const),
  ...values.flatMap((value) => {
    F32.setFloat32(0, value, true);
    return bytesOf();
  }),
];
export const float = (value: number): Lanes => constant(value, 'float');
export const int = (value: number): Lanes => constant(value, 'int');
const shuffle = (pattern: readonly number[]): number[] => [...lanes(LANES.shuffle), ...pattern];
/** The bytes of 32-bit lanes 0-3 of the first and 4-7 of the second. */
const lanesOf = (...wanted: readonly number[]): number[] => wanted.flatMap((l) => [0, 1, 2, 3].map((b) => 4 * l + b));

export interface Made {
  readonly params: readonly ValueType[];
  readonly results: readonly ValueType[];
  locals: ValueType[];
  code: number[];
}

export class Emitter {
  constructor(protected readonly made: Made) {}

  local(type: ValueType = V128): number {
    return this.made.params.length + this.made.locals.push(type) - 1;
  }
  emit(...code: readonly number[]): void {
    for (const byte of code) this.made.code.push(byte);
  }
  /** The result of an instruction, kept in a variable of its own. */
  op(code: number, ...operands: readonly Lanes[]): Lanes {
    for (const operand of operands) this.emit(...operand);
    this.emit(...lanes(code));
    return this.keep();
  }
  keep(): Lanes {
    const at = this.local();
    this.emit(...set(at));
    return get(at);
  }
  anyTrue(mask: Lanes): void {
    this.emit(...mask, ...lanes(LANES.anyTrue));
  }

  /** Bytes of lanes 0-3 of the first and 4-7 of the second, in this order. */
  shuffled(a: Lanes, b: Lanes, ...wanted: readonly number[]): Lanes {
    this.emit(...a, ...b, ...shuffle(lanesOf(...wanted)));
    return this.keep();
  }

  /** What four lanes left on the stack, the last on top. */
  four(): Four {
    const locals = [0, 1, 2, 3].map(() => this.local());
    for (const local of [...locals].reverse()) this.emit(...set(local));
    return locals.map((local) => get(local)) as unknown as Four;
  }
}
