import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readMontage, writeMontage } from '../document/akmeon.ts';
import { emptyMontage, type Hit, type Montage } from '../document/types.ts';
import { footage, FPS30, hit } from '../testkit/montages.ts';
import { gather, setGathered, type Gathering } from './gather.ts';
import { trimClip } from './row.ts';
import { clipFrames, mediaIndex, timeline } from './timeline.ts';

const sources = [footage('one', 1800), footage('two', 600)];
const hits: Hit[] = [2, 3, 10, 20, 40].map((t, i) =>
  hit(`h${i}`, 'one', t, { strength: [0.2, 0.4, 0.9, 0.6, 0.3][i]! }),
);
const plain: Gathering = { before: 1, after: 1.5, order: 'time', most: null, longest: null, beats: null, rate: FPS30 };
const of = (change: Partial<Gathering> = {}, list = hits) => gather(sources, list, { ...plain, ...change });

describe('gathering', () => {
  it('takes so much before and after each hit, what overlaps as one clip, within the source', () => {
    const { clips, left, length } = of();
    expect(clips.map((clip) => [clip.in, clip.out, clip.hits])).toEqual([
      [1, 4.5, ['h0', 'h1']],
      [9, 11.5, ['h2']],
      [19, 21.5, ['h3']],
      [39, 41.5, ['h4']],
    ]);
    expect([left, length]).toEqual([[], 11]);
    expect(of({}, [hit('a', 'one', 0.2), hit('z', 'one', 59.9)]).clips.map((clip) => [clip.in, clip.out])).toEqual([
      [0, 1.7],
      [58.9, 60],
    ]);
    expect(of({}, [hit('far', 'one', 99), hit('gone', 'nowhere', 1)]).left).toEqual(['gone', 'far']);
    expect(of({}, [])).toEqual({ clips: [], left: [], merged: 0, crowded: 0, length: 0 });
  });

  it('takes the strongest where it may not take all, and lists what is left out', () => {
    expect(of({ most: 2 }).clips.map((clip) => clip.hits[0])).toEqual(['h2', 'h3']);
    expect(of({ most: 2, order: 'strength' }).clips.map((clip) => clip.hits[0])).toEqual(['h2', 'h3']);
    expect(of({ order: 'strength' }).clips.map((clip) => clip.hits[0])).toEqual(['h2', 'h3', 'h0', 'h4']);
    const { clips, left, length } = of({ longest: 5.1 });
    expect(clips.map((clip) => clip.hits[0])).toEqual(['h2', 'h3']);
    expect(length).toBeLessThanOrEqual(5.1);
    expect(left).toEqual(['h0', 'h1', 'h4']);
  });

  it('puts the first hit of every clip on a beat, where its source has enough before it', () => {
    const beats = Array.from({ length: 80 }, (_, i) => 0.3 + i * 0.5);
    const { clips } = of({ beats });
    let at = 0;
    for (const clip of clips) {
      const falls = at + hits.find(({ id }) => id === clip.hits[0])!.t - clip.in;
      expect(Math.min(...beats.map((beat) => Math.abs(beat - falls)))).toBeLessThan(1e-9);
      expect(Math.abs(falls - at - plain.before)).toBeLessThanOrEqual(0.25 + 1e-9);
      at += clipFrames(clip, FPS30) / 30;
    }
    // Nothing lies before the first frame of the source.
    expect(of({ beats }, [hit('a', 'one', 0.05)]).clips[0]!.in).toBe(0);
    expect(of({ beats: [] }).clips).toEqual(of().clips);
  });

  it('makes clips as long as so many bars, one after another on the bars', () => {
    const bars = { begins: Array.from({ length: 60 }, (_, i) => i * 2), count: 1 };
    const { clips, left } = of({ bars });
    expect(left).toEqual([]);
    let at = 0;
    for (const clip of clips) {
      expect(clipFrames(clip, FPS30)).toBe(60);
      at += 2;
    }
    expect(at).toBe(2 * clips.length);
    expect(of({ bars: { ...bars, count: 4 } }).clips.map((clip) => clip.out - clip.in)).toEqual([8, 8, 8, 8]);
    // Bars that begin late: the first clip ends on the bar that makes it the more like two bars, never a stub.
    const lengths = (begins: readonly number[], count: number): number[] =>
      of({ bars: { begins, count } })
        .clips.slice(0, 3)
        .map((clip) => clip.out - clip.in);
    const late = [0.7, 2.7, 4.7, 6.7, 8.7, 10.7, 12.7];
    expect(lengths(late, 2)).toEqual([expect.closeTo(4.7, 6), expect.closeTo(4, 6), expect.closeTo(4, 6)]);
    expect(lengths(late, 1)).toEqual([expect.closeTo(2.7, 6), expect.closeTo(2, 6), expect.closeTo(2, 6)]);
    expect(
      lengths(
        late.map((bar) => bar + 1),
        1,
      )[0],
    ).toBeCloseTo(1.7, 6);
    // Hits that a bar has no room for beside the first get clips of their own.
    const dense = [0, 0.5, 1, 1.6, 2.2, 2.9, 3.4].map((t, i) => hit(`d${i}`, 'one', 10 + t));
    const of7 = of({ bars }, dense);
    expect(of7.clips.flatMap((clip) => clip.hits)).toEqual(dense.map(({ id }) => id));
    expect(of7.clips.length).toBeGreaterThan(1);
  });

  it('shows no footage twice where hits are nearer than a bar: one clip has both, or one is left out', () => {
    const bars = { begins: Array.from({ length: 60 }, (_, i) => i * 2), count: 1 };
    const near = [hit('a', 'one', 10), hit('b', 'one', 11.2), hit('c', 'one', 14, { strength: 0.9 })];
    const short = { before: 0.2, after: 0.2, bars };
    const inTime = of(short, near);
    expect(inTime.clips.map((clip) => clip.hits)).toEqual([['a', 'b'], ['c']]);
    expect([inTime.merged, inTime.crowded, inTime.left]).toEqual([1, 0, []]);
    // The strongest first, with room for less than a bar between them.
    const strong = [
      hit('a', 'one', 10, { strength: 1 }),
      hit('b', 'one', 12.5, { strength: 0.1 }),
      hit('c', 'one', 13.9),
    ];
    const byStrength = of({ ...short, before: 1, order: 'strength' }, strong);
    expect(byStrength.clips.map((clip) => clip.hits)).toEqual([['a'], ['c']]);
    expect([byStrength.merged, byStrength.crowded, byStrength.left]).toEqual([0, 1, ['b']]);
  });

  it('shows the hit itself where nothing after it is asked for', () => {
    expect(of({ before: 0.3, after: 0 }).clips.map((clip) => clip.hits)).toEqual([
      ['h0'],
      ['h1'],
      ['h2'],
      ['h3'],
      ['h4'],
    ]);
    const row = setGathered(of({ before: 0, after: 0 }).clips, () => 'x')({ ...emptyMontage('m', 'm'), sources });
    const line = timeline(row, mediaIndex(sources));
    expect(
      line.spans.map((span) => line.frameOf(span, hits.find(({ id }) => id === span.clip.gathered!.hits[0])!.t)),
    ).toEqual([0, 1, 2, 3, 4]);
  });

  it('has as many hits a minute as each part of the music asks for', () => {
    const many = Array.from({ length: 30 }, (_, i) => hit(`m${i}`, 'one', 1.9 * i + 1.2));
    const { clips } = of(
      {
        sections: [
          { from: 0, to: 10, perMinute: 30 },
          { from: 10, to: Infinity, perMinute: 60 },
        ],
      },
      many,
    );
    let at = 0;
    for (const clip of clips) {
      expect((clip.out - clip.in) / clip.hits.length).toBeCloseTo(at < 10 - 1e-6 ? 2 : 1, 6);
      at += clipFrames(clip, FPS30) / 30;
    }
  });

  it('swaps a hit in by hand for the weakest, and takes other seconds around single hits', () => {
    expect(of({ most: 2, first: new Set(['h4']) }).clips.map((clip) => clip.hits[0])).toEqual(['h2', 'h4']);
    const { clips } = of({ around: new Map([['h2', { before: 0.2, after: 0.3 }]]) });
    expect(clips[1]).toMatchObject({ in: 9.8, out: 10.3, hits: ['h2'] });
    expect(clips[2]).toMatchObject({ in: 19, out: 21.5 });
  });

  it('loses no hit and shows none twice, whatever is asked', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0, max: 70, noNaN: true }), { maxLength: 40 }),
        fc.record({
          before: fc.double({ min: 0, max: 5, noNaN: true }),
          after: fc.double({ min: 0, max: 5, noNaN: true }),
          order: fc.constantFrom('time' as const, 'strength' as const),
          most: fc.option(fc.nat(10)),
          longest: fc.option(fc.double({ min: 0, max: 60, noNaN: true })),
          rate: fc.constantFrom(FPS30, { num: 24000, den: 1001 }),
          beats: fc.option(fc.constant(Array.from({ length: 200 }, (_, i) => i * 0.43))),
          bars: fc.constantFrom(
            undefined,
            ...[1, 2, 4].map((count) => ({ begins: Array.from({ length: 50 }, (_, i) => 0.3 + i * 1.72), count })),
          ),
        }),
        (times, rules) => {
          const list = times.map((t, i) => hit(`h${i}`, i % 3 ? 'one' : 'two', t, { strength: (i % 7) / 7 }));
          const { clips, left } = gather(sources, list, rules);
          const shown = clips.flatMap((clip) => clip.hits);
          expect([...shown, ...left].sort()).toEqual(list.map(({ id }) => id).sort());
          for (const [i, clip] of clips.entries()) {
            expect(clip.hits.length).toBeGreaterThan(0);
            for (const other of clips.slice(0, i).filter(({ source }) => source === clip.source))
              expect(Math.min(clip.out, other.out) - Math.max(clip.in, other.in)).toBeLessThan(1e-9);
            expect(clip.out).toBeGreaterThan(clip.in);
            expect(clip.in).toBeGreaterThanOrEqual(0);
            for (const id of clip.hits) {
              const t = list.find((one) => one.id === id)!.t;
              expect(t >= clip.in - 1e-9 && t <= clip.out + 1e-9).toBe(true);
            }
          }
        },
      ),
    );
  });

  it('of five hundred hits, each on its beat', () => {
    const long = [{ ...footage('one', 108_000) }];
    const many = Array.from({ length: 500 }, (_, i) =>
      hit(`h${i}`, 'one', i * 7 + (i % 5), { strength: (i % 11) / 11 }),
    );
    const beats = Array.from({ length: 6000 }, (_, i) => i * 0.5);
    expect(gather(long, many, { ...plain, beats, longest: 600 }).clips.length).toBeGreaterThan(100);
  });
});

