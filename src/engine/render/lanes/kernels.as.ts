// AssemblyScript, compiled by scripts/generate.mjs. The hottest loops around the effects: what comes from the decoder, and
// what goes to the encoder. Addresses in bytes, in the memory of the renderer.

/** Rows of bytes, each times its weight, added up as a row of floats. `taps`: the address of each row and its weight. */
export function blend(taps: usize, count: i32, width: i32, out: usize): void {
  const end = taps + (count << 3);
  for (let x = 0; x < width; x += 4, out += 16) {
    let sum = f32x4.splat(0);
    for (let t = taps; t < end; t += 8) {
      const bytes = v128.load32_zero(load<u32>(t) + x);
      const four = f32x4.convert_i32x4_s(i32x4.extend_low_i16x8_u(i16x8.extend_low_i8x16_u(bytes)));
      sum = f32x4.add(sum, f32x4.mul(four, v128.load32_splat(t, 4)));
    }
    v128.store(out, sum);
  }
}

/** Floats of a row in another order and mixed. `table`: for each four and each tap four places in bytes and four weights. */
export function take(row: usize, table: usize, taps: i32, count: i32, out: usize): void {
  for (let x = 0; x < count; x += 4, out += 16) {
    let sum = f32x4.splat(0);
    for (let t = 0; t < taps; t++, table += 32) {
      let four = v128.load32_zero(row + load<u32>(table));
      four = v128.load_lane<u32>(row + load<u32>(table, 4), four, 1);
      four = v128.load_lane<u32>(row + load<u32>(table, 8), four, 2);
      four = v128.load_lane<u32>(row + load<u32>(table, 12), four, 3);
      sum = f32x4.add(sum, f32x4.mul(four, v128.load(table, 16)));
    }
    v128.store(out, sum);
  }
}

/** The same where four places lie within four floats: the first byte of these, the order of their bytes, four weights. */
export function pick(row: usize, table: usize, taps: i32, count: i32, out: usize): void {
  for (let x = 0; x < count; x += 4, out += 16) {
    let sum = f32x4.splat(0);
    for (let t = 0; t < taps; t++, table += 48) {
      const four = i8x16.swizzle(v128.load(row + load<u32>(table)), v128.load(table, 16));
      sum = f32x4.add(sum, f32x4.mul(four, v128.load(table, 32)));
    }
    v128.store(out, sum);
  }
}

// The transfer of IEC 61966-2-1 by a polynomial, as in library.ts.
// @ts-ignore: decorator
@inline
function toLinear(value: v128): v128 {
  const v = f32x4.pmin(f32x4.splat(1), f32x4.pmax(f32x4.splat(0), value));
  let high = f32x4.add(f32x4.mul(f32x4.splat(0.059778), v), f32x4.splat(-0.24116084));
  high = f32x4.add(f32x4.mul(high, v), f32x4.splat(0.61137276));
  high = f32x4.add(f32x4.mul(high, v), f32x4.splat(0.53886851));
  high = f32x4.add(f32x4.mul(high, v), f32x4.splat(0.03015191));
  high = f32x4.add(f32x4.mul(high, v), f32x4.splat(0.00101071));
  const low = f32x4.mul(v, f32x4.splat(0.0773993808));
  return v128.bitselect(low, high, f32x4.le(v, f32x4.splat(0.04045)));
}

/**
 * A row of linear light, red, green, blue and alpha by turns, of rows of Y, Cb and Cr (0-1). `numbers`: the offset and scale
 * of Y, the scale of colour, and what of Cr is red, of Cb and Cr green, of Cb blue. `shown` (a row) times `level` is how much
 * of the picture is there.
 */
export function colours(
  ys: usize, us: usize, vs: usize, shown: usize, level: f32, count: i32, numbers: usize, out: usize,
): void {
  const half = f32x4.splat(128.0 / 255.0);
  const alpha = f32x4.splat(1);
  for (let x = 0; x < count << 2; x += 16, out += 64) {
    const there = f32x4.mul(v128.load(shown + x), f32x4.splat(level));
    const y = f32x4.mul(f32x4.sub(v128.load(ys + x), v128.load32_splat(numbers)), v128.load32_splat(numbers, 4));
    const scale = v128.load32_splat(numbers, 8);
    const u = f32x4.mul(f32x4.sub(v128.load(us + x), half), scale);
    const v = f32x4.mul(f32x4.sub(v128.load(vs + x), half), scale);
    const mixed = f32x4.add(f32x4.mul(v128.load32_splat(numbers, 16), u), f32x4.mul(v128.load32_splat(numbers, 20), v));
    const r = f32x4.mul(there, toLinear(f32x4.add(y, f32x4.mul(v128.load32_splat(numbers, 12), v))));
    const g = f32x4.mul(there, toLinear(f32x4.sub(y, mixed)));
    const b = f32x4.mul(there, toLinear(f32x4.add(y, f32x4.mul(v128.load32_splat(numbers, 24), u))));
    const rg = v128.shuffle<f32>(r, g, 0, 4, 1, 5);
    const ba = v128.shuffle<f32>(b, alpha, 0, 4, 1, 5);
    v128.store(out, v128.shuffle<f32>(rg, ba, 0, 1, 4, 5));
    v128.store(out, v128.shuffle<f32>(rg, ba, 2, 3, 6, 7), 16);
    const rgTop = v128.shuffle<f32>(r, g, 2, 6, 3, 7);
    const baTop = v128.shuffle<f32>(b, alpha, 2, 6, 3, 7);
    v128.store(out, v128.shuffle<f32>(rgTop, baTop, 0, 1, 4, 5), 32);
    v128.store(out, v128.shuffle<f32>(rgTop, baTop, 2, 3, 6, 7), 48);
  }
}

