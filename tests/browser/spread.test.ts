/** Rules, placements by hand, checking by a sheet of frames, and commands by name; the actions of each task are counted. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Locator, Page } from 'playwright-core';
import type { Montage } from '../../src/core/document/types.ts';
import { placements } from '../../src/core/accents/placements.ts';
import { mediaIndex, timeline } from '../../src/core/timeline/timeline.ts';
import { findHits, montageOf, saved, startBench, station, type Bench } from './harness.ts';

let bench: Bench;
let page: Page;
beforeAll(async () => {
  bench = await startBench();
  page = await bench.page();
  await page.goto(`${bench.origin}/demo-montage`);
  await findHits(page);
  await page.getByRole('button', { name: /^Keep all \d/ }).click();
  await station(page, 'Spread');
});
afterAll(() => bench.close());

/** What a person does for one task, counted. */
class Actions {
  count = 0;
  async press(what: Locator, options?: Parameters<Locator['click']>[0]): Promise<void> {
    this.count++;
    await what.click(options);
  }
  async pick(what: Locator, value: Parameters<Locator['selectOption']>[0]): Promise<void> {
    this.count++;
    await what.selectOption(value);
  }
  async type(what: Locator, text: string): Promise<void> {
    this.count++;
    await what.fill(text);
  }
  async key(name: string): Promise<void> {
    this.count++;
    await page.keyboard.press(name);
  }
}

const laid = (m: Montage) => placements(m, timeline(m, mediaIndex(m.sources)));
const rule = (at: number): Locator => page.locator('[data-rule]').nth(at);
/** Back to how it was, however many steps that takes. */
async function back(to: Montage): Promise<void> {
  const undo = page.getByRole('button', { name: 'Undo', exact: true });
  for (let i = 0; i < 40; i++) {
    const now = await montageOf(page);
    if (JSON.stringify(now) === JSON.stringify(to)) return;
    await undo.click();
  }
  throw new Error('Undo did not lead back.');
}

describe('rules', () => {
  it('lay a second accent on every fourth beat in at most 5 actions', async () => {
    const before = await montageOf(page);
    const go = new Actions();
    await go.pick(page.getByLabel('Add a rule for an accent'), { index: 3 });
    await go.press(rule(1).getByRole('button', { name: 'beat', exact: true }), { clickCount: 2 });
    // The beats were found and none is kept: the filter takes none, and another button keeps them.
    expect((await montageOf(page)).hits).toEqual(before.hits);
    await go.press(rule(1).getByRole('button', { name: /^Keep \d+ beat hits/ }));
    await go.type(rule(1).getByLabel('Every so many hits'), '4');
    expect(go.count).toBeLessThanOrEqual(5);
    const m = await montageOf(page);
    const own = laid(m).filter((p) => p.rule?.id === m.rules[1]!.id);
    const beats = m.hits.filter(({ kind, state }) => kind === 'beat' && state === 'kept');
    expect(own).toHaveLength(Math.ceil(beats.length / 4));
    expect(own.every((p) => p.occurrence.hit.kind === 'beat' && p.intensity === 1)).toBe(true);
    // Beats are hidden at Check: what lies on them is shown all the same, and they count as kept.
    expect(await page.getByRole('button', { name: /^beat at frame/ }).count()).toBe(own.length);
    const all = m.hits.filter(({ kind, state }) => kind !== 'join' && (state === 'kept' || state === 'made'));
    expect(await page.locator('[data-told="check"]').textContent()).toBe(`${all.length} kept`);
    await back(before);
  });

  it('lay two accents in turn on all shots in at most 5 actions, and say what came and changed', async () => {
    const before = await montageOf(page);
    const go = new Actions();
    await go.pick(rule(0).getByLabel('Another accent of the rule'), { index: 4 });
    const told = (await rule(0).locator('[data-change]').getAttribute('data-change'))!.split('/').map(Number);
    expect(told[2]).toBeGreaterThan(0);
    await go.press(rule(0).getByRole('button', { name: 'shot', exact: true }), { clickCount: 2 });
    expect(go.count).toBeLessThanOrEqual(5);
    const m = await montageOf(page);
    const ids = laid(m)
      .filter((p) => p.rule?.id === m.rules[0]!.id)
      .map((p) => p.accent.accent.id);
    expect(ids.length).toBeGreaterThan(4);
    ids.forEach((id, i) => expect(id).toBe(m.rules[0]!.accents[i % 2]!.accent));
    await rule(0).getByLabel('How accents are picked').selectOption('random');
    expect((await montageOf(page)).rules[0]!.pick).toBe('random');
    await back(before);
  });

  it('take what is on a beat, so strong, by chance, in one clip, and give way to others', async () => {
    const before = await montageOf(page);
    await rule(0).getByRole('button', { name: /^More/ }).click();
    await rule(0).getByLabel('Where accents meet').selectOption('yield');
    await rule(0).getByLabel('least gap').fill('3');
    await rule(0).getByRole('button', { name: 'the clip at the playhead' }).click();
    const m = await montageOf(page);
    expect(m.rules[0]).toMatchObject({ meet: 'yield', gap: 3, clips: [m.clips[0]!.id] });
    const frames = laid(m).map(({ frame }) => frame);
    frames.slice(1).forEach((frame, i) => expect(frame - frames[i]!).toBeGreaterThanOrEqual(90));
    expect(Math.max(...frames)).toBeLessThan(360);
    await back(before);
  });

  it('lay the same grade as a bed on every clip that holds a hit, in at most 4 actions', async () => {
    const before = await montageOf(page);
    const go = new Actions();
    await go.pick(page.getByLabel('Add a bed of an accent'), { index: 1 });
    // What is shaped is asked what it does through the bed.
    await go.press(page.getByRole('button', { name: 'holds what it is on the hit' }));
    await go.pick(page.getByLabel('Where the bed lies').last(), 'clips');
    expect(go.count).toBeLessThanOrEqual(4);
    expect((await montageOf(page)).beds.at(-1)!).toMatchObject({
      stretch: { kind: 'clips', kinds: [] },
      lasts: 'hold',
    });
    await back(before);
  });
});

