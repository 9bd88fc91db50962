// AssemblyScript, compiled by scripts/generate.mjs. Plain loops over memory that the caller lays out; addresses in bytes.
// Lanes of 16 bytes; sums are taken in one order, so that the same numbers give the same answer everywhere.

/**
 * A 3x3 convolution whose negative results become 0, in whole numbers of 16 bits. Planes lie channel by channel within a pixel:
 * the input as [rows + 2][columns + 2][inputs] with a border of zeros, the weights as [outputs / 8][9][inputs / 2][8][2] (two inputs
 * are multiplied and added at once), the output as [rows][columns][outputs] within `border` pixels to each side: the sums times `scale`
 * plus `bias`, rounded, at most 32767. `inputs` even, `outputs` in eights; the output has at least four pixels.
 */
export function convolve(
  input: usize, rows: i32, columns: i32, inputs: i32, weights: usize, scale: f32, bias: usize,
  output: usize, outputs: i32, down: i32, across: i32, border: i32,
): void {
  const broad = (columns + across - 1) / across;
  const count = broad * ((rows + down - 1) / down);
  const pixel = inputs << 1;
  const line = (columns + 2) * pixel;
  const answer = outputs << 1;
  const lines = (broad + 2 * border) * answer;
  const times = f32x4.splat(scale);
  for (let o = 0; o < outputs; o += 8) {
    const first = v128.load(bias + (o << 2));
    const second = v128.load(bias + (o << 2), 16);
    const written = output + border * (lines + answer) + (o << 1);
    // Four pixels at a time, for one sum would wait for itself; the last four may begin among those before.
    for (let n = 0; n < count; n += 4) {
      const p0 = min<i32>(n, count - 4), p1 = p0 + 1, p2 = p0 + 2, p3 = p0 + 3;
      const y0 = p0 / broad, y1 = p1 / broad, y2 = p2 / broad, y3 = p3 / broad;
      const x0 = p0 - y0 * broad, x1 = p1 - y1 * broad, x2 = p2 - y2 * broad, x3 = p3 - y3 * broad;
      // Counted up in the loops themselves, for compilers would work them out anew in each round.
      let i0 = input + y0 * down * line + x0 * across * pixel;
      let i1 = input + y1 * down * line + x1 * across * pixel;
      let i2 = input + y2 * down * line + x2 * across * pixel;
      let i3 = input + y3 * down * line + x3 * across * pixel;
      let a = i32x4.splat(0), b = a, c = a, d = a, e = a, f = a, g = a, h = a;
      let w = weights + o * 9 * pixel;
      for (const all = w + 72 * pixel; w < all;) {
        // Three neighbouring pixels lie one after another.
        for (const end = w + 24 * pixel; w < end; w += 32) {
          const low = v128.load(w);
          const top = v128.load(w, 16);
          let two = v128.load32_splat(i0);
          a = i32x4.add(a, i32x4.dot_i16x8_s(two, low));
          b = i32x4.add(b, i32x4.dot_i16x8_s(two, top));
          two = v128.load32_splat(i1);
          c = i32x4.add(c, i32x4.dot_i16x8_s(two, low));
          d = i32x4.add(d, i32x4.dot_i16x8_s(two, top));
          two = v128.load32_splat(i2);
          e = i32x4.add(e, i32x4.dot_i16x8_s(two, low));
          f = i32x4.add(f, i32x4.dot_i16x8_s(two, top));
          two = v128.load32_splat(i3);
          g = i32x4.add(g, i32x4.dot_i16x8_s(two, low));
          h = i32x4.add(h, i32x4.dot_i16x8_s(two, top));
          i0 += 4;
          i1 += 4;
          i2 += 4;
          i3 += 4;
        }
        i0 += line - 3 * pixel; i1 += line - 3 * pixel; i2 += line - 3 * pixel; i3 += line - 3 * pixel;
      }
      v128.store(written + y0 * lines + x0 * answer, rounded(scaled(a, times, first), scaled(b, times, second)));
      v128.store(written + y1 * lines + x1 * answer, rounded(scaled(c, times, first), scaled(d, times, second)));
      v128.store(written + y2 * lines + x2 * answer, rounded(scaled(e, times, first), scaled(f, times, second)));
      v128.store(written + y3 * lines + x3 * answer, rounded(scaled(g, times, first), scaled(h, times, second)));
    }
  }
}

// @ts-ignore: decorator
@inline
function scaled(sums: v128, times: v128, bias: v128): v128 {
  return f32x4.add(f32x4.mul(f32x4.convert_i32x4_s(sums), times), bias);
}

// @ts-ignore: decorator
@inline
function rounded(low: v128, top: v128): v128 {
  const half = f32x4.splat(0.5);
  const zero = f32x4.splat(0);
  return i16x8.narrow_i32x4_s(i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.max(low, zero), half)), i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.max(top, zero), half)));
}

/**
 * A dense layer of whole numbers of 16 bits and weights as bytes with sign (so they stay in the cache, where four times as much
 * would not), [outputs / 16][inputs / 2][16][2]: the sums times `scale` plus `bias`. `inputs` even, `outputs` in sixteens.
 */
export function connect(input: usize, inputs: i32, weights: usize, scale: f32, bias: usize, output: usize, outputs: i32): void {
  const times = f32x4.splat(scale);
  for (let o = 0; o < outputs; o += 16) {
    let a = i32x4.splat(0), b = a, c = a, d = a;
    for (let at = input, end = input + (inputs << 1); at < end; at += 4, weights += 32) {
      const two = v128.load32_splat(at);
      const low = v128.load(weights);
      const top = v128.load(weights, 16);
      a = i32x4.add(a, i32x4.dot_i16x8_s(two, i16x8.extend_low_i8x16_s(low)));
      b = i32x4.add(b, i32x4.dot_i16x8_s(two, i16x8.extend_high_i8x16_s(low)));
      c = i32x4.add(c, i32x4.dot_i16x8_s(two, i16x8.extend_low_i8x16_s(top)));
      d = i32x4.add(d, i32x4.dot_i16x8_s(two, i16x8.extend_high_i8x16_s(top)));
    }
    const at = o << 2;
    v128.store(output + at, scaled(a, times, v128.load(bias + at)));
    v128.store(output + at, scaled(b, times, v128.load(bias + at, 16)), 16);
    v128.store(output + at, scaled(c, times, v128.load(bias + at, 32)), 32);
    v128.store(output + at, scaled(d, times, v128.load(bias + at, 48)), 48);
  }
}

