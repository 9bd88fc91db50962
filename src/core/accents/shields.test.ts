import { describe, expect, it } from 'vitest';
import { EFFECTS } from '../../effects/index.ts';
import { cardYuv, picture } from '../../engine/testkit/stacks.ts';
import { LanesRenderer } from '../../engine/render/lanes/lanes-renderer.ts';
import { decideAll } from '../document/edits.ts';
import { applyProfile, profileOf } from '../document/profile.ts';
import { DEFAULT_TITLE, type Montage, type Shield } from '../document/types.ts';
import { hit, punchAccent, shotRule, twoClips } from '../testkit/montages.ts';
import { mediaIndex } from '../timeline/timeline.ts';
import { planner, type FramePlan } from './plan.ts';
import { shieldMasks } from './shields.ts';

const FEED: Shield = { id: 'f', region: { x: 0.7, y: 0.05, w: 0.25, h: 0.2 }, soft: 0.02 };
const montage = (shields: readonly Shield[], over = false): Montage =>
  decideAll(
    [hit('h', 'one', 1.5)],
    'kept',
  )({
    ...twoClips(),
    sources: twoClips().sources.map((source) => ({ ...source, ...(shields.length && { shields }) })),
    accents: [{ ...punchAccent(), ...(over && { overShields: true }) }],
    rules: [shotRule()],
  });
const planOf = (m: Montage, frame: number): FramePlan => planner(m, mediaIndex(m.sources), EFFECTS).at(frame);

describe('a shield', () => {
  const [WIDTH, HEIGHT] = [320, 180];
  const renderer = new LanesRenderer(null);
  const drawn = (plan: FramePlan): Uint8ClampedArray => {
    const card = picture(cardYuv(WIDTH, HEIGHT));
    return renderer.read({ picture: card, others: plan.others.map(() => card), passes: plan.passes }, WIDTH, HEIGHT);
  };
  const differs = (a: Uint8ClampedArray, b: Uint8ClampedArray, x: number, y: number): number => {
    const at = 4 * (Math.round(y * HEIGHT) * WIDTH + Math.round(x * WIDTH));
    return Math.max(...[0, 1, 2].map((c) => Math.abs(a[at + c]! - b[at + c]!)));
  };

  it('shows the picture as it is under a hard accent, in its place and size, and nothing else does', () => {
    const plain = drawn({ ...planOf(montage([]), 15), passes: [] });
    const hard = drawn(planOf(montage([]), 15));
    const shielded = drawn(planOf(montage([FEED]), 15));
    let [inside, changed] = [0, 0];
    for (let i = 1; i < 20; i++)
      for (let j = 1; j < 10; j++) {
        const [x, y] = [0.72 + (0.21 * i) / 20, 0.08 + (0.14 * j) / 10];
        inside = Math.max(inside, differs(plain, shielded, x, y));
        changed = Math.max(changed, differs(plain, hard, x, y));
      }
    expect(changed).toBeGreaterThan(5);
    // Dithering moves a value by half a step.
    expect(inside).toBeLessThanOrEqual(1);
    for (const [x, y] of [
      [0.3, 0.3],
      [0.6, 0.15],
      [0.8, 0.4],
    ] as const)
      expect(differs(hard, shielded, x, y)).toBe(0);
  });

  it('may have any outline: beside it the accent acts, within the same rectangle, too', () => {
    const { x, y, w, h } = FEED.region;
    const triangle: Shield = {
      ...FEED,
      soft: 0.005,
      path: [
        { x, y },
        { x: x + w, y },
        { x, y: y + h },
      ],
    };
    const [plain, hard, shielded] = [
      drawn({ ...planOf(montage([]), 15), passes: [] }),
      drawn(planOf(montage([]), 15)),
      drawn(planOf(montage([triangle]), 15)),
    ];
    let changed = 0;
    for (let i = 1; i < 12; i++)
      for (let j = 1; j < 12 - i; j++) {
        const [px, py] = [x + (w * i) / 14, y + (h * j) / 14];
        expect(differs(plain, shielded, px, py)).toBeLessThanOrEqual(1);
        changed = Math.max(changed, differs(plain, hard, px, py));
        expect(differs(hard, shielded, x + w - (w * i) / 14, y + h - (h * j) / 14)).toBe(0);
      }
    expect(changed).toBeGreaterThan(5);
  });

  it('is asked for only where an accent acts, and not by accents that act on it, too', () => {
    expect(planOf(montage([FEED]), 25).passes).toEqual([]);
    expect(planOf(montage([FEED]), 15).passes.map(({ effect }) => effect)).toEqual(['punch', 'overlay']);
    expect(planOf(montage([FEED], true), 15).passes.map(({ effect }) => effect)).toEqual(['punch']);
  });

  it('lies where its picture does: cut at its middle, with bars, in another shape; many take several passes', () => {
    const box = (fit: 'fit' | 'fill', out: number) => shieldMasks([FEED], { fit }, 16 / 9, out)[0]![0]!.box;
    // In its own shape: its middle is at 0.825 and 0.15.
    expect(box('fit', 16 / 9)).toEqual(
      [(0.825 - 0.5) * (16 / 9), -0.35, 0.125 * (16 / 9), 0.1].map((v) => expect.closeTo(v, 9) as number),
    );
    // Upright and whole, it is as small as the picture between its bars.
    expect(box('fit', 9 / 16)[3]).toBeCloseTo(0.1 * (9 / 16) ** 2, 9);
    // Filled, what is beside the output lies beside it.
    expect(box('fill', 9 / 16)[0]).toBeGreaterThan(9 / 32);
    expect(
      shieldMasks(
        Array.from({ length: 9 }, () => FEED),
        { fit: 'fit' },
        1,
        1,
      ).map((mask) => mask.length),
    ).toEqual([4, 4, 1]);
  });

  it('is kept in the profile of its game', () => {
    const m = montage([FEED]);
    const profile = profileOf('Harbour', m, m.sources[0]!);
    expect(applyProfile(twoClips(), 'one', profile).sources[0]!.shields).toEqual([FEED]);
  });
});

