import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { hash, signed } from '../../base/hash.ts';
import type { Hit, NamedFamily } from '../../document/types.ts';
import { add, analyseSound, hat, kick, noise } from '../../testkit/signals.ts';
import { hit } from '../../testkit/montages.ts';
import { hopOf, type SoundSignals } from '../signals/types.ts';
import { familiesOf, KIN, kinshipOf, partsOf, takeExamples, worthAsking } from './families.ts';
import { averageLinkage, clustersAt } from './linkage.ts';
import { familySignal, MORE_ENOUGH } from './more.ts';
import { satelliteOf } from './satellites.ts';
import { commonPrint, likeness, packedPrint, printOf, unpackedPrint } from './prints.ts';

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

  it('that follow at a fraction of the beat are music, unless they are much fainter', () => {
    const at = (strength: number) => {
      const list = Array.from({ length: 10 }, (_, i) => [
        hit(`d${i}`, 'one', i, { audioT: i, strength: 0.8 }),
        hit(`e${i}`, 'one', i + 0.125, { audioT: i + 0.125, strength }),
      ]).flat();
      const own = (from: number) => list.flatMap((_, i) => (i % 2 === from ? i : []));
      const families = [
        { id: 'd', members: own(0) },
        { id: 'e', members: own(1) },
      ];
      return [0.5, 0.61].map((beat) => satelliteOf(list, families[1]!, families, beat)?.of ?? null);
    };
    expect(at(0.4)).toEqual([null, 'd']);
    expect(at(0.1)).toEqual(['d', 'd']);
    expect(at(0.7)).toEqual([null, null]);
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

  it('of five thousand attacks are sorted, and parted anew by another threshold', { timeout: 60_000 }, () => {
    const many = Array.from({ length: 5000 }, (_, i) => shots[i % shots.length]!);
    const list = many.map((_, i) => hit(`m${i}`, 'one', i, { audioT: i, state: 'found' }));
    const base = hits.map(({ audioT }) => printOf(sound, hopOf(sound, audioT!)));
    // Ten thousand seconds of signals are not needed: the attacks' own rows, one after another.
    const bands = new Uint8Array(5000 * 100 * 26);
    many.forEach((_, i) => bands.set(base[i % base.length]!.levels, (i * 100 - 1 < 0 ? 0 : i * 100 - 1) * 26));
    const long: SoundSignals = { ...sound, bands, onset: new Float32Array(5000 * 100), start: 0 };
    const kinship = kinshipOf(list, [long]);
    const sizes = (threshold?: number): number => familiesOf(list, kinship, threshold).length;
    expect(sizes()).toBeGreaterThan(0);
    // A higher threshold parts them, with the same likeness.
    expect(sizes(0.6)).toBeGreaterThanOrEqual(sizes());
  });
});

/** A family as a person names it, from these hits. */
const namedOf = (members: readonly Hit[], sound: SoundSignals, change: Partial<NamedFamily> = {}): NamedFamily => ({
  id: 'bolt',
  name: 'bolt',
  kind: 'shot',
  state: 'kept',
  members: members.map(({ id }) => id),
  examples: takeExamples(members, [sound]),
  more: null,
  ...change,
});