/** Sums of the columns of every `step`th row of bytes, 16 bits each; columns in sixteens, and up to 257 rows. */
export function columnSums(bytes: usize, stride: i32, rows: i32, step: i32, columns: i32, sums: usize): void {
  for (let x = 0; x < columns; x += 16) {
    let low = i16x8.splat(0);
    let high = i16x8.splat(0);
    let at = bytes + x;
    for (let y = 0; y < rows; y += step, at += step * stride) {
      const row = v128.load(at);
      low = i16x8.add(low, i16x8.extend_low_i8x16_u(row));
      high = i16x8.add(high, i16x8.extend_high_i8x16_u(row));
    }
    v128.store(sums + (x << 1), low);
    v128.store(sums + (x << 1), high, 16);
  }
}

/** The same of every second column from the first, which lie one after another; over every second row, columns in 32s. */
// @ts-ignore: decorator
@inline
function everySecond(bytes: usize, stride: i32, rows: i32, columns: i32, sums: usize): void {
  const even = i16x8.splat(0xff);
  for (let x = 0; x < columns; x += 32, sums += 32) {
    let low = i16x8.splat(0);
    let high = i16x8.splat(0);
    let at = bytes + x;
    for (const end = at + rows * stride; at < end; at += stride << 1) {
      low = i16x8.add(low, v128.and(v128.load(at), even));
      high = i16x8.add(high, v128.and(v128.load(at, 16), even));
    }
    v128.store(sums, low);
    v128.store(sums, high, 16);
  }
}

/**
 * Averages a plane of bytes, without gaps between its rows, in boxes: every second row, and every column or, with `step` 2,
 * every second. `across` and `down` hold where each of the `wide` and `high` boxes begins and ends (32 bits each, two for a
 * box), `across` in columns taken, `shares` one over how many these are; `wide` in sixteens. Up to 31 bytes past the plane are
 * read; `sums` has room for 16 bits for each column and 64 bytes more, `line` for 32 bits for each box of a row.
 */
export function shrink(
  bytes: usize, width: i32, across: usize, shares: usize, step: i32, wide: i32, down: usize, high: i32,
  sums: usize, line: usize, output: usize, offset: f32, gain: f32,
): void {
  const base = f32x4.splat(0.5 - offset * gain);
  for (let v = 0; v < high; v++) {
    const top = load<i32>(down + (v << 3));
    const rows = load<i32>(down + (v << 3), 4) - top;
    if (step == 2) everySecond(bytes + top * width, width, rows, width, sums);
    else columnSums(bytes + top * width, width, rows, 2, width, sums);
    for (let u = 0; u < wide; u++) {
      let at = sums + (load<i32>(across + (u << 3)) << 1);
      const end = sums + (load<i32>(across + (u << 3), 4) << 1);
      let sum = <i32>load<u16>(at);
      if (end - at == 6) sum += <i32>load<u16>(at, 2) + <i32>load<u16>(at, 4);
      else for (at += 2; at < end; at += 2) sum += load<u16>(at);
      store<i32>(line + (u << 2), sum);
    }
    const share = f32x4.splat(gain / <f32>((rows + 1) >> 1));
    for (let u = 0; u < wide; u += 16, output += 16) {
      const at = u << 2;
      v128.store(output, i8x16.narrow_i16x8_u(
        i16x8.narrow_i32x4_s(averages(line + at, shares + at, share, base), averages(line + at + 16, shares + at + 16, share, base)),
        i16x8.narrow_i32x4_s(averages(line + at + 32, shares + at + 32, share, base), averages(line + at + 48, shares + at + 48, share, base))));
    }
  }
}

// @ts-ignore: decorator
@inline
function averages(sums: usize, shares: usize, share: v128, base: v128): v128 {
  return i32x4.trunc_sat_f32x4_s(f32x4.add(f32x4.mul(f32x4.mul(f32x4.convert_i32x4_s(v128.load(sums)), v128.load(shares)), share), base));
}

function across4(v: v128): i32 {
  return i32x4.extract_lane(v, 0) + i32x4.extract_lane(v, 1) + i32x4.extract_lane(v, 2) + i32x4.extract_lane(v, 3);
}

// @ts-ignore: decorator
@inline
function acrossFloats(v: v128): f32 {
  return (f32x4.extract_lane(v, 0) + f32x4.extract_lane(v, 1)) + (f32x4.extract_lane(v, 2) + f32x4.extract_lane(v, 3));
}

/** Sum of `count` floats. */
export function total(floats: usize, count: i32): f32 {
  let sums = f32x4.splat(0);
  const end = floats + (count << 2);
  for (const even = floats + ((count & ~3) << 2); floats < even; floats += 16) sums = f32x4.add(sums, v128.load(floats));
  let sum = acrossFloats(sums);
  for (; floats < end; floats += 4) sum += load<f32>(floats);
  return sum;
}

/** Sum of the products of `count` floats. */
export function products(one: usize, other: usize, count: i32): f32 {
  // Two sums at once, for one would wait for itself.
  let a = f32x4.splat(0), b = a;
  const end = one + (count << 2);
  for (const even = one + ((count & ~7) << 2); one < even; one += 32, other += 32) {
    a = f32x4.add(a, f32x4.mul(v128.load(one), v128.load(other)));
    b = f32x4.add(b, f32x4.mul(v128.load(one, 16), v128.load(other, 16)));
  }
  let sum = acrossFloats(f32x4.add(a, b));
  for (; one < end; one += 4, other += 4) sum += load<f32>(one) * load<f32>(other);
  return sum;
}

