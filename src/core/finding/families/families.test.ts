import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { hash, signed } from '../../base/hash.ts';
import type { Hit } from '../../document/types.ts';
import { add, analyseSound, hat, kick, noise } from '../../testkit/signals.ts';
import { hit } from '../../testkit/montages.ts';
import { hopOf, type SoundSignals } from '../signals/types.ts';
import { familiesOf, kinshipOf, worthAsking } from './families.ts';
import { averageLinkage, clustersAt } from './linkage.ts';
import { likeness, printOf } from './prints.ts';

/** A made-up weapon: noise of its own colour that falls, over a tone that falls. The same every time but for its gain. */
const weapon =
  (n: number, pitch = 1) =>
  (t: number, i: number): number => {
    const colour =
      (signed(hash(n, i)) + (n % 3) * 0.5 * signed(hash(n, i - 1)) - (n % 2) * 0.7 * signed(hash(n, i - 2))) / 2;
    const tone = Math.sin(2 * Math.PI * (90 + 170 * (n % 5)) * pitch * t * (1 - t));
    return 0.5 * colour * Math.exp(-t * (25 + 9 * (n % 4))) + 0.4 * tone * Math.exp(-t * (12 + 5 * (n % 3)));
  };

interface Shot {
  readonly t: number;
  readonly n: number;
  readonly gain?: number;
  readonly pitch?: number;
  readonly length?: number;
}

function recorded(shots: readonly Shot[], level = 0.002, seconds = 24): SoundSignals {
  const out = noise(seconds, level);
  for (const { t, n, gain = 1, pitch = 1, length = 0.35 } of shots)
    add(out, t, length, (s, i) => gain * weapon(n, pitch)(s, i));
  return analyseSound(out);
}

const hitsOf = (shots: readonly Shot[]): Hit[] =>
  shots.map(({ t }, i) => hit(`h${i}`, 'one', t, { audioT: t, state: 'found', kinds: { shot: 0.6 } }));

const alike = (a: Shot, b: Shot, level = 0.002): number => {
  const sound = recorded([a, b], level, 6);
  return likeness(printOf(sound, hopOf(sound, a.t)), printOf(sound, hopOf(sound, b.t)));
};

describe('two attacks', () => {
  it('are kin when they are one sample at another gain, cut short, or in noise, and not when they are two samples', () => {
    expect(alike({ t: 1, n: 1 }, { t: 3, n: 1 })).toBeGreaterThan(0.9);
    expect(alike({ t: 1, n: 1 }, { t: 3, n: 1, gain: 0.25 })).toBeGreaterThan(0.7);
    expect(alike({ t: 1, n: 1 }, { t: 3, n: 1, length: 0.12 })).toBeGreaterThan(0.5);
    expect(alike({ t: 1, n: 1 }, { t: 3, n: 1 }, 0.05)).toBeGreaterThan(0.6);
    for (const n of [2, 3, 4, 6]) expect(alike({ t: 1, n: 1 }, { t: 3, n })).toBeLessThan(0.5);
  });

  it('are as alike one way as the other', () => {
    const sound = recorded(
      [
        { t: 1, n: 1 },
        { t: 3, n: 4, gain: 0.5 },
        { t: 4.4, n: 1, pitch: 1.06 },
      ],
      0.01,
      6,
    );
    const prints = [1, 3, 4.4].map((t) => printOf(sound, hopOf(sound, t)));
    for (const a of prints) for (const b of prints) expect(likeness(a, b)).toBeCloseTo(likeness(b, a), 9);
  });
});

