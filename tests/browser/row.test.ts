/** The row of clips and the music, by mouse and by keyboard, on the demo. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Page } from 'playwright-core';
import { musicTime } from '../../src/core/timeline/music.ts';
import { mediaIndex, timeline } from '../../src/core/timeline/timeline.ts';
import { findHits, montageOf, startBench, station, type Bench } from './harness.ts';

let bench: Bench;
let page: Page;
beforeAll(async () => {
  bench = await startBench();
  page = await bench.page();
  await page.goto(`${bench.origin}/demo-montage`);
  await findHits(page);
  await station(page, 'Bring in');
  await page.locator('[data-clip]').first().waitFor();
});
afterAll(() => bench.close());

const undo = (): Promise<void> => page.getByRole('button', { name: 'Undo', exact: true }).click();
const clips = async (): Promise<(string | number)[][]> =>
  (await montageOf(page)).clips.map((clip) => [clip.source, clip.in, clip.out]);
const FRAME = 1 / 30;
const playhead = async (): Promise<number> =>
  Number(await page.locator('[data-playhead]').getAttribute('data-playhead'));

/** Drags the middle of something by so many pixels. */
async function drag(selector: string, by: number, modifier?: 'Alt' | 'Shift', pause = 0): Promise<void> {
  const box = (await page.locator(selector).first().boundingBox())!;
  const [x, y] = [box.x + Math.min(box.width / 2, 300), box.y + box.height / 2];
  if (modifier) await page.keyboard.down(modifier);
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x + by / 2, y, { steps: 3 });
  await page.waitForTimeout(pause);
  await page.mouse.move(x + by, y, { steps: 3 });
  await page.mouse.up();
  if (modifier) await page.keyboard.up(modifier);
}

describe('the row', () => {
  it('is trimmed by dragging an end, the frame there shown; the whole drag is one step of undo', async () => {
    const before = await clips();
    await drag('[aria-label="End of clip 1"]', -100, 'Alt');
    const after = await clips();
    // 600 frames lie on the width: a hundred pixels are about 48 of them.
    expect(after[0]![2]).toBeLessThan(12 - 40 * FRAME);
    expect(after[0]![2]).toBeGreaterThan(12 - 56 * FRAME);
    expect(Math.abs((after[0]![2] as number) * 30 - Math.round((after[0]![2] as number) * 30))).toBeLessThan(1e-6);
    expect(await playhead()).toBe(Math.round((after[0]![2] as number) * 30) - 1);
    await undo();
    expect(await clips()).toEqual(before);
    // A hand that rests on the way has not let go.
    await drag('[aria-label="End of clip 1"]', -100, 'Alt', 1300);
    expect(await clips()).toEqual(after);
    await undo();
    expect(await clips()).toEqual(before);
  });

  it('rests on a hit that an end is dragged near to', async () => {
    // The bolt at frame 331 is the last of the clip: 29 frames before its end.
    await drag('[aria-label="End of clip 1"]', (-27 / 600) * 1240);
    expect((await clips())[0]![2]).toBeCloseTo(331 * FRAME, 6);
    await undo();
  });

  it('is trimmed to a frame by keys, at an end, and at the playhead', async () => {
    await page.getByLabel('Beginning of clip 2').focus();
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('ArrowRight');
    expect((await clips())[1]![1]).toBeCloseTo(2 * FRAME, 9);
    await page.getByRole('slider', { name: 'Playhead' }).focus();
    await page.keyboard.press('Escape');
    await page.getByRole('textbox', { name: 'out of clip 1' }).fill('00:00:10:00');
    await page.getByRole('textbox', { name: 'out of clip 1' }).press('Enter');
    expect((await clips())[0]![2]).toBeCloseTo(10, 9);
    await undo();
    await undo();
    await undo();
    const land = (await page.getByRole('slider', { name: 'Playhead' }).boundingBox())!;
    await page.mouse.click(land.x + (90.5 / 600) * land.width, land.y + 8);
    const at = await playhead();
    expect(at).toBe(90);
    await page.keyboard.press('c');
    expect((await clips()).length).toBe(3);
    await page.keyboard.press('e');
    await page.keyboard.press('b');
    const [, here] = await clips();
    expect(here![1]).toBeCloseTo(at * FRAME, 6);
    expect(here![2]).toBeCloseTo((at + 1) * FRAME, 6);
    // It began there already: that is no step.
    for (let i = 0; i < 2; i++) await undo();
    expect((await clips()).length).toBe(2);
  });

  it('shows another stretch between the same ends, and lets a clip be dragged to another place', async () => {
    await page.getByRole('textbox', { name: 'in of clip 1' }).fill('60');
    await page.getByRole('textbox', { name: 'in of clip 1' }).press('Enter');
    const before = await clips();
    expect(before[0]![1]).toBeCloseTo(2, 9);
    const [span] = await page.locator('[data-clip]').all();
    const body = `[data-clip="${await span!.getAttribute('data-clip')}"] .cursor-grab`;
    await drag(body, 30, 'Alt');
    const slipped = (await clips())[0]!;
    expect(slipped[1]).toBeLessThan(2);
    expect((slipped[2] as number) - (slipped[1] as number)).toBeCloseTo(10, 6);
    await undo();
    // However far it is slipped, it stays in its place.
    await drag(body, 900, 'Alt');
    expect((await clips()).map(([source]) => source)).toEqual(['lantern-drift', 'rampart-rally']);
    await undo();
    await drag(body, 900);
    expect((await clips()).map(([source]) => source)).toEqual(['rampart-rally', 'lantern-drift']);
    await undo();
    await undo();
  });

  it('takes a source again, whole and around a hit; what was removed comes back by undo', async () => {
    await page.getByRole('button', { name: 'to the row' }).first().click();
    expect((await clips()).at(-1)).toEqual(['lantern-drift', 0, 12]);
    await page.getByRole('button', { name: 'Remove clip 1' }).click();
    expect((await clips()).map(([source]) => source)).toEqual(['rampart-rally', 'lantern-drift']);
    await undo();
    await undo();
    await page.keyboard.press('ArrowDown');
    await page.getByRole('button', { name: 'around the hit' }).first().click();
    const [source, from, to] = (await clips()).at(-1)!;
    expect(source).toBe('lantern-drift');
    expect((to as number) - (from as number)).toBeLessThanOrEqual(4 + 1e-6);
    await undo();
  });
});

