import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { decideAll } from './edits.ts';
import { hit, punchAccent, shotRule, twoClips } from '../testkit/montages.ts';
import { checkedMontage, readMontage, writeMontage } from './akmeon.ts';
import { FormatError } from './document.ts';
import { MONTAGE_VERSION } from './types.ts';

const whole = { ...decideAll([hit('h', 'one', 1.5)], 'kept')(twoClips()), accents: [punchAccent()] };
// eslint-disable-next-line @typescript-eslint/no-explicit-any
const broken = (change: (m: Record<string, any>) => void): string => {
  const copy = JSON.parse(writeMontage(whole)) as Record<string, unknown>;
  change(copy);
  return JSON.stringify(copy);
};
const problem = (text: string): string => {
  try {
    readMontage(text);
    return 'none';
  } catch (error) {
    expect(error).toBeInstanceOf(FormatError);
    expect((error as Error).message).toMatch(/^This .*\.$/s);
    return (error as FormatError).problem;
  }
};

describe('.akmeon files', () => {
  it('come back as they were written', () =>
    expect(readMontage(writeMontage(whole))).toEqual(JSON.parse(writeMontage(whole))));

  it('the demo montage is one', () => {
    const demo = readMontage(readFileSync(new URL('../../../demo/harbour-nights.akmeon', import.meta.url), 'utf8'));
    expect(demo.clips).toHaveLength(2);
  });

  it.each([
    ['not JSON', 'MThd', 'not-json'],
    ['other JSON', '{"a":1}', 'not-akmeon'],
    ['null', 'null', 'not-akmeon'],
    ['a newer version', broken((m) => (m['version'] = 99)), 'newer-version'],
    ['a value out of range', broken((m) => (m['hits'][0].strength = 7)), 'invalid'],
    ['a huge size', broken((m) => (m['settings'].width = 1e9)), 'invalid'],
    ['a clip that ends before it begins', broken((m) => (m['clips'][0].out = 0)), 'invalid'],
    ['a missing list', broken((m) => delete m['rules']), 'invalid'],
    ['two hits of one id', broken((m) => m['hits'].push(m['hits'][0])), 'invalid'],
    ['a clip of no source', broken((m) => (m['clips'][0].source = 'nowhere')), 'broken-reference'],
  ])('refuses %s with a sentence', (_, text, expected) => expect(problem(text)).toBe(expected));

  it('reads past a byte-order mark', () => expect(readMontage(`\uFEFF${writeMontage(whole)}`).id).toBe('m'));

  it.each([
    ['times that no recording has', broken((m) => (m['clips'][0].out = 1e308)), /clips\/0\/out/],
    ['a row of more than a day', broken((m) => (m['clips'][0].out = 9e5)), /hours long, and 24 are the most/],
    [
      'brackets five thousand deep',
      `{"format":"akmeon","version":${MONTAGE_VERSION},"x":${'['.repeat(5000)}${']'.repeat(5000)}}`,
      /nested too deeply/,
    ],
    [
      'stacks in stacks in stacks',
      broken((m) => {
        const nest = (depth: number): object => ({
          id: `e${depth}`,
          effect: 'trail',
          version: 1,
          on: true,
          params: {},
          stack: depth ? [nest(depth - 1)] : [],
        });
        m['accents'][0].effects = [nest(6)];
      }),
      /more than 4 deep/,
    ],
    [
      'a million overrides',
      broken((m) => (m['overrides'] = Object.fromEntries(Array.from({ length: 1e6 }, (_, i) => [i, { mute: true }])))),
      /overrides/,
    ],
    ['a rate that no camera has', broken((m) => (m['sources'][0].video.rate.num = 5111838000)), /rate\/num/],
    ['a value past all effects', broken((m) => (m['accents'][0].effects[0].params.zoom = 1e300)), /zoom/],
  ])('answers %s in a sentence', (_, text, sentence) => {
    expect(() => readMontage(text)).toThrow(sentence);
  });

  it('checks what is stored in the browser as it checks a file', () => {
    expect(checkedMontage(whole)).toEqual(JSON.parse(writeMontage(whole)));
    expect(() => checkedMontage({ ...whole, clips: [{ ...whole.clips[0], in: null }] })).toThrow(FormatError);
  });

  it('names the deepest place that is wrong', () => {
    expect(() => readMontage(broken((m) => (m['sources'][0].video.rotation = 45)))).toThrow(
      '/sources/0/video/rotation',
    );
  });

  it('migrates version 0, which had one sensitivity for all', () => {
    const old = broken((m) => Object.assign(m, { version: 0, sensitivity: 0.3 }));
    expect(readMontage(old)).toMatchObject({
      version: MONTAGE_VERSION,
      sensitivity: { shot: 0.3, note: 0.3, flash: 0.3, cut: 0.3 },
    });
  });

  it('migrates version 3, which had no families and called what lies on the hit otherwise', () => {
    const now = { ...twoClips(), accents: [{ ...punchAccent(), align: 'start' as const }], rules: [shotRule()] };
    const { families: _f, ...old } = JSON.parse(writeMontage(now)) as typeof now;
    const text = JSON.stringify({
      ...old,
      version: 3,
      sources: old.sources.map(({ content: _c, ...rest }) => rest),
      accents: old.accents.map(({ align, ...rest }) => ({ ...rest, lies: align })),
      rules: old.rules.map(({ families: _r, accents, ...rest }) => ({ ...rest, accent: accents[0]!.accent })),
    });
    expect(readMontage(text)).toEqual(now);
  });

  it('migrates version 2, which had accents in frames around their hit, and no beds or runs', () => {
    const { beds: _, ...old } = JSON.parse(
      writeMontage({ ...twoClips(), accents: [punchAccent()], rules: [shotRule()] }),
    ) as ReturnType<typeof twoClips>;
    const { bpm: __, ...settings } = old.settings;
    const accents = old.accents.map(
      ({ unit: _u, exact: _e, align: _l, confine: _c, cover: _v, until: _t, ...rest }) => rest,
    );
    const rules = old.rules.map(({ mirror: _m, spread: _s, run: _r, accents: list, ...rest }) => ({
      ...rest,
      accent: list[0]!.accent,
    }));
    expect(readMontage(JSON.stringify({ ...old, version: 2, settings, accents, rules }))).toEqual({
      ...twoClips(),
      accents: [punchAccent()],
      rules: [shotRule()],
    });
  });

  it('migrates version 1, which listened to one track', () => {
    const old = JSON.parse(writeMontage(twoClips())) as Record<string, unknown>;
    for (const name of ['watches', 'examples', 'forgotten']) old[name] = undefined;
    const sources = (old['sources'] as Record<string, unknown>[]).map(
      ({ tracks: _t, delay: _d, grid: _g, ...rest }) => rest,
    );
    const settings = { ...(old['settings'] as object), fusionWindow: undefined };
    expect(
      readMontage(JSON.stringify({ ...old, version: 1, sources, settings, sensitivity: { onset: 0.7, cut: 0.2 } })),
    ).toEqual({
      ...twoClips(),
      sensitivity: { shot: 0.7, impact: 0.7, kick: 0.7, snare: 0.7, hat: 0.7, note: 0.7, cut: 0.2 },
    });
  });

  it('keeps unknown effects, and sorts keys to one a frame', () => {
    const read = readMontage(
      broken((m) => {
        m['accents'][0].effects.push({ id: 'x', effect: 'unheard-of', version: 3, on: true, params: { depth: 4 } });
        m['accents'][0].effects[0].params.zoom = [
          { at: 4, value: 1, ease: 'hold' },
          { at: 0, value: 2, ease: 'hold' },
          { at: 0, value: 3, ease: 'hold' },
        ];
      }),
    );
    expect(read.accents[0]!.effects[1]!.effect).toBe('unheard-of');
    expect(read.accents[0]!.effects[0]!.params['zoom']).toEqual([
      { at: 0, value: 3, ease: 'hold' },
      { at: 4, value: 1, ease: 'hold' },
    ]);
  });
});
