import { expect, it } from 'vitest';
import { setsOf, unitsOf } from './copying.ts';

it('parts a stream at its start codes of three and four bytes (ISO/IEC 14496-10, Annex B)', () => {
  const stream = Uint8Array.from([
    0, 0, 0, 1, 9, 0x10, 0, 0, 0, 1, 0x67, 1, 2, 0, 0, 1, 0x68, 3, 0, 0, 1, 0x65, 0, 0, 3, 1,
  ]);
  expect(unitsOf(stream).map((unit) => [...unit])).toEqual([
    [9, 0x10],
    [0x67, 1, 2],
    [0x68, 3],
    [0x65, 0, 0, 3, 1],
  ]);
  expect(unitsOf(Uint8Array.of(1, 2, 3))).toEqual([]);
});

it('takes the parameter sets of a decoder configuration record (ISO/IEC 14496-15, 5.3.3.1), or none of a broken one', () => {
  const record = Uint8Array.from([1, 0x64, 0, 0x1f, 0xff, 0xe1, 0, 3, 0x67, 0x64, 0, 1, 0, 2, 0x68, 0xeb]);
  expect([...setsOf(record)!]).toEqual([0, 0, 0, 3, 0x67, 0x64, 0, 0, 0, 0, 2, 0x68, 0xeb]);
  // Lengths of two bytes, another version, cut short.
  expect(setsOf(Uint8Array.from(record, (v, i) => (i === 4 ? 0xfd : v)))).toBeNull();
  expect(setsOf(Uint8Array.from(record, (v, i) => (i === 0 ? 0 : v)))).toBeNull();
  expect(setsOf(record.subarray(0, 6))).toBeNull();
});
