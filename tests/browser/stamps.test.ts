/** Titles, shields and subjects in drawn pictures, by both renderers. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { withMattes } from '../../src/core/subject/pieces.ts';
import { fixture, startParts } from './harness.ts';

describe('a frame', () => {
  let parts: Awaited<ReturnType<typeof startParts>>;
  beforeAll(async () => {
    parts = await startParts();
  });
  afterAll(() => parts.close());
  const titled = (text: string) =>
    parts.page.evaluate(([url, words]) => window.parts.titled(url, words), [
      parts.file(fixture('hits.mp4')),
      text,
    ] as const);

  it('has its title where that is placed, in its colour, the same on both renderers; a shield holds on the unit, too', async () => {
    const { box, red, apart, moved, shielded } = await titled('HARBOUR');
    const [left, top, right, bottom] = box as [number, number, number, number];
    // In the middle across, 20 % of the height below the middle; letters are about 9 % high.
    expect(Math.abs((left + right) / 2 - 0.5)).toBeLessThan(0.01);
    expect(Math.abs((top + bottom) / 2 - 0.7)).toBeLessThan(0.02);
    expect(bottom - top).toBeGreaterThan(0.05);
    expect(bottom - top).toBeLessThan(0.1);
    expect(right - left).toBeGreaterThan(0.15);
    expect(red).toBeGreaterThan(150);
    expect(apart).toBeLessThanOrEqual(2);
    expect(moved).toBeGreaterThan(10);
    expect(shielded).toBeLessThanOrEqual(1);
  });

  it('takes other scripts, many lines, and more letters than it can hold', async () => {
    for (const text of ['Гавань', 'Λιμάνι', 'אבג', 'é̂̃', 'a\nb\nc', 'W'.repeat(10_000)]) {
      const { box, apart } = await titled(text);
      expect(box[2]! - box[0]!).toBeGreaterThan(0);
      expect(apart).toBeLessThanOrEqual(2);
    }
  });

  it('has its title within the safe area of a narrow version, in a place of its own there, or not, and then says so', async () => {
    const inTall = (change: object) =>
      parts.page.evaluate(([url, part]) => window.parts.titleInTall(url, part), [
        parts.file(fixture('hits.mp4')),
        change,
      ] as const);
    // Right of the middle in 16:9, far beyond the sides of 9:16.
    for (const change of [{ x: 60 }, { x: 70, align: 'left', size: 20 }, { x: -85, align: 'left', y: 48 }]) {
      const { left, top, right, bottom, whole } = await inTall(change);
      expect(right - left, JSON.stringify(change)).toBeGreaterThan(0.2);
      for (const [from, to] of [
        [left, right],
        [top, bottom],
      ] as const) {
        expect(from).toBeGreaterThanOrEqual(0.05 - 0.02);
        expect(to).toBeLessThanOrEqual(0.95 + 0.02);
      }
      expect(whole).toBe(true);
    }
    // A place of its own, in % of that version's height from its middle.
    const own = await inTall({ x: 60, places: { tall: { x: -10, y: -30, size: 4 } } });
    expect((own.left + own.right) / 2).toBeCloseTo(0.5 - 0.1 * (320 / 180), 1);
    expect((own.top + own.bottom) / 2).toBeCloseTo(0.2, 1);
    // Left where it is asked to be, it is said not to be whole.
    expect((await inTall({ x: 80, safe: false, align: 'left' })).whole).toBe(false);
  });

  it('keeps its subject whole while what is behind it slides and blurs, and the other way round, exported too', async () => {
    const kept = (acts: 'subject' | 'behind', effect: string, params: Record<string, number>) =>
      parts.page.evaluate(([url, ...rest]) => window.parts.subjectKept(url, ...rest), [
        parts.file(fixture('hits.mp4')),
        acts,
        effect,
        params,
      ] as const);
    const slid = await kept('behind', 'punch', { zoom: 140 });
    expect(slid.subject).toBeLessThanOrEqual(1);
    expect(slid.behind).toBeGreaterThan(10);
    expect(slid.apart).toBeLessThanOrEqual(2);
    // The mean over the box, of luma: what the encoder does to it.
    expect(slid.exported).toBeLessThan(6);
    const tinted = await kept('subject', 'negative', { amount: 100 });
    expect(tinted.behind).toBeLessThanOrEqual(1);
    expect(tinted.subject).toBeGreaterThan(60);
    expect(tinted.apart).toBeLessThanOrEqual(2);
  });

  it('is the source’s frame wherever an accent draws nothing, for each kind of matte', async () => {
    const corner = (x: number, y: number) => ({ x, y, smooth: false });
    const path = (does: 'adds' | 'takes' | 'keeps within') => ({
      id: does,
      does,
      keys: [{ t: 0, points: [corner(0.2, 0.25), corner(0.8, 0.2), corner(0.6, 0.8)] }],
    });
    const key = (change: object) => ({
      by: 'brightness' as const,
      low: 0.5,
      high: 1,
      red: 0.6,
      green: 0.5,
      blue: 0.3,
      near: 0.1,
      soft: 0.3,
      invert: false,
      ...change,
    });
    // Shares of all sizes, all over.
    const values = Uint8Array.from({ length: 14_400 }, (_, i) => (i * 7) % 256);
    const pieces = withMattes([], [{ t: 40 / 30, values }], { width: 160, height: 90 });
    const kinds = {
      brightness: { paths: [], key: key({}) },
      colour: { paths: [], key: key({ by: 'colour' }) },
      'all but a colour': { paths: [], key: key({ by: 'colour', invert: true }) },
      outline: { paths: [path('adds')] },
      'softer outline': { paths: [path('adds')], soft: 0.1, grow: 0.02 },
      'what an outline leaves of a key': { paths: [path('takes')], key: key({}) },
      brushed: { paths: [], brushed: { strokes: [], pieces } },
      people: { paths: [path('keeps within')], brushed: { strokes: [], pieces, people: true } },
    };
    for (const [kind, subject] of Object.entries(kinds))
      for (const acts of ['behind', 'subject'] as const) {
        const { gpu, cpu } = await parts.page.evaluate(([url, ...rest]) => window.parts.untouched(url, ...rest), [
          parts.file(fixture('hits.mp4')),
          { grow: 0, soft: 0, ...subject },
          acts,
        ] as const);
        expect(gpu.rest, `${kind}, ${acts}`).toBeLessThanOrEqual(1);
        expect(cpu.rest, `${kind}, ${acts}`).toBeLessThanOrEqual(1);
        if (acts === 'behind' && kind === 'brushed') expect(gpu.corner).toBeGreaterThan(1);
      }
  });
});