describe('a rule that is begun from an accent', () => {
  it('takes what the hit is that the accent was shaped on, and says so', async () => {
    const before = await montageOf(page);
    await page
      .getByRole('button', { name: /^join at frame/ })
      .first()
      .click();
    await station(page, 'Shape');
    const accent = page.getByRole('list', { name: 'Accents of this montage' }).getByRole('button').nth(5);
    await accent.click();
    await page.getByRole('button', { name: 'Spread this accent' }).click();
    await page.getByText('The rule takes join hits, like the hit that the accent was shaped on.').waitFor();
    const { rules, accents } = await montageOf(page);
    expect(rules.at(-1)).toMatchObject({ kinds: ['join'], families: [], accents: [{ accent: accents[5]!.id }] });
    await back(before);
  });
});

describe('placements by hand', () => {
  it('put another accent at half intensity on one hit in at most 4 actions, and stay when the rules go', async () => {
    const before = await montageOf(page);
    const go = new Actions();
    // An empty cell of a rule takes its accent; here the command of another one is called by its name.
    await page
      .getByRole('button', { name: /^shot at frame/ })
      .first()
      .click();
    const name = before.accents[2]!.name;
    await page.keyboard.press('Control+j');
    await go.type(page.getByLabel('Name of the command'), `lay ${name}`);
    await go.key('Enter');
    await go.type(page.locator('[data-placement]').last().getByRole('slider'), '0.5');
    expect(go.count).toBeLessThanOrEqual(4);
    const m = await montageOf(page);
    expect(m.byHand).toMatchObject([{ accent: before.accents[2]!.id, intensity: 0.5 }]);
    await page.getByLabel('Remove the rule').first().click();
    const without = await montageOf(page);
    expect(laid(without).map((p) => p.hand?.accent)).toEqual([before.accents[2]!.id]);
    await back(before);
  });

  it('take an accent into an empty cell, by the key A, and by a drop on the landscape', async () => {
    const before = await montageOf(page);
    await page
      .getByRole('button', { name: /by hand on the hit at frame/ })
      .first()
      .click();
    expect((await montageOf(page)).byHand).toHaveLength(1);
    await page.locator('[data-hand]').first().waitFor();
    await station(page, 'Check');
    await page.locator('[data-hit] button').first().click();
    await page.keyboard.press('a');
    expect((await montageOf(page)).byHand).toHaveLength(2);
    await station(page, 'Shape');
    const accent = page.getByLabel('Accents of this montage').getByRole('button').first();
    const land = (await page.getByRole('slider', { name: 'Playhead' }).boundingBox())!;
    const canvas = page.locator('section[aria-label="Landscape of the montage"] canvas').first();
    await accent.dragTo(canvas, { targetPosition: { x: land.width * 0.02, y: 30 } });
    const m = await montageOf(page);
    expect(m.byHand).toHaveLength(3);
    // Where no hit was, one is made, and carries it.
    expect(m.hits.some(({ kind, state }) => kind === 'mark' && state === 'made')).toBe(true);
    await station(page, 'Spread');
    await back(before);
  });

  it('are picked and set together, and copied from one hit to others', async () => {
    const before = await montageOf(page);
    const cells = page.getByRole('button', { name: /^Mute on the hit/ });
    await cells.nth(0).click({ modifiers: ['Control'] });
    await cells.nth(2).click({ modifiers: ['Control'] });
    await page.getByRole('slider', { name: 'Intensity of all that is picked' }).fill('0.4');
    await page.getByRole('button', { name: 'All one frame later' }).click();
    const m = await montageOf(page);
    expect(Object.values(m.overrides)).toEqual([
      { intensity: 0.4, nudge: 1 },
      { intensity: 0.4, nudge: 1 },
    ]);
    await page.getByRole('button', { name: 'Done' }).click();
    await page
      .getByRole('button', { name: /^shot at frame/ })
      .first()
      .click();
    const ticks = page.getByLabel(/^Tick the hit/);
    await ticks.nth(10).check();
    await ticks.nth(11).check();
    await page.getByRole('button', { name: /^Lay the chosen hit’s accents/ }).click();
    expect((await montageOf(page)).byHand).toHaveLength(2);
    await back(before);
  });
});