describe('gathering', () => {
  it('counts numbers when their field is left, and shows the hit itself where nothing after it is asked for', async () => {
    await page.getByRole('button', { name: 'Gather…' }).click();
    const counts = page.locator('[data-gathered]');
    const before = await counts.getAttribute('data-gathered');
    await page.getByLabel('Seconds before').fill('0.3');
    const after = page.getByLabel('Seconds after');
    await after.focus();
    await page.keyboard.press('Control+a');
    // The first figure of 0.7.
    await page.keyboard.type('0');
    await page.keyboard.type('.7');
    await after.fill('0');
    await after.press('Enter');
    await expect.poll(() => counts.getAttribute('data-gathered')).not.toBe(before);
    expect(Number(await counts.getAttribute('data-gathered'))).toBeGreaterThan(0);
    await page.getByRole('button', { name: 'Leave it', exact: true }).click();
  });

  it('that fails closes with a sentence, and the montage is as it was', async () => {
    const before = await montageOf(page);
    await page.getByRole('button', { name: 'Gather…' }).click();
    const counts = page.locator('[data-gathered]');
    await counts.waitFor();
    // What the dialog writes numbers with fails there.
    await page.evaluate(() => {
      const real = Number.prototype.toFixed;
      Number.prototype.toFixed = function (this: number, digits?: number): string {
        if (new Error().stack!.includes('gather-dialog')) throw new Error('made to fail');
        return real.call(this, digits);
      };
    });
    await page.getByLabel('Seconds before').fill('0.4');
    await page.getByLabel('Seconds before').press('Enter');
    await page.getByText('Gather failed and was closed. The montage is as it was.').first().waitFor();
    expect(await counts.count()).toBe(0);
    expect(await montageOf(page)).toEqual(before);
    expect(await page.getByText('This screen failed').count()).toBe(0);
    expect(bench.troubles.join()).toContain('made to fail');
    bench.troubles.length = 0;
    await page.reload();
    await page.getByRole('button', { name: 'Gather…' }).waitFor();
  });

  it('makes a row of kept hits in five actions, on the beat, and keeps what was changed by hand', async () => {
    const before = await clips();
    const kept = (await montageOf(page)).hits.filter(({ state }) => state === 'kept').length;
    await page.getByRole('button', { name: 'Gather…' }).click();
    const counts = page.locator('[data-gathered]');
    const all = Number(await counts.getAttribute('data-gathered'));
    expect(all).toBeGreaterThan(1);
    expect(all).toBeLessThan(kept);
    // The bolts at 4.7 and 4.8 s into it lie close together: only where less is taken around them is each a clip.
    await page.getByLabel('Seconds before').fill('0.2');
    await page.getByLabel('Seconds after').fill('0.2');
    await page.getByLabel('Seconds after').press('Enter');
    expect(Number(await counts.getAttribute('data-gathered'))).toBe(kept);
    await page.getByLabel('hits on beats of the music').check();
    await page.getByRole('button', { name: 'Make the row' }).click();
    const m = await montageOf(page);
    expect(m.clips).toHaveLength(kept);
    const line = timeline(m, mediaIndex(m.sources));
    for (const span of line.spans) {
      const hit = m.hits.find(({ id }) => id === span.clip.gathered!.hits[0])!;
      expect(line.frameOf(span, hit.t)).not.toBeNull();
    }
    await page.getByRole('textbox', { name: 'out of clip 1' }).fill('60');
    await page.getByRole('textbox', { name: 'out of clip 1' }).press('Enter');
    const [first] = (await montageOf(page)).clips;
    await page.getByRole('button', { name: 'Gather…' }).click();
    await page.getByLabel('At most clips (0: all)').fill('3');
    await page.getByRole('button', { name: 'Make the row' }).click();
    const again = (await montageOf(page)).clips;
    expect(again.length).toBeLessThanOrEqual(4);
    expect(again).toContainEqual(first);
    for (let i = 0; i < 3; i++) await undo();
    expect(await clips()).toEqual(before);
  });
});