/**
 * Samples at another rate: each is the sum of the products of `taps` samples, in fours, and the row of `table` for where between two
 * samples it lies. The first lies `phase` parts of `up` beside that of the first row, each `down` parts behind the one before.
 * Returns how many there are: as many as `count` samples hold all taps of.
 */
export function resample(samples: usize, count: i32, phase: i32, up: i32, down: i32, taps: i32, table: usize, output: usize): i32 {
  const end = samples + (count << 2);
  const row = taps << 2;
  let made = 0;
  while (samples + row <= end) {
    store<f32>(output + (made++ << 2), products(samples, table + phase * row, taps));
    for (phase += down; phase >= up; phase -= up) samples += 4;
  }
  return made;
}

/** The largest of `count` floats, none below 0; 0 of none. */
export function largest(floats: usize, count: i32): f32 {
  let most = f32x4.splat(0);
  const end = floats + (count << 2);
  for (const even = floats + ((count & ~3) << 2); floats < even; floats += 16) most = f32x4.pmax(most, v128.load(floats));
  let one = max(max(f32x4.extract_lane(most, 0), f32x4.extract_lane(most, 1)), max(f32x4.extract_lane(most, 2), f32x4.extract_lane(most, 3)));
  for (; floats < end; floats += 4) one = max(one, load<f32>(floats));
  return one;
}

/**
 * Base 10 logarithms of 1 plus weighted sums of neighbouring floats, none of them below 0. `bands` holds for each of `count` sums,
 * in fours, the first float and how many fours of weights it has (32 bits each), `weights` these one after another.
 * What the weights reach past the floats must be finite. The logarithm is S. Moshier's logf (Cephes, 1992; coefficients from memory).
 */
export function logSums(floats: usize, bands: usize, weights: usize, count: i32, output: usize): void {
  for (let b = 0; b < count; b++) {
    let at = floats + (load<i32>(bands + (b << 3)) << 2);
    let sums = f32x4.splat(0);
    for (const end = weights + (load<i32>(bands + (b << 3), 4) << 4); weights < end; weights += 16, at += 16) {
      sums = f32x4.add(sums, f32x4.mul(v128.load(at), v128.load(weights)));
    }
    store<f32>(output + (b << 2), acrossFloats(sums));
  }
  const one = f32x4.splat(1);
  for (const end = output + (count << 2); output < end; output += 16) {
    const value = f32x4.add(v128.load(output), one);
    // The value as 2 to the `exponent` times a mantissa between the square roots of a half and of two.
    const bits = i32x4.sub(value, i32x4.splat(0x3f3504f3));
    const exponent = f32x4.convert_i32x4_s(i32x4.shr_s(bits, 23));
    const x = f32x4.sub(i32x4.add(v128.and(bits, i32x4.splat(0x007fffff)), i32x4.splat(0x3f3504f3)), one);
    const square = f32x4.mul(x, x);
    let y = f32x4.splat(7.0376836292e-2);
    y = f32x4.add(f32x4.mul(y, x), f32x4.splat(-1.1514610310e-1));
    y = f32x4.add(f32x4.mul(y, x), f32x4.splat(1.1676998740e-1));
    y = f32x4.add(f32x4.mul(y, x), f32x4.splat(-1.2420140846e-1));
    y = f32x4.add(f32x4.mul(y, x), f32x4.splat(1.4249322787e-1));
    y = f32x4.add(f32x4.mul(y, x), f32x4.splat(-1.6668057665e-1));
    y = f32x4.add(f32x4.mul(y, x), f32x4.splat(2.0000714765e-1));
    y = f32x4.add(f32x4.mul(y, x), f32x4.splat(-2.4999993993e-1));
    y = f32x4.add(f32x4.mul(y, x), f32x4.splat(3.3333331174e-1));
    y = f32x4.sub(f32x4.mul(y, f32x4.mul(x, square)), f32x4.mul(square, f32x4.splat(0.5)));
    const natural = f32x4.add(f32x4.add(x, y), f32x4.mul(exponent, f32x4.splat(0.6931471805599453)));
    v128.store(output, f32x4.mul(natural, f32x4.splat(0.4342944819032518)));
  }
}

/** Sum of `count` bytes, in sixteens. */
export function sumOf(bytes: usize, count: i32): i32 {
  let sum = i32x4.splat(0);
  for (const end = bytes + count; bytes < end; bytes += 16) {
    sum = i32x4.add(sum, i32x4.extadd_pairwise_i16x8_u(i16x8.extadd_pairwise_i8x16_u(v128.load(bytes))));
  }
  return across4(sum);
}

/** Sum of the absolute differences of `count` bytes, in sixteens. */
export function difference(one: usize, other: usize, count: i32): i32 {
  let sum = i32x4.splat(0);
  for (const end = one + count; one < end; one += 16, other += 16) {
    const a = v128.load(one);
    const b = v128.load(other);
    const gap = i8x16.sub(i8x16.max_u(a, b), i8x16.min_u(a, b));
    sum = i32x4.add(sum, i32x4.extadd_pairwise_i16x8_u(i16x8.extadd_pairwise_i8x16_u(gap)));
  }
  return across4(sum);
}

/** Sum of the absolute differences of two blocks of 8 or 16 pixels a side, in rows of `stride` bytes. */
export function blockGap(one: usize, other: usize, stride: i32, size: i32): i32 {
  let sum = i16x8.splat(0);
  if (size == 16)
    for (let y = 0; y < 16; y++, one += stride, other += stride) {
      const a = v128.load(one);
      const b = v128.load(other);
      sum = i16x8.add(sum, i16x8.extadd_pairwise_i8x16_u(i8x16.sub(i8x16.max_u(a, b), i8x16.min_u(a, b))));
    }
  else
    for (let y = 0; y < 8; y++, one += stride, other += stride) {
      const a = v128.load64_zero(one);
      const b = v128.load64_zero(other);
      sum = i16x8.add(sum, i16x8.extadd_pairwise_i8x16_u(i8x16.sub(i8x16.max_u(a, b), i8x16.min_u(a, b))));
    }
  return across4(i32x4.extadd_pairwise_i16x8_u(sum));
}

