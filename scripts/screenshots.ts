/** Takes the pictures of docs/screenshots from the demo: `npm run screenshots [-- FOLDER]`. */
import { mkdir } from 'node:fs/promises';
import type { AddressInfo } from 'node:net';
import { fileURLToPath } from 'node:url';
import { chromium } from 'playwright-core';
import { CHROMIUM_FLAGS, findChromium } from '../src/cli/browser.ts';
import { createApp } from '../src/server/app.ts';

const at = (path: string): string => fileURLToPath(new URL(`../${path}`, import.meta.url));
const folder = process.argv[2] ?? at('docs/screenshots');
await mkdir(folder, { recursive: true });
const server = createApp({ dist: at('dist'), demo: at('demo') }).listen(0, '127.0.0.1');
const browser = await chromium.launch({ executablePath: findChromium()!, args: CHROMIUM_FLAGS });
const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
page.on('console', (message) => message.type() === 'error' && console.error('console:', message.text()));
page.on('pageerror', (error) => console.error('page:', error.message));
const shot = async (name: string): Promise<void> => {
  await page.waitForTimeout(2500);
  await page.screenshot({ path: `${folder}/${name}.png` });
};
await page.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}/demo-montage`);
await page.getByRole('button', { name: 'Find hits' }).waitFor();
await shot('bring-in');
await page.getByRole('button', { name: 'Find hits' }).click();
await page.locator('[data-family]').first().waitFor({ timeout: 120_000 });
await page.waitForTimeout(3000);
await page.locator('[data-family] [data-frame]').first().click();
await shot('families');
await page.getByRole('link', { name: 'Bring in', exact: true }).click();
await page.getByRole('button', { name: 'Gather…' }).click();
await page.getByLabel('Seconds before').fill('0.5');
await page.getByLabel('Seconds after').fill('0.6');
await page.getByLabel('hits on beats of the music').check();
await shot('gather');
await page.getByRole('button', { name: 'Leave it', exact: true }).click();
await page.getByRole('link', { name: 'Check', exact: true }).click();
await page.getByRole('tab', { name: 'Frames' }).click();
await page.locator('[data-card]').nth(4).hover();
await shot('frames');
await page.getByRole('link', { name: 'Bring in', exact: true }).click();
await page.getByLabel('Add the format 9:16').click();
await page.getByRole('button', { name: 'Propose' }).click();
await page.getByText(/A focus was found/).waitFor({ timeout: 60_000 });
await page.getByRole('slider', { name: 'Playhead' }).focus();
for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowDown');
await page.getByLabel('Name of format 1').scrollIntoViewIfNeeded();
await shot('formats');
await page.getByLabel('Remove format 1').click();
await page.getByRole('link', { name: 'Check', exact: true }).click();
await page.getByRole('tab', { name: 'Hits' }).click();
for (let i = 0; i < 5; i++) await page.keyboard.press('ArrowDown');
await shot('check');
await page.getByRole('tab', { name: 'Finding' }).click();
await shot('finding');
await page.getByRole('tab', { name: 'Hits' }).click();
await page.keyboard.press('l');
await page.getByRole('button', { name: 'Watch for what shows here' }).click();
await page.locator('[aria-label="Playhead"]').focus();
// A frame that shows the tag line, and the part of it that stays the same.
await page.evaluate(() => undefined);
const stage = (await page.locator('[data-stage]').boundingBox())!;
const point = (x: number, y: number): [number, number] => [
  stage.x + (x / 960) * stage.width,
  stage.y + (y / 540) * stage.height,
];
await page.keyboard.press('Home');
await page.mouse.move(...point(720, 28));
await page.mouse.down();
await page.mouse.move(...point(834, 62), { steps: 4 });
await page.mouse.up();
await page.locator('[data-watch]').waitFor();
await page.waitForTimeout(6000);
await shot('seek');
await page.getByRole('tab', { name: 'Hits' }).click();
await page.getByRole('button', { name: /^Keep all \d/ }).click();
await page.getByRole('link', { name: 'Shape' }).click();
await page.getByRole('button', { name: /Lantern burst/ }).click();
await page.getByRole('button', { name: 'Go to frame 1 of the accent' }).click();
await page.waitForTimeout(4000);
await shot('shape');
await page.getByRole('gridcell', { name: /Punch Zoom at 0/ }).focus();
await page.getByRole('tab', { name: 'Row' }).click();
await shot('row');
await page.getByRole('button', { name: /Red sluice/ }).click();
await page.getByRole('tab', { name: 'Region' }).click();
await page.getByRole('button', { name: 'Ellipse' }).click();
await page.getByRole('button', { name: 'Invert shape 1' }).click();
await page.getByRole('button', { name: 'Go to frame 3 of the accent' }).click();
await page.waitForTimeout(4000);
await shot('region');
await page
  .getByRole('button', { name: /Lantern burst/ })
  .first()
  .click();
await page.getByRole('tab', { name: 'Sound', exact: true }).click();
await page.getByRole('button', { name: 'Add a sound' }).click();
await page.waitForTimeout(4000);
await shot('sound');
await page.getByRole('tab', { name: 'Library' }).click();
await page.waitForTimeout(12_000);
await shot('library');
await page.getByRole('link', { name: 'Spread' }).click();
await page.waitForTimeout(5000);
await shot('spread');
await page.getByRole('button', { name: 'Add a title' }).click();
await page.getByLabel('Text of title 1', { exact: true }).fill('BOLT {n}');
await page.getByLabel('Where title 1 is seen').selectOption('each');
await page.getByRole('link', { name: 'Export' }).click();
await page.getByRole('button', { name: 'Measure' }).click();
await page.locator('[data-levels]').waitFor({ timeout: 60_000 });
await page.getByRole('slider', { name: 'Playhead' }).focus();
await page.keyboard.press('ArrowDown');
for (let i = 0; i < 10; i++) await page.keyboard.press('ArrowRight');
await page.getByRole('region', { name: 'Levels' }).scrollIntoViewIfNeeded();
await shot('export');
await page.getByRole('link', { name: 'Shape' }).click();
await page
  .getByRole('button', { name: /Lantern burst/ })
  .first()
  .click();
await page.getByRole('tab', { name: 'Timing' }).click();
await page.getByRole('button', { name: 'Slow it' }).click();
await page.getByRole('combobox', { name: 'Its sound' }).scrollIntoViewIfNeeded();
await page.waitForTimeout(5000);
await shot('speed');
await page.getByRole('button', { name: 'As recorded again' }).click();
await page.getByRole('link', { name: 'Bring in' }).click();
await page.getByRole('button', { name: 'Land…' }).click();
await page.waitForTimeout(1500);
await shot('land');
await page.getByRole('button', { name: 'Cancel' }).click();
await page.keyboard.press('Control+j');
await shot('commands');
await page.keyboard.press('Escape');
await page.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`);
await shot('home');
await browser.close();
server.close();
server.closeAllConnections();