describe('music', () => {
  /** How far, in frames, the drop lies from the nearest bolt or slam of the picture. */
  const dropOff = async (): Promise<number> => {
    const m = await montageOf(page);
    const line = timeline(m, mediaIndex(m.sources));
    const name = (await page.getByLabel('Moment of music 1').locator('option').first().textContent())!;
    const code = /(\d+):(\d+):(\d+):(\d+)$/.exec(name)!.slice(1).map(Number);
    const drop = code[0]! * 108_000 + code[1]! * 1800 + code[2]! * 30 + code[3]!;
    const chosen = await playhead();
    expect(line.count).toBeGreaterThan(0);
    return drop - chosen;
  };

  it('has its drop laid on a hit in two actions, by moving the music', async () => {
    await page.getByRole('slider', { name: 'Playhead' }).focus();
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('ArrowDown');
    const before = (await montageOf(page)).music[0]!;
    await page.getByRole('button', { name: 'Lay on the hit' }).click();
    await page.getByText(/The music was moved by/).waitFor();
    const after = (await montageOf(page)).music[0]!;
    expect(after.at !== before.at || after.in !== before.in).toBe(true);
    expect(Math.abs(await dropOff())).toBeLessThanOrEqual(1);
    // To the sample, not to the frame: the hit's frame begins exactly where the drop lies.
    const t = (await playhead()) * FRAME;
    expect(musicTime(after, after.in + t - after.at)).toBeCloseTo(t, 9);
    await undo();
    expect((await montageOf(page)).music[0]).toEqual(before);
  });

  it('is moved by dragging, trimmed at its ends, cut, faded and removed', async () => {
    const before = (await montageOf(page)).music[0]!;
    await drag('[data-music-block] .cursor-grab', 120, 'Alt');
    expect((await montageOf(page)).music[0]!.at).toBeGreaterThan(1.5);
    await undo();
    await drag('[data-music-block] [data-end="in"]', 62);
    const trimmed = (await montageOf(page)).music[0]!;
    expect(trimmed.in).toBeCloseTo(1, 1);
    expect(trimmed.at).toBeCloseTo(trimmed.in, 9);
    await undo();
    const fade = page.getByLabel('fade in of music 1');
    await fade.fill('1.5 s');
    await fade.press('Enter');
    expect((await montageOf(page)).music[0]!.fadeIn).toBeCloseTo(1.5, 9);
    await page.getByRole('button', { name: 'Cut music 1 at the playhead' }).click();
    await expect.poll(async () => (await montageOf(page)).music.length).toBe(2);
    await page.getByRole('button', { name: 'Remove music 2' }).click();
    await expect.poll(async () => (await montageOf(page)).music.length).toBe(1);
    await undo();
    await undo();
    await undo();
    expect((await montageOf(page)).music).toEqual([before]);
  });

  it('nothing went wrong on the way', () => expect(bench.troubles).toEqual([]));
});
