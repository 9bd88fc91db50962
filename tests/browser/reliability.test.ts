/** What docs/reliability.md promises: nothing lost, nothing hangs, nothing goes wrong without a word. */
import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium, type Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { CHROMIUM_FLAGS, findChromium } from '../../src/cli/browser.ts';
import { fixture, montageOf, saved, startBench, station, type Bench } from './harness.ts';

let bench: Bench;
beforeAll(async () => {
  bench = await startBench();
  // Every worker of a page, so that a test can kill one as the browser would.
  await bench.context.addInitScript(() => {
    const own = Worker;
    const all: { name: string; worker: Worker }[] = [];
    Object.assign(window, { allWorkers: all });
    window.Worker = class extends own {
      constructor(url: string | URL, options?: WorkerOptions) {
        super(url, options);
        all.push({ name: String(url), worker: this });
      }
    };
  });
});
afterAll(() => bench.close());

const kill = (page: Page, name: string): Promise<number> =>
  page.evaluate((name) => {
    const { allWorkers } = window as unknown as { allWorkers: { name: string; worker: Worker }[] };
    const found = allWorkers.filter((one) => one.name.includes(name));
    found.at(-1)?.worker.terminate();
    return found.length;
  }, name);

const bring = (page: Page, ...paths: string[]): Promise<void> =>
  page.locator('input[type=file][multiple]').setInputFiles(paths);

async function fresh(): Promise<Page> {
  const page = await bench.page();
  await page.goto(`${bench.origin}/`);
  await page.getByRole('button', { name: 'New montage', exact: true }).click();
  await page.getByText('Drop footage, pictures and music here').waitFor();
  return page;
}

const idOf = (page: Page): string => /montage\/([^/]+)\//.exec(page.url())![1]!;

/** The stored montages of the browser, as they lie there. */
const storedIn = (page: Page) =>
  page.evaluate(
    () =>
      new Promise<
        {
          id: string;
          deleted?: number;
          opened?: { name: string };
          montage: { name: string; sources: { name: string; video: unknown }[] };
        }[]
      >((resolve) => {
        const opening = indexedDB.open('akmeon');
        opening.onsuccess = () => {
          const all = opening.result.transaction('montages').objectStore('montages').getAll();
          all.onsuccess = () => {
            opening.result.close();
            resolve(all.result as never);
          };
        };
      }),
  );

/** Names of all files in this origin's own storage. */
const filesIn = (page: Page): Promise<string[]> =>
  page.evaluate(async () => {
    const names: string[] = [];
    const root = await navigator.storage.getDirectory();
    for await (const [folder, handle] of root.entries())
      if (handle.kind === 'directory')
        for await (const name of (handle as FileSystemDirectoryHandle).keys()) names.push(`${folder}/${name}`);
    return names;
  });

