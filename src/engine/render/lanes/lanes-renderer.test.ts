import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { FrameLayers } from '../../../core/accents/layers.ts';
import { hash } from '../../../core/base/hash.ts';
import { EFFECTS, EFFECT_LIST } from '../../../effects/index.ts';
import { STARTER_ACCENTS } from '../../../effects/starters.ts';
import {
  asDrawing,
  asUses,
  cardYuv,
  CELLS,
  compared,
  comparedPasses,
  limited,
  shelf,
  stackPasses,
  type Stack,
} from '../../testkit/stacks.ts';
import { BYTES_A_PIXEL } from '../../export/draw-pool.ts';
import { LanesRenderer } from './lanes-renderer.ts';

const renderer = new LanesRenderer(null);
/** Colours of a table end a value apart too. */
const apart = (id: string): boolean => CELLS.has(id) || id === 'lut';
const drawn = EFFECT_LIST.filter((spec) => !spec.retime).map((spec) => spec.id);

describe('effects on the processor equal the reference', () => {
  it.each(drawn)('%s, at its shelf values with three seeds', (id) => {
    for (const seed of [1, 2, 3]) {
      const { mean, p999, passes } = compared(renderer, shelf(id), seed - 1, seed);
      expect(passes).toBeGreaterThan(0);
      // Dithering moves each value by up to half a step.
      expect(mean).toBeLessThan(0.6);
      if (!apart(id)) expect(p999).toBeLessThanOrEqual(2);
    }
  });

  it.each(drawn.filter((id) => id !== 'shutter'))('%s, limited to a region', (id) => {
    expect(compared(renderer, limited(id)).mean).toBeLessThan(0.6);
  });

  it.each(STARTER_ACCENTS.map((accent) => [accent.name, accent] as const))('our accent %s', (_, accent) => {
    const list: Stack = accent.effects
      .filter((use) => !EFFECTS.get(use.effect)!.retime)
      .map((use) => [
        use.effect,
        use.params,
        { region: use.region, repeat: use.repeat, stack: use.stack, table: use.table },
      ]);
    for (const age of [0, 2]) expect(compared(renderer, list, age).mean).toBeLessThan(0.7);
  });
});

it.each(['dimmed', 'edge', 'checks', '#3fa9d0'] as const)(
  'a subject looked at, %s, is as the reference has it',
  (look) => {
    const layers = new FrameLayers(
      { sources: new Map(), media: new Map(), effects: EFFECTS, aspect: 16 / 9 },
      () => null,
      1,
    );
    const { passes } = layers.lookedAt({ source: 's', frame: 0, fit: 'fit' }, look)!;
    const shifts = layers.others.map((_, i) => 5 * (i + 1));
    const { mean, p999 } = comparedPasses(renderer, passes, shifts);
    expect(mean).toBeLessThan(0.6);
    // The line of an edge ends a pixel apart.
    if (look !== 'edge') expect(p999).toBeLessThanOrEqual(2);
  },
);

describe('a frame on the processor', () => {
  const stack: Stack = [
    ['punch', { zoom: 130, roll: 3 }],
    ['split', { amount: 2 }],
  ];
  it.each([
    [2, 2],
    [6, 4],
    [190, 106],
    [1280, 2],
  ])('of %i by %i is drawn', (width, height) =>
    expect(compared(renderer, stack, 1, 7, width, height).mean).toBeLessThan(0.6),
  );

  it('without a picture is black, and a broken uniform harms nothing', () => {
    const black = renderer.read({ picture: null, others: [], passes: [] }, 6, 4);
    expect([...black.subarray(0, 4)]).toEqual([0, 0, 0, 255]);
    const bad = asDrawing(
      [{ effect: 'punch', uniforms: { focus: [NaN, Infinity], turn: [NaN, 1e30] } }],
      cardYuv(64, 36),
    );
    expect(renderer.read(bad, 64, 36)).toHaveLength(64 * 36 * 4);
  });

  it('takes no more memory from frame to frame, and what threads are counted with at the most', () => {
    const [width, height] = [640, 360];
    const one = new LanesRenderer(null);
    const list = ['soft', 'glow', 'split', 'blocks', 'trail', 'punch', 'tear', 'vignette'].flatMap(shelf);
    const { passes, shifts } = stackPasses(asUses(list), 1, 7);
    const card = cardYuv(width, height);
    const drawing = asDrawing(
      passes,
      card,
      shifts.map(() => card),
    );
    one.read(drawing, width, height);
    const first = one.bytes;
    one.read(drawing, width, height);
    expect(one.bytes).toBe(first);
    expect(first / (width * height)).toBeLessThan(BYTES_A_PIXEL);
  });

  it('says when it is too large to be drawn', () => {
    expect(() => renderer.read(asDrawing([], cardYuv(64, 36)), 30000, 30000)).toThrow(/too large|memory/);
    expect(compared(renderer, stack).mean).toBeLessThan(0.6);
  });
});

describe('random stacks', () => {
  // What draws other frames or asks for them is in the tests above; cells end a pixel apart where rounding differs.
  const parts = drawn.filter((id) => !apart(id) && !EFFECTS.get(id)!.copies);
  it('of up to five effects at random values equal the reference', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.constantFrom(...parts), fc.integer({ min: 0, max: 2 ** 31 })), {
          minLength: 1,
          maxLength: 5,
        }),
        fc.integer({ min: 0, max: 5 }),
        (picks, age) => {
          const list: Stack = picks.map(([id, draw]) => {
            const { params, thumbnail } = EFFECTS.get(id)!;
            const values = Object.entries(params).map(([name, { min, max, default: usual, choices }], i) => {
              const share = (hash(draw, i) >>> 8) / 2 ** 24;
              const shown = thumbnail[name] ?? usual;
              // Within the usual reach: what is thrown far has edges that rounding moves.
              return [
                name,
                choices
                  ? Math.floor(share * choices.length)
                  : shown + (share - 0.5) * Math.min(max - min, Math.abs(shown) + 1) * 0.5,
              ] as const;
            });
            return [id, Object.fromEntries(values)];
          });
          const { mean } = compared(renderer, list, age, 3, 64, 36);
          return mean < 1.5;
        },
      ),
      { numRuns: 60, seed: 20_261_128 },
    );
  });
});
