import { describe, expect, it } from 'vitest';
import { hash, signed } from '../../base/hash.ts';
import { add, analyseSound, noise } from '../../testkit/signals.ts';
import { exampleFrom, findLike, LIKE_ENOUGH } from './likeness.ts';

/** Two struck sounds that last as long and differ in their partials. */
const ping = (t: number): number =>
  (Math.sin(2 * Math.PI * 1900 * t) + 0.6 * Math.sin(2 * Math.PI * 3350 * t)) * Math.exp(-t * 25);
const pong = (t: number): number =>
  (Math.sin(2 * Math.PI * 700 * t) + 0.6 * Math.sin(2 * Math.PI * 5200 * t)) * Math.exp(-t * 25);

describe('more like this', () => {
  const pings = [1, 2.4, 3.05, 4.7, 6.2];
  const gains = [0.3, 0.12, 0.5, 0.2, 0.08];
  const samples = noise(8, 0.002);
  pings.forEach((t, i) => add(samples, t, 0.3, (s) => gains[i]! * ping(s)));
  for (const t of [1.7, 3.6, 5.5]) add(samples, t, 0.3, (s) => 0.3 * pong(s));
  // Other things at the same time: a hum, and noise bursts.
  for (let i = 0; i < samples.length; i++) samples[i]! += 0.1 * Math.sin((2 * Math.PI * 110 * i) / 48000);
  for (const t of [2.41, 5, 6.9]) add(samples, t, 0.1, (s, i) => 0.1 * signed(hash(9, i)) * Math.exp(-s * 50));
  const sound = analyseSound(samples);
  const example = exampleFrom(sound, 0.98, 1.2);

  it('finds every place at any gain and under other sounds, and nothing else', () => {
    const found = findLike(sound, example, LIKE_ENOUGH);
    expect(found.map((f) => pings.findIndex((t) => Math.abs(t - f.t) < 0.02))).toEqual([0, 1, 2, 3, 4]);
    expect(found[0]!.likeness).toBeGreaterThan(0.98);
    expect(found[2]!.gain - found[0]!.gain).toBeCloseTo(20 * Math.log10(0.5 / 0.3), -0.3);
  });

  it('finds fewer with more likeness asked, and takes an example of any length it allows', () => {
    expect(findLike(sound, example, 0.99).length).toBeLessThan(5);
    expect(() => exampleFrom(sound, 1, 1.02)).toThrow(/lasts/);
    expect(() => exampleFrom(sound, 1, 4)).toThrow(/lasts/);
    expect(() => exampleFrom(sound, 7.9, 9.5)).toThrow(/outside/);
    // Nothing stands out of steady noise.
    expect(findLike(sound, exampleFrom(analyseSound(noise(2, 0.1)), 1, 1.2), 0.5)).toEqual([]);
  });
});