describe('moving and trying', () => {
  it('moves one hit by two frames and loops it in at most 4 actions', async () => {
    await station(page, 'Check');
    const go = new Actions();
    const before = await montageOf(page);
    await go.press(page.locator('[data-hit]').nth(1).locator('button').first());
    await go.key('Alt+ArrowRight');
    await go.key('Alt+ArrowRight');
    await go.key('o');
    expect(go.count).toBeLessThanOrEqual(4);
    await page.keyboard.press('o');
    const moved = (await montageOf(page)).hits.filter(
      (hit) => !before.hits.some((old) => old.id === hit.id && old.t === hit.t),
    );
    expect(moved).toHaveLength(1);
    await back(before);
  });
});

describe('checking by a sheet of frames', () => {
  let other: Page;
  it('keeps and rejects by a press, by sweeping and by keys in the order that is seen', async () => {
    other = await bench.page();
    await other.goto(`${bench.origin}/montage/harbour-nights/check`);
    await page.close();
    // Its own montage again: the demo's hits, none decided.
    await other.reload();
    page = other;
    await page.getByRole('tab', { name: 'Frames', exact: true }).click();
    const m = await montageOf(page);
    for (const hit of m.hits) expect(hit.state).not.toBe('found');
    await page.getByRole('tab', { name: 'Hits', exact: true }).click();
    // Undecide all: then they lie in the sheet.
    const rows = page.locator('[data-hit]');
    for (let i = 0; i < 8; i++) {
      await rows.nth(i).locator('button').first().click();
      await page.keyboard.press('u');
    }
    await page.getByRole('tab', { name: 'Frames', exact: true }).click();
    const cards = page.locator('[data-card]');
    const count = await cards.count();
    expect(count).toBeGreaterThan(4);
    const state = (i: number): Promise<string | null> => cards.nth(i).getAttribute('data-state');
    await cards.nth(0).click();
    expect(await state(0)).toBe('kept');
    await cards.nth(1).click({ button: 'right' });
    expect(await state(1)).toBe('rejected');
    // A sweep over two is one step of undo.
    const [a, b] = [(await cards.nth(2).boundingBox())!, (await cards.nth(3).boundingBox())!];
    await page.mouse.move(a.x + 40, a.y + 30);
    await page.mouse.down();
    await page.mouse.move(b.x + 40, b.y + 30, { steps: 6 });
    await page.mouse.up();
    expect([await state(2), await state(3)]).toEqual(['kept', 'kept']);
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    expect([await state(2), await state(3)]).toEqual(['found', 'found']);
    await page.mouse.move(5, 300);
    // By keys, without looking at the panel: one a hit.
    await page.getByLabel('Order of the frames').selectOption('strength');
    await page.mouse.move(5, 300);
    const first = cards.nth(0);
    await first.hover();
    await page.mouse.move(5, 300);
    const left = Number(await page.locator('[data-left]').getAttribute('data-left'));
    for (let i = 0; i < left; i++) await page.keyboard.press(i % 3 ? 'k' : 'r');
    expect(await page.locator('[data-left]').getAttribute('data-left')).toBe('0');
    expect(await page.locator('[data-decided]').textContent()).toMatch(/^(Kept|Rejected): /);
    // After another step the way back beside it would be that step's: it is not offered.
    await page.keyboard.press('h');
    await page.locator('[data-decided]').waitFor({ state: 'detached' });
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    await page.locator('[data-decided]').waitFor();
    await page.getByRole('button', { name: 'Take it back' }).click();
    expect(await page.locator('[data-left]').getAttribute('data-left')).toBe('1');
    await saved(page);
  });
});

