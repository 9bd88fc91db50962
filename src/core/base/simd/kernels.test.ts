import { expect, it } from 'vitest';
import { spectrumOf } from '../../finding/signals/spectrum.ts';
import { Arena } from './kernels.ts';

// Each kernel against the plain loops that define it.
let state = 1;
const random = (): number => (state = (state * 16807) % 2147483647) / 2147483647;

it.each([
  [1, 1, 8],
  [1, 2, 16],
  [2, 2, 8],
])('convolves in steps of %i and %i to %i planes', (down, across, outputs) => {
  const [rows, columns, inputs, scale] = [7, 10, 4, 0.0003];
  const arena = new Arena(1 << 16);
  const input = arena.shorts((rows + 2) * (columns + 2) * inputs);
  for (let y = 1; y <= rows; y++)
    for (let x = 1; x <= columns; x++)
      for (let i = 0; i < inputs; i++) input[(y * (columns + 2) + x) * inputs + i] = (random() - 0.5) * 65535;
  const weights = arena.shorts(9 * inputs * outputs);
  weights.set(weights.map(() => (random() - 0.5) * 255));
  const bias = arena.floats(outputs);
  bias.set(bias.map(() => (random() - 0.5) * 4000));
  // One that is more than 16 bits hold.
  bias[1] = 40000;
  const [high, broad] = [Math.ceil(rows / down), Math.ceil(columns / across)];
  const output = arena.shorts((high + 2) * (broad + 2) * outputs);
  arena.kernels.convolve(
    input.byteOffset,
    rows,
    columns,
    inputs,
    weights.byteOffset,
    scale,
    bias.byteOffset,
    output.byteOffset,
    outputs,
    down,
    across,
    1,
  );
  for (let y = -1; y <= high; y++) {
    for (let x = -1; x <= broad; x++) {
      for (let o = 0; o < outputs; o++) {
        let sum = 0;
        for (let tap = 0; tap < 9; tap++) {
          for (let i = 0; i < inputs; i++)
            sum +=
              (input[((y * down + Math.floor(tap / 3)) * (columns + 2) + x * across + (tap % 3)) * inputs + i] ?? 0) *
              weights[((((o >> 3) * 9 + tap) * (inputs / 2) + (i >> 1)) * 8 + (o & 7)) * 2 + (i & 1)]!;
        }
        const border = y < 0 || x < 0 || y === high || x === broad;
        const wanted = border ? 0 : Math.min(32767, Math.max(0, sum * scale + bias[o]!));
        // Rounded to whole numbers.
        expect(Math.abs(output[((y + 1) * (broad + 2) + x + 1) * outputs + o]! - wanted)).toBeLessThanOrEqual(0.51);
      }
    }
  }
});

it('connects layers', () => {
  const arena = new Arena(1 << 12);
  const [input, weights, bias, output] = [arena.shorts(6), arena.bytes(6 * 32), arena.floats(32), arena.floats(32)];
  input.set(input.map(() => (random() - 0.5) * 65535));
  bias.set(bias.map(() => random() - 0.5));
  weights.set(weights.map(() => random() * 256));
  const scale = 4e-7;
  const sums = Array.from(bias, (b, o) =>
    input.reduce(
      (sum, value, i) =>
        sum + value * ((weights[(((o >> 4) * 3 + (i >> 1)) * 16 + (o & 15)) * 2 + (i & 1)]! << 24) >> 24) * scale,
      b,
    ),
  );
  arena.kernels.connect(input.byteOffset, 6, weights.byteOffset, scale, bias.byteOffset, output.byteOffset, 32);
  sums.forEach((sum, o) => expect(output[o]).toBeCloseTo(sum, 5));
  expect(Math.min(...output)).toBeLessThan(0);
});

it('adds floats and their products up, and finds the largest, of any count', () => {
  const arena = new Arena(1 << 12);
  const floats = arena.floats(40);
  floats.set(floats.map(() => random()));
  for (const [from, to] of [
    [0, 0],
    [3, 4],
    [1, 4],
    [2, 39],
    [4, 40],
  ] as const) {
    const some = [...floats.subarray(from, to)];
    const at = [floats.byteOffset + 4 * from, to - from] as const;
    expect(arena.kernels.total(...at)).toBeCloseTo(
      some.reduce((a, b) => a + b, 0),
      4,
    );
    expect(arena.kernels.largest(...at)).toBe(Math.max(0, ...some));
    // Each with the one before it.
    expect(arena.kernels.products(at[0], at[0] - 4, at[1])).toBeCloseTo(
      some.reduce((sum, value, i) => sum + value * floats[from + i - 1]!, 0),
      4,
    );
  }
});

