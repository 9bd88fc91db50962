/** Clips slower, faster and backwards, and accents that slow their hits: shown, heard, exported and saved. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { findHits, montageOf, saved, startBench, station, type Bench } from './harness.ts';

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
    // As it was recorded, for comparison: nothing can be changed meanwhile.
    await page.keyboard.press('t');
    const back = page.getByRole('button', { name: 'At recorded speed' });
    await back.waitFor();
    await page.getByText(new RegExp(`/${before}\\b`)).waitFor();
    await page.getByLabel('Clip 1 backwards').click();
    await page.getByText(/bring them back/).waitFor();
    await back.click();
    await page.getByText(new RegExp(`/${before + 360}`)).waitFor();
    await page.getByLabel('Clip 1 backwards').click();
    await page.getByLabel('Between the frames of clip 1').selectOption('moved');
    await page.keyboard.press('Escape');
    // Backwards from the last frame: the next one lies between two of the source.
    await page.getByRole('button', { name: 'One frame on' }).click();
    await page.locator('[data-stage][data-shown="1"]').waitFor();
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
    const longer = async (): Promise<number> =>
      Number(/row is (\d+) frames longer/.exec((await status.textContent())!)?.[1]);
    // There is music, so the time is paid back by itself; the bolts are too near to each other for all of it.
    await page.getByRole('row', { name: 'Speed and source frame' }).waitFor();
    await expect.poll(longer).toBeLessThan(150);
    const beats = page.locator('[data-beats-left]');
    await beats.waitFor();
    // It lies on the nine bolts by the demo's rule: 24 frames each, and each change says what it does to hits on beats.
    await page.getByRole('combobox', { name: 'Time won' }).selectOption('kept');
    await expect.poll(longer).toBe(216);
    expect(await beats.textContent()).toMatch(/leave|No hit leaves/);
    await page.getByRole('combobox', { name: 'Time won' }).selectOption('paid back');
    await expect.poll(longer).toBeLessThan(150);
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
    // Music that moves takes them along, in the same step.
    const at = page.getByLabel('lies at of music 1');
    await at.fill('0.2 s');
    await at.press('Enter');
    await page.getByText(/hits landed again/).waitFor();
    const moved = (await montageOf(page)).clips.flatMap((clip) => clip.pins ?? []);
    expect(moved).not.toEqual(pins);
    await page.getByRole('button', { name: /^Undo/ }).click();
    await expect.poll(async () => (await montageOf(page)).clips.flatMap((clip) => clip.pins ?? [])).toEqual(pins);
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
