import { describe, expect, it } from 'vitest';
import { EFFECTS } from '../../effects/index.ts';
import { laidOver, type Stamp } from '../../engine/render/stamps.ts';
import { decideAll } from '../document/edits.ts';
import { checkedMontage } from '../document/akmeon.ts';
import { DEFAULT_TITLE, type Montage, type Title } from '../document/types.ts';
import { hit, twoClips } from '../testkit/montages.ts';
import { mediaIndex } from '../timeline/timeline.ts';
import { planner } from './plan.ts';
import { clockedBy } from './title-words.ts';
import { missingLetters, type PlannedTitle } from './titles.ts';

const FAMILY = { name: '', kind: 'shot', state: 'kept', members: [], examples: [], more: null } as const;
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
    expect(words('{up:s} {down:ss.cc} {time:ff}', 45)).toBe('1 00.50 45');
  });

  it('reads a clock by its form: the largest that is named takes all above it', () => {
    const at = (seconds: number, form: string, fps = 30): string => clockedBy(seconds, fps, form);
    expect(at(75.256, 'm:ss.cc')).toBe('1:15.26');
    expect(at(75.256, 's.cc')).toBe('75.26');
    expect(at(75.256, 'mm:ss')).toBe('01:15');
    expect(at(75.5, 'mm:ss:ff')).toBe('01:15:15');
    expect(at(75.5, 'm')).toBe('1');
    expect(at(2, 'fff')).toBe('060');
    expect(at(1, 'ss:ff', 30000 / 1001)).toBe('00:29');
    expect(at(59.999, 'm:ss.cc')).toBe('1:00.00');
    for (const odd of [-1, NaN, Infinity]) expect(at(odd, 'm:ss.cc')).toBe('0:00.00');
  });

  it('names the game, what a hit is called, which of these it is, and counts a score', () => {
    const m = montage({ comes: 'cut', goes: 'cut', where: each, text: '{name} {nth}: {score:Bolt} of {score}' });
    const families = [
      { ...FAMILY, id: 'f', name: 'Bolt', members: ['h0', 'h2'] },
      { ...FAMILY, id: 'g', members: ['h1'] },
    ];
    const kicked = m.hits.map((one) => (one.id === 'h1' ? { ...one, kind: 'kick' as const } : one));
    const plans = planner({ ...m, families, hits: kicked }, mediaIndex(m.sources), EFFECTS);
    const said = (frame: number): string | undefined => plans.at(frame).titles[0]?.text;
    expect([6, 15, 27].map(said)).toEqual(['Bolt 1: 1 of 1', 'bass drum 1: 1 of 2', 'Bolt 2: 2 of 3']);
    // Seen before its hit it counts that already.
    const early = { ...m.titles![0]!, where: { ...each, before: 3 }, text: '{nth}' };
    const soon = planner({ ...m, titles: [early] }, mediaIndex(m.sources), EFFECTS);
    expect(soon.at(12).titles[0]!.text).toBe('2');
    // Over all of it: counted up from hit to hit, of what the playhead stands in.
    const sources = m.sources.map((one) => (one.id === 'one' ? { ...one, game: 'Harbour Siege' } : one));
    const over = {
      ...m.titles![0]!,
      where: { kind: 'all' } as const,
      text: '{game}/{score}/{score:kick}/{score:bass drum}/{score:bassdrum}',
    };
    const all = planner({ ...m, sources, hits: kicked, titles: [over] }, mediaIndex(sources), EFFECTS);
    expect([5, 6, 20, 29, 40].map((frame) => all.at(frame).titles[0]!.text)).toEqual([
      'Harbour Siege/0/0/0/0',
      'Harbour Siege/1/0/0/0',
      'Harbour Siege/2/1/1/1',
      'Harbour Siege/3/1/1/1',
      '/3/1/1/1',
    ]);
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
