import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { hit, shotRule, twoClips } from '../testkit/montages.ts';
import { matches } from '../accents/selection.ts';
import { readMontage, writeMontage } from './akmeon.ts';
import { removeFamily, setFamily, setKind } from './edits.ts';
import { familyByHit, labelsOf, ownNamed, withFamily } from './families.ts';
import { readProfile } from './profile-file.ts';
import { applyProfile, profileOf, writeProfile } from './profile.ts';
import type { NamedFamily } from './types.ts';

const family = (id: string, members: readonly string[], change: Partial<NamedFamily> = {}): NamedFamily => ({
  id,
  name: '',
  kind: 'shot',
  state: 'kept',
  members,
  examples: ['AAAA'],
  more: null,
  ...change,
});

describe('named families', () => {
  it('have each hit once, whatever is put where in whatever order', () => {
    const ids = ['a', 'b', 'c', 'd', 'e'];
    fc.assert(
      fc.property(
        fc.array(fc.record({ to: fc.constantFrom('one', 'two', 'three'), members: fc.subarray(ids) }), {
          maxLength: 12,
        }),
        (steps) => {
          const families = steps.reduce<readonly NamedFamily[]>(
            (list, { to, members }) => withFamily(list, family(to, members)),
            [],
          );
          const all = families.flatMap(({ members }) => members);
          expect(new Set(all).size).toBe(all.length);
          expect(familyByHit(families).size).toBe(all.length);
          const last = steps.at(-1);
          if (last) expect(families.find(({ id }) => id === last.to)!.members).toEqual(last.members);
        },
      ),
    );
  });

  it('are what a hit is known as where they have a name of their own, else it is known by its kinds', () => {
    const families = [family('f', ['a'], { name: 'bolt' }), family('g', ['b'])];
    const of = (id: string) => labelsOf(hit(id, 'one', 1, { kind: 'flash', kinds: { shot: 0.8 } }), families);
    expect(of('a')).toEqual(['f']);
    expect(of('b')).toEqual(['shot', 'flash']);
    expect(ownNamed([...families, family('h', [], { name: 'step', state: 'rejected' })]).map(({ id }) => id)).toEqual([
      'f',
    ]);
  });

  it('are taken by rules beside kinds; a family that is forgotten is taken by none', () => {
    const families = [family('f', ['a'])];
    const kept = hit('a', 'one', 1, { kind: 'impact' });
    const rule = shotRule({ families: ['f'] });
    expect(matches(rule, kept, families)).toBe(true);
    expect(matches(rule, { ...kept, id: 'b' }, families)).toBe(false);
    expect(matches(rule, { ...kept, state: 'rejected' }, families)).toBe(false);
    expect(matches({ ...rule, minStrength: 1 }, { ...kept, strength: 0.5 }, families)).toBe(false);
    const montage = { ...setFamily(families[0]!)(twoClips()), rules: [rule] };
    expect(removeFamily('f')(montage)).toMatchObject({ families: [], rules: [{ families: [] }] });
  });

  it('are left by a hit that is said to be something else', () => {
    const a = hit('a', 'one', 1);
    const m = setFamily(family('f', ['a', 'b']))({ ...twoClips(), hits: [a] });
    expect(setKind(a, 'impact')(m).families[0]!.members).toEqual(['b']);
    expect(setKind(a, 'shot')(m).families[0]!.members).toEqual(['a', 'b']);
  });

  it('go through files, and through profiles without the hits of their recording', () => {
    const source = twoClips().sources[0]!;
    const montage = [
      family('f', ['a'], { name: 'bolt', loud: { from: -20, to: 1000 }, more: 0.6 }),
      family('open', ['b'], { state: 'open' }),
    ].reduce((m, one) => setFamily(one)(m), twoClips());
    expect(readMontage(writeMontage(montage)).families).toEqual(montage.families);
    const profile = readProfile(writeProfile(profileOf('Game', montage, { ...source, content: 'firearms' })));
    expect(profile.families).toEqual([{ ...montage.families[0], members: [] }]);
    const applied = applyProfile(twoClips(), 'one', profile);
    expect(applied.families).toEqual(profile.families);
    expect(applied.sources[0]!.content).toBe('firearms');
    // What was answered here already stays.
    expect(applyProfile(montage, 'one', profile).families).toContainEqual(montage.families[0]);
  });

  it('are refused where they are broken', () => {
    const bad = (change: object) => () =>
      readMontage(JSON.stringify({ ...twoClips(), families: [{ ...family('f', []), ...change }] }));
    expect(bad({})).not.toThrow();
    expect(bad({ kind: 'bang' })).toThrow(/families/);
    expect(bad({ examples: ['!'] })).toThrow(/families/);
    expect(bad({ more: 2 })).toThrow(/families/);
    expect(() => readMontage(JSON.stringify({ ...twoClips(), families: [family('f', []), family('f', [])] }))).toThrow(
      /same id/,
    );
  });
});
