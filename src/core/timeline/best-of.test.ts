import { expect, it } from 'vitest';
import { checkedMontage } from '../document/akmeon.ts';
import { footage, hit, punchAccent } from '../testkit/montages.ts';
import { placements } from '../accents/placements.ts';
import { bestOf, type BestOf } from './best-of.ts';
import { mediaIndex, timeline } from './timeline.ts';

const source = footage('s', 900);
const best = (found: typeof hits, accents: Parameters<typeof bestOf>[2], order: BestOf) =>
  bestOf('s.mp4', [{ source, hits: found }], accents, order);
const hits = [2, 2.5, 9, 15, 22, 27].map((t, i) => hit(`h${i}`, 's', t, { strength: 1 - i / 10, state: 'found' }));

it('shows the strongest moments in their order, no longer than is wanted, with accents on every hit', () => {
  const montage = best(hits, [punchAccent()], { before: 1, after: 1.5, longest: 8 });
  checkedMontage(montage);
  expect(montage.clips.map(({ in: from }) => from)).toEqual([1, 8, 14]);
  const line = timeline(montage, mediaIndex(montage.sources));
  expect(line.duration).toBeLessThanOrEqual(8.1);
  expect(placements(montage, line).map((p) => p.occurrence.hit.t)).toEqual([2, 2.5, 9, 15]);
  expect(best(hits, [punchAccent()], { before: 1, after: 1.5, longest: 8 })).toEqual(montage);
});

it('of nothing is empty, and without accents has no rule', () => {
  expect(best([], [punchAccent()], { before: 1, after: 1, longest: null }).clips).toEqual([]);
  expect(best(hits, [], { before: 1, after: 1, longest: null }).rules).toEqual([]);
});

it('of several recordings shows the strongest of all, recording after recording, each hit once', () => {
  const other = footage('t', 900);
  const theirs = [4, 12].map((t, i) => hit(`g${i}`, 't', t, { strength: 0.95 - i / 2, state: 'found' }));
  const both = [
    { source, hits },
    { source: other, hits: theirs },
  ];
  const order = { before: 1, after: 1.5, longest: 6 };
  const montage = bestOf('Both', both, [punchAccent()], order);
  checkedMontage(montage);
  expect(montage.name).toBe('Both');
  expect(montage.sources.map(({ id }) => id)).toEqual(['s', 't']);
  expect(montage.clips.map(({ source: id, in: from }) => [id, from])).toEqual([
    ['s', 1],
    ['t', 3],
  ]);
  expect(bestOf('Both', both, [punchAccent()], order)).toEqual(montage);
});