/** Adds how many of `count` bytes lie in each of 32 equal ranges to `bins`; `count` in fours. */
export function histogram(bytes: usize, count: i32, bins: usize): void {
  for (const end = bytes + count; bytes < end; bytes += 4) {
    for (let k = 0; k < 4; k++) {
      const bin = bins + ((<usize>load<u8>(bytes + k) >> 3) << 2);
      store<i32>(bin, load<i32>(bin) + 1);
    }
  }
}

/**
 * Sums of the columns of absolute differences above `least`, 16 bits each, over every second of the rows;
 * columns in sixteens, and up to 257 rows taken.
 */
export function movement(one: usize, other: usize, stride: i32, rows: i32, columns: i32, least: i32, sums: usize): void {
  const floor = i8x16.splat(<i8>least);
  for (let x = 0; x < columns; x += 16) {
    let low = i16x8.splat(0);
    let high = i16x8.splat(0);
    for (let y = 0; y < rows; y += 2) {
      const a = v128.load(one + y * stride + x);
      const b = v128.load(other + y * stride + x);
      const gap = i8x16.sub(i8x16.max_u(a, b), i8x16.min_u(a, b));
      const counted = v128.and(gap, i8x16.gt_u(gap, floor));
      low = i16x8.add(low, i16x8.extend_low_i8x16_u(counted));
      high = i16x8.add(high, i16x8.extend_high_i8x16_u(counted));
    }
    v128.store(sums + (x << 1), low);
    v128.store(sums + (x << 1), high, 16);
  }
}

/** Sum of the absolute differences of `count` whole numbers, each counted up to `most`. */
export function gaps(one: usize, other: usize, count: i32, most: i32): i32 {
  const limit = i32x4.splat(most);
  let sums = i32x4.splat(0);
  const end = one + (count << 2);
  for (const even = one + ((count & ~3) << 2); one < even; one += 16, other += 16) {
    sums = i32x4.add(sums, i32x4.min_s(i32x4.abs(i32x4.sub(v128.load(one), v128.load(other))), limit));
  }
  let sum = across4(sums);
  for (; one < end; one += 4, other += 4) sum += min<i32>(abs<i32>(load<i32>(one) - load<i32>(other)), most);
  return sum;
}

/**
 * Powers and magnitudes of the first half of the spectrum of `2 * half` real samples times `window`; `half` is a power of 4
 * from 16 on. A complex transform of half the length, in steps of four that sort themselves (Stockham; C. Van Loan,
 * "Computational Frameworks for the Fast Fourier Transform", SIAM 1992, 1.7 and 4.3), taken apart as the even and odd samples'.
 * `turns` holds cos and sin of 2 pi k / half, `half` of each, then of pi k / half. `work` has room for `4 * half + 8` floats.
 */
export function spectrum(samples: usize, window: usize, half: i32, turns: usize, work: usize, powers: usize, magnitudes: usize): void {
  const plane = half << 2;
  // Real and imaginary parts in planes of their own, with room for one repeated point.
  let re = work;
  let im = re + plane + 16;
  let re2 = im + plane + 16;
  let im2 = re2 + plane;
  for (let i = 0; i < plane; i += 16) {
    const one = f32x4.mul(v128.load(samples + (i << 1)), v128.load(window + (i << 1)));
    const other = f32x4.mul(v128.load(samples + (i << 1), 16), v128.load(window + (i << 1), 16));
    v128.store(re + i, v128.shuffle<f32>(one, other, 0, 2, 4, 6));
    v128.store(im + i, v128.shuffle<f32>(one, other, 1, 3, 5, 7));
  }
  let flips = 0;
  for (let length = half, stride = 1; length > 1; length >>= 2, stride <<= 2, flips++) {
    if (stride == 1) firstStep(re, im, re2, im2, half, turns);
    else laterStep(re, im, re2, im2, length, stride, turns, half);
    let swap = re;
    re = re2;
    re2 = swap;
    swap = im;
    im = im2;
    im2 = swap;
  }
  if (flips & 1) {
    // Where there is room behind for the first point again.
    memory.copy(re2, re, plane);
    memory.copy(im2, im, plane);
    re = re2;
    im = im2;
  }
  store<f32>(re + plane, load<f32>(re));
  store<f32>(im + plane, load<f32>(im));
  const cos = turns + 2 * plane;
  const sin = cos + plane;
  const part = f32x4.splat(0.5);
  for (let i = 0; i < plane; i += 16) {
    const ar = v128.load(re + i);
    const ai = v128.load(im + i);
    const last = plane - i - 12;
    let br = v128.load(re + last);
    let bi = v128.load(im + last);
    br = v128.shuffle<f32>(br, br, 3, 2, 1, 0);
    bi = v128.shuffle<f32>(bi, bi, 3, 2, 1, 0);
    const or = f32x4.mul(f32x4.sub(ar, br), part);
    const oi = f32x4.mul(f32x4.add(ai, bi), part);
    const c = v128.load(cos + i);
    const s = v128.load(sin + i);
    const x = f32x4.add(f32x4.mul(f32x4.add(ar, br), part), f32x4.sub(f32x4.mul(c, oi), f32x4.mul(s, or)));
    const y = f32x4.sub(f32x4.mul(f32x4.sub(ai, bi), part), f32x4.add(f32x4.mul(c, or), f32x4.mul(s, oi)));
    const power = f32x4.add(f32x4.mul(x, x), f32x4.mul(y, y));
    v128.store(powers + i, power);
    v128.store(magnitudes + i, f32x4.sqrt(power));
  }
}

