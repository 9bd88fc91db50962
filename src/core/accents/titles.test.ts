import { describe, expect, it } from 'vitest';
import { EFFECTS } from '../../effects/index.ts';
import { laidOver, type Stamp } from '../../engine/render/stamps.ts';
import { decideAll } from '../document/edits.ts';
import { checkedMontage } from '../document/akmeon.ts';
import { DEFAULT_TITLE, type Montage, type Title } from '../document/types.ts';
import { hit, twoClips } from '../testkit/montages.ts';
import { mediaIndex } from '../timeline/timeline.ts';
import { planner } from './plan.ts';
import { clocked, missingLetters, type PlannedTitle } from './titles.ts';

const TITLE: Title = { ...DEFAULT_TITLE, id: 't', text: 'Hit {n} of {of}' };
const montage = (change: Partial<Title>, hits = [1.2, 1.5, 1.9]): Montage =>
  decideAll(
    hits.map((t, i) => hit(`h${i}`, 'one', t)),
    'kept',
  )({ ...twoClips(), titles: [{ ...TITLE, ...change }] });
const titlesOf = (change: Partial<Title>, hits?: number[]) => {
  const m = montage(change, hits);
  const plans = planner(m, mediaIndex(m.sources), EFFECTS);
  return (frame: number): readonly PlannedTitle[] => plans.at(frame).titles;
};
const each: Title['where'] = { kind: 'each', kinds: [], before: 0, after: 6 };

describe('a title', () => {
  it('that is pinned goes along with what was followed, by as much as that has gone, and nowhere else', () => {
    const track = [0, 1, 2].map((t) => ({ t: 1 + t / 2, x: 0.5 + t * 0.1, y: 0.5 - t * 0.05 }));
    const still = { text: 'Harbour', comes: 'cut', goes: 'cut', x: 10, y: 20 } as const;
    const at = titlesOf({ ...still, pin: { source: 'one', at: 1, track } });
    const m = montage(still);
    const aspect = m.settings.width / m.settings.height;
    const { line, plans } = { line: planner(m, mediaIndex(m.sources), EFFECTS).timeline, plans: titlesOf(still) };
    for (let frame = 0; frame < line.count; frame += 7) {
      const span = line.spanAt(frame)!;
      const t = mediaIndex(m.sources).get(span.clip.source)!.timeOf(line.sourceFrame(span, frame));
      const gone = span.clip.source === 'one' ? Math.min(2, Math.max(0, (t - 1) * 2)) : 0;
      expect(at(frame)[0]!.x - plans(frame)[0]!.x).toBeCloseTo(gone * 0.1 * aspect, 6);
      expect(at(frame)[0]!.y - plans(frame)[0]!.y).toBeCloseTo(gone * -0.05, 6);
    }
  });

  it('is on every frame of its stretch, over all else, and adds no pass', () => {
    const at = titlesOf({ text: 'Harbour', comes: 'cut', goes: 'cut' });
    for (const frame of [0, 30, 59]) expect(at(frame)).toMatchObject([{ text: 'Harbour', opacity: 1, size: 0.09 }]);
    const m = montage({});
    expect(planner(m, mediaIndex(m.sources), EFFECTS).at(30).passes).toEqual([]);
    expect(titlesOf({ on: false })(30)).toEqual([]);
    expect(titlesOf({ where: { kind: 'clip', clip: 'c2' }, comes: 'cut' })(29)).toEqual([]);
  });

  it('counts the hits of the montage by rule, from each to a while after it', () => {
    const at = titlesOf({ where: each, comes: 'cut', goes: 'cut' });
    expect([5, 6, 12, 13, 15, 27].map((frame) => at(frame)[0]?.text ?? null)).toEqual([
      null,
      'Hit 1 of 3',
      'Hit 1 of 3',
      null,
      'Hit 2 of 3',
      'Hit 3 of 3',
    ]);
    // The next one takes the place of one that is still seen.
    const close = titlesOf({ where: { ...each, after: 100 }, comes: 'cut', goes: 'cut' });
    expect([14, 15, 40].map((frame) => close(frame)[0]!.text)).toEqual(['Hit 1 of 3', 'Hit 2 of 3', 'Hit 3 of 3']);
    expect(titlesOf({ where: { ...each, kinds: ['kick'] } })(6)).toEqual([]);
  });

  it('shows time, a clock up and one down at the right value on a frame', () => {
    const words = (text: string, frame: number): string =>
      titlesOf({ text, comes: 'cut', goes: 'cut' })(frame)[0]!.text;
    expect(words('{time} {frame}', 45)).toBe('0:01 45');
    expect(words('{up}', 45)).toBe('0:01.50');
    expect(words('{down}', 45)).toBe('0:00.50');
    expect(words('{kind} {what} {', 3)).toBe(' {what} {');
    expect(clocked(75.256)).toBe('1:15.26');
    expect(clocked(-1)).toBe('0:00.00');
  });

  it('fades, falls, is pushed, typed or flickers as it comes and goes', () => {
    const over = 10;
    const at = (comes: Title['comes'], frame: number) =>
      titlesOf({ text: 'Ten letter', comes, goes: 'cut', over, x: 0, y: 0 })(frame)[0];
    expect(at('fade', 4)!.opacity).toBeCloseTo(0.5, 9);
    expect(at('fade', 9)!.opacity).toBe(1);
    expect(at('drop', 2)!.y).toBeLessThan(-0.03);
    expect(at('push', 2)!.x).toBeLessThan(-0.1);
    expect(at('type', 4)!.text).toBe('Ten l');
    expect(titlesOf({ text: 'X', comes: 'cut', goes: 'fade', over })(55)[0]!.opacity).toBeCloseTo(0.5, 9);
    const lit = [0, 1, 2, 3, 4, 5, 6, 7, 8].map((frame) => at('flicker', frame) !== undefined);
    expect(new Set(lit).size).toBe(2);
    // The same every time.
    expect([0, 1, 2, 3, 4, 5, 6, 7, 8].map((frame) => at('flicker', frame) !== undefined)).toEqual(lit);
  });

  it('of nothing, of spaces, or on no hit is not there; ten thousand letters and other scripts can be saved', () => {
    expect(titlesOf({ text: '' })(30)).toEqual([]);
    expect(titlesOf({ text: ' \n ' })(30)).toEqual([]);
    expect(titlesOf({ where: each }, [])(6)).toEqual([]);
    const m = montage({ text: `${'Ж'.repeat(4999)}\n${'ש'.repeat(5000)}` });
    expect(checkedMontage(m).titles).toEqual(m.titles);
    expect(() => checkedMontage(montage({ text: 'x'.repeat(10_001) }))).toThrow();
    expect(() => checkedMontage(montage({ colour: 'red' }))).toThrow();
  });
});