describe('families', () => {
  const shots: Shot[] = Array.from({ length: 30 }, (_, i) => ({
    t: 0.5 + i * 0.7,
    n: [1, 4, 6][i % 3]!,
    gain: 0.3 + (0.7 * ((i * 37) % 10)) / 10,
  }));
  const sound = recorded(shots);
  const hits = hitsOf(shots);

  it('are the samples that a recording repeats, each with its kind and its clearest member', () => {
    const families = familiesOf(hits, kinshipOf(hits, [sound]));
    expect(families.map(({ members }) => members.length)).toEqual([10, 10, 10]);
    for (const { members, kind, clearest, example } of families) {
      expect(new Set(members.map((i) => shots[i]!.n)).size).toBe(1);
      expect(kind).toBe('shot');
      expect(members).toContain(clearest);
      expect(example.t).toBe(hits[clearest]!.audioT);
    }
  });

  it('do not hang on the order of the hits, and lose none', () => {
    const names = (order: readonly number[]) => {
      const list = order.map((i) => hits[i]!);
      return familiesOf(list, kinshipOf(list, [sound]))
        .map(({ members }) => members.map((i) => list[i]!.id).sort())
        .sort();
    };
    const all = names(hits.map((_, i) => i));
    fc.assert(
      fc.property(
        fc.shuffledSubarray(
          hits.map((_, i) => i),
          { minLength: hits.length },
        ),
        (order) => {
          expect(names(order)).toEqual(all);
        },
      ),
      { numRuns: 6 },
    );
    for (const cut of [0.2, 0.5, 0.9]) {
      const members = familiesOf(hits, kinshipOf(hits, [sound]), cut).flatMap((family) => family.members);
      expect(new Set(members).size).toBe(members.length);
    }
  });

  it('that always follow another at one distance are parts of its sound', () => {
    // A bass drum whose sample ends with a click 105 ms later.
    const drums = Array.from({ length: 12 }, (_, i) => 0.5 + i * 1.3);
    const out = noise(24, 0.002);
    for (const t of drums) {
      add(out, t, 0.1, kick);
      add(out, t + 0.105, 0.06, (s, i) => 0.3 * hat(s, i));
    }
    const heard = analyseSound(out);
    const list = drums.flatMap((t, i) => [
      hit(`d${i}`, 'one', t, { audioT: t, state: 'found', strength: 0.8 }),
      hit(`c${i}`, 'one', t + 0.105, { audioT: t + 0.105, state: 'found', strength: 0.2 }),
    ]);
    const satellite = familiesOf(list, kinshipOf(list, [heard])).find((family) => family.satellite);
    expect(satellite?.satellite!.gap).toBeCloseTo(0.105, 2);
    expect(satellite!.members.every((i) => list[i]!.id.startsWith('c'))).toBe(true);
    // What stands by itself between them is none.
    expect(familiesOf(hits, kinshipOf(hits, [sound])).some((family) => family.satellite)).toBe(false);
  });

  it('are asked in the order in which answers change most, and no more once they are answered', () => {
    const families = familiesOf(hits, kinshipOf(hits, [sound]));
    const unsure = hits.map((h, i) => ({ ...h, kinds: { shot: [0.5, 0.9, 0.1][i % 3]! }, confidence: 0.5 }));
    const asked = worthAsking(unsure, families);
    expect(asked.length).toBeGreaterThan(0);
    for (let i = 1; i < asked.length; i++) expect(asked[i - 1]!.changes).toBeGreaterThanOrEqual(asked[i]!.changes);
    const answered = unsure.map((h) => ({ ...h, state: 'kept' as const }));
    expect(worthAsking(answered, families)).toEqual([]);
  });

  it(
    'of five thousand attacks are sorted in seconds, and a changed threshold answers at once',
    { timeout: 60_000 },
    () => {
      const many = Array.from({ length: 5000 }, (_, i) => shots[i % shots.length]!);
      const list = many.map((_, i) => hit(`m${i}`, 'one', i, { audioT: i, state: 'found' }));
      const base = hits.map(({ audioT }) => printOf(sound, hopOf(sound, audioT!)));
      // Ten thousand seconds of signals are not needed: the attacks' own rows, one after another.
      const bands = new Uint8Array(5000 * 100 * 26);
      many.forEach((_, i) => bands.set(base[i % base.length]!.levels, (i * 100 - 1 < 0 ? 0 : i * 100 - 1) * 26));
      const long: SoundSignals = { ...sound, bands, onset: new Float32Array(5000 * 100), start: 0 };
      const began = performance.now();
      const kinship = kinshipOf(list, [long]);
      const sorted = performance.now();
      const families = familiesOf(list, kinship);
      const cutAgain = performance.now();
      familiesOf(list, kinship, 0.6);
      console.log(
        `5000 attacks: likeness ${Math.round(sorted - began)} ms, families ${Math.round(cutAgain - sorted)} ms, again ${Math.round(performance.now() - cutAgain)} ms, ${families.length} families`,
      );
      expect(performance.now() - began).toBeLessThan(30_000);
    },
  );
});

describe('average linkage', () => {
  // Five points on a line at 0, 1, 4, 5 and 10, worked out by hand: likeness is 10 less the distance. First 0-1 and 4-5 at 9,
  // then these two at a mean distance of 4, then all of them with 10 at a mean distance of 7.5.
  const places = [0, 1, 4, 5, 10];
  const pairs = places.flatMap((x, a) =>
    places.slice(a + 1).map((y, k) => ({ a, b: a + 1 + k, likeness: 10 - Math.abs(x - y) })),
  );

  it('joins as a worked example does', () => {
    expect(clustersAt(5, averageLinkage(5, pairs, 0), 8)).toEqual([[0, 1], [2, 3], [4]]);
    expect(clustersAt(5, averageLinkage(5, pairs, 0), 6)).toEqual([[0, 1, 2, 3], [4]]);
    expect(clustersAt(5, averageLinkage(5, pairs, 0), 6.01)).toEqual([[0, 1], [2, 3], [4]]);
    expect(clustersAt(5, averageLinkage(5, pairs, 0), 2.5)).toEqual([[0, 1, 2, 3, 4]]);
    expect(clustersAt(5, averageLinkage(5, pairs, 0), 2.51)).toEqual([[0, 1, 2, 3], [4]]);
  });
});
