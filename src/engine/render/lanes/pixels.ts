/** What programs of lanes do with pictures: read them between pixels, and write what is shaded, four pixels at once. */
import { Emitter, float, int, series, type Four, type Lanes } from './emitter.ts';
import { get, i32, I32, LANES, lanes, leb, OP, set } from './wasm.ts';

export class Pixels extends Emitter {
  /** What a sampler says of itself, in all lanes. */
  private told(offset: number, sampler = get(0)): Lanes {
    this.emit(...sampler, ...lanes(LANES.load32Splat), 2, ...leb(offset));
    return this.keep();
  }

  /** Pixels as rows become rows as pixels, and the other way round. */
  private transposed([p0, p1, p2, p3]: Four): Four {
    const [a, b] = [this.shuffled(p0, p1, 0, 4, 1, 5), this.shuffled(p0, p1, 2, 6, 3, 7)];
    const [c, d] = [this.shuffled(p2, p3, 0, 4, 1, 5), this.shuffled(p2, p3, 2, 6, 3, 7)];
    return [
      this.shuffled(a, c, 0, 1, 4, 5),
      this.shuffled(a, c, 2, 3, 6, 7),
      this.shuffled(b, d, 0, 1, 4, 5),
      this.shuffled(b, d, 2, 3, 6, 7),
    ];
  }

  /** Place and share of the second neighbour along an axis: endless mirror past the border, shares in 256ths. */
  private along(where: Lanes, size: Lanes): { first: Lanes; second: Lanes; share: Lanes } {
    const at = this.op(LANES.f32sub, this.op(LANES.f32mul, where, size), float(0.5));
    const low = this.op(LANES.f32floor, at);
    const fine = this.op(LANES.f32add, this.op(LANES.f32mul, this.op(LANES.f32sub, at, low), float(256)), float(0.5));
    const share = this.op(LANES.f32mul, this.op(LANES.f32floor, fine), float(1 / 256));
    const most = this.op(LANES.f32sub, size, float(1));
    const [first, second] = [this.local(), this.local()];
    this.emit(...low, ...set(first));
    this.emit(...this.op(LANES.f32add, low, float(1)), ...set(second));
    const inside = this.op(LANES.and, this.op(LANES.f32ge, low, float(0)), this.op(LANES.f32lt, low, most));
    this.anyTrue(this.op(LANES.not, inside));
    this.emit(OP.if, OP.empty);
    const twice = this.op(LANES.f32add, size, size);
    for (const local of [first, second]) {
      const turns = this.op(LANES.f32floor, this.op(LANES.f32div, get(local), twice));
      const j = this.op(LANES.f32sub, get(local), this.op(LANES.f32mul, twice, turns));
      const back = this.op(LANES.f32sub, this.op(LANES.f32sub, twice, float(1)), j);
      this.emit(...this.op(LANES.f32pmin, j, back), ...set(local));
    }
    this.emit(OP.end);
    // Whatever the place is, no number as well: never outside of the picture.
    const whole = (local: number): Lanes =>
      this.op(LANES.i32truncS, this.op(LANES.f32pmin, most, this.op(LANES.f32pmax, float(0), get(local))));
    return { first: whole(first), second: whole(second), share };
  }

  private lane(of: Lanes, l: number): Lanes {
    return this.shuffled(of, of, l, l, l, l);
  }
  private between(a: Lanes, b: Lanes, share: Lanes): Lanes {
    return this.op(LANES.f32add, a, this.op(LANES.f32mul, this.op(LANES.f32sub, b, a), share));
  }

  sample2D(): void {
    const width = this.op(LANES.f32convertS, this.told(4));
    const height = this.op(LANES.f32convertS, this.told(8));
    const x = this.along(get(1), width);
    const y = this.along(get(2), height);
    const base = this.told(0);
    const stride = this.told(12);
    const address = (row: Lanes, column: Lanes): Lanes => {
      this.emit(
        ...this.op(LANES.i32add, row, column),
        ...i32(4),
        ...lanes(LANES.i32shl),
        ...base,
        ...lanes(LANES.i32add),
      );
      return this.keep();
    };
    const top = this.op(LANES.i32mul, y.first, stride);
    const corner = address(top, x.first);
    const pixels = [0, 1, 2, 3].map(() => this.local());
    const read = (from: Lanes, l: number): Lanes => {
      this.emit(...from, ...lanes(LANES.extractI32), l, ...lanes(LANES.load), 4, 0);
      return this.keep();
    };
    this.anyTrue(this.op(LANES.or, x.share, y.share));
    this.emit(OP.if, OP.empty);
    const low = this.op(LANES.i32mul, y.second, stride);
    const [right, under, across] = [address(top, x.second), address(low, x.first), address(low, x.second)];
    pixels.forEach((pixel, l) => {
      const [sx, sy] = [this.lane(x.share, l), this.lane(y.share, l)];
      const above = this.between(read(corner, l), read(right, l), sx);
      this.emit(...this.between(above, this.between(read(under, l), read(across, l), sx), sy), ...set(pixel));
    });
    this.emit(OP.else);
    pixels.forEach((pixel, l) => this.emit(...read(corner, l), ...set(pixel)));
    this.emit(OP.end);
    for (const part of this.transposed(pixels.map((pixel) => get(pixel)) as unknown as Four)) this.emit(...part);
  }

