import { describe, expect, it } from 'vitest';
import { compileShader, PICTURES } from './compile.ts';
import { parseGlsl } from './glsl.ts';

const OUT = PICTURES;

/** What `shade` gives for the first four pixels of the first row, as floats. */
function shaded(body: string, uniforms: Record<string, number[]> = {}, width = 4): number[][] {
  const compiled = compileShader(body, false);
  const memory = new WebAssembly.Memory({ initial: 4 });
  const words = new DataView(memory.buffer);
  [OUT, width, 1, width].forEach((word, i) => words.setInt32(compiled.places.get('target')!.at + 4 * i, word, true));
  for (const [name, values] of Object.entries(uniforms))
    values.forEach((value, i) => words.setFloat32(compiled.places.get(name)!.at + 4 * i, value, true));
  const module = new WebAssembly.Module(compiled.bytes);
  const { run } = new WebAssembly.Instance(module, { env: { memory } }).exports as {
    run(from: number, to: number): void;
  };
  run(0, 1);
  return Array.from({ length: width }, (_, x) => [0, 1, 2, 3].map((c) => words.getFloat32(OUT + 16 * x + 4 * c, true)));
}
const first = (expression: string, uniforms?: Record<string, number[]>): number =>
  shaded(
    `${Object.keys(uniforms ?? {})
      .map((name) => `uniform float ${name};`)
      .join('')} vec4 shade(vec2 at) { return vec4(${expression}); }`,
    uniforms,
  )[0]![0]!;

describe('a shader on lanes', () => {
  it.each<[string, number]>([
    ['at.x + at.y', 1],
    ['1.0 + 2.0 * 3.0 - 4.0 / 8.0', 6.5],
    ['mix(2.0, 4.0, 0.25)', 2.5],
    ['clamp(9.0, 0.0, 1.5)', 1.5],
    ['mod(-1.0, 4.0)', 3],
    ['fract(2.75)', 0.75],
    ['length(vec2(3.0, 4.0))', 5],
    ['dot(vec3(1.0, 2.0, 3.0), vec3(4.0, 5.0, 6.0))', 32],
    ['vec4(1.0, 2.0, 3.0, 4.0).wzyx.y', 3],
    ['float(int(2.9)) + float(uint(3))', 5],
    ['float((7u >> 1u) ^ (1u << 3u) | 16u)', 27],
    ['float(min(3, 5)) + float(max(-2, -7))', 1],
    ['(1.0 < 2.0 && !(3.0 <= 2.0)) ? 7.0 : 9.0', 7],
    ['float(5u == 5u)', 1],
  ])('works out %s', (expression, wanted) => expect(first(expression)).toBe(wanted));

  it.each<[string, (x: number) => number]>([
    ['exp2', (x) => 2 ** x],
    ['exp', Math.exp],
    ['log2', Math.log2],
    ['log', Math.log],
    ['sin', Math.sin],
    ['cos', Math.cos],
    ['sqrt', Math.sqrt],
    ['abs', Math.abs],
    ['floor', Math.floor],
    ['ceil', Math.ceil],
  ])('knows %s to half a float of eleven bits (reference: ECMAScript Math)', (name, wanted) => {
    for (const x of [0.01, 0.3, 1, 1.7, 2.5, 3.3, 6.1, 9.2]) {
      const found = first(`${name}(x)`, { x: [x] });
      expect(Math.abs(found - wanted(x))).toBeLessThanOrEqual(Math.abs(wanted(x)) / 1500 + 3e-5);
    }
  });

  it('takes and gives display light as IEC 61966-2-1 does, within a twentieth of an eighth bit’s step', () => {
    for (let v = 0; v <= 1; v += 1 / 64) {
      const linear = v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
      expect(Math.abs(first('fromLinear(toLinear(x)) * 1.0', { x: [v] }) - v)).toBeLessThan(0.001);
      // Half floats are coarser than the polynomial near white.
      expect(Math.abs(first('toLinear(x)', { x: [v] }) - linear)).toBeLessThan(0.0006);
    }
  });

  it('does in each lane what its own condition says: branches, loops, early returns, breaks', () => {
    const rows = shaded(`
      float steps(float x) {
        if (x > 3.0) return 100.0;
        float sum = 0.0;
        for (float i = 0.0; i < x; i += 1.0) { if (i > 1.0) break; sum += 10.0; }
        if (x < 1.0) sum = -1.0; else sum += 1.0;
        return sum;
      }
      vec4 shade(vec2 at) { return vec4(steps(at.x), at.x > 2.0 ? 1.0 : 0.0, 0.0, 1.0); }`);
    expect(rows).toEqual([
      [-1, 0, 0, 1],
      [21, 0, 0, 1],
      [21, 1, 0, 1],
      [100, 1, 0, 1],
    ]);
  });

  it('branches once for what all pixels share, and reads structs, arrays and lists of either', () => {
    const body = `
      struct Box { vec2 at; float on; };
      uniform Box boxes[2];
      uniform vec2 points[3];
      int chosen = 0;
      float taken(Box b) { if (b.on < 0.5) return 0.0; return b.at.x + b.at.y; }
      vec4 shade(vec2 at) {
        float sum = 0.0;
        for (int i = 0; i < 2; i++) { chosen = i; sum += taken(boxes[chosen]); }
        float p[3] = float[3](1.0, 2.0, 4.0);
        vec2 last = vec2(0.0);
        for (int i = 0; i < 3; i++) last += points[i];
        return vec4(sum, p[min(2, int(at.x))], last);
      }`;
    const rows = shaded(body, {
      'boxes[0].at': [1, 2],
      'boxes[0].on': [0],
      'boxes[1].at': [3, 4],
      'boxes[1].on': [1],
      'points[0]': [1, 2, 3, 4, 5, 6],
    });
    expect(rows).toEqual([
      [7, 1, 9, 12],
      [7, 2, 9, 12],
      [7, 4, 9, 12],
      [7, 4, 9, 12],
    ]);
  });

  it('never reads beyond an array, whatever lanes that do not count ask for', () => {
    const rows = shaded(`
      float pick(float x) {
        float p[3] = float[3](1.0, 2.0, 4.0);
        if (x < 2.0) return -1.0;
        return p[int((x - 2.0) * 1.0e9)];
      }
      vec4 shade(vec2 at) { return vec4(pick(at.x), pick(-1.0e9), 0.0, 1.0); }`);
    expect(rows.map(([a, b]) => [a, b])).toEqual([
      [-1, -1],
      [-1, -1],
      [4, -1],
      [4, -1],
    ]);
  });

  it('stores light as far as half floats reach, what is no number as nothing', () => {
    expect(shaded('vec4 shade(vec2 at) { return vec4(1.0 / 3.0, -0.25, 1e9, sqrt(-1.0)); }')[0]).toEqual([
      Math.fround(1 / 3),
      -0.25,
      65504,
      0,
    ]);
  });

  it('says what it does not know', () => {
    expect(() => compileShader('vec4 shade(vec2 at) { return unknown(at.x); }', false)).toThrow(/unknown/);
    expect(() => parseGlsl('float x = @;')).toThrow(SyntaxError);
  });
});
