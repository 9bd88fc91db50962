/** The mix as it is exported: sounds of accents on their hits, music lowered, peaks limited; and how fast it is made. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { fixture, startParts } from './harness.ts';

describe('in an export', () => {
  let parts: Awaited<ReturnType<typeof startParts>>;
  beforeAll(async () => {
    parts = await startParts();
  });
  afterAll(() => parts.close());
  const heard = (hits: number[], at: number[], mix = {}) =>
    parts.page.evaluate(([url, ...rest]) => window.parts.accentsHeard(url, ...rest), [
      parts.file(fixture('numbered.mp4')),
      hits,
      at,
      mix,
    ] as const);

  it('a sound is loudest where its hit is shown, within a millisecond, and music is as far down as it should be', async () => {
    const { loudest, down } = await heard([45, 105], [1.25, 1.4, 1.45, 1.9, 2.6]);
    [1.5, 3.5].forEach((t, i) => expect(Math.abs(loudest[i]! - t)).toBeLessThan(0.001));
    // Down by 12 dB from 1.4 to 1.8 s, back at 2 s.
    expect(Math.abs(down[0]!)).toBeLessThan(0.2);
    expect(Math.abs(down[2]! + 12)).toBeLessThan(0.6);
    expect(Math.abs(down[3]! + 6)).toBeLessThan(0.6);
    expect(Math.abs(down[4]!)).toBeLessThan(0.2);
  });

  it('both go along with a hit that is moved by five frames', async () => {
    const { loudest, down } = await heard([50, 105], [1.4, 1.62]);
    expect(Math.abs(loudest[0]! - 50 / 30)).toBeLessThan(0.001);
    expect(Math.abs(down[0]!)).toBeLessThan(0.2);
    expect(Math.abs(down[1]! + 12)).toBeLessThan(0.6);
  });

  it('a mix that is turned up stays under its ceiling, and the report says what was taken off', async () => {
    const { loudness } = await heard([45, 105], [1], { master: { gain: 24, ceiling: -2, target: null } });
    expect(loudness!.truePeak).toBeLessThan(-1.9);
    expect(loudness!.limited).toBeGreaterThan(5);
    const plain = await heard([45], [1]);
    expect(plain.loudness!.limited).toBe(0);
    expect(plain.loudness!.integrated).toBeLessThan(-15);
  });

  it('a minute with two hundred sounds, lowered and limited, is mixed many times as fast as it lasts', async () => {
    const { times, limited } = await parts.page.evaluate(() => window.parts.mixingSpeed());
    expect(limited).toBeGreaterThan(0);
    // 17 to 24 times by itself; machines that do something else meanwhile are slower.
    expect(times).toBeGreaterThan(5);
  });
});