/** Four neighbouring butterflies at a time, whose results lie one after another. */
function firstStep(re: usize, im: usize, re2: usize, im2: usize, half: i32, turns: usize): void {
  const quarter = half; // bytes: a quarter of `half` floats
  const plane = half << 2;
  for (let p = 0; p < quarter; p += 16) {
    const ar = v128.load(re + p), ai = v128.load(im + p);
    const br = v128.load(re + quarter + p), bi = v128.load(im + quarter + p);
    const cr = v128.load(re + 2 * quarter + p), ci = v128.load(im + 2 * quarter + p);
    const dr = v128.load(re + 3 * quarter + p), di = v128.load(im + 3 * quarter + p);
    const w1r = v128.load(turns + p), w1i = f32x4.neg(v128.load(turns + plane + p));
    const w2r = f32x4.sub(f32x4.mul(w1r, w1r), f32x4.mul(w1i, w1i)), w2i = f32x4.mul(f32x4.add(w1r, w1r), w1i);
    const w3r = f32x4.sub(f32x4.mul(w1r, w2r), f32x4.mul(w1i, w2i)), w3i = f32x4.add(f32x4.mul(w1r, w2i), f32x4.mul(w1i, w2r));
    const sr = f32x4.add(ar, cr), si = f32x4.add(ai, ci), tr = f32x4.add(br, dr), ti = f32x4.add(bi, di);
    const ur = f32x4.sub(ar, cr), ui = f32x4.sub(ai, ci), vr = f32x4.sub(br, dr), vi = f32x4.sub(bi, di);
    const x1r = f32x4.add(ur, vi), x1i = f32x4.sub(ui, vr);
    const x2r = f32x4.sub(sr, tr), x2i = f32x4.sub(si, ti);
    const x3r = f32x4.sub(ur, vi), x3i = f32x4.add(ui, vr);
    crossed(re2 + (p << 2), f32x4.add(sr, tr), f32x4.sub(f32x4.mul(w1r, x1r), f32x4.mul(w1i, x1i)), f32x4.sub(f32x4.mul(w2r, x2r), f32x4.mul(w2i, x2i)), f32x4.sub(f32x4.mul(w3r, x3r), f32x4.mul(w3i, x3i)));
    crossed(im2 + (p << 2), f32x4.add(si, ti), f32x4.add(f32x4.mul(w1r, x1i), f32x4.mul(w1i, x1r)), f32x4.add(f32x4.mul(w2r, x2i), f32x4.mul(w2i, x2r)), f32x4.add(f32x4.mul(w3r, x3i), f32x4.mul(w3i, x3r)));
  }
}

/** Writes four rows of four as columns. */
// @ts-ignore: decorator
@inline
function crossed(to: usize, a: v128, b: v128, c: v128, d: v128): void {
  const ab = v128.shuffle<f32>(a, b, 0, 4, 1, 5), cd = v128.shuffle<f32>(c, d, 0, 4, 1, 5);
  const ab2 = v128.shuffle<f32>(a, b, 2, 6, 3, 7), cd2 = v128.shuffle<f32>(c, d, 2, 6, 3, 7);
  v128.store(to, v128.shuffle<f32>(ab, cd, 0, 1, 4, 5));
  v128.store(to, v128.shuffle<f32>(ab, cd, 2, 3, 6, 7), 16);
  v128.store(to, v128.shuffle<f32>(ab2, cd2, 0, 1, 4, 5), 32);
  v128.store(to, v128.shuffle<f32>(ab2, cd2, 2, 3, 6, 7), 48);
}

/** Butterflies of one turn, four at a time. */
function laterStep(re: usize, im: usize, re2: usize, im2: usize, length: i32, stride: i32, turns: usize, half: i32): void {
  const quarter = length >> 2;
  const row = stride << 2;
  const far = quarter * row;
  const sines = turns + (half << 2);
  for (let p = 0; p < quarter; p++) {
    const turn = (p * stride) << 2;
    const w1r = v128.load32_splat(turns + turn), w1i = f32x4.neg(v128.load32_splat(sines + turn));
    const w2r = v128.load32_splat(turns + 2 * turn), w2i = f32x4.neg(v128.load32_splat(sines + 2 * turn));
    const w3r = v128.load32_splat(turns + 3 * turn), w3i = f32x4.neg(v128.load32_splat(sines + 3 * turn));
    let from = p * row;
    let to = 4 * p * row;
    for (const end = from + row; from < end; from += 16, to += 16) {
      const ar = v128.load(re + from), ai = v128.load(im + from);
      const br = v128.load(re + far + from), bi = v128.load(im + far + from);
      const cr = v128.load(re + 2 * far + from), ci = v128.load(im + 2 * far + from);
      const dr = v128.load(re + 3 * far + from), di = v128.load(im + 3 * far + from);
      const sr = f32x4.add(ar, cr), si = f32x4.add(ai, ci), tr = f32x4.add(br, dr), ti = f32x4.add(bi, di);
      const ur = f32x4.sub(ar, cr), ui = f32x4.sub(ai, ci), vr = f32x4.sub(br, dr), vi = f32x4.sub(bi, di);
      const x1r = f32x4.add(ur, vi), x1i = f32x4.sub(ui, vr);
      const x2r = f32x4.sub(sr, tr), x2i = f32x4.sub(si, ti);
      const x3r = f32x4.sub(ur, vi), x3i = f32x4.add(ui, vr);
      v128.store(re2 + to, f32x4.add(sr, tr));
      v128.store(im2 + to, f32x4.add(si, ti));
      v128.store(re2 + to + row, f32x4.sub(f32x4.mul(w1r, x1r), f32x4.mul(w1i, x1i)));
      v128.store(im2 + to + row, f32x4.add(f32x4.mul(w1r, x1i), f32x4.mul(w1i, x1r)));
      v128.store(re2 + to + 2 * row, f32x4.sub(f32x4.mul(w2r, x2r), f32x4.mul(w2i, x2i)));
      v128.store(im2 + to + 2 * row, f32x4.add(f32x4.mul(w2r, x2i), f32x4.mul(w2i, x2r)));
      v128.store(re2 + to + 3 * row, f32x4.sub(f32x4.mul(w3r, x3r), f32x4.mul(w3i, x3i)));
      v128.store(im2 + to + 3 * row, f32x4.add(f32x4.mul(w3r, x3i), f32x4.mul(w3i, x3r)));
    }
  }
}

