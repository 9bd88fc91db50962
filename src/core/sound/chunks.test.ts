import { describe, expect, it } from 'vitest';
import { chunkAfter, placeAfter, type Played } from './chunks.ts';

/** Chunks of what is played until `until` samples are. */
function* chunks(playing: Played, until: number, most = 24000) {
  for (let played = 0; played < until;) {
    const chunk = chunkAfter(playing, played, most);
    if (!chunk) return;
    yield chunk;
    played += chunk.count;
  }
}

describe('chunks of what is played', () => {
  it('of a loop of any length go on for ten thousand rounds, each whole and without a gap', () => {
    for (const seconds of [12 / 30, 36 * (1001 / 30000), 36 / 23.976, 0.1]) {
      const [from, to] = [Math.round(1.2345 * 48000), Math.round((1.2345 + seconds) * 48000)];
      const length = to - from;
      let [sum, next] = [0, from];
      for (const chunk of chunks({ stretches: [{ from, to }], start: 0, loop: true }, 10_000 * length)) {
        expect(chunk.count).toBeGreaterThan(0);
        expect(chunk.from).toBe(next);
        sum += chunk.count;
        next = chunk.from + chunk.count === to ? from : chunk.from + chunk.count;
      }
      expect(sum).toBe(10_000 * length);
    }
  });

  it('end where the range ends, and begin where they are told to', () => {
    const list = [...chunks({ stretches: [{ from: 0, to: 50_000 }], start: 10_000, loop: false }, Infinity)];
    expect(list).toEqual([
      { from: 10_000, count: 24_000 },
      { from: 34_000, count: 16_000 },
    ]);
    expect([...chunks({ stretches: [{ from: 5, to: 5 }], start: 0, loop: true }, 10)]).toEqual([]);
  });

  it('of several stretches follow one another', () => {
    const playing = {
      stretches: [
        { from: 100, to: 110 },
        { from: 50, to: 55 },
      ],
      start: 0,
      loop: false,
    };
    expect([...chunks(playing, Infinity, 8)]).toEqual([
      { from: 100, count: 8 },
      { from: 108, count: 2 },
      { from: 50, count: 5 },
    ]);
    expect(placeAfter(playing, 12)).toEqual({ at: 52, left: 3 });
    expect(placeAfter(playing, 15)).toBeNull();
  });
});