describe('commands', () => {
  it('are found by other words, come back first, and say where nothing fits', async () => {
    await page.keyboard.press('Control+j');
    const field = page.getByLabel('Name of the command');
    await field.fill('fullscreen nothing');
    await page.getByText('Nothing is called that').waitFor();
    await field.fill('big window');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Back to everything' }).click();
    await page.keyboard.press('Control+j');
    expect(await page.getByRole('dialog').getByRole('option').first().textContent()).toMatch(/^Picture alone/);
    // Other keys: those of the browser and of other commands are refused with a sentence.
    await page.getByRole('button', { name: /^Keys of Picture alone/ }).click();
    await page.keyboard.press('k');
    await page.getByText('K is “Keep hit and go on” already.').waitFor();
    await page.keyboard.press('Control+w');
    await page.getByText(/is the browser’s own/).waitFor();
    await page.keyboard.press('Shift+q');
    await page.getByRole('button', { name: 'Keys of Picture alone, or with everything: Shift Q' }).waitFor();
    await page.keyboard.press('Escape');
    await page.getByRole('dialog').waitFor({ state: 'detached' });
    await page.keyboard.press('Shift+Q');
    await page.getByRole('button', { name: 'Back to everything' }).click();
    await page.keyboard.press('Control+j');
    await page.getByRole('button', { name: 'Reset all keys' }).click();
    await page.keyboard.press('Escape');
  });

  it('reach every effect by what people call it', async () => {
    await station(page, 'Shape');
    for (const [word, effect] of [
      ['chromatic', 'Colour split'],
      ['handheld', 'Shake'],
      ['zoom in', 'Punch'],
      ['old tape', 'Dropout'],
      ['fade', 'Levels'],
      ['slow', 'Freeze'],
    ] as const) {
      await page.keyboard.press('Control+j');
      await page.getByLabel('Name of the command').fill(word);
      await page
        .getByRole('dialog')
        .getByRole('option', { name: new RegExp(`^Add ${effect} `) })
        .waitFor();
      await page.keyboard.press('Escape');
      await page.getByRole('dialog').waitFor({ state: 'detached' });
    }
  });

  it('nothing went wrong on the way', () => expect(bench.troubles).toEqual([]));
});

