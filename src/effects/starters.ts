/**
 * Accents of our own that ship with Akmeon. Numbers: common practice, no source (a punch rises in
 * 1-3 frames and falls back in 3-10; a decaying shake ends in about 10; a flash lifts 3 stops).
 */
import type { Envelope, Key } from '../core/envelopes/envelope.ts';
import type { Accent } from '../core/montage/types.ts';
import { EFFECTS } from './index.ts';

const keys = (...points: [at: number, value: number, ease?: Key['ease']][]): Key[] =>
  points.map(([at, value, ease = 'linear']) => ({ at, value, ease }));

const use = (id: string, effect: string, params: Record<string, Envelope>): Accent['effects'][number] =>
  ({ id, effect, version: EFFECTS.get(effect)!.version, on: true, params });

const RATE = { num: 30, den: 1 };

export const STARTER_ACCENTS: readonly Accent[] = [
  {
    id: 'harbour-knock', name: 'Harbour knock', rate: RATE, lead: 2, tail: 10, seed: 11,
    effects: [
      use('hk1', 'punch', { zoom: keys([-2, 100, 'slow out'], [0, 124, 'fast out'], [8, 100]), roll: keys([-1, 0], [0, 2.5, 'fast out'], [7, 0]) }),
      use('hk2', 'shake', { x: keys([-1, 0], [0, 3, 'fast out'], [10, 0]), y: keys([-1, 0], [0, 4, 'fast out'], [10, 0]), rateX: 14, rateY: 17 }),
    ],
  },
  {
    id: 'lantern-burst', name: 'Lantern burst', rate: RATE, lead: 1, tail: 8, seed: 23,
    effects: [
      use('lb1', 'flash', { exposure: keys([-1, 0, 'linear'], [0, 3, 'fast out'], [7, 0]) }),
      use('lb2', 'split', { amount: keys([-1, 0], [0, 2.4, 'fast out'], [8, 0]), mode: 1, falloff: 60 }),
      use('lb3', 'punch', { zoom: keys([-1, 100], [0, 112, 'fast out'], [6, 100]) }),
    ],
  },
  {
    id: 'splinter', name: 'Splinter', rate: RATE, lead: 1, tail: 6, seed: 37,
    effects: [
      use('sp1', 'blocks', { amountX: keys([-1, 0], [0, 16, 'hold'], [2, 9, 'hold'], [4, 4, 'hold'], [6, 0]), amountY: keys([-1, 0], [0, 3, 'linear'], [6, 0]), coverage: 55, width: 30, height: 5, refresh: 1 }),
      use('sp2', 'split', { amount: keys([-1, 0], [0, 3, 'hold'], [2, -2, 'hold'], [4, 1, 'hold'], [6, 0]), angle: 0 }),
    ],
  },
];
