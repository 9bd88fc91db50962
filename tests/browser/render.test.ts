import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { RegionShape } from '../../src/core/document/types.ts';
import { EFFECT_LIST } from '../../src/effects/index.ts';
import { STARTER_ACCENTS } from '../../src/effects/starters.ts';
import { CELLS, limited, shelf, type Stack } from '../../src/engine/testkit/stacks.ts';
import { ffmpeg, fixture, HAS_FFMPEG, startParts } from './harness.ts';

let bench: Awaited<ReturnType<typeof startParts>>;
beforeAll(async () => {
  bench = await startParts();
});
afterAll(() => bench.close());

const compare = (list: Stack, age = 1, seed = 7, width = 128, height = 72) =>
  bench.page.evaluate(([l, a, s, w, h]) => window.parts.compare('gpu', l, a, s, w, h), [
    list,
    age,
    seed,
    width,
    height,
  ] as const);

const drawn = EFFECT_LIST.filter((spec) => !spec.retime);

/** Copies that travel, and what blurs them. */
const SWEPT: Stack = [
  ['sweep', { opacity: 90, what: 0, size: 50, time: 8, trail: 2 }],
  ['soft', { radius: 2 }],
  ['shutter', { opening: 360 }],
];

describe('GLSL equals the CPU reference', () => {
  it.each(drawn.map((spec) => spec.id))('%s, at its shelf values with three seeds', async (id) => {
    for (const seed of [1, 2, 3]) {
      const { mean, p999, passes } = await compare(shelf(id), seed - 1, seed);
      expect(passes).toBeGreaterThan(0);
      expect(mean).toBeLessThan(2);
      if (!CELLS.has(id)) expect(p999).toBeLessThanOrEqual(8);
    }
  });

  it.each(drawn.filter((spec) => spec.id !== 'shutter').map((spec) => spec.id))(
    '%s, limited to a region',
    async (id) => {
      const { mean } = await compare(limited(id));
      expect(mean).toBeLessThan(2);
    },
  );

  it('all kinds of regions, inverted and combined', async () => {
    const path = [
      {
        at: 0,
        points: [
          { x: -40, y: -30, smooth: true },
          { x: 50, y: -20, smooth: false },
          { x: 30, y: 40, smooth: true },
          { x: -20, y: 10, smooth: false },
        ],
      },
    ];
    const shapes: RegionShape[][] = [
      [
        {
          id: 'a',
          kind: 'band',
          combine: 'add',
          invert: false,
          params: { w: 400, h: 30, turn: 12, softTop: 30, softBottom: 2 },
        },
      ],
      [{ id: 'a', kind: 'path', combine: 'add', invert: false, params: { soft: 10 }, path }],
      [
        { id: 'a', kind: 'path', combine: 'add', invert: true, params: { soft: 3, turn: 30 }, path },
        { id: 'b', kind: 'ellipse', combine: 'intersect', invert: false, params: { w: 120, h: 120 } },
      ],
      // Crossing itself: a bow tie, whose two halves are inside.
      [
        {
          id: 'a',
          kind: 'path',
          combine: 'add',
          invert: false,
          params: {},
          path: [
            {
              at: 0,
              points: [
                { x: -40, y: -30, smooth: false },
                { x: 40, y: 30, smooth: false },
                { x: 40, y: -30, smooth: false },
                { x: -40, y: 30, smooth: false },
              ],
            },
          ],
        },
      ],
      // Two points enclose nothing.
      [
        {
          id: 'a',
          kind: 'path',
          combine: 'add',
          invert: false,
          params: {},
          path: [
            {
              at: 0,
              points: [
                { x: -40, y: -30, smooth: false },
                { x: 40, y: 30, smooth: false },
              ],
            },
          ],
        },
      ],
    ];
    for (const region of shapes)
      for (const [effect, params] of [
        ['negative', { amount: 100 }],
        ['soft', { radius: 6 }],
      ] as const) {
        const { mean, p999 } = await compare([[effect, params, { region }]]);
        expect(mean, JSON.stringify(region)).toBeLessThan(1);
        expect(p999, JSON.stringify(region)).toBeLessThan(8);
      }
  });

  it.each(STARTER_ACCENTS.map((accent) => [accent.name, accent] as const))(
    'the starter accent %s on the hit and two frames later',
    async (_, accent) => {
      const list: Stack = accent.effects.map((use) => [use.effect, use.params, use]);
      for (const age of [0, 2]) {
        const { mean } = await compare(list, age, accent.seed);
        expect(mean).toBeLessThan(2);
      }
    },
  );

  it('also at far values, with choices, and in a stack of many', async () => {
    for (const stack of [
      [['punch', { zoom: 55, roll: 33, focusX: 40, focusY: -20 }]],
      [['split', { amount: -8, mode: 0, angle: 130 }]],
      [['split', { amount: 9, mode: 1, invert: 1, centreX: 30 }]],
      [['split', { amount: 6, mode: 2, smear: 1 }]],
      [['flash', { exposure: -3, mix: 40, red: 80, green: 20 }]],
      [['flash', { exposure: 3, adapt: 100 }]],
      [['shake', { x: 40, y: 30, depth: 20, roll: 20, mode: 2 }]],
      [['soft', { radius: 60 }]],
      [['wave', { amount: 9, form: 3 }]],
      [
        [
          'trail',
          { opacity: 80, count: 8, every: 3, blend: 6, x: 4, scale: 90 },
          { stack: [{ id: 't', effect: 'soft', version: 1, on: true, params: { radius: 3 } }] },
        ],
      ],
      [['slide', { x: 150, edge: 0 }]],
      [['slide', { x: 30, y: -20, edge: 2 }]],
      [['curves', { red0: 30, blue100: 60, master50: 70 }]],
      [
        ['punch', { zoom: 130 }],
        ['shake', { x: 5 }],
        ['flash', { exposure: 1 }],
        ['split', { amount: 2 }],
        ['blocks', { amountX: 10 }],
        ['glow', { gain: 100 }],
        ['tear', { amount: 5 }],
        ['saturation', { amount: 40 }],
      ],
      [
        ['punch', { zoom: { base: 110, by: { kind: 'noise', amount: 8, rate: 9, rough: 0.4 } } }],
        ['rattle', { amount: { base: 0, by: { kind: 'cadence', values: [6, null, -6], every: 1, once: false } } }],
        ['tint', { amount: { base: 0, by: { kind: 'gate', amount: 80, period: 2, open: 1, chance: 60 } } }],
      ],
      [
        ['shake', { x: 12, roll: 8 }],
        ['swim', { amount: 4 }],
        ['shutter', { opening: 720 }],
        ['vignette', { amount: 60 }],
      ],
      SWEPT,
    ] as Stack[]) {
      const { mean } = await compare(stack);
      expect(mean, JSON.stringify(stack)).toBeLessThan(2);
    }
  });
});