describe('an evening in few actions', () => {
  it('gives right accents to all found hits, one of five being wrong, in at most 12 actions and one for each wrong one', async () => {
    const fresh = await startBench();
    try {
      const evening = await fresh.page();
      await evening.goto(`${fresh.origin}/demo-montage`);
      const go = new Actions();
      await go.press(evening.getByRole('button', { name: 'Find hits' }));
      await evening.getByRole('tab', { name: 'Frames', exact: true }).waitFor({ timeout: 120_000 });
      await go.press(evening.getByRole('tab', { name: 'Frames', exact: true }));
      await evening.locator('[data-card]').first().waitFor();
      const left = async (): Promise<number> => Number(await evening.locator('[data-left]').getAttribute('data-left'));
      const all = await left();
      expect(all).toBeGreaterThan(5);
      const wrong = Math.floor(all / 5);
      // The wrong ones by their pictures, those first in the list, each by one press with the other button.
      for (let i = 0; i < wrong; i++)
        await go.press(evening.locator('[data-card][data-state="found"]').first(), { button: 'right' });
      expect(await left()).toBe(all - wrong);
      await go.press(evening.getByRole('button', { name: /^Keep (all|the other)/ }));
      await station(evening, 'Shape');
      go.count++;
      await go.press(evening.getByRole('button', { name: 'Spread this accent' }));
      await evening.locator('[data-rule]').first().waitFor();
      const m = await montageOf(evening);
      expect(m.hits.filter(({ state }) => state === 'rejected')).toHaveLength(wrong);
      // The beats, of which none is kept yet, by one press on the filter and one that keeps them.
      const first = evening.locator('[data-rule]').first();
      await go.press(first.getByRole('button', { name: 'beat', exact: true }));
      await go.press(first.getByRole('button', { name: /^Keep \d+ beat hits/ }));
      const placed = laid(await montageOf(evening));
      expect(placed.length).toBeGreaterThanOrEqual(30);
      expect(placed.every(({ occurrence }) => occurrence.hit.state !== 'rejected')).toBe(true);
      expect(go.count).toBeLessThanOrEqual(12 + wrong);
    } finally {
      await fresh.close();
    }
  });

  it('tries three accents on one hit and keeps one in at most 6 actions', async () => {
    const before = await montageOf(page);
    await station(page, 'Check');
    await page.getByRole('tab', { name: 'Hits', exact: true }).click();
    await page.locator('[data-hit]').nth(1).click();
    const go = new Actions();
    await station(page, 'Shape');
    go.count++;
    const tried = page.getByRole('list', { name: 'Accents of this montage' }).getByRole('button');
    // Each is drawn on the hit as soon as it is pressed.
    for (const i of [0, 1, 2]) {
      await go.press(tried.nth(i));
      expect(await tried.nth(i).getAttribute('aria-pressed')).toBe('true');
    }
    await go.press(tried.nth(1));
    await go.key('a');
    expect(go.count).toBeLessThanOrEqual(6);
    const m = await montageOf(page);
    expect(m.byHand).toMatchObject([{ accent: m.accents[1]!.id }]);
    await back(before);
    await station(page, 'Spread');
  });

  it('walks back and forth through a list of steps with names, over a reload too', async () => {
    const before = await montageOf(page);
    await station(page, 'Spread');
    await page.getByLabel('Name of the montage').fill('Evening');
    await rule(0).getByLabel('Every so many hits').fill('3');
    await page.getByLabel('Name of the montage').focus();
    await saved(page);
    const after = await montageOf(page);
    await page.reload();
    const undo = page.getByRole('button', { name: 'Undo', exact: true });
    await undo.waitFor();
    expect(await undo.getAttribute('title')).toBe('Undo: Rule changed');
    await page.getByRole('button', { name: 'All steps' }).click();
    const names = await page.getByRole('menuitem').allTextContents();
    expect(names.slice(0, 2)).toEqual(['Rule changed', 'Montage renamed']);
    // Back past both, to what came before them.
    await page.getByRole('menuitem').nth(2).click();
    expect(await montageOf(page)).toEqual(before);
    await page.getByRole('button', { name: 'All steps' }).click();
    await page.getByRole('menuitem', { name: 'Rule changed' }).first().click();
    expect(await montageOf(page)).toEqual(after);
    await back(before);
  });
});