describe('a stamp', () => {
  const stamp = (x: number, y: number): Stamp => ({
    width: 2,
    height: 2,
    x,
    y,
    opacity: 0.5,
    data: Uint8ClampedArray.from([200, 0, 0, 200, 0, 0, 0, 0, 0, 100, 0, 100, 255, 255, 255, 255]),
  });
  const laid = (x: number, y: number): number[] => {
    const rows = new Uint8Array(4 * 4 * 3).fill(100);
    laidOver(rows, { width: 3, height: 3 }, 4, [stamp(x, y)]);
    return [0, 1, 2].flatMap((row) => [0, 1, 2].map((column) => rows[4 * (4 * row + column)]!));
  };

  it('lies over what is displayed by its own alpha, premultiplied, and its opacity', () => {
    // 0.5 x 200 + (1 - 0.5 x 200/255) x 100; clear; 0 + (1 - 0.5 x 100/255) x 100; 0.5 x 255 + 0.5 x 100.
    expect(laid(0, 0)).toEqual([161, 100, 100, 80, 178, 100, 100, 100, 100]);
  });

  it('is cut where it leaves the frame', () => {
    expect(laid(-1, -1)).toEqual([178, 100, 100, 100, 100, 100, 100, 100, 100]);
    expect(laid(2, 2)[8]).toBe(161);
    expect(laid(40, -40)).toEqual(Array.from({ length: 9 }, () => 100));
  });
});

it('has clocks that run at their own pace', () => {
  const at = titlesOf({ text: '{up} {down}', comes: 'cut', goes: 'cut', pace: 2 });
  // Thirty of sixty frames at thirty a second.
  expect(at(30)[0]!.text).toBe('0:02.00 0:02.00');
});

it('names letters that the typefaces do not hold, each once', () => {
  expect(missingLetters('Гавань Λιμάνι café – 12:30 {n}')).toEqual([]);
  expect(missingLetters('光 a 光 אב 🎯')).toEqual(['光', 'א', 'ב', '🎯']);
});
