import { expect, it } from 'vitest';
import { hash, signed } from '../random/hash.ts';
import { add, analyseSound, hat, kick, noise, RATE } from '../testkit/signals.ts';
import { recurring } from './recurring.ts';

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
  const found = [...recurring(sound, near([...played, ...fired]))];
  expect(found.filter(near(fired))).toEqual([]);
  expect(new Set(found.filter(near(played)).map((attack) => Math.round(sound.attacks[attack]! * 4))).size).toBeGreaterThanOrEqual(8);
  expect(recurring(sound, () => false).size).toBe(0);
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
  const found = (time: number): number => recurring(sound, at(time)).size;
  expect(found(3.375)).toBeGreaterThan(0);
  expect(found(11.375)).toBeGreaterThan(0);
  expect(found(6.61)).toBe(0);
});

it('finds nothing where there is no beat', () => {
  const samples = noise(4, 0.001);
  for (const t of [0.7, 1.9, 2.6]) add(samples, t, 0.25, crash);
  expect(recurring(analyseSound(samples, 4096, RATE), () => true).size).toBe(0);
});
