import { expect, it } from 'vitest';
import { hash, signed } from '../../base/hash.ts';
import { add, analyseSound, hat, kick, noise, ANALYSIS_RATE } from '../../testkit/signals.ts';
import { strokesAt, unlikeness } from './recurring.ts';

/** Decibels under which two are the same stroke played again. */
const SAME = 2.5;
const CLEARLY_OTHER = 6;
const crash = (t: number, i: number): number => 0.5 * signed(hash(4, i)) * Math.exp(-t * 20);

it('finds what is played with the beat, and not the same sound at other times', () => {
  const samples = noise(20, 0.001);
  for (let t = 0.5; t < 19.5; t += 0.5) {
    add(samples, t, 0.3, kick);
    add(samples, t + 0.25, 0.1, hat);
  }
  const played = [1.25, 3.25, 5.25, 7.25, 9.25, 11.25, 13.25, 15.25, 17.25];
  const fired = [2.37, 4.61, 6.13, 10.88, 12.4, 16.14, 18.63];
  for (const t of [...played, ...fired]) add(samples, t, 0.25, crash);
  const sound = analyseSound(samples);
  const near =
    (times: readonly number[]) =>
    (attack: number): boolean =>
      times.some((t) => Math.abs(sound.attacks[attack]! - t) < 0.02);
  const apart = unlikeness(sound, near([...played, ...fired]));
  const attacks = [...apart.keys()];
  expect(Math.min(...attacks.filter(near(fired)).map((attack) => apart[attack]!))).toBeGreaterThan(CLEARLY_OTHER);
  expect(
    new Set(
      attacks
        .filter((attack) => near(played)(attack) && apart[attack]! < SAME)
        .map((attack) => Math.round(sound.attacks[attack]! * 4)),
    ).size,
  ).toBeGreaterThanOrEqual(8);
  expect(Math.min(...unlikeness(sound, () => false))).toBe(Infinity);
});

it('finds what is played once more much later, whatever it is called there, and not what sounds like it off the beat', () => {
  const samples = noise(20, 0.001);
  for (let t = 0.5; t < 19.5; t += 0.5) {
    add(samples, t, 0.3, kick);
    add(samples, t + 0.25, 0.1, hat);
  }
  // Sixteen beats apart.
  for (const t of [3.375, 11.375, 6.61]) add(samples, t, 0.25, crash);
  const sound = analyseSound(samples);
  const at =
    (time: number) =>
    (attack: number): boolean =>
      Math.abs(sound.attacks[attack]! - time) < 0.02;
  const apart = (time: number): number => Math.min(...unlikeness(sound, at(time)));
  expect(apart(3.375)).toBeLessThan(SAME);
  expect(apart(11.375)).toBeLessThan(SAME);
  expect(apart(6.61)).toBeGreaterThan(CLEARLY_OTHER);
});

it('finds nothing where there is no beat', () => {
  const samples = noise(4, 0.001);
  for (const t of [0.7, 1.9, 2.6]) add(samples, t, 0.25, crash);
  expect(Math.min(...unlikeness(analyseSound(samples, 4096, ANALYSIS_RATE), () => true))).toBe(Infinity);
});

it('says how often strokes fall on a place in the beat, as a normal density around each does', () => {
  const samples = noise(20, 0.001);
  for (let t = 0.5; t < 19.5; t += 0.5) add(samples, t, 0.3, kick);
  for (const t of [4.63, 9.13, 12.62]) add(samples, t, 0.25, crash);
  const sound = analyseSound(samples);
  const strokes = [...sound.attacks].map((t) => Number(Math.abs(t * 2 - Math.round(t * 2)) < 0.06));
  const count = strokes.reduce((a, b) => a + b);
  expect(count).toBeGreaterThanOrEqual(37);
  const often = strokesAt(sound, strokes);
  // A normal curve's height is 1 / (deviation x root of 2 pi) (E. Parzen, Ann. Math. Stat. 33(3), 1962); 30 ms are 0.06 of a beat, and five are believed in everywhere.
  const height = 1 / (0.06 * Math.sqrt(2 * Math.PI));
  const at = (5 + (count - 1) * height) / (5 + count - 1);
  strokes.forEach((stroke, i) => {
    const expected = stroke ? at : 5 / (5 + count);
    expect(often[i]! / expected).toBeGreaterThan(0.85);
    expect(often[i]! / expected).toBeLessThan(1.3);
  });
  const silent = analyseSound(noise(4, 0.001), 4096, ANALYSIS_RATE);
  expect(
    strokesAt(
      silent,
      [...silent.attacks].map(() => 1),
    ).every((value) => value === 1),
  ).toBe(true);
});