// @ts-ignore: decorator
@inline
function channel(pixels: v128, by: i32): v128 {
  return v128.and(i32x4.shr_u(pixels, by), i32x4.splat(255));
}

// @ts-ignore: decorator
@inline
function weighed(r: v128, g: v128, b: v128, weights: usize): v128 {
  return i32x4.add(
    i32x4.add(i32x4.mul(r, v128.load32_splat(weights)), i32x4.mul(g, v128.load32_splat(weights, 4))),
    i32x4.mul(b, v128.load32_splat(weights, 8)),
  );
}

// @ts-ignore: decorator
@inline
function storeFour(values: v128, at: usize): void {
  const words = i16x8.narrow_i32x4_s(values, values);
  store<u32>(at, i32x4.extract_lane(i8x16.narrow_i16x8_u(words, words), 0));
}

/** One channel of eight pixels of a row: each even one with its neighbours, 1, 2, 1. `before` ends with the pixel left of them. */
// @ts-ignore: decorator
@inline
function smoothed(before: v128, low: v128, high: v128, by: i32): v128 {
  const a = channel(low, by);
  const b = channel(high, by);
  const even = v128.shuffle<i32>(a, b, 0, 2, 4, 6);
  const odd = v128.shuffle<i32>(a, b, 1, 3, 5, 7);
  const left = v128.shuffle<i32>(channel(before, by), odd, 3, 4, 5, 6);
  return i32x4.add(i32x4.add(left, odd), i32x4.add(even, even));
}

/**
 * Rows of red, green, blue and alpha in bytes, `stride` pixels apart, as planes of Y, Cb and Cr without gaps: as `rgbaToI420`
 * does it, whose nine whole-number weights lie at `weights`. Sizes are even; up to 7 pixels past a row are read, and up to 3
 * bytes past each plane written.
 */
export function planes(rgba: usize, stride: i32, width: i32, height: i32, weights: usize, out: usize): void {
  const line = stride << 2;
  for (let y = 0; y < height; y++) {
    const row = rgba + y * line;
    for (let x = 0; x < width; x += 4) {
      const four = v128.load(row + (x << 2));
      const sum = weighed(channel(four, 0), channel(four, 8), channel(four, 16), weights);
      storeFour(
        i32x4.add(i32x4.shr_s(i32x4.add(sum, i32x4.splat(32768)), 16), i32x4.splat(16)),
        out + y * width + x,
      );
    }
  }
  const half = width >> 1;
  for (let plane = 0; plane < 2; plane++) {
    const to = out + width * height + plane * half * (height >> 1);
    const own = weights + 12 + 12 * plane;
    for (let y = 0; y < height; y += 2) {
      const row = rgba + y * line;
      // Left of the first pixel is itself once more.
      let above = v128.load32_splat(row);
      let below = v128.load32_splat(row + line);
      for (let x = 0; x < width; x += 8) {
        const at = row + (x << 2);
        const a = v128.load(at);
        const b = v128.load(at, 16);
        const c = v128.load(at + line);
        const d = v128.load(at + line, 16);
        const r = i32x4.add(smoothed(above, a, b, 0), smoothed(below, c, d, 0));
        const g = i32x4.add(smoothed(above, a, b, 8), smoothed(below, c, d, 8));
        const blue = i32x4.add(smoothed(above, a, b, 16), smoothed(below, c, d, 16));
        const sum = i32x4.add(weighed(r, g, blue, own), i32x4.splat(262144));
        storeFour(i32x4.add(i32x4.shr_s(sum, 19), i32x4.splat(128)), to + (y >> 1) * half + (x >> 1));
        above = b;
        below = d;
      }
    }
  }
}