describe("a person's work", () => {
  it('a list that begins with nothing neither crashes Shape nor locks the montage', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await page.getByRole('button', { name: 'Find hits' }).waitFor();
    await station(page, 'Shape');
    await page.getByRole('tab', { name: 'Row', exact: true }).click();
    await page.getByRole('gridcell').first().focus();
    await page.getByLabel('Generator').selectOption('cadence');
    await page.getByLabel('Listed values').fill('plain 15');
    await page.getByLabel('Listed values').press('Enter');
    await saved(page);
    expect(await page.getByText('This screen failed').count()).toBe(0);
    await page.reload();
    for (const name of ['Check', 'Spread', 'Bring in', 'Shape']) {
      await station(page, name);
      await page.locator('[data-stage]').waitFor();
      expect(await page.getByText('This screen failed').count()).toBe(0);
    }
    await page.close();
  });

  it('a stored montage that cannot be read opens as it was before, and gives its file', async () => {
    const page = await fresh();
    await page.getByLabel('Name of the montage').fill('To be broken');
    await saved(page);
    await page.reload();
    await page.getByText('Drop footage, pictures and music here').waitFor();
    const id = idOf(page);
    await expect
      .poll(async () => (await storedIn(page)).find((one) => one.id === id)?.opened?.name)
      .toBe('To be broken');
    await page.goto(`${bench.origin}/`);
    await page.evaluate(
      (id) =>
        new Promise<void>((resolve) => {
          const opening = indexedDB.open('akmeon');
          opening.onsuccess = () => {
            const store = opening.result.transaction('montages', 'readwrite').objectStore('montages');
            const get = store.get(id);
            get.onsuccess = () => {
              const entry = get.result as { montage: { settings: unknown } };
              entry.montage.settings = { width: -1 };
              store.put(entry).onsuccess = () => {
                opening.result.close();
                resolve();
              };
            };
          };
        }),
      id,
    );
    await page.goto(`${bench.origin}/montage/${id}/check`);
    await page.getByText('cannot be opened as it is stored').waitFor();
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('button', { name: 'Save what is stored to a file' }).click(),
    ]);
    expect(readFileSync((await download.path())!, 'utf8')).toContain('To be broken');
    await page.getByRole('button', { name: /as it was when it could be opened last/ }).click();
    await expect.poll(() => page.getByLabel('Name of the montage').inputValue()).toBe('To be broken');
    await page.close();
  });

  it('files go into the montage that they were brought into, whatever is open when they are in', async () => {
    const page = await fresh();
    const first = idOf(page);
    // Two files: the second is still to come when the other montage is opened.
    await bring(page, fixture('hits.mp4'), fixture('numbered.mp4'));
    await page.goto(`${bench.origin}/montage/${first}/bring-in`).catch(() => undefined);
    await page.evaluate(() => history.pushState({}, '', '/'));
    await page.close();

    const page2 = await fresh();
    const owner = idOf(page2);
    // The app itself goes to another montage, in the same page, while the file is read.
    await page2.evaluate(() => {
      const own = Blob.prototype.stream;
      Blob.prototype.stream = function () {
        return own.call(this);
      };
    });
    await bring(page2, fixture('hits.mp4'));
    await page2.evaluate(() => history.pushState({}, '', '/'));
    await page2.evaluate(() => dispatchEvent(new PopStateEvent('popstate')));
    await page2.getByRole('button', { name: 'New montage', exact: true }).click();
    await page2.getByText('Drop footage, pictures and music here').waitFor();
    const other = idOf(page2);
    expect(other).not.toBe(owner);
    await page2.getByText(/hits.mp4 is in/).waitFor();
    const all = await storedIn(page2);
    expect(all.find(({ id }) => id === owner)!.montage.sources.map(({ name }) => name)).toEqual(['hits.mp4']);
    expect(all.find(({ id }) => id === other)!.montage.sources).toEqual([]);
    await page2.close();
  });

  it('deletion is undone, and an edit in another tab brings nothing back unasked', async () => {
    const page = await fresh();
    await page.getByLabel('Name of the montage').fill('Held on to');
    await saved(page);
    const id = idOf(page);
    const shelf = await bench.page();
    await shelf.goto(`${bench.origin}/`);
    await shelf.getByRole('button', { name: 'Delete Held on to' }).click();
    await shelf.getByRole('button', { name: 'Bring back Held on to' }).click();
    await shelf.getByRole('link', { name: 'Held on to' }).waitFor();
    await shelf.getByRole('button', { name: 'Delete Held on to' }).click();
    await shelf.getByRole('button', { name: 'Bring back Held on to' }).waitFor();
    await page.getByLabel('Name of the montage').fill('Edited after');
    await page.getByText('This montage was deleted in another tab').waitFor();
    expect((await storedIn(shelf)).find((entry) => entry.id === id)).toMatchObject({
      deleted: expect.any(Number) as number,
      montage: { name: 'Held on to' },
    });
    await page.getByRole('button', { name: 'Keep it' }).click();
    await saved(page);
    await expect
      .poll(async () => (await storedIn(shelf)).find((entry) => entry.id === id)?.montage.name)
      .toBe('Edited after');
    await shelf.close();
    await page.close();
  });

  it('a second tab takes over when the first is gone, in its newest state; back and forward lock nobody out', async () => {
    const page = await fresh();
    const id = idOf(page);
    const second = await bench.page();
    await second.goto(`${bench.origin}/montage/${id}/bring-in`);
    await second.getByText('open in another tab').waitFor();
    await page.getByLabel('Name of the montage').fill('Written by the first');
    await saved(page);
    await page.close();
    await second.getByText('can be changed here now').waitFor();
    await expect.poll(() => second.getByLabel('Name of the montage').inputValue()).toBe('Written by the first');
    await second.getByLabel('Name of the montage').fill('Written by the second');
    await saved(second);
    await station(second, 'Check');
    await second.goto(`${bench.origin}/`);
    await second.goBack();
    await second.getByLabel('Name of the montage').waitFor();
    await second.goBack();
    await second.goForward();
    await second.getByLabel('Name of the montage').waitFor();
    expect(await second.getByText('open in another tab').count()).toBe(0);
    await second.close();
  });

  it('gestures on one control are steps of undo of their own', async () => {
    const page = await fresh();
    await bring(page, fixture('hits.mp4'));
    await page.getByText(/hits.mp4 is in/).waitFor();
    const slider = page.getByLabel('Volume of the clips');
    await slider.evaluate((element) => element.scrollIntoView({ block: 'center' }));
    const drag = async (share: number): Promise<void> => {
      const box = (await slider.boundingBox())!;
      await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
      await page.mouse.down();
      await page.mouse.move(box.x + box.width * share, box.y + box.height / 2, { steps: 4 });
      await page.mouse.up();
    };
    await drag(0.8);
    const first = await slider.inputValue();
    await drag(0.2);
    expect(await slider.inputValue()).not.toBe(first);
    await page.getByRole('button', { name: 'Undo', exact: true }).click();
    expect(await slider.inputValue()).toBe(first);
    // The arrows are the frames' again.
    await page.keyboard.press('ArrowRight');
    expect(await slider.inputValue()).toBe(first);
    await page.close();
  });

  it('a trim takes what is typed, letter by letter', async () => {
    const page = await fresh();
    await bring(page, fixture('numbered.mp4'));
    await page.getByText(/numbered.mp4 is in/).waitFor();
    const out = page.getByLabel('out of clip 1');
    await out.fill('');
    await out.pressSequentially('1.4', { delay: 30 });
    expect(await out.inputValue()).toBe('1.4');
    await out.press('Tab');
    expect((await montageOf(page)).clips[0]!.out).toBeCloseTo(1.4, 9);
    // Nothing that is half typed counts, and what is no time changes nothing.
    await out.fill('soon');
    expect(await out.getAttribute('aria-invalid')).toBe('true');
    await out.press('Tab');
    expect((await montageOf(page)).clips[0]!.out).toBeCloseTo(1.4, 9);
    await out.fill('14');
    await out.press('Enter');
    expect((await montageOf(page)).clips[0]!.out).toBeCloseTo(14 / 30, 9);
    await out.fill('00:00:01:00');
    await out.press('Enter');
    expect((await montageOf(page)).clips[0]!.out).toBeCloseTo(1, 9);
    await page.close();
  });

  it('says nothing false after an import', async () => {
    const page = await fresh();
    await bring(page, fixture('hits.mp4'));
    await page.getByText(/hits.mp4 is in/).waitFor();
    await page.locator('[data-stage][data-shown="0"]').waitFor();
    await saved(page);
    expect(await page.locator('[data-tone="error"]').count()).toBe(0);
    // H twice on one frame is one hit.
    await page.keyboard.press('h');
    await page.keyboard.press('h');
    expect((await montageOf(page)).hits).toHaveLength(1);
    await page.close();
  });
});

