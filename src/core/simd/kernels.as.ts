// AssemblyScript, compiled by scripts/generate.mjs. Plain loops over memory that the caller lays out; addresses in bytes.
// Four lanes of single floats; sums are taken in one order, so that the same numbers give the same answer everywhere.

/**
 * A 3x3 convolution whose negative results become 0. Planes lie channel by channel within a pixel:
 * the input as [rows + 2][columns + 2][inputs] with a border of zeros, the weights as [9][inputs][outputs],
 * the output as [rows][columns][outputs] within `border` pixels to each side. `outputs` in eights.
 */
export function convolve(
  input: usize, rows: i32, columns: i32, inputs: i32, weights: usize, bias: usize,
  output: usize, outputs: i32, down: i32, across: i32, border: i32,
): void {
  const high = (rows + down - 1) / down;
  const broad = (columns + across - 1) / across;
  const pixel = inputs << 2;
  const line = (columns + 2) * pixel;
  const answer = outputs << 2;
  const written = (broad + 2 * border) * answer;
  for (let o = 0; o < outputs; o += 8) {
    const first = v128.load(bias + (o << 2));
    const second = v128.load(bias + (o << 2), 16);
    for (let y = 0; y < high; y++) {
      for (let x = 0; x < broad; x++) {
        let a = first;
        let b = second;
        let w = weights + (o << 2);
        for (let r = 0; r < 3; r++) {
          // Three neighbouring pixels lie one after another.
          let at = input + (y * down + r) * line + x * across * pixel;
          for (const end = at + 3 * pixel; at < end; at += 4) {
            const value = v128.load32_splat(at);
            a = f32x4.add(a, f32x4.mul(value, v128.load(w)));
            b = f32x4.add(b, f32x4.mul(value, v128.load(w, 16)));
            w += answer;
          }
        }
        const to = output + (y + border) * written + (x + border) * answer + (o << 2);
        v128.store(to, f32x4.max(a, f32x4.splat(0)));
        v128.store(to, f32x4.max(b, f32x4.splat(0)), 16);
      }
    }
  }
}

/** A dense layer: weights as [inputs][outputs], `outputs` in eights; `least` is 0 where negative results become 0. */
export function connect(input: usize, inputs: i32, weights: usize, bias: usize, output: usize, outputs: i32, least: f32): void {
  const row = outputs << 2;
  const floor = f32x4.splat(least);
  for (let o = 0; o < outputs; o += 8) {
    let a = v128.load(bias + (o << 2));
    let b = v128.load(bias + (o << 2), 16);
    let w = weights + (o << 2);
    for (let i = 0; i < inputs; i++, w += row) {
      const value = v128.load32_splat(input + (i << 2));
      a = f32x4.add(a, f32x4.mul(value, v128.load(w)));
      b = f32x4.add(b, f32x4.mul(value, v128.load(w, 16)));
    }
    v128.store(output + (o << 2), f32x4.max(a, floor));
    v128.store(output + (o << 2), f32x4.max(b, floor), 16);
  }
}
