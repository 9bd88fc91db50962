/** Clips slower, faster and backwards, and accents that slow their hits: shown, heard, exported and saved. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { findHits, fixture, montageOf, saved, startBench, startParts, station, type Bench } from './harness.ts';

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

describe('in the app', () => {
  let bench: Bench;
  beforeAll(async () => {
    bench = await startBench();
  });
  afterAll(() => bench.close());

  it('a clip is slowed by a field and turned round, seen along the row, saved and undone', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    const last = page.getByText(/frame 0\/\d+/);
    await last.waitFor();
    const before = Number(/\/(\d+)/.exec((await last.textContent())!)![1]);
    const field = page.getByLabel('Speed of clip 1, percent');
    await field.fill('50');
    await field.press('Enter');
    await expect.poll(async () => Number(/\/(\d+)/.exec((await last.textContent())!)![1])).toBe(before + 360);
    await page.getByRole('img', { name: 'Speed along the clip' }).waitFor();
    await page.getByLabel('Clip 1 backwards').click();
    await page.getByLabel('Between the frames of clip 1').selectOption('moved');
    await page.keyboard.press('Escape');
    // Backwards from the last frame: the next one lies between two of the source.
    await page.getByRole('button', { name: 'One frame on' }).click();
    await page.waitForTimeout(3000);
    await page.getByLabel('Between the frames of clip 1').selectOption('blended');
    await page.getByLabel('Sound of clip 1').selectOption('silent');
    expect((await montageOf(page)).clips[0]).toMatchObject({ speed: -0.5, between: 'blended', slowed: 'silent' });
    await page.reload();
    await page.getByText(new RegExp(`/${before + 360}`)).waitFor();
    for (let i = 0; i < 5; i++) await page.keyboard.press('Control+z');
    await page.getByText(new RegExp(`/${before}\\b`)).waitFor();
    expect((await montageOf(page)).clips[0]).not.toHaveProperty('speed');
    await page.close();
  });

  it('an accent that is slowed slows the hits it lies on, by its rule', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await findHits(page);
    await page.getByRole('button', { name: /^Keep all \d/ }).click();
    await station(page, 'Shape');
    await page.getByRole('button', { name: 'Lantern burst' }).first().click();
    await page.getByRole('tab', { name: 'Timing' }).click();
    const status = page.getByRole('region', { name: 'Speed about the hit' }).getByRole('status');
    await page.getByRole('button', { name: 'Slow it' }).click();
    // It lies on the nine bolts by the demo's rule: 24 frames each.
    await expect.poll(() => status.textContent()).toMatch(/Laid on 9 hits: 216 frames are won/);
    await page.getByRole('row', { name: 'Speed and source frame' }).waitFor();
    await page.getByRole('combobox', { name: 'Time won' }).selectOption('paid back');
    // The bolts are too near to each other for all of it at twice the speed.
    await expect
      .poll(async () => Number(/hits: (\d+) frames/.exec((await status.textContent())!)![1]))
      .toBeLessThan(150);
    await saved(page);
    expect((await montageOf(page)).accents.find(({ id }) => id === 'lantern-burst')!.ramp).toMatchObject({
      gained: 'paid back',
      steps: [{ speed: 0.75 }, { speed: 0.5 }, { speed: 0.25 }, { speed: 0.1 }],
    });
    await page.getByRole('button', { name: 'As recorded again' }).click();
    await page.getByRole('button', { name: 'Slow it' }).waitFor();
    expect(bench.troubles).toEqual([]);
    await page.close();
  });

  it('hits land on the beats of the music, one of them let go, and no cut moves', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    // Its hits were found and kept above.
    const count = page.getByText(/frame \d+\/\d+/);
    const before = /\/(\d+)/.exec((await count.textContent())!)![1];
    await page.getByRole('button', { name: 'Land…' }).click();
    const dialog = page.getByRole('dialog');
    const status = dialog.getByRole('status');
    const landed = async (): Promise<number> => Number(await status.getAttribute('data-landed'));
    await expect.poll(landed).toBeGreaterThan(4);
    const all = await landed();
    await dialog
      .getByLabel(/^Where the .* lands$/)
      .first()
      .selectOption('is let go');
    await expect.poll(landed).toBeLessThanOrEqual(all);
    const lands = dialog.getByRole('list', { name: 'Hits' }).getByText(/^lands on/);
    const places = await lands.allTextContents();
    await dialog.getByRole('button', { name: /^Land \d/ }).click();
    const montage = await montageOf(page);
    const pins = montage.clips.flatMap((clip) => clip.pins ?? []);
    // A clip whose source goes no further has its end pinned, too.
    expect(pins.length - places.length).toBeLessThanOrEqual(montage.clips.length);
    expect(pins.length).toBeGreaterThanOrEqual(places.length);
    expect(/\/(\d+)/.exec((await count.textContent())!)![1]).toBe(before);
    await page.getByRole('button', { name: 'Land…' }).click();
    await dialog.getByRole('button', { name: 'Let all go' }).click();
    expect((await montageOf(page)).clips.every((clip) => clip.pins === undefined)).toBe(true);
    expect(bench.troubles).toEqual([]);
    await page.close();
  });

  it('clips fade and flow into one another; a cut is one choice away, and unlike shots are refused with a reason', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await page.getByText(/frame \d+\/\d+/).waitFor();
    const clips = (await montageOf(page)).clips.length;
    await page.getByRole('slider', { name: 'Playhead' }).focus();
    await page.keyboard.press('Home');
    for (let i = 0; i < 2; i++) await page.keyboard.press('PageDown');
    await page.getByRole('button', { name: 'Cut clip 1 at the playhead' }).click();
    const join = page.getByLabel('Join before clip 2', { exact: true });
    await join.selectOption('fading over');
    await page.getByLabel('Frames of the join before clip 2').fill('20');
    await page.getByLabel('Curve of the join before clip 2').selectOption('both slow');
    await page.locator('[data-join="fade"]').waitFor();
    expect((await montageOf(page)).clips[1]!.join).toEqual({ kind: 'fade', frames: 20, ease: 'both slow' });
    // Two halves of one shot.
    await join.selectOption('flowing on, by movement');
    await page.locator('[data-join="flow"]').waitFor({ timeout: 20_000 });
    await page.getByLabel('Join before clip 3', { exact: true }).selectOption('flowing on, by movement');
    await page.getByText(/not alike enough to flow|pictures are of different sizes/).waitFor({ timeout: 20_000 });
    expect((await montageOf(page)).clips[2]!.join).toBeUndefined();
    await join.selectOption('a cut');
    await expect.poll(async () => (await montageOf(page)).clips[1]!.join).toBeUndefined();
    await expect.poll(async () => (await montageOf(page)).clips.length).toBe(clips + 1);
    expect(bench.troubles).toEqual([]);
    await page.close();
  });

  it('speeds are typed frame by frame along a clip, held or smooth, and taken back', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await page.getByRole('button', { name: 'Speeds along clip 1, frame by frame' }).click();
    const type = async (frame: number, percent: string): Promise<void> => {
      await page.getByLabel(`Speed at frame ${frame} of clip 1, percent`).fill(percent);
      await page.keyboard.press('Enter');
    };
    await type(4, '50');
    await page.getByRole('button', { name: 'Go to frame 4 of clip 1' }).click();
    await page.getByRole('button', { name: 'Way on from frame 4' }).click();
    await page.getByRole('button', { name: 'Go to frame 6 of clip 1' }).click();
    await type(8, '25');
    const ladder = page.getByRole('region', { name: 'Speeds along clip 1' });
    await ladder.getByText(/3 speeds/).waitFor();
    expect((await montageOf(page)).clips[0]!.speeds).toEqual([
      { at: 0, speed: 1, smooth: false },
      { at: 4, speed: 0.5, smooth: false },
      { at: 8, speed: 0.25, smooth: true },
    ]);
    // Four frames as recorded, four at a half: frame 8 shows the sixth.
    expect(await ladder.getByRole('row').last().getByRole('cell').nth(4).textContent()).toBe('6');
    await page.getByRole('button', { name: 'Even again' }).click();
    await ladder.getByText(/speeds?:/).waitFor({ state: 'detached' });
    expect((await montageOf(page)).clips[0]).not.toHaveProperty('speeds');
    expect(bench.troubles).toEqual([]);
    await page.close();
  });
});