describe('a killed worker', () => {
  it('of the preview is started again, and the picture comes back', async () => {
    const page = await fresh();
    await bring(page, fixture('hits.mp4'));
    await page.getByText(/hits.mp4 is in/).waitFor();
    expect(await kill(page, 'frame-server')).toBe(1);
    await page.getByText('The preview had stopped and was started again').waitFor();
    await page.locator('[data-stage]').waitFor();
    await expect
      .poll(() =>
        page.evaluate(
          () =>
            (window as unknown as { allWorkers: { name: string }[] }).allWorkers.filter(({ name }) =>
              name.includes('frame-server'),
            ).length,
        ),
      )
      .toBe(2);
    await station(page, 'Check');
    await page.keyboard.press('ArrowRight');
    await expect
      .poll(() =>
        page.locator('[data-stage]').evaluate((canvas: HTMLCanvasElement) => {
          const copy = new OffscreenCanvas(8, 8).getContext('2d')!;
          copy.drawImage(canvas, 0, 0, 8, 8);
          return copy.getImageData(0, 0, 8, 8).data.some((v, i) => i % 4 < 3 && v > 0);
        }),
      )
      .toBe(true);
    await page.close();
  });

  it('of an analysis ends it with a sentence, and it can be taken up again', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await page.getByRole('button', { name: 'Find hits' }).click();
    await page.locator('[data-job-share]:not([data-job-share="0"]):not([data-job-share=""])').first().waitFor();
    expect(await kill(page, 'analyse')).toBeGreaterThan(0);
    await page.getByText(/stopped unexpectedly/).waitFor();
    await page.getByRole('button', { name: /Find hits|Resume finding/ }).click();
    await page.getByRole('button', { name: /^Keep all \d/ }).waitFor({ timeout: 120_000 });
    await page.close();
  });

  it('of an export ends it with a sentence and no file', async () => {
    const page = await bench.page();
    await page.goto(`${bench.origin}/demo-montage`);
    await station(page, 'Export');
    await page.getByRole('button', { name: 'Export MP4' }).click();
    await page.locator('[data-job-share]:not([data-job-share="0"]):not([data-job-share=""])').first().waitFor();
    await kill(page, 'export');
    await page.getByText(/Export stopped: .*stopped unexpectedly/).waitFor();
    await page.getByRole('button', { name: 'Export MP4' }).waitFor();
    expect((await filesIn(page)).filter((name) => name.startsWith('results/'))).toEqual([]);
    // A cancelled analysis is not a complete one.
    await page.close();
  });

  it('a cancelled analysis goes on where it was left', async () => {
    const page = await fresh();
    await bring(page, fixture('three-hours.mkv'));
    await page.getByText(/three-hours.mkv is in/).waitFor();
    await page.getByRole('button', { name: 'Find hits' }).click();
    // It has said how far it is.
    await page.locator('[data-job-share]:not([data-job-share=""])').first().waitFor();
    await page.getByRole('button', { name: 'Cancel', exact: true }).click();
    await page.getByRole('button', { name: /Find hits|Resume finding/ }).waitFor();
    expect(await page.getByRole('button', { name: 'Check the hits' }).count()).toBe(0);
    await page.close();
  });

  it('two exports in two tabs leave each other alone', async () => {
    const exported = async (): Promise<Page> => {
      const page = await fresh();
      await bring(page, fixture('hits.mp4'));
      await page.getByText(/hits.mp4 is in/).waitFor();
      await station(page, 'Export');
      await page.getByRole('button', { name: 'Export MP4' }).click();
      await page.getByRole('link', { name: /^Save / }).waitFor({ timeout: 60_000 });
      return page;
    };
    const one = await exported();
    const two = await exported();
    expect((await filesIn(one)).filter((name) => name.startsWith('results/'))).toHaveLength(2);
    await one.getByRole('link', { name: /^Save / }).waitFor();
    await one.close();
    await two.close();
  });
});

