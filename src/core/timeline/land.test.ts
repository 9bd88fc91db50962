import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { decideAll, together } from '../document/edits.ts';
import { emptyMontage, type Montage } from '../document/types.ts';
import { footage, hit } from '../testkit/montages.ts';
import { fixedFrames, land, landAgain, landOn, landRow, setLanding } from './land.ts';
import { occurrences } from './occurrences.ts';
import { pinClip, slipClip, splitClip, trimClip } from './row.ts';
import { mediaIndex, timeline } from './timeline.ts';

const hits = (...at: number[]) => at.map((one, i) => ({ id: `h${i}`, at: one }));
const LIMITS = { least: 0.6, most: 1.6 };

/** Every way to pair hits with beats in order, the best of them. */
function bruteForce(at: readonly number[], beats: readonly number[]): { landed: number; strain: number } {
  let best = { landed: 0, strain: 0 };
  const go = (i: number, b: number, shown: number, frame: number, landed: number, strain: number): void => {
    if (landed > best.landed || (landed === best.landed && strain < best.strain - 1e-9)) best = { landed, strain };
    for (let k = i; k < at.length; k++)
      for (let c = b; c < beats.length; c++) {
        const [stretch, frames] = [at[k]! - shown, beats[c]! - frame];
        if (frames <= 0 || stretch / frames < 0.6 - 1e-9 || stretch / frames > 1.6 + 1e-9) continue;
        go(k + 1, c + 1, at[k]!, beats[c]!, landed + 1, strain + frames * Math.log(stretch / frames) ** 2);
      }
  };
  go(0, 0, 0, 0, 0, 0);
  return best;
}

describe('landing', () => {
  it('leaves what lies on beats already as it is', () =>
    expect(landOn(hits(20, 40, 60), [20, 40, 60, 80], LIMITS)).toEqual({
      pairs: [20, 40, 60].map((at, i) => ({ id: `h${i}`, at, beat: i })),
      missed: [],
    }));

  it('takes the nearer beat, and says how far off what cannot land is', () => {
    const { pairs, missed } = landOn(hits(20, 24, 60), [18, 38, 62], LIMITS);
    // Both of two hits four frames apart cannot be on beats twenty apart.
    expect(pairs).toEqual([
      { id: 'h0', at: 18, beat: 0 },
      { id: 'h2', at: 62, beat: 2 },
    ]);
    expect(missed).toEqual([{ id: 'h1', by: expect.closeTo(-4.4, 1) as number }]);
  });

  it('does what is fixed, and passes what is let go over', () => {
    expect(landOn(hits(20, 40), [18, 22, 40], LIMITS, new Map([['h0', 22]])).pairs[0]!.at).toBe(22);
    expect(landOn(hits(20, 40), [20, 40], LIMITS, new Map([['h0', null]])).pairs).toEqual([
      { id: 'h1', at: 40, beat: 1 },
    ]);
    // What is fixed out of reach lands nowhere, and the others do not take its place.
    expect(landOn(hits(20), [90], LIMITS, new Map([['h0', 90]])).pairs).toEqual([]);
  });

  it('with no beats, no hits, or limits that leave nothing lands none', () => {
    expect(landOn(hits(20), [], LIMITS)).toEqual({ pairs: [], missed: [{ id: 'h0', by: Infinity }] });
    expect(landOn([], [10], LIMITS)).toEqual({ pairs: [], missed: [] });
    expect(landOn(hits(20), [21], { least: 1, most: 1 }).missed).toEqual([{ id: 'h0', by: 1 }]);
  });

  it('is as good as the best of all ways', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 4, max: 90 }), { maxLength: 5 }),
        fc.uniqueArray(fc.integer({ min: 4, max: 100 }), { maxLength: 6 }),
        (a, b) => {
          const [at, beats] = [a.sort((x, y) => x - y), b.sort((x, y) => x - y)];
          const { pairs } = landOn(hits(...at), beats, LIMITS);
          let [shown, frame, strain] = [0, 0, 0];
          for (const pair of pairs) {
            const next = at[Number(pair.id.slice(1))]!;
            const speed = (next - shown) / (pair.at - frame);
            if (speed < 0.6 - 1e-9 || speed > 1.6 + 1e-9) return false;
            strain += (pair.at - frame) * Math.log(speed) ** 2;
            [shown, frame] = [next, pair.at];
          }
          const best = bruteForce(at, beats);
          return pairs.length === best.landed && Math.abs(strain - best.strain) < 1e-6;
        },
      ),
      { numRuns: 300, seed: 20_261_129 },
    );
  });

  it('of 60 clips with 200 hits in all against a long piece of music is found', () => {
    const beats = Array.from({ length: 2000 }, (_, i) => Math.round(i * 13.7));
    const clips = Array.from({ length: 60 }, (_, c) =>
      hits(...[17, 45, 90.5, 133].slice(0, c % 3 ? 4 : 2).map((at) => at + c * 0.37)),
    );
    expect(clips.reduce((sum, clip) => sum + landOn(clip, beats, LIMITS).pairs.length, 0)).toBeGreaterThan(100);
  });
});

