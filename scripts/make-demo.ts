/** Makes the demo's media and montage anew: `npm run demo`. The results are committed. */
import { build } from 'esbuild';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { createHash } from 'node:crypto';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { chromium } from 'playwright-core';
import { CHROMIUM_FLAGS, findChromium } from '../src/cli/browser.ts';
import { writeMontage } from '../src/core/document/akmeon.ts';
import { addRule, addSource, decideAll } from '../src/core/document/edits.ts';
import {
  DEFAULT_RULE,
  emptyMontage,
  DEFAULT_GRID,
  type Hit,
  type Montage,
  type Source,
} from '../src/core/document/types.ts';
import { STARTER_ACCENTS } from '../src/effects/starters.ts';
import { HEIGHT, LANTERN_DRIFT, MUSIC, RAMPART_RALLY, RATE, SOUND_RATE, WIDTH, type DemoEvent } from './demo/events.ts';
import { withLayers } from './demo/layers.ts';

const folder = new URL('../demo/', import.meta.url);
await mkdir(folder, { recursive: true });

if (!process.argv.includes('--montage-only')) {
  const page = await build({
    entryPoints: ['scripts/demo/page.ts'],
    bundle: true,
    write: false,
    format: 'esm',
    target: 'es2023',
  });
  const server = createServer((request, response) => {
    if (request.url === '/page.js')
      response.setHeader('Content-Type', 'text/javascript').end(page.outputFiles[0]!.text);
    else
      response
        .setHeader('Content-Type', 'text/html')
        .end('<!doctype html><script type="module" src="/page.js"></script>');
  }).listen(0, '127.0.0.1');
  const browser = await chromium.launch({ executablePath: findChromium()!, args: CHROMIUM_FLAGS });
  const tab = await browser.newPage();
  await tab.goto(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`);
  await tab.waitForFunction('Boolean(window.makeDemo)');
  for (const [which, file] of [
    ['lantern', LANTERN_DRIFT.file],
    ['rally', RAMPART_RALLY.file],
    ['music', MUSIC.file],
  ] as const) {
    const bytes = Buffer.from(await tab.evaluate((name) => window.makeDemo(name), which), 'base64');
    await writeFile(new URL(file, folder), bytes);
    console.log(file, bytes.length);
  }
  await browser.close();
  server.close();
}

/** The same fingerprint as engine/media/fingerprint.ts. */
async function fingerprint(file: string): Promise<{ print: string; size: number }> {
  const bytes = await readFile(new URL(file, folder));
  const part = 1 << 20;
  const hash = createHash('sha256').update(`${bytes.length}:`);
  for (const at of [0, Math.floor(bytes.length / 2), Math.max(0, bytes.length - part)])
    hash.update(bytes.subarray(at, at + part));
  return { print: hash.digest('hex'), size: bytes.length };
}

const sound = { channels: 2, sampleRate: SOUND_RATE, name: '', readable: true };
async function film(
  id: string,
  { file, frames }: { file: string; frames: number },
  content: Source['content'],
): Promise<Source> {
  const { print, size } = await fingerprint(file);
  return {
    id,
    name: file,
    role: 'footage',
    fingerprint: print,
    size,
    duration: frames / RATE,
    video: {
      width: WIDTH,
      height: HEIGHT,
      rotation: 0,
      codec: 'avc',
      rate: { num: RATE, den: 1 },
      count: frames,
      first: 0,
      variable: false,
    },
    audio: [{ ...sound, codec: 'aac' }],
    listen: 0,
    tracks: ['game'],
    delay: null,
    grid: DEFAULT_GRID,
    content,
  };
}

const { print, size } = await fingerprint(MUSIC.file);
const tune: Source = {
  id: 'low-tide',
  name: MUSIC.file,
  role: 'music',
  fingerprint: print,
  size,
  duration: MUSIC.seconds,
  video: null,
  audio: [{ ...sound, codec: 'opus' }],
  listen: 0,
  tracks: ['music'],
  delay: null,
  grid: DEFAULT_GRID,
  content: 'unsaid',
};

// The first half of each is decided; the rest is left to find and check.
const decided = (source: string, events: readonly DemoEvent[], kind: 'shot' | 'impact', until: number): Hit[] =>
  events
    .filter((e) => e.kind === kind && e.frame < until)
    .map((e) => ({
      id: `${source}-${e.frame}`,
      source,
      t: e.frame / RATE,
      kind,
      strength: e.strength,
      confidence: 1,
      evidence: [{ detector: kind === 'shot' ? 'flash' : 'onset', t: e.frame / RATE, strength: e.strength }],
      state: 'kept',
    }));

let montage: Montage = emptyMontage('harbour-nights', 'Harbour Nights');
for (const edit of [
  addSource(await film('lantern-drift', LANTERN_DRIFT, 'firearms'), 'clip-lantern'),
  addSource(await film('rampart-rally', RAMPART_RALLY, 'ball'), 'clip-rally'),
  addSource(tune, 'tune'),
  decideAll(decided('lantern-drift', LANTERN_DRIFT.events, 'shot', 180), 'kept'),
  decideAll(decided('rampart-rally', RAMPART_RALLY.events, 'impact', 100), 'kept'),
  addRule({
    ...DEFAULT_RULE,
    id: 'bolts',
    accents: [{ accent: 'lantern-burst', weight: 1 }],
    kinds: ['shot'],
    seed: 5,
  }),
])
  montage = edit(montage);
/** What lies ready in the demo; the others are in the library. */
const READY = ['harbour-knock', 'lantern-burst', 'splinter', 'pier-ram', 'red-sluice', 'wire-wake'];
montage = withLayers({
  ...montage,
  accents: STARTER_ACCENTS.filter((accent) => READY.includes(accent.id)),
  music: montage.music.map((item) => ({ ...item, gain: 0.7 })),
});
await writeFile(new URL('harbour-nights.akmeon', folder), writeMontage(montage));

const list = (events: readonly DemoEvent[]) =>
  events.map((e) => ({ ...e, t: Math.round((e.frame / RATE) * 1e6) / 1e6 }));
await writeFile(
  new URL('events.json', folder),
  `${JSON.stringify(
    {
      rate: RATE,
      [LANTERN_DRIFT.file]: list(LANTERN_DRIFT.events),
      [RAMPART_RALLY.file]: list(RAMPART_RALLY.events),
      [MUSIC.file]: { bpm: MUSIC.bpm, drop: MUSIC.drop },
    },
    null,
    1,
  )}\n`,
);
