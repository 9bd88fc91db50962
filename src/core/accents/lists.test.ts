import { describe, expect, it } from 'vitest';
import { listText, readList } from './lists.ts';

describe('typed lists', () => {
  it('hold numbers and the word plain, however they are set apart', () => {
    expect(readList('5 plain -5, p;2.5')).toEqual([5, null, -5, null, 2.5]);
    expect(readList('')).toEqual([]);
    expect(readList('5 five')).toBeNull();
    expect(readList('1e999')).toBeNull();
  });

  it('come back as they were written', () => {
    const values = [120, null, -3.5];
    expect(readList(listText(values))).toEqual(values);
  });
});
