import { describe, expect, it } from 'vitest';
import { fromLinear, toLinear } from '../../core/base/colour.ts';
import { blended, BLENDS } from './overlay.ts';

const mode = (name: (typeof BLENDS)[number]): number => BLENDS.indexOf(name);

describe('blends', () => {
  // W3C, Compositing and Blending Level 1, 10.1: B(backdrop, source) worked by hand; here in linear light.
  it.each([
    ['mix', 0.3, 0.6, 0.6],
    ['screen', 0.3, 0.6, 0.72],
    ['lighten', 0.3, 0.6, 0.6],
    ['darken', 0.3, 0.6, 0.3],
    ['multiply', 0.3, 0.6, 0.18],
    ['difference', 0.3, 0.6, 0.3],
    ['add', 0.3, 0.6, 0.9],
  ] as const)('%s %d and %d to %d', (name, a, b, wanted) => expect(blended(mode(name), a, b)).toBeCloseTo(wanted, 12));

  // The same standard, of displayed values: overlay is hard-light with both swapped; D(0.25) is 0.5.
  it.each([
    ['overlay', 0.25, 0.5, 0.25],
    ['overlay', 0.75, 0.5, 0.75],
    ['overlay', 0.25, 0.8, 0.4],
    ['overlay', 0.75, 0.2, 0.6],
    ['soft light', 0.25, 0.75, 0.375],
    ['soft light', 0.25, 0.5, 0.25],
    ['soft light', 0.64, 1, 0.8],
    ['soft light', 0.5, 0, 0.25],
  ] as const)('%s %d with %d to %d, as displayed', (name, below, over, wanted) =>
    expect(fromLinear(blended(mode(name), toLinear(below), toLinear(over)))).toBeCloseTo(wanted, 6),
  );
});
