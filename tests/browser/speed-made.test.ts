/** Clips slower, faster and backwards as they are exported and heard. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { fixture, startParts } from './harness.ts';

describe('exported frames', () => {
  let parts: Awaited<ReturnType<typeof startParts>>;
  beforeAll(async () => {
    parts = await startParts();
  });
  afterAll(() => parts.close());
  const exported = (...args: Parameters<typeof window.parts.exportedSpeed> extends [string, ...infer R] ? R : never) =>
    parts.page.evaluate(([url, rest]) => window.parts.exportedSpeed(url, ...rest), [
      parts.file(fixture('numbered.mp4')),
      args,
    ] as const);

  it.each([
    [0.5, 60],
    [2, 15],
    [-1, 30],
    [-0.25, 120],
  ])('of a clip at a speed of %d are the planned ones', async (speed, count) => {
    const { planned, shown, result } = await exported({ in: 1, out: 2, speed }, null);
    expect(result.frames).toBe(count);
    expect(shown).toEqual(planned.map(({ frame }) => frame));
    expect(shown[0]).toBe(speed > 0 ? 30 : 59);
  });

  it('step through the speeds of a ramp that a rule laid on two hits', async () => {
    const { planned, shown } = await exported(
      { in: 1, out: 5 },
      {
        before: 0,
        steps: [0.75, 0.5, 0.25, 0.1].map((speed) => ({ speed, frames: 10 })),
        smooth: false,
        gained: 'kept',
        most: 2,
        between: 'nearest',
        sound: 'silent',
      },
      [2, 3.3333334],
    );
    // Twice 40 frames in which 16 of the source are shown.
    expect(planned).toHaveLength(120 + 48);
    expect(shown).toEqual(planned.map(({ frame }) => frame));
    expect(shown.slice(30, 71)).toEqual([
      ...[60, 60, 61, 62, 63, 63, 64, 65, 66, 66],
      ...[67, 68, 68, 69, 69, 70, 70, 71, 71, 72],
      ...[72, 72, 73, 73, 73, 73, 74, 74, 74, 74],
      ...[75, 75, 75, 75, 75, 75, 75, 75, 75, 75],
      76,
    ]);
  });

  it('are mixed where that is asked, all but the last between two of the clip, and go on undrawn', async () => {
    const { planned, result } = await exported({ in: 1, out: 2, speed: 0.5, between: 'blended' }, null);
    expect(planned.filter(({ mixed }) => mixed)).toHaveLength(29);
    expect(result.passedThrough).toBe(60);
  });

  it('are made by movement where that is asked: the frames of the source stay what they are', async () => {
    const { planned, shown } = await exported({ in: 1, out: 1.1, speed: 0.5, between: 'moved' }, null);
    expect(shown).toHaveLength(6);
    planned.forEach(({ frame, mixed }, i) => mixed || expect(shown[i]).toBe(frame));
    expect(planned.filter(({ mixed }) => mixed)).toHaveLength(2);
  });
});

describe('a range of a montage', () => {
  let parts: Awaited<ReturnType<typeof startParts>>;
  beforeAll(async () => {
    parts = await startParts();
  });
  afterAll(() => parts.close());

  it('is exported frame by frame as every kind of file that the browser writes, and refused with a reason', async () => {
    const { files, aac, empty, odd } = await parts.page.evaluate(
      (url) => window.parts.exportedKinds(url, 20, 50),
      parts.file(fixture('numbered.mp4')),
    );
    // Debian's Chromium encodes H.264, VP9 and AV1.
    expect(Object.keys(files)).toEqual(expect.arrayContaining(['mp4-h264', 'webm-vp9']));
    for (const [id, { shown, first, size, expected }] of Object.entries(files)) {
      expect(shown, id).toEqual(Array.from({ length: 30 }, (_, i) => 20 + i));
      expect(first, id).toBeCloseTo(0, 3);
      expect(size, id).toBeLessThan(2 * expected);
    }
    expect(aac).toMatch(/WebM, VP9 cannot hold AAC/);
    expect(empty).toMatch(/No frame of the montage lies in the range/);
    expect(odd).toMatch(/VP9 needs even sizes/);
  });
});

describe('sound', () => {
  let parts: Awaited<ReturnType<typeof startParts>>;
  beforeAll(async () => {
    parts = await startParts();
  });
  afterAll(() => parts.close());

  it.each([
    [0.5, 1.5, 2],
    [0.25, 4, 4],
    [2, 0.75, 0.5],
    [-1, 1.5, 1],
    [-0.5, 3, 2],
  ])(
    'at a speed of %d is as high as that says, without a break, and its attack is where it is shown',
    async (speed, seconds, clickAt) => {
      const { pitch, click, level } = await parts.page.evaluate(([s, t]) => window.parts.heardAt(s, t), [
        speed,
        Math.max(seconds, clickAt + 0.25),
      ] as const);
      // A cent is a hundredth of a semitone.
      expect(Math.abs(1200 * Math.log2(pitch / (440 * Math.abs(speed))))).toBeLessThan(5);
      expect(Math.abs(click - clickAt)).toBeLessThan(0.01);
      expect(level).toBeCloseTo(0.3, 2);
    },
  );
});

describe('sound that keeps its pitch', () => {
  let parts: Awaited<ReturnType<typeof startParts>>;
  beforeAll(async () => {
    parts = await startParts();
  });
  afterAll(() => parts.close());

  it.each([
    [0.25, 4.4, 4],
    [0.5, 2.4, 2],
    [0.8, 1.7, 1.25],
    [2, 0.8, 0.5],
    [-1, 1.5, 1],
    [-0.5, 2.4, 2],
  ])('at a speed of %d is as high as it was within 5 cents, and begins within 10 ms', async (speed, seconds, at) => {
    const { pitch, attack, level } = await parts.page.evaluate(([s, t]) => window.parts.stretchedAt(s, t), [
      speed,
      seconds,
    ] as const);
    expect(Math.abs(1200 * Math.log2(pitch / 440))).toBeLessThan(5);
    expect(level).toBeCloseTo(0.3, 1);
    expect(Math.abs(attack - at)).toBeLessThan(0.01);
  });
});
