import { describe, expect, it } from 'vitest';
import { hit, punchAccent, shotRule, twoClips } from '../testkit/montages.ts';
import { changeName } from './change-name.ts';
import * as edits from './edits.ts';
import { historyOf, MOST_STORED, stepsOf } from './history.ts';
import { patched, patchOf } from './patch.ts';
import type { Montage } from './types.ts';

const base = twoClips();
const accented = edits.addAccent(punchAccent())(base);
const kept = edits.decideAll([hit('h', 'one', 1), hit('k', 'two', 1)], 'kept')(accented);
const ruled = edits.addRule(shotRule())(kept);

describe('a patch', () => {
  it.each([
    ['nothing', base, base],
    ['an added accent', base, accented],
    ['hits', accented, kept],
    ['one field of one hit', kept, edits.moveHit(kept.hits[0]!, 1.2)(kept)],
    ['a removed source and all it takes along', ruled, edits.removeSource('one')(ruled)],
    ['a field that is absent after', { a: 1, b: { c: 2 } }, { b: {} }],
    ['order alone', [{ id: 'x' }, { id: 'y' }], [{ id: 'y' }, { id: 'x' }]],
    ['lists without ids', { t: [1, 2] }, { t: [2] }],
    ['another kind of value', { v: 3 }, { v: [{ at: 0, value: 1 }] }],
    ['nothing to something', { v: null }, { v: { id: 'x' } }],
  ])('leads there and back: %s', (_, from, to) => {
    expect(patched(from, patchOf(from, to))).toEqual(to);
    expect(patched(to, JSON.parse(JSON.stringify(patchOf(to, from))) as never)).toEqual(from);
  });

  it('is as small as what differs, and null where nothing does', () => {
    expect(patchOf(kept, JSON.parse(JSON.stringify(kept)))).toBe(null);
    const long: Montage = {
      ...kept,
      hits: Array.from({ length: 3000 }, (_, i) => hit(`h${i}`, 'one', i / 10)),
    };
    expect(JSON.stringify(patchOf(long, edits.moveHit(long.hits[7]!, 0.72)(long))).length).toBeLessThan(400);
  });
});

describe('stored steps', () => {
  it('bring every state back to the letter, forward and back', () => {
    const states = [base, accented, kept, ruled, edits.removeSource('one')(ruled)];
    const history = { past: states.slice(0, 2), future: states.slice(3) };
    const stored = JSON.parse(JSON.stringify(stepsOf(states[2]!, history))) as ReturnType<typeof stepsOf>;
    // The montage is read from storage: nothing of it is shared with what was stepped through.
    expect(historyOf(JSON.parse(JSON.stringify(states[2])) as Montage, stored)).toEqual(history);
  });

  it('are the nearest ones where there are many', () => {
    const states = Array.from({ length: 300 }, (_, i) => ({ ...base, name: `name ${i}` }));
    const { past } = historyOf(states[299]!, stepsOf(states[299]!, { past: states.slice(0, 299), future: [] }));
    expect([past.length, past.at(-1)!.name]).toEqual([MOST_STORED, 'name 298']);
  });

  it('are fewer where each is large, as they are written with every edit', () => {
    const states = Array.from({ length: 50 }, (_, i) => ({
      ...base,
      name: String.fromCharCode(65 + i).repeat(100_000),
    }));
    const { back } = stepsOf(states[49]!, { past: states.slice(0, 49), future: [] });
    expect(JSON.stringify(back).length).toBeLessThan(1_000_100);
    expect(back).toHaveLength(9);
  });

  it('of another montage are left out instead of spoiling this one', () => {
    const steps = { back: [{ fields: { hits: { items: {}, order: ['none'] } }, without: [] }], forth: [] };
    expect(historyOf({ ...base, hits: 3 } as never, steps)).toEqual({ past: [], future: [] });
  });
});

describe('the name of a change', () => {
  const accent = accented.accents.at(-1)!;
  it.each<[string, Montage, Montage]>([
    [`Accent “${accent.name}” added`, base, accented],
    [`Accent “${accent.name}” changed`, accented, edits.changeAccent(accent.id, (a) => ({ ...a, tail: 9 }))(accented)],
    ['2 hits kept', accented, kept],
    ['Hit rejected', kept, edits.decide(kept.hits[0]!, 'rejected')(kept)],
    ['Hit undecided again', kept, edits.decide(kept.hits[0]!, 'found')(kept)],
    ['Hit moved', kept, edits.moveHit(kept.hits[0]!, 1.2)(kept)],
    ['Hit named', kept, edits.setKind(kept.hits[0]!, 'impact')(kept)],
    ['Rule added', kept, ruled],
    ['Montage renamed', base, edits.setName('Other')(base)],
    ['Settings changed', base, edits.setSettings({ bpm: 99 })(base)],
  ])('says “%s”', (words, before, after) => expect(changeName(before, after)).toBe(words));

  it('says what a removed source took along', () =>
    expect(changeName(ruled, edits.removeSource('one')(ruled))).toMatch(/^Source “.*” removed, clip removed$/));
});
