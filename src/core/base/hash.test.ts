import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { hash, pcg, unit, valueNoise } from './hash.ts';

describe('integer hash', () => {
  it('equals the published PCG hash computed in exact integers (Jarzynski and Olano, JCGT 9(3) 2020, listing of pcg)', () => {
    const exact = (v: bigint): bigint => {
      const m = (1n << 32n) - 1n;
      const state = (v * 747796405n + 2891336453n) & m;
      const word = (((state >> ((state >> 28n) + 4n)) ^ state) * 277803737n) & m;
      return (word >> 22n) ^ word;
    };
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 0xffffffff }), (v) => {
        expect(BigInt(pcg(v))).toBe(exact(BigInt(v)));
      }),
    );
  });

  it('spreads evenly: sixteen bins of 16,000 values pass a chi-square test', () => {
    const bins = new Array<number>(16).fill(0);
    for (let i = 0; i < 16000; i++) bins[Math.floor(unit(hash(7, i)) * 16)]!++;
    const chi = bins.reduce((sum, n) => sum + (n - 1000) ** 2 / 1000, 0);
    // 99.9th percentile of chi-square with 15 degrees of freedom (handbook table): 37.7
    expect(chi).toBeLessThan(37.7);
  });

  it('gives smooth noise within its range', () => {
    fc.assert(
      fc.property(fc.double({ min: -1000, max: 1000, noNaN: true }), fc.nat(), (at, seed) => {
        expect(Math.abs(valueNoise(at, seed))).toBeLessThanOrEqual(1);
        expect(Math.abs(valueNoise(at + 1e-4, seed) - valueNoise(at, seed))).toBeLessThan(1e-3);
      }),
    );
  });
});