describe('a named family', () => {
  const shots: Shot[] = Array.from({ length: 24 }, (_, i) => ({
    t: 0.5 + i * 0.9,
    n: [1, 4][i % 2]!,
    gain: 0.4 + (i % 5) / 9,
  }));
  const sound = recorded(shots);
  const hits = hitsOf(shots);
  const ones = hits.filter((_, i) => shots[i]!.n === 1);

  it('takes in what sounds like it, and keeps what was put into it whatever it sounds like', () => {
    const odd = hits.find((_, i) => shots[i]!.n === 4)!;
    const bolt = namedOf([...ones.slice(0, 5), odd], sound);
    const own = familiesOf(hits, kinshipOf(hits, [sound]), KIN, [bolt]).find(({ named }) => named === bolt)!;
    expect(own.id).toBe('bolt');
    expect([own.kind, own.confidence]).toEqual(['shot', 1]);
    expect(own.members.map((i) => hits[i]!.id).sort()).toEqual([...ones, odd].map(({ id }) => id).sort());
  });

  it('is known again in another recording by its examples, and what is new there is not', () => {
    const bolt = { ...namedOf(ones, sound), members: [] };
    const later: Shot[] = Array.from({ length: 18 }, (_, i) => ({ t: 0.7 + i * 1.1, n: [1, 6, 1][i % 3]!, gain: 0.5 }));
    const other = recorded(later, 0.004);
    const found = hitsOf(later);
    const families = familiesOf(found, kinshipOf(found, [other], [bolt]), KIN, [bolt]);
    const known = families.find(({ named }) => named)!;
    expect(known.members.map((i) => later[i]!.n)).toEqual(Array(12).fill(1));
    expect(families.filter(({ named }) => !named).map(({ members }) => members.length)).toEqual([6]);
    // It is asked of neither: the one is answered, the other is new.
    const asked = worthAsking(
      found.map((hit) => ({ ...hit, kinds: { shot: 0.4 }, confidence: 0.5 })),
      families,
    );
    expect(asked.map(({ family }) => family.named)).toEqual([null]);
  });

  it('takes what is as loud, and as much seen with it, as it asks: mine and theirs', () => {
    const mixed: Shot[] = Array.from({ length: 16 }, (_, i) => ({ t: 0.5 + i * 1.3, n: 1, gain: i % 2 ? 1 : 0.1 }));
    const heard = recorded(mixed, 0.0005);
    const found = hitsOf(mixed).map((h, i) =>
      i % 4 === 1 ? { ...h, evidence: [{ detector: 'flash', t: h.t, strength: 0.8 }] } : h,
    );
    const [all] = familiesOf(found, kinshipOf(found, [heard]));
    const middle = (Math.min(...all!.loud) + Math.max(...all!.loud)) / 2;
    const examples = takeExamples(found, [heard]);
    const mine = namedOf([], heard, { id: 'mine', examples, loud: { from: middle, to: 1000 } });
    const theirs = namedOf([], heard, { id: 'theirs', examples, loud: { from: -1000, to: middle } });
    const sorted = familiesOf(found, kinshipOf(found, [heard], [mine, theirs]), KIN, [mine, theirs]);
    expect(sorted.map(({ id, members }) => [id, members.map((i) => i % 2)]).sort()).toEqual([
      ['mine', Array(8).fill(1)],
      ['theirs', Array(8).fill(0)],
    ]);
    const seen = namedOf([], heard, { id: 'seen', examples, seen: { from: 0.5, to: 1000 } });
    const split = familiesOf(found, kinshipOf(found, [heard], [seen]), KIN, [seen]);
    expect(split.find(({ id }) => id === 'seen')!.members.map((i) => i % 4)).toEqual([1, 1, 1, 1]);
    expect(split.flatMap(({ members }) => members)).toHaveLength(16);
  });

  it('falls into two parts where its members do, and loses none', () => {
    const kinship = kinshipOf(hits, [sound]);
    const both = familiesOf(hits, kinship, KIN, [namedOf(hits, sound)])[0]!;
    const [one, other] = partsOf(both, kinship)!;
    expect([...one, ...other].sort((a, b) => a - b)).toEqual(both.members);
    for (const part of [one, other]) expect(new Set(part.map((i) => shots[i]!.n)).size).toBe(1);
    expect(partsOf({ members: [0] }, kinship)).toBeNull();
  });

  it('finds more of itself below the sensitivity, and nothing else', () => {
    const signal = familySignal({ 3: sound }, namedOf(ones.slice(0, 4), sound)).tracks[3]!;
    const found = [...sound.attacks].filter((_, i) => signal[i]! >= 255 * MORE_ENOUGH);
    const near = (t: number): number => shots.find((shot) => Math.abs(shot.t - t) < 0.03)?.n ?? 0;
    expect(new Set(found.map(near).filter((n) => n === 1)).size).toBe(1);
    for (const { id, audioT } of ones)
      expect([id, found.some((t) => Math.abs(t - audioT!) < 0.03)]).toEqual([id, true]);
    for (const t of found) expect([t, near(t)]).toEqual([t, 1]);
  });
});

describe('prints', () => {
  it('are as they were once they were kept', () => {
    const print = printOf(recorded([{ t: 1, n: 1 }], 0.002, 3), 100);
    expect(unpackedPrint(packedPrint(print))).toEqual(print);
    expect(unpackedPrint(new Uint8Array(7))).toBeNull();
  });

  it('hold in common what stands out in most of them, and not what covers one', () => {
    const sound = recorded([1, 2.2, 3.4, 4.6].map((t) => ({ t, n: 1 })));
    const loud = recorded(
      [
        { t: 1, n: 1 },
        { t: 1.02, n: 4 },
      ],
      0.002,
      3,
    );
    const clean = [1, 2.2, 3.4, 4.6].map((t) => printOf(sound, hopOf(sound, t)));
    const common = commonPrint([...clean, printOf(loud, hopOf(loud, 1))]);
    expect(likeness(common, clean[1]!)).toBeGreaterThan(0.9);
  });
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