describe('the two renderers agree', () => {
  it('on copies under an open shutter', async () => {
    const { mean, p999 } = await bench.page.evaluate((list) => window.parts.between(list), SWEPT);
    expect(mean).toBeLessThan(0.5);
    expect(p999).toBeLessThanOrEqual(2);
  });

  it.each(drawn.map((spec) => spec.id))('%s', async (id) => {
    const { mean, p999 } = await bench.page.evaluate((list) => window.parts.between(list), shelf(id));
    expect(mean).toBeLessThan(0.5);
    if (!CELLS.has(id)) expect(p999).toBeLessThanOrEqual(2);
  });
});

describe('precision', () => {
  it('keeps the local mean of a smooth ramp within a quarter of a step of eight bits', async () => {
    expect(await bench.page.evaluate(() => window.parts.ramp())).toBeLessThan(0.25);
  });

  // The exact Gaussian is summed in double precision over five standard deviations; a radius is two of them.
  it.each([
    [2, 1],
    [6, 1],
    [8.1, 1],
    [9, 1],
    [12, 1],
    [15, 1],
    [16, 2],
    [17, 2],
    [40, 2],
    [90, 2],
    [128, 2],
  ])('blurs a point and a step of %i pixels radius within %i/255 of the exact Gaussian', async (radius, limit) => {
    for (const shape of ['point', 'step'] as const) {
      expect(
        await bench.page.evaluate(([s, r]) => window.parts.blur(s, r), [shape, radius] as const),
        shape,
      ).toBeLessThan(limit);
    }
  });

  // Noise and cells fall on other pixels at another size; what they do to the mean of a place is the same.
  it.each(drawn.map((spec) => spec.id))('%s looks the same at 640x360 and at 1920x1080', async (id) => {
    const { mean } = await bench.page.evaluate((l) => window.parts.sizes([...l]), shelf(id));
    expect(mean).toBeLessThan(2);
  });
});