/** How often a browser is killed: twenty times and more by hand, less often in every run. */
const KILLS = Number(process.env['AKMEON_KILLS'] ?? 6);

describe('a killed browser', () => {
  it(
    'many of them, in the middle of import, analysis and export, lose no edit and leave no orphan',
    { timeout: 400_000 },
    async () => {
      const profile = await mkdtemp(join(tmpdir(), 'akmeon-killed-'));
      const launch = () =>
        chromium.launchPersistentContext(profile, {
          executablePath: findChromium()!,
          args: CHROMIUM_FLAGS,
          viewport: { width: 1280, height: 800 },
        });
      let id = '';
      let last = '';
      for (let round = 0; round < KILLS; round++) {
        const context = await launch();
        await context.addInitScript(() => Reflect.deleteProperty(window, 'showOpenFilePicker'));
        const page = context.pages()[0] ?? (await context.newPage());
        if (!id) {
          await page.goto(`${bench.origin}/`);
          await page.getByRole('button', { name: 'New montage', exact: true }).click();
          await page.getByText('Drop footage, pictures and music here').waitFor();
          id = idOf(page);
        } else {
          await page.goto(`${bench.origin}/montage/${id}/bring-in`);
          await expect.poll(() => page.getByLabel('Name of the montage').inputValue()).toBe(last);
        }
        last = `Round ${round}`;
        await page.getByLabel('Name of the montage').fill(last);
        await saved(page);
        if (round % 3 === 0) {
          await bring(page, fixture(['hits.mp4', 'numbered.mp4', 'ntsc.mp4', 'vp8.webm'][(round / 3) % 4]!));
          await page.waitForTimeout(40 * round);
        } else if (round % 3 === 1) {
          await page
            .getByRole('button', { name: /Find hits|Check the hits|Resume finding/ })
            .click({ timeout: 2000 })
            .catch(() => undefined);
          await page.waitForTimeout(30 * round);
        } else {
          await station(page, 'Export');
          await page
            .getByRole('button', { name: 'Export MP4' })
            .click({ timeout: 2000 })
            .catch(() => undefined);
          await page.waitForTimeout(40 * round);
        }
        // All of its processes at once, as a crash or a power cut does.
        spawnSync('pkill', ['-9', '-f', profile]);
        await context.close().catch(() => undefined);
      }
      const context = await launch();
      const page = context.pages()[0] ?? (await context.newPage());
      await page.goto(`${bench.origin}/montage/${id}/bring-in`);
      await expect.poll(() => page.getByLabel('Name of the montage').inputValue()).toBe(last);
      const [entry] = (await storedIn(page)).filter((one) => one.id === id);
      const sources = (entry!.montage as unknown as { sources: { fingerprint: string }[] }).sources.map(
        ({ fingerprint }) => `media/${fingerprint}`,
      );
      // Only whole copies of what the montage uses, and nothing half written.
      for (const name of await filesIn(page)) expect(sources).toContain(name);
      await context.close();
      await rm(profile, { recursive: true, force: true });
    },
  );
});

it('nothing went wrong on the way but what was made to', () =>
  expect(bench.troubles.filter((text) => !/ERR_|terminate/.test(text))).toEqual([]));
