import { describe, expect, it } from 'vitest';
import type { Montage } from '../../core/document/types.ts';
import { movedLayer } from './order.tsx';

const bed = (id: string, above: boolean) => ({ id, above });
const montage = {
  beds: [bed('a', false), bed('b', true), bed('c', false)],
  titles: [{ id: 't' }, { id: 'u' }],
} as unknown as Montage;
const order = (m: Montage | null): string | undefined => m?.beds.map(({ id }) => id).join('');

describe('moving a layer', () => {
  it('goes past its own sort alone: a bed below the accents never past one above them', () => {
    const a = { id: 'bed:a', kind: 'bed', name: '' } as const;
    expect(order(movedLayer(montage, a, 1))).toBe('cba');
    expect(movedLayer(montage, a, -1)).toBeNull();
    expect(movedLayer(montage, { ...a, id: 'bed:b' }, 1)).toBeNull();
    expect(movedLayer(montage, { ...a, id: 'bed:gone' }, 1)).toBeNull();
  });

  it('moves titles, and nothing that has no place of its own', () => {
    const up = movedLayer(montage, { id: 'title:t', kind: 'title', name: '' }, 1);
    expect(up?.titles?.map(({ id }) => id)).toEqual(['u', 't']);
    expect(movedLayer(montage, { id: 'subject', kind: 'subject', name: '' }, 1)).toBeNull();
  });
});
