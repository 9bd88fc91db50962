import type { Generator } from '../document/types.ts';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { newGenerator, GENERATOR_KINDS, summed, valueAt, type Moment } from './generators.ts';

const moment = (age: number, change: Partial<Moment> = {}): Moment => ({
  age,
  first: 0,
  fps: 30,
  seed: 77,
  run: { index: 0, count: 1, length: 0 },
  plain: 0,
  ...change,
});
const over = (by: Generator, frames: number, base = 0, change: Partial<Moment> = {}): number[] =>
  Array.from({ length: frames }, (_, i) => valueAt({ base, by }, moment(i, change)));
const flips = (values: readonly number[]): number => values.slice(1).filter((v, i) => v !== values[i]).length;

describe('generators', () => {
  it('give the same for the same seed and frame, whichever frame is asked first, and other values for another seed', () => {
    for (const kind of GENERATOR_KINDS) {
      const by = newGenerator(kind, 10, 0);
      fc.assert(
        fc.property(fc.array(fc.integer({ min: 0, max: 90 }), { minLength: 2, maxLength: 8 }), (frames) => {
          const once = frames.map((f) => valueAt({ base: 1, by }, moment(f)));
          expect(
            [...frames]
              .reverse()
              .map((f) => valueAt({ base: 1, by }, moment(f)))
              .reverse(),
          ).toEqual(once);
        }),
        { numRuns: 20 },
      );
      if (kind === 'noise' || kind === 'hold' || kind === 'spread')
        expect(over(by, 9)).not.toEqual(over(by, 9, 0, { seed: 78 }));
    }
  });

  it('cost the same hours later, at any rate and length', () => {
    const hours = 4 * 3600 * 60;
    const noisy = { base: 3, by: newGenerator('noise', 2, 0) };
    const at = (age: number): number => summed(noisy, moment(age, { fps: 60 }));
    // The first sum over hours is made once; those after it take what is kept.
    const last = at(hours);
    for (let i = 1; i <= 100; i++) at(hours - i);
    const extreme: Generator = { kind: 'pulses', amount: 1, rate: 1e9, length: 1e6, spread: 1 };
    for (let i = 0; i < 1000; i++) valueAt({ base: 0, by: extreme }, moment(hours + i));
    let sum = 0;
    for (let i = 0; i < 700; i++) sum += valueAt(noisy, moment(i, { fps: 60 }));
    expect(at(700)).toBeCloseTo(sum, 6);
    expect(at(hours)).toBe(last);
  });

  it('stay within their amount and are finite for any settings', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...GENERATOR_KINDS),
        fc.double({ min: 0, max: 100, noNaN: true }),
        fc.integer({ min: 0, max: 500 }),
        fc.nat(),
        (kind, amount, age, seed) => {
          const value = valueAt({ base: 0, by: newGenerator(kind, amount, 0) }, moment(age, { seed }));
          expect(Math.abs(value)).toBeLessThanOrEqual(amount + 1e-9);
        },
      ),
    );
  });

  it('noise is smooth at its rate: no frame of 120 a second jumps', () => {
    const values = over({ kind: 'noise', amount: 1, rate: 2, rough: 0 }, 240, 0, { fps: 120 });
    expect(Math.max(...values.slice(1).map((v, i) => Math.abs(v - values[i]!)))).toBeLessThan(0.13);
    expect(Math.max(...values) - Math.min(...values)).toBeGreaterThan(0.5);
  });

  it('a sine swings at its rate and begins at its phase', () => {
    expect(
      over({ kind: 'sine', amount: 2, rate: 7.5, phase: 0.25 }, 5).map((v) => Math.round(v * 1e9) / 1e9 + 0),
    ).toEqual([2, 0, -2, 0, 2]);
  });

  it('a shaped rate is summed into phase, so that nothing jumps where it changes', () => {
    const rate = [
      { at: 0, value: 1, ease: 'linear' as const },
      { at: 30, value: 10, ease: 'linear' as const },
    ];
    const values = Array.from({ length: 300 }, (_, i) =>
      valueAt({ base: 0, by: { kind: 'sine', amount: 1, rate, phase: 0 } }, moment(i / 10)),
    );
    // The fastest a sine of 10 Hz moves in a tenth of a frame at 30 frames a second.
    expect(Math.max(...values.slice(1).map((v, i) => Math.abs(v - values[i]!)))).toBeLessThan(
      (2 * Math.PI * 10) / 300 + 0.01,
    );
    // 5.5 swings a second on average over one second.
    expect(summed(rate, moment(30)) / 30).toBeCloseTo(5.5, 6);
  });

  it('a cadence gives its values in turn, "plain" as the identity, again and again or once', () => {
    const by = { kind: 'cadence' as const, values: [5, null, -5], every: 2, once: false };
    expect(over(by, 8, 1, { plain: 9 })).toEqual([5, 5, 9, 9, -5, -5, 5, 5]);
    expect(over({ ...by, once: true, every: 1 }, 5, 1, { plain: 9 })).toEqual([5, 9, -5, 1, 1]);
    // A negative first frame begins the list, too.
    expect(valueAt({ base: 1, by }, moment(-3, { first: -3 }))).toBe(5);
  });

  it('hold draws a new value every n frames', () => {
    const values = over({ kind: 'hold', amount: 1, every: 3 }, 30);
    for (let i = 0; i < 30; i += 3) expect(new Set(values.slice(i, i + 3)).size).toBe(1);
    expect(new Set(values).size).toBe(10);
  });

  it('pulses come at their mean rate and last their length', () => {
    const values = over({ kind: 'pulses', amount: 1, rate: 3, length: 2, spread: 0 }, 3000);
    const on = values.filter((v) => v !== 0).length / 3000;
    // Three a second of two frames each at 30 a second cover a fifth.
    expect(on).toBeGreaterThan(0.15);
    expect(on).toBeLessThan(0.25);
    expect(new Set(values)).toEqual(new Set([0, 1, -1]));
  });

  it('a gate opens as often as its chance says, its period and its on-time apart', () => {
    const gate = (chance: Generator extends never ? never : number) =>
      over({ kind: 'gate', amount: 1, period: 5, open: 2, chance }, 5000);
    expect(gate(0).some(Boolean)).toBe(false);
    expect(gate(100).slice(0, 10)).toEqual([1, 1, 0, 0, 0, 1, 1, 0, 0, 0]);
    expect(gate(50).filter(Boolean).length / 2000).toBeCloseTo(0.5, 1);
  });

  it('a chance that is shaped makes a flicker of growing irregularity', () => {
    const chance = [
      { at: 0, value: 0, ease: 'linear' as const },
      { at: 600, value: 100, ease: 'linear' as const },
    ];
    const values = over({ kind: 'gate', amount: 1, period: 1, open: 1, chance }, 600);
    expect(values.slice(0, 200).filter(Boolean).length).toBeLessThan(values.slice(400).filter(Boolean).length / 2);
  });

  it('share decisions where they share a clock', () => {
    const by = { kind: 'hold' as const, amount: 1, every: 1, clock: 'tide' };
    expect(over(by, 20, 0, { seed: 1 })).toEqual(over(by, 20, 0, { seed: 2 }));
    expect(over({ ...by, clock: 'other' }, 20)).not.toEqual(over(by, 20));
    const gate = { kind: 'gate' as const, amount: 1, period: 1, open: 1, chance: 40, clock: 'tide' };
    expect(flips(over(gate, 50, 0, { seed: 1 }).map((v, i) => v - over(gate, 50, 5, { seed: 9 })[i]! + 5))).toBe(0);
  });

  it('a run takes one value a hit: listed, or divided evenly, held or glided', () => {
    const at = (index: number, age = 0, change: Partial<Extract<Generator, { kind: 'run' }>> = {}): number =>
      valueAt(
        { base: 0, by: { kind: 'run', values: [], from: 10, to: 40, glide: null, ...change } },
        moment(age, { run: { index, count: 4, length: 20 }, plain: 1 }),
      );
    expect([0, 1, 2, 3].map((i) => at(i))).toEqual([10, 20, 30, 40]);
    expect(at(1, 19)).toBe(20);
    expect(at(1, 10, { glide: 'linear' })).toBe(25);
    expect(at(3, 10, { glide: 'linear' })).toBe(40);
    expect([0, 1, 2, 3].map((i) => at(i, 0, { values: [5, null, 7] }))).toEqual([5, 1, 7, 7]);
  });
});