/** Bits by which the 128-bit code at `code` differs from each of `count` codes, a byte each. */
export function bitsApart(code: usize, codes: usize, count: i32, output: usize): void {
  const one = load<u64>(code), two = load<u64>(code, 8);
  for (let i = 0; i < count; i++, codes += 16) {
    store<u8>(output + i, <u8>(popcnt(one ^ load<u64>(codes)) + popcnt(two ^ load<u64>(codes, 8))));
  }
}

/** The first `left` of 16 lanes. */
@inline
function first(left: i32): v128 {
  return i8x16.lt_u(i8x16(0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15), i8x16.splat(<i8>min<i32>(left, 16)));
}

/** What the differences of the points of a mask, given in bits, are worth in the table, these being off by `gain`. */
@inline
function worth(a: usize, b: usize, bits: i32, gain: f32, table: usize): f32 {
  let sum: f32 = 0;
  while (bits) {
    const at = <usize>ctz<i32>(bits);
    bits &= bits - 1;
    const apart = abs<f32>(<f32>load<u8>(a + at) - <f32>load<u8>(b + at) - gain);
    sum += load<f32>(table + (min<i32>(1023, <i32>nearest<f32>(4 * apart)) << 2));
  }
  return sum;
}

/**
 * How alike two prints are, as core/finding/families/prints.ts has it: levels in decibels at `a` and `b`, `stands` bytes later 255 where
 * a point stands out, and at `bedA` and `bedB` the bed under each point. `count` points are compared. `table` holds what a difference in
 * quarters of a decibel is worth, 1024 of them. Fewer than `least` points say nothing: 0.
 */
export function alikeness(
  a: usize, bedA: usize, b: usize, bedB: usize, count: i32, stands: usize, spread: f32, over: f32, least: i32, table: usize,
): f32 {
  const ones = i16x8.splat(1);
  let sums = i32x4.splat(0);
  let n: i32 = 0;
  for (let p = 0; p < count; p += 16) {
    const both = v128.and(v128.and(v128.load(a + p + stands), v128.load(b + p + stands)), first(count - p));
    const x = v128.load(a + p), y = v128.load(b + p);
    const low = i16x8.sub(i16x8.extend_low_i8x16_u(x), i16x8.extend_low_i8x16_u(y));
    const high = i16x8.sub(i16x8.extend_high_i8x16_u(x), i16x8.extend_high_i8x16_u(y));
    sums = i32x4.add(sums, i32x4.dot_i16x8_s(v128.and(low, i16x8.extend_low_i8x16_s(both)), ones));
    sums = i32x4.add(sums, i32x4.dot_i16x8_s(v128.and(high, i16x8.extend_high_i8x16_s(both)), ones));
    n += popcnt<i32>(i8x16.bitmask(both));
  }
  if (n < least) return 0;
  const sum = i32x4.extract_lane(sums, 0) + i32x4.extract_lane(sums, 1) + i32x4.extract_lane(sums, 2) + i32x4.extract_lane(sums, 3);
  const guess = <f32>sum / <f32>n;
  const from = i16x8.splat(<i16>ceil<f32>(guess - spread)), to = i16x8.splat(<i16>floor<f32>(guess + spread));
  let nears = i32x4.splat(0);
  let m: i32 = 0;
  for (let p = 0; p < count; p += 16) {
    const both = v128.and(v128.and(v128.load(a + p + stands), v128.load(b + p + stands)), first(count - p));
    const x = v128.load(a + p), y = v128.load(b + p);
    const low = i16x8.sub(i16x8.extend_low_i8x16_u(x), i16x8.extend_low_i8x16_u(y));
    const high = i16x8.sub(i16x8.extend_high_i8x16_u(x), i16x8.extend_high_i8x16_u(y));
    const inLow = v128.and(v128.and(i16x8.ge_s(low, from), i16x8.le_s(low, to)), i16x8.extend_low_i8x16_s(both));
    const inHigh = v128.and(v128.and(i16x8.ge_s(high, from), i16x8.le_s(high, to)), i16x8.extend_high_i8x16_s(both));
    nears = i32x4.add(nears, i32x4.dot_i16x8_s(v128.and(low, inLow), ones));
    nears = i32x4.add(nears, i32x4.dot_i16x8_s(v128.and(high, inHigh), ones));
    m += popcnt<i32>(i16x8.bitmask(inLow)) + popcnt<i32>(i16x8.bitmask(inHigh));
  }
  const near = i32x4.extract_lane(nears, 0) + i32x4.extract_lane(nears, 1) + i32x4.extract_lane(nears, 2) + i32x4.extract_lane(nears, 3);
  const gain = m ? <f32>near / <f32>m : guess;
  // What is one's own stands out only where the other's bed, at this gain, would not hide it.
  const overA = i16x8.splat(<i16>ceil<f32>(over + gain)), overB = i16x8.splat(<i16>ceil<f32>(over - gain));
  let alike: f32 = 0;
  let compared = 0;
  for (let p = 0; p < count; p += 16) {
    const lanes = first(count - p);
    const standsA = v128.and(v128.load(a + p + stands), lanes), standsB = v128.and(v128.load(b + p + stands), lanes);
    const x = v128.load(a + p), y = v128.load(b + p), underA = v128.load(bedA + p), underB = v128.load(bedB + p);
    const low = v128.or(
      v128.and(i16x8.ge_s(i16x8.sub(i16x8.extend_low_i8x16_u(x), i16x8.extend_low_i8x16_u(underB)), overA), i16x8.extend_low_i8x16_s(standsA)),
      v128.and(i16x8.ge_s(i16x8.sub(i16x8.extend_low_i8x16_u(y), i16x8.extend_low_i8x16_u(underA)), overB), i16x8.extend_low_i8x16_s(standsB)),
    );
    const high = v128.or(
      v128.and(i16x8.ge_s(i16x8.sub(i16x8.extend_high_i8x16_u(x), i16x8.extend_high_i8x16_u(underB)), overA), i16x8.extend_high_i8x16_s(standsA)),
      v128.and(i16x8.ge_s(i16x8.sub(i16x8.extend_high_i8x16_u(y), i16x8.extend_high_i8x16_u(underA)), overB), i16x8.extend_high_i8x16_s(standsB)),
    );
    const bits = i16x8.bitmask(low) | (i16x8.bitmask(high) << 8);
    compared += popcnt<i32>(bits);
    alike += worth(a + p, b + p, bits, gain, table);
  }
  return compared < least ? 0 : alike / <f32>compared;
}