describe('what a frame is made of', () => {
  const m: Montage = {
    ...montage([FEED]),
    titles: [{ ...DEFAULT_TITLE, id: 't', text: 'Harbour' }],
    beds: [
      { id: 'low', accent: punchAccent().id, stretch: { kind: 'all' }, on: true, above: false, intensity: 1, seed: 1 },
      { id: 'high', accent: punchAccent().id, stretch: { kind: 'all' }, on: true, above: true, intensity: 1, seed: 1 },
    ],
  };
  const plans = planner(m, mediaIndex(m.sources), EFFECTS);
  const ids = (frame: number): string[] => plans.layersAt(frame).map(({ id }) => id);

  it('is told from the top to the bottom, and only what is there', () => {
    const accent = `accent:${punchAccent().id}`;
    expect(ids(15)).toEqual(['title:t', 'shields', 'bed:high', accent, 'bed:low', 'clip']);
    expect(ids(45)).not.toContain(accent);
    expect(plans.layersAt(15).at(-1)!.name).toBe(m.sources[0]!.name);
    expect(ids(100_000)).toEqual([]);
  });

  it('is left out one by one for looking, and is as before without that', () => {
    const all = plans.at(15);
    const without = (...hidden: string[]) => plans.at(15, { hidden });
    expect(without('title:t').titles).toEqual([]);
    expect(without('shields').passes.length).toBeLessThan(all.passes.length);
    expect(JSON.stringify(without(`accent:${punchAccent().id}`).passes)).not.toBe(JSON.stringify(all.passes));
    expect(without(...ids(15)).passes).toEqual([]);
    expect(without('bed:gone')).toEqual(all);
  });
});
