import { describe, expect, it } from 'vitest';
import { punchAccent } from '../testkit/montages.ts';
import { readAccents, writeAccents } from './accents.ts';
import { FormatError } from './document.ts';

const text = (change: (file: Record<string, unknown> & { accents: Record<string, unknown>[] }) => void): string => {
  const file = JSON.parse(writeAccents([punchAccent()], 'data:image/png;base64,AAAA')) as Parameters<typeof change>[0];
  change(file);
  return JSON.stringify(file);
};
const problem = (of: string): string => {
  try {
    readAccents(of);
    return 'read';
  } catch (error) {
    expect(error).toBeInstanceOf(FormatError);
    return (error as FormatError).problem;
  }
};

describe('accent files', () => {
  it('come back as they went out, with their picture', () => {
    expect(readAccents(writeAccents([punchAccent()], 'data:image/png;base64,AAAA'))).toMatchObject({
      accents: [punchAccent()],
      picture: 'data:image/png;base64,AAAA',
    });
  });

  it('of the first version are read: what lies on the hit had another name', () => {
    const old = text((file) => {
      file['version'] = 1;
      file.accents = file.accents.map(({ align, ...rest }) => ({ ...rest, lies: align }));
    });
    expect(readAccents(old).accents).toEqual([punchAccent()]);
  });

  it('keep an effect that is not known', () => {
    const read = readAccents(
      text((file) =>
        (file.accents[0]!['effects'] as unknown[]).push({
          id: 'x',
          effect: 'warp-nine',
          version: 4,
          on: true,
          params: { amount: 3 },
        }),
      ),
    );
    expect(read.accents[0]!.effects[1]).toMatchObject({ effect: 'warp-nine', version: 4, params: { amount: 3 } });
  });

  it('are refused with a reason when newer, foreign, broken or out of range', () => {
    expect(problem('{')).toBe('not-json');
    expect(problem('null')).toBe('not-akmeon');
    expect(problem('{"format":"other","version":1}')).toBe('not-akmeon');
    expect(problem(text((file) => (file['version'] = 9)))).toBe('newer-version');
    expect(problem(text((file) => (file.accents = [])))).toBe('invalid');
    expect(problem(text((file) => (file.accents[0]!['lead'] = -3)))).toBe('invalid');
    expect(problem(text((file) => (file.accents[0]!['tail'] = 'long')))).toBe('invalid');
    expect(
      problem(
        text(
          (file) =>
            (file.accents[0]!['effects'] = [
              { id: 'e', effect: 'punch', version: 1, on: true, params: { zoom: null } },
            ]),
        ),
      ),
    ).toBe('invalid');
    expect(problem(text((file) => (file['picture'] = 'javascript:alert(1)')))).toBe('invalid');
  });

  it('put keys in order, one a frame', () => {
    const read = readAccents(
      text(
        (file) =>
          (file.accents[0]!['effects'] = [
            {
              id: 'e',
              effect: 'punch',
              version: 1,
              on: true,
              params: {
                zoom: [
                  { at: 5, value: 1, ease: 'linear' },
                  { at: 0, value: 2, ease: 'hold' },
                  { at: 5, value: 3, ease: 'linear' },
                ],
              },
            },
          ]),
      ),
    );
    expect(read.accents[0]!.effects[0]!.params['zoom']).toEqual([
      { at: 0, value: 2, ease: 'hold' },
      { at: 5, value: 3, ease: 'linear' },
    ]);
  });

  it('take every generator, region, repeat, stack and own curve', () => {
    const full = {
      ...punchAccent(),
      unit: 'beats' as const,
      effects: [
        {
          id: 'e',
          effect: 'trail',
          version: 1,
          on: true,
          repeat: { times: 2, every: 3, length: 1.5, strength: 0.5 },
          stack: [{ id: 's', effect: 'negative', version: 1, on: true, params: {} }],
          region: [
            {
              id: 'r',
              kind: 'path' as const,
              combine: 'add' as const,
              invert: true,
              params: { soft: 3 },
              path: [{ at: 0, points: [{ x: 0, y: 0, smooth: true }] }],
            },
          ],
          params: {
            opacity: [{ at: 0, value: 1, ease: [0.1, -2, 0.9, 2] as const, anchor: 'next' as const }],
            x: { base: 0, by: { kind: 'noise' as const, amount: 1, rate: 2, rough: 0.5, clock: 'tide' } },
            y: { base: 0, by: { kind: 'run' as const, values: [1, null], from: 0, to: 1, glide: 'hold' as const } },
          },
        },
      ],
    };
    expect(readAccents(writeAccents([full])).accents[0]).toEqual(full);
  });
});
