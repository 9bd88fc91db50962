/** Cube LUT Specification 1.0: red runs fastest, DOMAIN_MIN and DOMAIN_MAX, comments, titles. */
import { describe, expect, it } from 'vitest';
import { lookUp, readCube, TableError } from './colour-table.ts';

/** A table of a size that says of each colour what `of` makes of it. */
const cube = (size: number, of: (r: number, g: number, b: number) => number[], head = ''): string => {
  const rows = [];
  for (let b = 0; b < size; b++)
    for (let g = 0; g < size; g++)
      for (let r = 0; r < size; r++) rows.push(of(r / (size - 1), g / (size - 1), b / (size - 1)).join(' '));
  return `# a comment\nTITLE "Test"\nLUT_3D_SIZE ${size}\n${head}\n${rows.join('\n')}\n`;
};
const look = (text: string, ...rgb: [number, number, number]): number[] => {
  const out = Float64Array.from(rgb);
  lookUp(readCube(text, 'test.cube'))(out);
  return [...out].map((v) => Math.round(v * 1000) / 1000);
};

describe('colour tables', () => {
  it('leave colours alone that a table leaves alone, and look up between its points', () => {
    expect(
      look(
        cube(2, (r, g, b) => [r, g, b]),
        0.3,
        0.6,
        0.9,
      ),
    ).toEqual([0.3, 0.6, 0.9]);
    expect(
      look(
        cube(17, (r, g, b) => [r * r, g, 1 - b]),
        0.5,
        0.25,
        0.75,
      ),
    ).toEqual([0.25, 0.25, 0.25]);
  });

  it('have red running fastest', () => {
    expect(
      look(
        cube(3, (r) => [r, 0, 0]),
        1,
        0,
        0,
      ),
    ).toEqual([1, 0, 0]);
    expect(
      look(
        cube(3, (_, g) => [0, g, 0]),
        0,
        1,
        0,
      ),
    ).toEqual([0, 1, 0]);
  });

  it('take their domain into account', () => {
    expect(
      look(
        cube(5, (r, g, b) => [r, g, b], 'DOMAIN_MIN 0 0 0\nDOMAIN_MAX 2 2 2'),
        1,
        0.5,
        0,
      ),
    ).toEqual([0.5, 0.25, 0]);
  });

  it('take an input range of two numbers, as older writers put it', () => {
    expect(
      look(
        cube(5, (r, g, b) => [r, g, b], 'LUT_3D_INPUT_RANGE 0 2'),
        1,
        0.5,
        0,
      ),
    ).toEqual([0.5, 0.25, 0]);
  });

  it('say what is wrong with a file', () => {
    const reason = (text: string): string => {
      try {
        readCube(text, 'bad.cube');
        return '';
      } catch (error) {
        expect(error).toBeInstanceOf(TableError);
        return (error as Error).message;
      }
    };
    expect(reason('hello')).toMatch(/line 1 holds “hello”/);
    expect(reason('LUT_3D_SIZE 2\n0 0')).toMatch(/line 2 has 2 numbers/);
    expect(reason('LUT_3D_SIZE 2\n0 0 0')).toMatch(/holds 1 colours where 8 belong/);
    expect(reason('LUT_3D_SIZE 400')).toMatch(/no LUT_3D_SIZE from 2 to 65/);
    // These made all black before.
    const plain = (head: string): string => cube(2, (r, g, b) => [r, g, b], head);
    expect(reason(plain('DOMAIN_MAX 1'))).toMatch(/has 1 numbers instead of three/);
    expect(reason(plain('DOMAIN_MIN 0 2 0'))).toMatch(/begins at 2 and ends at 1/);
    expect(reason(plain('LUT_3D_INPUT_RANGE 1 0'))).toMatch(/begins at 1 and ends at 0/);
    expect(reason(plain('LUT_3D_INPUT_RANGE 1'))).toMatch(/no two numbers/);
    expect(reason('LUT_1D_SIZE 4\n0 0 0')).toMatch(/curves/);
    expect(reason(cube(2, (r, g, b) => [r, g, b]).replace('1 1 1', '1 nan 1'))).toMatch(/“nan”/);
  });
});