describe('the row that was gathered', () => {
  let count = 0;
  const newId = (): string => `g${count++}`;
  const empty: Montage = { ...emptyMontage('m', 'm'), sources };
  const first = setGathered(of().clips, newId)(empty);

  it('is a row of clips that can be saved and played', () => {
    expect(readMontage(writeMontage(first)).clips).toEqual(first.clips);
    expect(timeline(first, mediaIndex(sources)).count).toBe(11 * 30);
  });

  it('has each first hit on the frame that shows its beat, however many clips there are', () => {
    const many = Array.from({ length: 60 }, (_, i) => hit(`m${i}`, 'one', 0.4 + i * 0.9713, { strength: 0.5 }));
    const beats = Array.from({ length: 300 }, (_, i) => 0.17 + i * 0.4137);
    const { clips } = of({ beats, before: 0.2, after: 0.231 }, many);
    const row = setGathered(clips, newId)(empty);
    const line = timeline(row, mediaIndex(sources));
    for (const span of line.spans) {
      const frame = line.frameOf(span, many.find(({ id }) => id === span.clip.gathered!.hits[0])!.t)!;
      const off = Math.min(...beats.map((beat) => Math.abs(beat - line.timeOf(frame))));
      expect(off).toBeLessThanOrEqual(1 / 30 + 1e-6);
    }
  });

  it('keeps what was changed by hand, and the ids of the rest, when it is gathered again', () => {
    const trimmed = trimClip(first.clips[1]!.id, { out: 10.4 })(first);
    const again = setGathered(of({ after: 2, order: 'strength' }).clips, newId)(trimmed);
    expect(again.clips.map(({ in: from, out }) => [from, out])).toEqual([
      [9, 10.4],
      [19, 22],
      [1, 5],
      [39, 42],
    ]);
    expect(new Set(again.clips.map(({ id }) => id))).toEqual(new Set(first.clips.map(({ id }) => id)));
    // Fewer are asked for: what was changed by hand is not lost.
    expect(setGathered([], newId)(trimmed).clips).toEqual([trimmed.clips[1]]);
  });

  it('takes the place of clips that were put there by hand, or leaves them at the end', () => {
    const own = { id: 'own', source: 'two', in: 1, out: 2, fit: 'fit' as const };
    const mixed = { ...first, clips: [own, ...first.clips] };
    expect(setGathered(of({ most: 1 }).clips, newId)(mixed).clips.map(({ in: from }) => from)).toEqual([9]);
    const again = setGathered(of({ most: 1 }).clips, newId, 'keep')(mixed);
    expect(again.clips.map(({ in: from }) => from)).toEqual([9, 1]);
    expect(again.clips.at(-1)).toEqual(own);
  });
});
