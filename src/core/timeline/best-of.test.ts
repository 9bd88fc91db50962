import { expect, it } from 'vitest';
import { checkedMontage } from '../document/akmeon.ts';
import { footage, hit, punchAccent } from '../testkit/montages.ts';
import { placements } from '../accents/placements.ts';
import { bestOf } from './best-of.ts';
import { mediaIndex, timeline } from './timeline.ts';

const source = footage('s', 900);
const hits = [2, 2.5, 9, 15, 22, 27].map((t, i) => hit(`h${i}`, 's', t, { strength: 1 - i / 10, state: 'found' }));

it('shows the strongest moments in their order, no longer than is wanted, with accents on every hit', () => {
  const montage = bestOf(source, hits, [punchAccent()], { before: 1, after: 1.5, longest: 8 });
  checkedMontage(montage);
  expect(montage.clips.map(({ in: from }) => from)).toEqual([1, 8, 14]);
  const line = timeline(montage, mediaIndex(montage.sources));
  expect(line.duration).toBeLessThanOrEqual(8.1);
  expect(placements(montage, line).map((p) => p.occurrence.hit.t)).toEqual([2, 2.5, 9, 15]);
  expect(bestOf(source, hits, [punchAccent()], { before: 1, after: 1.5, longest: 8 })).toEqual(montage);
});

it('of nothing is empty, and without accents has no rule', () => {
  expect(bestOf(source, [], [punchAccent()], { before: 1, after: 1, longest: null }).clips).toEqual([]);
  expect(bestOf(source, hits, [], { before: 1, after: 1, longest: null }).rules).toEqual([]);
});