/** A pixel and its eight neighbours, the nearer first, as columns and rows of 0 to 2 in two bits each. */
const BESIDE_X = 35145, BESIDE_Y = 10389;
/** Off by less, two places are alike. */
const LIKE: f32 = 4;

/**
 * How far off the patch of nine pixels about each wanted pixel of `other` is from the best one near a place in `one`, at most 60.
 * Pictures hold four floats a pixel: brightness, two differences of colour, and how far it is of a layer, of which what counts is
 * `base` + `sign` times that. Places (`xs`, `ys`) and answers are floats, `wanted` bytes, one a pixel.
 */
export function patchGaps(
  one: usize, other: usize, width: i32, height: i32, base: f32, sign: f32, xs: usize, ys: usize, wanted: usize, output: usize,
): void {
  const line = width << 4;
  for (let y = 0, i = 0; y < height; y++) {
    const top = y ? -1 : 0, low = y < height - 1 ? 1 : 0;
    for (let x = 0; x < width; x++, i++) {
      if (!load<u8>(wanted + i)) continue;
      const left = x ? -1 : 0, right = x < width - 1 ? 1 : 0;
      const ox = <i32>floor<f32>(load<f32>(xs + (i << 2)) + 0.5), oy = <i32>floor<f32>(load<f32>(ys + (i << 2)) + 0.5);
      let best: f32 = 60;
      // The place itself first: where it is like, its neighbours are not asked.
      for (let k = 0; k < 18 && best >= LIKE; k += 2) {
        const sx = ox + ((BESIDE_X >> k) & 3) - 1, sy = oy + ((BESIDE_Y >> k) & 3) - 1;
        if (sx < 1 || sy < 1 || sx >= width - 1 || sy >= height - 1) continue;
        const place = one + ((sy * width + sx) << 4);
        const foreign: f32 = 14 * (<f32>1 - base - sign * load<f32>(place, 12));
        if (foreign >= best) continue;
        let sums = f32x4.splat(0);
        let count: f32 = 0;
        for (let b = top; b <= low; b++) {
          let p = other + (i << 4) + b * line + (left << 4), q = place + b * line + (left << 4);
          for (let a = left; a <= right; a++, p += 16, q += 16) {
            const w: f32 = a | b ? (base + sign * load<f32>(p, 12)) * (base + sign * load<f32>(q, 12)) : 1;
            sums = f32x4.add(sums, f32x4.mul(f32x4.abs(f32x4.sub(v128.load(p), v128.load(q))), f32x4.splat(w)));
            count += w;
          }
        }
        best = min<f32>(best, foreign + threeOf(sums) / count);
      }
      store<f32>(output + (i << 2), best);
    }
  }
}

// @ts-ignore: decorator
@inline
function threeOf(sums: v128): f32 {
  return f32x4.extract_lane(sums, 0) + f32x4.extract_lane(sums, 1) + f32x4.extract_lane(sums, 2);
}

/** Weight of what was compared last. */
let compared: f32 = 0;

/** Mean difference of a cell's samples (places in `one` as two whole numbers, then the address in `other`) moved by a step. */
function cellGap(
  one: usize, width: i32, height: i32, base: f32, sign: f32, samples: usize, end: usize, dx: i32, dy: i32,
): f32 {
  let sum: f32 = 0, count: f32 = 0;
  for (let at = samples; at < end; at += 12) {
    const x = load<i32>(at) + dx, y = load<i32>(at, 4) + dy;
    if (x < 0 || y < 0 || x >= width || y >= height) continue;
    const q = one + ((y * width + x) << 4);
    const w: f32 = base + sign * load<f32>(q, 12);
    if (w < 0.1) continue;
    const off = f32x4.abs(f32x4.sub(v128.load(load<u32>(at, 8)), v128.load(q)));
    sum += w * min<f32>(50, threeOf(off));
    count += w;
  }
  compared = count;
  return count < 6 ? Infinity : sum / count;
}

/**
 * By how much the cell between `x0`, `y0` and `x1`, `y1` (every second pixel of it) moved beside the whole of a layer, which was at
 * a + b x + c y, d + e x + f y: four floats, across, down, the weight of what was compared (0: nothing) and what it costs. Pictures
 * and layers as in `patchGaps`; `samples` has room for 64 times 12 bytes.
 */