  /** A table of colours, floats, `stride` its side: neighbours joined by lines, its edge past its border. */
  sample3D(): void {
    const side = this.op(LANES.f32convertS, this.told(4));
    const most = this.op(LANES.f32sub, side, float(1));
    const axes = [1, 2, 3].map((axis) => {
      const at = this.op(LANES.f32sub, this.op(LANES.f32mul, get(axis), side), float(0.5));
      const held = this.op(LANES.f32pmin, most, this.op(LANES.f32pmax, float(0), at));
      const low = this.op(LANES.f32floor, held);
      const high = this.op(LANES.f32pmin, most, this.op(LANES.f32add, low, float(1)));
      return {
        ends: [this.op(LANES.i32truncS, low), this.op(LANES.i32truncS, high)] as const,
        share: this.op(LANES.f32sub, held, low),
      };
    });
    const n = this.told(4);
    const base = this.told(0);
    const address = (corner: number): Lanes => {
      const [r, g, b] = axes.map(({ ends }, axis) => ends[(corner >> axis) & 1]!);
      const row = this.op(
        LANES.i32add,
        this.op(LANES.i32mul, this.op(LANES.i32add, this.op(LANES.i32mul, b!, n), g!), n),
        r!,
      );
      this.emit(...row, ...i32(4), ...lanes(LANES.i32shl), ...base, ...lanes(LANES.i32add));
      return this.keep();
    };
    const corners = Array.from({ length: 8 }, (_, corner) => address(corner));
    const pixels = [0, 1, 2, 3].map((l) => {
      const read = (corner: number): Lanes => {
        this.emit(...corners[corner]!, ...lanes(LANES.extractI32), l, ...lanes(LANES.load), 4, 0);
        return this.keep();
      };
      const [sr, sg, sb] = axes.map(({ share }) => this.lane(share, l));
      const row = (from: number): Lanes => this.between(read(from), read(from + 1), sr!);
      return this.between(this.between(row(0), row(2), sg!), this.between(row(4), row(6), sg!), sb!);
    });
    for (const part of this.transposed(pixels as unknown as Four)) this.emit(...part);
  }

  /**
   * Rows of the output from the first to before the last: the function `shade` for each pixel, written as floats, or
   * as bytes where it gives what is displayed.
   */
  rows(shade: number, out: number, bytes: boolean): void {
    const [y, x, address] = [0, this.local(I32), this.local(I32)];
    const word = (offset: number): number[] => [...i32(out), OP.i32Load, 2, ...leb(offset)];
    this.emit(OP.block, OP.empty, OP.loop, OP.empty);
    this.emit(...get(y), ...get(1), OP.i32LtS, OP.i32Eqz, OP.brIf, ...leb(1));
    this.emit(
      ...word(0),
      ...get(y),
      ...word(12),
      OP.i32Mul,
      ...i32(bytes ? 2 : 4),
      OP.i32Shl,
      OP.i32Add,
      ...set(address),
    );
    this.emit(...i32(0), ...set(x));
    this.emit(OP.block, OP.empty, OP.loop, OP.empty);
    this.emit(...get(x), ...word(4), OP.i32LtS, OP.i32Eqz, OP.brIf, ...leb(1));
    const centre = (of: number, steps: Lanes): Lanes => {
      this.emit(...get(of), ...lanes(LANES.splatI32), ...lanes(LANES.f32convertS), ...steps, ...lanes(LANES.f32add));
      return this.keep();
    };
    this.emit(...centre(x, series(0.5, 1.5, 2.5, 3.5)), ...centre(y, float(0.5)), OP.call, ...leb(shade));
    const colours = this.four();
    if (bytes) this.storeBytes(address, colours);
    else this.storeLight(address, colours);
    this.emit(...get(address), ...i32(bytes ? 16 : 64), OP.i32Add, ...set(address));
    this.emit(...get(x), ...i32(4), OP.i32Add, ...set(x), OP.br, ...leb(0), OP.end, OP.end);
    this.emit(...get(y), ...i32(1), OP.i32Add, ...set(y), OP.br, ...leb(0), OP.end, OP.end);
  }

  private storeBytes(address: number, [r, g, b]: Four): void {
    const byte = (part: Lanes, by: number): Lanes => {
      const held = this.op(LANES.f32pmin, float(1), this.op(LANES.f32pmax, float(0), part));
      const whole = this.op(LANES.i32truncS, this.op(LANES.f32nearest, this.op(LANES.f32mul, held, float(255))));
      this.emit(...whole, ...i32(by), ...lanes(LANES.i32shl));
      return this.keep();
    };
    const low = this.op(LANES.or, byte(r, 0), byte(g, 8));
    const all = this.op(LANES.or, this.op(LANES.or, low, byte(b, 16)), int(0xff000000 | 0));
    this.emit(...get(address), ...all, ...lanes(LANES.store), 2, 0);
  }

  /** As far as half floats reach, which graphics units hold light in; what is no number is nothing. */
  private storeLight(address: number, colours: Four): void {
    const held = colours.map((part) => {
      const number = this.op(LANES.and, part, this.op(LANES.f32eq, part, part));
      return this.op(LANES.f32pmin, float(65504), this.op(LANES.f32pmax, float(-65504), number));
    }) as unknown as Four;
    this.transposed(held).forEach((pixel, i) =>
      this.emit(...get(address), ...pixel, ...lanes(LANES.store), 4, ...leb(16 * i)),
    );
  }
}