describe('renderer', () => {
  it('keeps the colours of an untouched frame: mean error at most 1/255, in every matrix and range', async () => {
    for (const matrix of ['bt709', 'bt601', 'bt2020'] as const)
      for (const fullRange of [false, true]) {
        const { mean, p999 } = await bench.page.evaluate((c) => window.parts.roundTrip(c), { matrix, fullRange });
        expect(mean).toBeLessThan(1);
        expect(p999).toBeLessThan(4);
      }
  });

  it.each([
    [64, 36],
    [72, 2],
    [190, 106],
    [1280, 720],
  ])('hands frames of %i by %i to the encoder as the plain conversion does, to the byte', async (width, height) => {
    for (const kind of ['gpu', 'cpu'] as const)
      expect(
        await bench.page.evaluate(([k, l, w, h]) => window.parts.planes(k, l, w, h), [
          kind,
          [...shelf('shake')],
          width,
          height,
        ] as const),
      ).toBe(0);
  });

  it('shows on the canvas what it reads back, pixel by pixel, in half-float precision', async () => {
    const result = await bench.page.evaluate(() =>
      window.parts.screen([
        window.parts.resolve('punch', { zoom: 130, roll: 5 }),
        window.parts.resolve('split', { amount: 3 }),
      ]),
    );
    expect(result).toMatchObject({ max: 0, precision: 'half-float' });
  });

  it('recovers a lost context by itself', async () => {
    const result = await bench.page.evaluate(() => window.parts.lose([window.parts.resolve('punch', { zoom: 130 })]));
    expect(result).toMatchObject({ restored: 1, max: 0 });
  });

  it('says when a lost context does not come back, so that the processor takes over', async () => {
    expect(await bench.page.evaluate((url) => window.parts.lostForGood(url), bench.file(fixture('hits.mp4')))).toEqual([
      'graphics-lost',
    ]);
  });

  it("draws a loop once: its second round comes from kept frames, and a changed parameter draws its accent's frames alone", async () => {
    const { rounds, after } = await bench.page.evaluate(
      (url) => window.parts.loop(url),
      bench.file(fixture('hits.mp4')),
    );
    // Twenty frames; the accent lies on five of them.
    expect(rounds).toEqual([20, 0, 5, 0]);
    // A context lost in the middle of a loop takes the kept frames along; the next round draws them anew.
    // The one on screen is drawn at once when the context is back.
    expect(after[0]).toBe(19);
    expect(after[1]).toBe(0);
  });

  it('refuses a picture larger than the graphics unit draws, and says how large it may be', async () => {
    expect(await bench.page.evaluate(() => window.parts.tooLarge())).toMatch(
      /draws at most \d+ pixels a side; the picture asked for has 100000x36/,
    );
  });

  // ffmpeg turns the picture by itself as the file says, and knows ten bits: an independent reader.
  it.skipIf(!HAS_FFMPEG).each([
    ['rotated.mp4', 180, 320],
    ['ten-bit.webm', 160, 90],
  ])('shows %s upright and in its colours, as ffmpeg reads it', async (name, width, height) => {
    const mine = await bench.page.evaluate((url) => window.parts.meanColour(url, true), bench.file(fixture(name)));
    expect([mine.width, mine.height]).toEqual([width, height]);
    // Unlabelled footage is BT.709, as the browser plays it; ffmpeg would take BT.601.
    const theirs = ffmpeg(
      '-i',
      fixture(name),
      '-frames:v',
      '1',
      '-vf',
      'scale=in_color_matrix=bt709',
      '-f',
      'rawvideo',
      '-pix_fmt',
      'rgba',
      '-',
    );
    let sum = 0;
    for (let i = 0; i < theirs.length; i++) if (i % 4 < 3) sum += Math.abs(theirs[i]! - mine.bytes![i]!);
    expect(sum / (theirs.length * 0.75)).toBeLessThan(4);
  });

  it('shows BT.601, BT.709 and full-range material in the same right colour', async () => {
    // The colour coded into all three files by ffmpeg: 0xC83C28.
    for (const name of ['red-709.mp4', 'red-601.mp4', 'red-full.mp4', 'red-rgb.webm']) {
      const { mean } = await bench.page.evaluate(
        (url) => window.parts.meanColour(url),
        bench.file(new URL(`../fixtures/${name}`, import.meta.url).pathname),
      );
      [0xc8, 0x3c, 0x28].forEach((value, i) =>
        expect(Math.abs(mean[i]! - value), `${name} ${mean.join()}`).toBeLessThan(4),
      );
    }
  });
});

describe('what is left of a drawing that fails', () => {
  it('no textures, and the next one is drawn', async () => {
    const { failed, borrowed, fine } = await bench.page.evaluate(() => window.parts.failing());
    expect(failed).toBe(20);
    expect(borrowed).toBe(0);
    expect(fine).toBe(true);
  });

  it('of a table that comes over from another thread anew, one texture', async () => {
    expect(await bench.page.evaluate(() => window.parts.tablesUploaded(12))).toBeLessThanOrEqual(1);
  });
});
