import { describe, expect, it } from 'vitest';
import { addExample, addWatch, updateSource } from './edits.ts';
import type { Montage } from './types.ts';
import { twoClips } from '../testkit/montages.ts';
import { readProfile } from './profile-file.ts';
import { applyProfile, profileOf, writeProfile } from './profile.ts';

const watch = {
  id: 'w',
  name: 'Tag line',
  mode: 'appears',
  region: { x: 0.1, y: 0.1, w: 0.2, h: 0.1 },
  sensitivity: 0.6,
  sought: { width: 2, height: 1, y: 'AAE=', u: 'gIA=', v: 'gIA=', weight: '//8=' },
} as const;
const example = { id: 'e', name: 'Confirm', rows: 'AAEC', lead: 0, least: 0.7, only: 'one' };

describe('profiles', () => {
  const known = [
    addWatch(watch),
    addExample(example),
    updateSource('one', { delay: 0.12, tracks: ['voice'] }),
  ].reduce<Montage>((m, edit) => edit(m), { ...twoClips(), sensitivity: { shot: 0.8 } });
  const profile = profileOf('Lantern Drift', known, known.sources[0]!);

  it('comes back from a file as it was, and fits the next recording', () => {
    const again = readProfile(writeProfile(profile));
    expect(again).toEqual(profile);
    const next = applyProfile(twoClips(), 'two', again);
    expect(next.watches).toEqual([watch]);
    // Sought in all sources: the one it was cut from is not in the next montage.
    expect(next.examples).toEqual([{ ...example, only: null }]);
    expect(next.sources.map((s) => [s.delay, s.tracks])).toEqual([
      [null, ['game']],
      [0.12, ['voice']],
    ]);
    expect(next.sensitivity).toEqual({ shot: 0.8 });
    expect(applyProfile(next, 'two', again)).toEqual(next);
  });

  it.each([
    ['text that is not JSON', 'x', 'not-json'],
    ['another file', '{"format":"akmeon"}', 'not-akmeon'],
    ['null', 'null', 'not-akmeon'],
    ['a newer profile', JSON.stringify({ ...profile, version: 9 }), 'newer-version'],
    [
      'a region outside the picture',
      JSON.stringify({ ...profile, watches: [{ ...watch, region: { x: -1, y: 0, w: 1, h: 1 } }] }),
      'invalid',
    ],
    ['bytes that are none', JSON.stringify({ ...profile, examples: [{ ...example, rows: '<x>' }] }), 'invalid'],
  ])('refuses %s with a sentence', (_, text, problem) => {
    expect(() => readProfile(text)).toThrow(expect.objectContaining({ problem }) as Error);
  });
});