export function seekCell(
  one: usize, other: usize, width: i32, height: i32, base: f32, sign: f32, x0: i32, y0: i32, x1: i32, y1: i32,
  a: f64, b: f64, c: f64, d: f64, e: f64, f: f64, reach: i32, samples: usize, output: usize,
): void {
  let end = samples;
  for (let y = y0; y < y1; y += 2)
    for (let x = x0; x < x1; x += 2, end += 12) {
      store<i32>(end, <i32>floor<f64>(a + b * x + c * y + 0.5));
      store<i32>(end, <i32>floor<f64>(d + e * x + f * y + 0.5), 4);
      store<u32>(end, <u32>(other + ((y * width + x) << 4)), 8);
    }
  let cost = cellGap(one, width, height, base, sign, samples, end, 0, 0);
  let weight: f32 = cost < Infinity ? compared : 0;
  let bestX = 0, bestY = 0;
  if (cost > LIKE)
    for (let round = 0; round < 2; round++) {
      if (round && weight == 0) break;
      const far = round ? 1 : reach, step = round ? 1 : 2, mx = bestX, my = bestY;
      for (let dy = my - far; dy <= my + far; dy += step)
        for (let dx = mx - far; dx <= mx + far; dx += step) {
          const gap = cellGap(one, width, height, base, sign, samples, end, dx, dy) + <f32>0.35 * sqrt<f32>(<f32>(dx * dx + dy * dy));
          if (gap < cost) { cost = gap; bestX = dx; bestY = dy; weight = compared; }
        }
    }
  store<f32>(output, <f32>bestX);
  store<f32>(output, <f32>bestY, 4);
  store<f32>(output, weight, 8);
  store<f32>(output, cost, 12);
}

/**
 * Sums of a least-squares fit of a movement and a change of light, as core/subject/movement.ts has it: for `count` places (whole
 * numbers) of `one` that are taken to x' = a + b x + c y, y' = d + e x + f y of `other`, all planes of floats w by h. Written are
 * seven rows of eight floats, the products of the seven slopes with one another and with what is off; then the sum of what is off,
 * at most 60 each, and how many places counted.
 */
export function fitSums(
  one: usize, other: usize, weight: usize, w: i32, h: i32, places: usize, count: i32,
  a: f64, b: f64, c: f64, d: f64, e: f64, f: f64, light: f32, doubt: f32, output: usize,
): void {
  const zero = f32x4.splat(0);
  let l0 = zero, l1 = zero, l2 = zero, l3 = zero, l4 = zero, l5 = zero, l6 = zero;
  let h0 = zero, h1 = zero, h2 = zero, h3 = zero, h4 = zero, h5 = zero, h6 = zero;
  let offs: f32 = 0, counted: f32 = 0;
  const mx: f32 = <f32>w / 2, my: f32 = <f32>h / 2, line = w << 2;
  for (let k = 0; k < count; k++) {
    const i = load<i32>(places + (k << 2));
    const y = i / w, x = i - y * w;
    const tx = a + b * x + c * y, ty = d + e * x + f * y;
    const fx0 = Math.floor(tx), fy0 = Math.floor(ty);
    const x0 = <i32>fx0, y0 = <i32>fy0;
    if (x0 < 1 || y0 < 1 || x0 >= w - 2 || y0 >= h - 2) continue;
    const fx = <f32>(tx - fx0), fy = <f32>(ty - fy0);
    const q = other + ((y0 * w + x0) << 2), p = one + (i << 2);
    const q00 = load<f32>(q), q10 = load<f32>(q, 4), q01 = load<f32>(q + line), q11 = load<f32>(q + line, 4);
    const value = (q00 * (1 - fx) + q10 * fx) * (1 - fy) + (q01 * (1 - fx) + q11 * fx) * fy;
    const gx: f32 = ((load<f32>(p, 4) - load<f32>(p - 4)) / 2 + (q10 - q00) * (1 - fy) + (q11 - q01) * fy) / 2;
    const gy: f32 = ((load<f32>(p + line) - load<f32>(p - line)) / 2 + (q01 - q00) * (1 - fx) + (q11 - q10) * fx) / 2;
    const off: f32 = load<f32>(p) + light - value;
    offs += min<f32>(60, abs<f32>(off));
    counted += 1;
    const far: f32 = off / doubt, fits: f32 = 1 + far * far;
    const trust: f32 = load<f32>(weight + (i << 2)) / (fits * fits);
    const u: f32 = (<f32>x - mx) / mx, v: f32 = (<f32>y - my) / mx;
    const low = f32x4(gx, gx * u, gx * v, gy), high = f32x4(gy * u, gy * v, -1, off);
    let s = f32x4.splat(trust * gx);
    l0 = f32x4.add(l0, f32x4.mul(s, low)); h0 = f32x4.add(h0, f32x4.mul(s, high));
    s = f32x4.splat(trust * gx * u);
    l1 = f32x4.add(l1, f32x4.mul(s, low)); h1 = f32x4.add(h1, f32x4.mul(s, high));
    s = f32x4.splat(trust * gx * v);
    l2 = f32x4.add(l2, f32x4.mul(s, low)); h2 = f32x4.add(h2, f32x4.mul(s, high));
    s = f32x4.splat(trust * gy);
    l3 = f32x4.add(l3, f32x4.mul(s, low)); h3 = f32x4.add(h3, f32x4.mul(s, high));
    s = f32x4.splat(trust * gy * u);
    l4 = f32x4.add(l4, f32x4.mul(s, low)); h4 = f32x4.add(h4, f32x4.mul(s, high));
    s = f32x4.splat(trust * gy * v);
    l5 = f32x4.add(l5, f32x4.mul(s, low)); h5 = f32x4.add(h5, f32x4.mul(s, high));
    s = f32x4.splat(-trust);
    l6 = f32x4.add(l6, f32x4.mul(s, low)); h6 = f32x4.add(h6, f32x4.mul(s, high));
  }
  v128.store(output, l0); v128.store(output, h0, 16);
  v128.store(output, l1, 32); v128.store(output, h1, 48);
  v128.store(output, l2, 64); v128.store(output, h2, 80);
  v128.store(output, l3, 96); v128.store(output, h3, 112);
  v128.store(output, l4, 128); v128.store(output, h4, 144);
  v128.store(output, l5, 160); v128.store(output, h5, 176);
  v128.store(output, l6, 192); v128.store(output, h6, 208);
  store<f32>(output, offs, 224);
  store<f32>(output, counted, 228);
}