it('gives the logarithm of weighted sums over many powers of ten, as Math.log10 does', () => {
  const arena = new Arena(1 << 12);
  const [floats, bands, weights, output] = [arena.floats(16), arena.whole(16), arena.floats(32), arena.floats(8)];
  weights.set(weights.map(() => random()));
  const [first, fours] = [
    [0, 1, 3, 4, 5, 8, 0, 2],
    [1, 1, 2, 1, 0, 2, 1, 0],
  ];
  first.forEach((from, b) => bands.set([from, fours[b]!], 2 * b));
  for (let size = 1e-6; size < 1e6; size *= 10) {
    floats.set(floats.map(() => random() * size));
    arena.kernels.logSums(floats.byteOffset, bands.byteOffset, weights.byteOffset, 8, output.byteOffset);
    let at = 0;
    first.forEach((from, b) => {
      let sum = 1;
      for (let i = 0; i < 4 * fours[b]!; i++) sum += floats[from + i]! * weights[at++]!;
      // A float's last bits: sums near 1 lose the same as logarithms near 1.
      expect(Math.abs(output[b]! - Math.log10(sum))).toBeLessThanOrEqual(2 ** -23 * (1 + Math.log10(sum)));
    });
  }
});

it('sums rows, columns and differences of bytes', () => {
  const arena = new Arena(1 << 14);
  const [rows, columns] = [6, 32];
  const [one, other, sums] = [arena.bytes(rows * columns), arena.bytes(rows * columns), arena.sums(columns)];
  for (const values of [one, other]) values.set(values.map(() => random() * 256));
  arena.kernels.columnSums(one.byteOffset, columns, rows, 2, columns, sums.byteOffset);
  sums.forEach((sum, x) => expect(sum).toBe(one[x]! + one[2 * columns + x]! + one[4 * columns + x]!));
  expect(arena.kernels.sumOf(one.byteOffset, one.length)).toBe(one.reduce((a, b) => a + b, 0));
  expect(arena.kernels.difference(one.byteOffset, other.byteOffset, one.length)).toBe(
    one.reduce((sum, value, i) => sum + Math.abs(value - other[i]!), 0),
  );
});

it('sums differences of blocks', () => {
  const arena = new Arena(1 << 14);
  const stride = 40;
  const [one, other] = [arena.bytes(20 * stride), arena.bytes(20 * stride)];
  for (const values of [one, other]) values.set(values.map(() => random() * 256));
  for (const size of [8, 16]) {
    let sum = 0;
    for (let y = 0; y < size; y++)
      for (let x = 0; x < size; x++)
        sum += Math.abs(one[(y + 1) * stride + x + 3]! - other[(y + 2) * stride + x + 17]!);
    expect(arena.kernels.blockGap(one.byteOffset + stride + 3, other.byteOffset + 2 * stride + 17, stride, size)).toBe(
      sum,
    );
  }
});

it('counts bytes in ranges, and sums what moved by more than noise', () => {
  const arena = new Arena(1 << 14);
  const [rows, columns, least] = [5, 16, 12];
  const [one, other, sums, bins] = [
    arena.bytes(rows * columns),
    arena.bytes(rows * columns),
    arena.sums(columns),
    arena.whole(32),
  ];
  for (const values of [one, other]) values.set(values.map(() => 100 + random() * 60));
  [one[0], other[0]] = [255, 0];
  arena.kernels.histogram(one.byteOffset, one.length, bins.byteOffset);
  bins.forEach((count, bin) => expect(count).toBe(one.filter((value) => value >> 3 === bin).length));
  arena.kernels.movement(one.byteOffset, other.byteOffset, columns, rows, columns, least, sums.byteOffset);
  sums.forEach((sum, x) =>
    expect(sum).toBe(
      [0, 2, 4].reduce((all, y) => {
        const gap = Math.abs(one[y * columns + x]! - other[y * columns + x]!);
        return all + (gap > least ? gap : 0);
      }, 0),
    ),
  );
});

it('adds up gaps, each to a limit, of any count', () => {
  const arena = new Arena(1 << 12);
  const [one, other] = [arena.whole(23), arena.whole(23)];
  for (const values of [one, other]) values.set(values.map(() => random() * 2000 - 1000));
  for (const count of [0, 3, 4, 19, 22]) {
    expect(arena.kernels.gaps(one.byteOffset + 4, other.byteOffset, count, 700)).toBe(
      Array.from({ length: count }, (_, i) => Math.min(700, Math.abs(one[i + 1]! - other[i]!))).reduce(
        (a, b) => a + b,
        0,
      ),
    );
  }
});

