/** Typed arrays that grow. */
type Typed = Float32Array<ArrayBuffer> | Float64Array<ArrayBuffer> | Uint8Array<ArrayBuffer> | Uint32Array<ArrayBuffer>;

function grown<T extends Typed>(from: T, to: T): T {
  to.set(from as never);
  return to;
}

export class GrowingArray<T extends Typed> {
  private values: T;
  length = 0;

  constructor(private readonly kind: new (length: number) => T) {
    this.values = new kind(1024);
  }

  push(value: number): void {
    if (this.length === this.values.length) this.values = grown(this.values, new this.kind(this.length * 2));
    this.values[this.length++] = value;
  }

  put(values: ArrayLike<number>): void {
    for (let i = 0; i < values.length; i++) this.push(values[i]!);
  }

  at(index: number): number {
    return this.values[index]!;
  }

  /** Without a copy: valid until the next push. */
  view(): T {
    return this.values.subarray(0, this.length) as T;
  }

  /** A copy. */
  all(): T {
    return this.values.slice(0, this.length) as T;
  }

  cut(length: number): void {
    this.length = length;
  }
}
