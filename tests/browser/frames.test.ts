import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { fixture, startParts } from './harness.ts';

let bench: Awaited<ReturnType<typeof startParts>>;
beforeAll(async () => {
  bench = await startParts();
});
afterAll(() => bench.close());

const frames = (name: string, wanted: number[], budget?: number) =>
  bench.page.evaluate(([url, list, bytes]) => window.parts.frames(url, list, bytes), [
    bench.file(fixture(name)),
    wanted,
    budget,
  ] as const);

describe('frame access', () => {
  it('gives exact frames by number in any order, across groups and to the last one', async () => {
    const wanted = [0, 239, 61, 60, 59, 120, 1, 180, 179, 100, 101, 102, 5, 200];
    const { got, open, taken } = await frames('numbered.mp4', wanted);
    expect(got.map((g) => g.number)).toEqual(wanted);
    expect(open).toBe(0);
    expect(taken).toBeGreaterThanOrEqual(wanted.length);
  });

  it('answers within 100 ms inside the cached window and within 500 ms stepping back a group (1280x720, a key frame every 2 s)', async () => {
    const { got } = await frames('numbered.mp4', [150, 149, 148, 140, 130, 121, 119, 118, 70]);
    const ms = got.map((g) => g.ms);
    for (const i of [1, 2, 3, 4, 5, 7, 8]) expect(ms[i]).toBeLessThan(100);
    expect(ms[6]).toBeLessThan(500);
  });

  it('stays exact with a cache of three frames', async () => {
    const wanted = [10, 9, 8, 7, 12, 3];
    expect((await frames('numbered.mp4', wanted, 3 * 1280 * 720 * 1.5)).got.map((g) => g.number)).toEqual(wanted);
  });

  it('maps a variable-rate source by its real timestamps', async () => {
    const about = await bench.page.evaluate((url) => window.parts.describe(url), bench.file(fixture('variable.mp4')));
    expect(about.ok && about.about.video!.variable).toBe(true);
    const { got } = await frames('variable.mp4', [0, 5, 9, 30]);
    // Every frame tells the number it had at 60 a second, which is its time.
    const starts = about.ok ? about.about.starts! : [];
    expect(got.map((g) => g.number)).toEqual([0, 5, 9, 30].map((i) => Math.round((starts[i]! - starts[0]!) * 60)));
  });

  it('go on being read while the montage is edited: only a source that goes is closed', async () => {
    expect(
      await bench.page.evaluate((url) => window.parts.editedWhileRead(url), bench.file(fixture('hits.mp4'))),
    ).toEqual([]);
  });
});
