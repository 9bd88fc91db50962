/** Titles over the picture, areas that accents leave alone, and subjects that are cut out. */
import { keptMattes } from '../../src/core/subject/pieces.ts';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { DEFAULT_TITLE } from '../../src/core/document/types.ts';
import { at, montageOf, saved, startBench, station, type Bench } from './harness.ts';

describe('in the app', () => {
  let bench: Bench;
  beforeAll(async () => {
    bench = await startBench();
  });
  afterAll(() => bench.close());

  it('a title counts the hits by rule, is kept, changed by fields and undone', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await station(page, 'Spread');
    await page.getByRole('button', { name: 'Add a title' }).click();
    await page.getByLabel('Text of title 2', { exact: true }).fill('Bolt ');
    await page.getByRole('button', { name: 'Put {n} into title 2' }).click();
    await page.getByLabel('Where title 2 is seen').selectOption('on each hit');
    await page.getByLabel('Kind of hit of title 2').selectOption('shot');
    await page.getByLabel('How title 2 comes').selectOption('typed');
    await page.getByLabel('size % of title 2').fill('14');
    await saved(page);
    await page.reload();
    await station(page, 'Spread');
    await expect.poll(() => page.getByLabel('Text of title 2', { exact: true }).inputValue()).toBe('Bolt {n}');
    expect((await montageOf(page)).titles).toMatchObject([
      { text: '{n} of {of}' },
      { text: 'Bolt {n}', size: 14, comes: 'type', where: { kind: 'each', kinds: ['shot'] } },
    ]);
    // Dragged on the picture where it is seen: at the first shot of the demo.
    await page.getByRole('slider', { name: 'Playhead' }).focus();
    await page.keyboard.press('Home');
    for (let i = 0; i < 36; i++) await page.keyboard.press('ArrowRight');
    const mark = (await page.getByRole('button', { name: 'Place of title 2' }).boundingBox())!;
    await page.mouse.move(mark.x + 8, mark.y + 8);
    await page.mouse.down();
    await page.mouse.move(mark.x + 68, mark.y - 32, { steps: 5 });
    await page.locator('[data-safe]').waitFor();
    await page.mouse.up();
    const picture = (await page.locator('[data-stage]').boundingBox())!;
    const [, dragged] = (await montageOf(page)).titles!;
    expect(dragged!.x - DEFAULT_TITLE.x).toBeCloseTo((100 * 60) / picture.height, 0);
    expect(dragged!.y - DEFAULT_TITLE.y).toBeCloseTo((-100 * 40) / picture.height, 0);
    await page.getByLabel('Text of title 2', { exact: true }).fill('{down} 光');
    await page.getByText(/do not hold 光/).waitFor();
    await page.getByLabel('clock times of title 2').fill('2');
    await expect.poll(async () => (await montageOf(page)).titles![1]!.pace).toBe(2);
    await page.getByRole('button', { name: 'Remove title 2' }).click();
    await expect.poll(async () => (await montageOf(page)).titles?.length).toBe(1);
    await page.keyboard.press('Control+z');
    await page.getByLabel('Text of title 2', { exact: true }).waitFor();
    expect(bench.troubles).toEqual([]);
    await page.close();
  });

  it('a title is pinned to what lies under it, goes along, and is let go again', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await station(page, 'Spread');
    await page.getByRole('button', { name: 'Add a title' }).click();
    const n = (await montageOf(page)).titles!.length;
    await page.getByLabel(`down % of title ${n}`).fill('-10');
    const place = async (): Promise<number> =>
      (await page.getByRole('button', { name: `Place of title ${n}` }).boundingBox())!.x;
    const before = await place();
    await page.getByRole('button', { name: `Pin title ${n}`, exact: true }).click();
    await page.locator('[data-drawing="pin"]').click();
    await page.getByText(/It goes along for \d+ frames, \d+ % sure at the least/).waitFor({ timeout: 90_000 });
    await page.locator('[data-pin-mark]').waitFor();
    await page.getByRole('slider', { name: 'Playhead' }).focus();
    for (let i = 0; i < 12; i++) await page.keyboard.press('ArrowRight');
    // The city drifts to the left.
    await expect.poll(async () => before - (await place())).toBeGreaterThan(3);
    await page.getByRole('button', { name: `Let title ${n} go` }).click();
    await expect.poll(async () => Math.abs(before - (await place()))).toBeLessThan(1);
    await saved(page);
    expect((await montageOf(page)).titles![n - 1]!.pin).toBeUndefined();
    // A bed is pinned to a box of the picture, which is followed in its turn and size.
    await page.getByLabel('Add a bed of an accent').selectOption({ index: 1 });
    const hold = page.getByRole('group', { name: 'What the bed does' }).getByRole('button').first();
    if (await hold.count()) await hold.click();
    await page.getByRole('button', { name: 'Pin the bed', exact: true }).last().click();
    const wait = (await page.locator('[data-drawing="pin"]').boundingBox())!;
    await page.mouse.move(wait.x + 0.45 * wait.width, wait.y + 0.4 * wait.height);
    await page.mouse.down();
    await page.mouse.move(wait.x + 0.65 * wait.width, wait.y + 0.62 * wait.height, { steps: 5 });
    await page.mouse.up();
    await expect
      .poll(async () => (await montageOf(page)).beds.at(-1)!.pin?.track.length ?? 0, { timeout: 90_000 })
      .toBeGreaterThan(3);
    const { track } = (await montageOf(page)).beds.at(-1)!.pin!;
    for (const { scale, turn } of track) {
      expect(Math.abs(scale! - 1)).toBeLessThan(0.2);
      expect(Math.abs(turn!)).toBeLessThan(0.2);
    }
    expect(bench.troubles).toEqual([]);
    await page.close();
  });

  it('an area is shielded by a drag on the picture, softened and taken back', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await page.getByRole('button', { name: 'Shield an area of lantern-drift.mp4' }).click();
    const box = (await page.locator('[data-drawing="shield"]').boundingBox())!;
    const picture = (await page.locator('[data-stage]').boundingBox())!;
    await page.mouse.move(picture.x + picture.width * 0.05, picture.y + picture.height * 0.85);
    await page.mouse.down();
    await page.mouse.move(picture.x + picture.width * 0.25, picture.y + picture.height * 0.97, { steps: 4 });
    await page.mouse.up();
    expect(box.width).toBeGreaterThan(0);
    await page.getByText('1 area is left alone by accents').waitFor();
    await page.getByLabel('Edge of area 1 of lantern-drift.mp4').fill('0.05');
    const [shield] = (await montageOf(page)).sources[0]!.shields!;
    expect(shield!.soft).toBe(0.05);
    expect(shield!.region.x).toBeCloseTo(0.05, 1);
    expect(shield!.region.y).toBeCloseTo(0.85, 1);
    await page.getByRole('button', { name: 'Remove area 1 of lantern-drift.mp4' }).click();
    await expect.poll(() => page.getByText(/left alone by accents/).count()).toBe(0);
    // An outline, point by point, closed at its first point.
    await page.getByRole('button', { name: 'Shield an area of lantern-drift.mp4' }).click();
    for (const [x, y] of [
      [0.7, 0.1],
      [0.9, 0.1],
      [0.8, 0.3],
      [0.7, 0.1],
    ] as const)
      await page.mouse.click(picture.x + x * picture.width, picture.y + y * picture.height);
    await page.getByText('1 area is left alone by accents').waitFor();
    const [drawn] = (await montageOf(page)).sources[0]!.shields!;
    expect(drawn!.path).toHaveLength(3);
    expect(drawn!.region.h).toBeCloseTo(0.2, 2);
    await page.keyboard.press('Control+z');
    await expect.poll(() => page.getByText(/left alone by accents/).count()).toBe(0);
    expect(bench.troubles).toEqual([]);
    await page.close();
  });

  it('a subject is drawn point by point, mended, followed, keyed by a picked colour, looked at and acted behind', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await page.getByRole('button', { name: 'Subject of lantern-drift.mp4' }).click();
    // The demo's own subject makes way.
    await page.getByRole('button', { name: 'Remove outline 1 of lantern-drift.mp4' }).click();
    await page.getByRole('button', { name: 'Draw an outline' }).click();
    const picture = (await page.locator('[data-stage]').boundingBox())!;
    const at = (x: number, y: number): [number, number] => [
      picture.x + x * picture.width,
      picture.y + y * picture.height,
    ];
    for (const [x, y] of [
      [0.4, 0.3],
      [0.6, 0.3],
      [0.6, 0.6],
      [0.4, 0.6],
    ] as const)
      await page.mouse.click(...at(x, y));
    await page.keyboard.press('Enter');
    await page.locator('[data-outline]').waitFor();
    const subject = async () => (await montageOf(page)).sources[0]!.subject;
    expect((await subject())!.paths[0]!.keys[0]!.points[0]!.x).toBeCloseTo(0.4, 2);
    // A point dragged on another frame: it moves there from where it was.
    await page.getByRole('slider', { name: 'Playhead' }).focus();
    for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight');
    await page.mouse.move(...at(0.4, 0.3));
    await page.mouse.down();
    await page.mouse.move(...at(0.35, 0.25), { steps: 4 });
    await page.mouse.up();
    await expect.poll(async () => (await subject())!.paths[0]!.keys.length).toBe(2);
    await page.getByRole('button', { name: 'Follow outline 1 of lantern-drift.mp4' }).click();
    await page.getByText(/^(The outline was followed|Followed) through \d+ frames/).waitFor({ timeout: 60_000 });
    expect((await subject())!.paths[0]!.keys.some(({ found }) => found)).toBe(true);
    await page.getByLabel('How the subject of lantern-drift.mp4 is shown').selectOption('the matte');
    for (const look of ['its edge', 'before checks', 'before a colour'])
      await page.getByLabel('How the subject of lantern-drift.mp4 is shown').selectOption(look);
    await page.getByLabel('Colour behind the subject of lantern-drift.mp4').fill('#40a060');
    await page.getByLabel('What outline 1 of lantern-drift.mp4 does').selectOption('does not');
    await page.getByRole('button', { name: 'By colour' }).click();
    await page.getByRole('button', { name: 'Pick the colour of the subject of lantern-drift.mp4' }).click();
    await page.mouse.click(...at(0.1, 0.1));
    await expect.poll(async () => (await subject())!.key?.by).toBe('colour');
    // Brushed: grown at once, carried on, and what was carried before it is stopped is kept.
    const stroke = async (...points: readonly (readonly [number, number])[]): Promise<void> => {
      await page.mouse.move(...at(...points[0]!));
      await page.mouse.down();
      for (const point of points.slice(1)) await page.mouse.move(...at(...point), { steps: 6 });
      await page.mouse.up();
    };
    const frames = async (): Promise<number> => keptMattes((await subject())?.brushed?.pieces ?? []).length;
    await page.getByRole('button', { name: 'Brush what belongs to it' }).click();
    await stroke([0.68, 0.71], [0.9, 0.97]);
    await page.getByRole('button', { name: 'Brush what does not' }).click();
    await stroke([0.2, 0.97], [0.58, 0.7], [0.7, 0.62], [0.97, 0.85]);
    await expect.poll(async () => (await subject())?.brushed?.strokes.length, { timeout: 20_000 }).toBe(2);
    expect(await frames()).toBe(1);
    await page.getByRole('button', { name: 'Carry the subject of lantern-drift.mp4' }).click();
    const carried = async (): Promise<number> =>
      Number(await page.locator('[data-job-share]').first().getAttribute('data-job-share'));
    await expect.poll(carried).toBeGreaterThan(0.02);
    await page.getByRole('button', { name: /^Cancel/ }).click();
    await expect.poll(frames, { timeout: 20_000 }).toBeGreaterThan(1);
    await station(page, 'Shape');
    await page.getByRole('button', { name: 'Lantern burst' }).first().click();
    await page.getByRole('tab', { name: 'Timing' }).click();
    await page.getByLabel('What it acts on').selectOption('what is behind it');
    await saved(page);
    expect((await montageOf(page)).accents.find(({ id }) => id === 'lantern-burst')!.acts).toBe('behind');
    expect(bench.troubles).toEqual([]);
    await page.close();
  });

  it('a title is written in a typeface of one’s own, and goes under the accents', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await station(page, 'Spread');
    await page.getByRole('button', { name: 'Add a title' }).click();
    const titles = async () => (await montageOf(page)).titles!;
    const n = (await titles()).length;
    const card = page.locator('[data-title]').last();
    const bring = (file: Parameters<ReturnType<typeof page.locator>['setInputFiles']>[0]): Promise<void> =>
      card.locator('input[type=file]').setInputFiles(file);
    await bring({ name: 'broken.ttf', mimeType: 'font/ttf', buffer: Buffer.from('no typeface at all') });
    await page.getByText('broken.ttf is no typeface that this browser can read.').waitFor();
    await bring(at('node_modules/@fontsource-variable/jetbrains-mono/files/jetbrains-mono-cyrillic-wght-normal.woff2'));
    await expect.poll(async () => (await montageOf(page)).typefaces?.length).toBe(1);
    const { own } = (await titles())[n - 1]!;
    expect((await montageOf(page)).typefaces![0]).toMatchObject({ id: own, name: expect.stringMatching(/cyrillic/) });
    // It holds Cyrillic letters alone.
    await page.getByLabel(`Text of title ${n}`, { exact: true }).fill('Ж光Q');
    await page.getByText(/cyrillic-wght-normal\.woff2 does not hold 光 Q:/).waitFor();
    await page.getByLabel(`spacing % of title ${n}`).fill('25');
    await page.getByLabel(`Title ${n} is under the accents`).check();
    await expect.poll(async () => (await titles())[n - 1]).toMatchObject({ spacing: 0.25, below: true, own });
    await page.getByLabel(`Typeface of title ${n}`).selectOption('plain');
    await expect.poll(async () => (await montageOf(page)).typefaces).toBeUndefined();
    expect((await titles())[n - 1]).not.toHaveProperty('own');
    await page.keyboard.press('Control+z');
    await expect.poll(async () => (await montageOf(page)).typefaces?.length).toBe(1);
    expect(bench.troubles).toEqual([]);
    await page.close();
  });

  it('people are found by the model that ships, and nobody where there is nobody', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/`);
    // A drawn figure: no picture of a person ships.
    const drawn = await page.evaluate(async () => {
      const pen = new OffscreenCanvas(640, 360).getContext('2d')!;
      const fill = (colour: string, path: () => void): void => {
        pen.fillStyle = colour;
        pen.beginPath();
        path();
        pen.fill();
      };
      const picture = async (): Promise<number[]> => [
        ...new Uint8Array(await (await pen.canvas.convertToBlob()).arrayBuffer()),
      ];
      fill('#8899aa', () => pen.rect(0, 0, 640, 360));
      const empty = await picture();
      fill('#2a3c6e', () => {
        pen.moveTo(210, 360);
        pen.quadraticCurveTo(210, 210, 290, 196);
        pen.lineTo(350, 196);
        pen.quadraticCurveTo(430, 210, 430, 360);
      });
      fill('#d9a98a', () => pen.rect(300, 160, 40, 44));
      fill('#d9a98a', () => pen.ellipse(320, 120, 48, 62, 0, 0, 7));
      fill('#3a2618', () => pen.ellipse(320, 84, 52, 40, 0, Math.PI, 0));
      fill('#222222', () => pen.arc(302, 116, 5, 0, 7));
      fill('#222222', () => pen.arc(338, 116, 5, 0, 7));
      fill('#aa4444', () => pen.rect(304, 148, 32, 6));
      return { empty, figure: await picture() };
    });
    const find = async (name: string, buffer: readonly number[]): Promise<void> => {
      await page.goto(`${bench.origin}/`);
      await page.getByRole('button', { name: 'New montage', exact: true }).click();
      await page.getByText('Drop footage, pictures and music here').waitFor();
      const file = { name: `${name}.png`, mimeType: 'image/png', buffer: Buffer.from(buffer) };
      await page.locator('section[aria-label="Bring in"] input[type="file"][multiple]').setInputFiles(file);
      await page.getByRole('button', { name: `Subject of ${name}.png` }).click();
      await page.getByRole('button', { name: 'Find people' }).click();
    };
    await find('meadow', drawn.empty);
    await page.getByText(/Nobody was found in this clip/).waitFor({ timeout: 60_000 });
    await find('figure', drawn.figure);
    await page.getByText(/People were found on one frame/).waitFor({ timeout: 60_000 });
    const [source] = (await montageOf(page)).sources;
    const [matte] = keptMattes(source!.subject!.brushed!.pieces);
    const of = (x: number, y: number): number => matte!.values[Math.round(y * 179) * 320 + Math.round(x * 319)]!;
    expect([of(0.5, 0.33), of(0.5, 0.8), of(0.4, 0.9)].every((value) => value > 200)).toBe(true);
    expect([of(0.05, 0.1), of(0.9, 0.3), of(0.2, 0.9)].every((value) => value < 50)).toBe(true);
    expect(bench.troubles).toEqual([]);
    await page.close();
  });
});
