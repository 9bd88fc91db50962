import { expect, it } from 'vitest';
import { hash, signed } from '../random/hash.ts';
import { add, analyseSound, hat, kick, noise, RATE } from '../testkit/signals.ts';
import { unlikeness } from './recurring.ts';

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
  const near = (times: readonly number[]) => (attack: number): boolean => times.some((t) => Math.abs(sound.attacks[attack]! - t) < 0.02);
  const apart = unlikeness(sound, near([...played, ...fired]));
  const attacks = [...apart.keys()];
  expect(Math.min(...attacks.filter(near(fired)).map((attack) => apart[attack]!))).toBeGreaterThan(CLEARLY_OTHER);
  expect(new Set(attacks.filter((attack) => near(played)(attack) && apart[attack]! < SAME).map((attack) => Math.round(sound.attacks[attack]! * 4))).size).toBeGreaterThanOrEqual(8);
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
  const at = (time: number) => (attack: number): boolean => Math.abs(sound.attacks[attack]! - time) < 0.02;
  const apart = (time: number): number => Math.min(...unlikeness(sound, at(time)));
  expect(apart(3.375)).toBeLessThan(SAME);
  expect(apart(11.375)).toBeLessThan(SAME);
  expect(apart(6.61)).toBeGreaterThan(CLEARLY_OTHER);
});

it('finds nothing where there is no beat', () => {
  const samples = noise(4, 0.001);
  for (const t of [0.7, 1.9, 2.6]) add(samples, t, 0.25, crash);
  expect(Math.min(...unlikeness(analyseSound(samples, 4096, RATE), () => true))).toBe(Infinity);
});