it('refuses more memory than was announced', () => {
  expect(() => new Arena(100).floats(1 << 16)).toThrow(RangeError);
});

it.each([32, 128, 512, 2048])('takes the spectrum of %i samples', (size) => {
  const half = size / 2;
  const samples = Float32Array.from({ length: size + 7 }, () => random() - 0.5);
  const spectrum = spectrumOf(size);
  spectrum.take(samples, 3);
  // The definition of the discrete Fourier transform, in double precision.
  const definition = (k: number): number => {
    let [re, im] = [0, 0];
    for (let n = 0; n < size; n++) {
      const value = samples[3 + n]! * (0.5 - 0.5 * Math.cos((2 * Math.PI * n) / size));
      re += value * Math.cos((2 * Math.PI * n * k) / size);
      im -= value * Math.sin((2 * Math.PI * n * k) / size);
    }
    return Math.hypot(re, im);
  };
  for (let k = 0; k < half; k += size > 512 ? 7 : 1) {
    expect(spectrum.magnitudes[k]).toBeCloseTo(definition(k), 4);
    expect(spectrum.powers[k]).toBeCloseTo(spectrum.magnitudes[k]! ** 2, 3);
  }
});

it('gives a full-scale sine a quarter of the window, and takes what lies outside as silence', () => {
  const spectrum = spectrumOf(2048);
  spectrum.take(
    Float32Array.from({ length: 2048 }, (_, i) => Math.sin((2 * Math.PI * 100 * i) / 2048)),
    0,
  );
  expect(spectrum.magnitudes[100]).toBeCloseTo(512, 2);
  expect(Math.max(...spectrum.magnitudes.filter((_, k) => Math.abs(k - 100) > 1))).toBeLessThan(512e-6);
  const click = new Float32Array(100);
  click[0] = 1;
  for (const [from, place] of [
    [-1024, 1024],
    [-512, 512],
    [0, 0],
  ] as const) {
    spectrum.take(click, from);
    // A single sample has the same magnitude in every bin: what the window lets through.
    expect(spectrum.magnitudes[17]).toBeCloseTo(0.5 - 0.5 * Math.cos((2 * Math.PI * place) / 2048), 5);
  }
  for (const from of [-5000, 5000]) {
    spectrum.take(click, from);
    expect(spectrum.magnitudes.every((m) => m === 0)).toBe(true);
  }
});

it('has the Hann window of F. J. Harris, Proc. IEEE 66(1), 1978, table 1 (values from memory)', () => {
  const size = 2048;
  const spectrum = spectrumOf(size);
  const sine = (bin: number): number[] => {
    spectrum.take(
      Float32Array.from({ length: size }, (_, i) => Math.cos((2 * Math.PI * bin * i) / size)),
      0,
    );
    return Array.from(spectrum.magnitudes, (m) => 20 * Math.log10(m / (size / 4) + 1e-12));
  };
  // Scallop loss of 1.42 dB halfway between two bins, to both alike.
  const between = sine(300.5);
  for (const bin of [300, 301]) expect(between[bin]).toBeCloseTo(-1.42, 2);
  // Neighbours of a bin 6.02 dB down, and no side lobe over -32 dB: seen halfway between bins, past the main lobe.
  const on = sine(300);
  for (const bin of [299, 301]) expect(on[bin]).toBeCloseTo(-6.02, 2);
  const beside = between.filter((_, bin) => Math.abs(bin - 300.5) > 2);
  expect(Math.max(...beside) - Math.max(...on)).toBeLessThan(-31);
  expect(Math.max(...beside) - Math.max(...on)).toBeGreaterThan(-33);
  // Equivalent noise bandwidth of 1.50 bins: white noise of power 1 has 3/8 of the samples' number in every bin.
  let sum = 0;
  const rounds = 40;
  for (let round = 0; round < rounds; round++) {
    spectrum.take(
      Float32Array.from({ length: size }, () => Math.sqrt(12) * (random() - 0.5)),
      0,
    );
    sum += spectrum.powers.subarray(1).reduce((a, b) => a + b, 0) / (size / 2 - 1);
  }
  expect(sum / rounds / (size / 4)).toBeCloseTo(1.5, 1);
});