describe('a row', () => {
  const montage = decideAll(
    [hit('a', 's', 1.02), hit('b', 's', 2.1), hit('c', 's', 3.3)],
    'kept',
  )({
    ...emptyMontage('m', 'M'),
    settings: { ...emptyMontage('m', 'M').settings, timing: { mode: 'constant', rate: { num: 30, den: 1 } } },
    sources: [footage('s', 300)],
    clips: [
      { id: 'c1', source: 's', in: 0, out: 4, fit: 'fit' },
      { id: 'c2', source: 's', in: 5, out: 7, fit: 'fit' },
    ],
  });
  const beats = Array.from({ length: 20 }, (_, i) => i * 0.5);
  const lineOf = (m: Montage) => timeline(m, mediaIndex(m.sources));
  const landed = (m: Montage) => landRow(lineOf(m), occurrences(m, m.hits, lineOf(m)), beats, LIMITS);

  it('shows each hit that lands on its beat, moves no cut, and lands the same again', () => {
    const m = land(landed(montage), lineOf(montage), montage.sources, LIMITS)(montage);
    const line = lineOf(m);
    expect(line.spans.map(({ first, end }) => [first, end])).toEqual([
      [0, 120],
      [120, 180],
    ]);
    expect(['a', 'b', 'c'].map((id) => line.frameOf(line.spans[0]!, m.hits.find((one) => one.id === id)!.t))).toEqual([
      30, 60, 90,
    ]);
    expect(landed(m)[0]!.pairs.map(({ at }) => at)).toEqual([30, 60, 90]);
    expect(m.clips[0]!.out).toBeCloseTo(3.3 + 30 / 30, 6);
  });

  it('ends a clip whose source goes no further more slowly, or sooner where that is too slow', () => {
    const last = { ...montage, clips: [{ id: 'c1', source: 's', in: 0, out: 10, fit: 'fit' as const }] };
    const ended = (limits: typeof LIMITS) => lineOf(land(landed(last), lineOf(last), last.sources, limits)(last)).count;
    expect(ended(LIMITS)).toBe(300);
    expect(ended({ least: 1, most: 1.6 })).toBeLessThan(300);
  });

  it('lets go of pins where a clip begins elsewhere', () => {
    const m = land(landed(montage), lineOf(montage), montage.sources, LIMITS)(montage);
    expect(m.clips[0]!.pins).toHaveLength(3);
    expect(trimClip('c1', { out: 3.5 })(m).clips[0]!.pins).toHaveLength(3);
    expect(trimClip('c1', { in: 0.5 })(m).clips[0]!.pins).toBeUndefined();
    expect(slipClip('c1', 0.5)(m).clips[0]!.pins).toBeUndefined();
    const [one, other] = splitClip('c1', 2, 'new')(m).clips;
    expect([one!.pins?.length, other!.pins]).toEqual([3, undefined]);
    expect(pinClip('c1', [])(m).clips[0]!).not.toHaveProperty('pins');
  });

  it('lands again when music moves, on its beats and on the moments that hits are fixed to', () => {
    const rule = { every: 'beats' as const, ...LIMITS, fixed: { b: null } };
    const m = together([land(landed(montage), lineOf(montage), montage.sources, LIMITS), setLanding(rule)])(montage);
    const shown = (one: Montage) => occurrences(one, one.hits, lineOf(one));
    const moved = beats.map((t) => t + 0.1);
    const again = landAgain(m, lineOf(m), shown(m), moved)!(m);
    const pins = (one: Montage) => one.clips[0]!.pins!.map(({ at }) => at);
    expect(pins(again)).toEqual([33, 108]);
    expect(landAgain(again, lineOf(again), shown(again), moved)).toBeNull();
    expect(setLanding(null)(again)).not.toHaveProperty('landing');
    expect(setLanding(null)(again).clips[0]).not.toHaveProperty('pins');
    const music = [{ id: 'x', source: 'song', at: 2, in: 1, out: 9, gain: 1 }];
    const fixed = { a: { source: 'song', t: 1.5 }, b: null, c: { source: 'song', t: 9.5 } };
    expect([...fixedFrames({ fixed }, music, 30)]).toEqual([
      ['a', 75],
      ['b', null],
    ]);
  });
});
