/** Files that were changed at random: each is read, or refused with the format's own error, and what is read can be drawn. */
import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { planner } from '../src/core/accents/plan.ts';
import { hash } from '../src/core/base/hash.ts';
import { readAccents, writeAccents } from '../src/core/document/accents.ts';
import { readMontage } from '../src/core/document/akmeon.ts';
import { readCube, TableError } from '../src/core/document/colour-table.ts';
import { FormatError } from '../src/core/document/document.ts';
import { emptyMontage } from '../src/core/document/types.ts';
import { footage, hit, shotRule } from '../src/core/testkit/montages.ts';
import { mediaIndex } from '../src/core/timeline/timeline.ts';
import { EFFECTS } from '../src/effects/index.ts';
import { STARTER_ACCENTS } from '../src/effects/starters.ts';

const MUTATIONS = Number(process.env['AKMEON_MUTATIONS'] ?? 6000);

/** Whole numbers from a seed, each call another. */
function dice(seed: number): (below: number) => number {
  let n = 0;
  return (below) => hash(seed, n++) % below;
}

const EXTREMES: readonly unknown[] = [
  null,
  true,
  '',
  'plain',
  -1,
  0,
  0.5,
  1e-300,
  1e9,
  -1e9,
  1e308,
  -1e308,
  4294967295,
  [],
  {},
  [null],
  [null, 15],
  '\uFFFF',
];

type Json = unknown[] | Record<string, unknown>;
/** Every object and list of a document. */
function holders(value: unknown, into: Json[] = []): Json[] {
  if (typeof value === 'object' && value !== null) {
    into.push(value as Json);
    for (const part of Object.values(value)) holders(part, into);
  }
  return into;
}

/** One to three changes: a value put in place of another, taken away, moved elsewhere, nested in itself. */
function mutated(text: string, roll: (below: number) => number): string {
  if (roll(8) === 0) {
    // The text itself: a few letters lost, doubled or changed.
    const at = roll(text.length);
    const cut = roll(6);
    return text.slice(0, at) + ['', text.slice(at, at + cut), '}', '"', '9', '\\'][roll(6)]! + text.slice(at + cut);
  }
  const document = JSON.parse(text) as Json;
  const all = holders(document);
  for (let i = 0; i <= roll(3); i++) {
    const holder = all[roll(all.length)]! as Record<string, unknown>;
    const keys = Object.keys(holder);
    const key = keys[roll(Math.max(1, keys.length))] ?? 'x';
    const action = roll(6);
    if (action < 3) holder[key] = EXTREMES[roll(EXTREMES.length)];
    else if (action === 3) Reflect.deleteProperty(holder, key);
    else if (action === 4) holder[key] = structuredClone(all[roll(all.length)]);
    else if (Array.isArray(holder)) holder.push(...(structuredClone(holder) as unknown[]));
    else if (typeof holder[key] === 'number') holder[key] = (holder[key] as number) * (roll(2) ? -1 : 1000);
  }
  return JSON.stringify(document);
}

/** Reads, and draws up a few frames of what could be read. Gives how many were readable. */
function attack(
  count: number,
  seed: number,
  make: (roll: (below: number) => number) => string,
  use: (text: string) => void,
  own: abstract new (...args: never[]) => Error,
): number {
  let read = 0;
  for (let i = 0; i < count; i++) {
    const text = make(dice(hash(seed, i)));
    try {
      use(text);
      read++;
    } catch (error) {
      if (!(error instanceof own)) throw new Error(`seed ${seed}, mutation ${i}: ${String(error)}`, { cause: error });
    }
  }
  return read;
}

describe(`of ${MUTATIONS} changed files`, () => {
  it('each project is read and can be planned, or is refused in a sentence', () => {
    const demo = JSON.parse(readFileSync(new URL('../demo/harbour-nights.akmeon', import.meta.url), 'utf8')) as Record<
      string,
      unknown
    >;
    // Only some of the accents, so that most changes meet what is drawn.
    const text = JSON.stringify({
      ...demo,
      accents: (demo['accents'] as unknown[]).slice(0, 6),
      examples: [],
      watches: [],
    });
    const read = attack(
      MUTATIONS,
      1,
      (roll) => mutated(text, roll),
      (file) => {
        const montage = readMontage(file);
        const plan = planner(montage, mediaIndex(montage.sources), EFFECTS);
        const { count } = plan.timeline;
        for (const frame of [0, Math.floor(count / 3), count - 1]) plan.at(frame);
        const [first] = plan.placements;
        if (first) plan.at(Math.max(0, first.frame));
      },
      FormatError,
    );
    expect(read).toBeGreaterThan(MUTATIONS / 20);
  }, 120_000);

  it('each accent is read and can be drawn, or is refused in a sentence', () => {
    const plain = {
      ...emptyMontage('m', 'M'),
      sources: [footage('s', 900)],
      clips: [{ id: 'c', source: 's', in: 0, out: 30, fit: 'fit' as const }],
    };
    const files = STARTER_ACCENTS.map((accent) => writeAccents([accent]));
    const read = attack(
      MUTATIONS,
      2,
      (roll) => mutated(files[roll(files.length)]!, roll),
      (file) => {
        const { accents } = readAccents(file);
        const rules = accents.map((accent, i) =>
          shotRule({
            id: `r${i}`,
            accents: [{ accent: accent.id, weight: 1 }],
            run: i % 2 ? { count: 3, after: 'stay' } : null,
          }),
        );
        const hits = [2, 10, 20].map((t) => hit(`h${t}`, 's', t));
        const plan = planner({ ...plain, accents, rules, hits }, mediaIndex(plain.sources), EFFECTS);
        for (const frame of [58, 60, 63, 300, 899]) plan.at(frame);
      },
      FormatError,
    );
    expect(read).toBeGreaterThan(MUTATIONS / 20);
  }, 120_000);

  it('each colour table is read, or is refused in a sentence', () => {
    const rows = Array.from({ length: 8 }, (_, i) => `${i & 1} ${(i >> 1) & 1} ${i >> 2}`);
    const lines = ['TITLE "T"', 'LUT_3D_SIZE 2', 'DOMAIN_MIN 0 0 0', 'DOMAIN_MAX 1 1 1', ...rows];
    const words = [
      'LUT_3D_SIZE 65',
      'LUT_3D_SIZE 1e9',
      'DOMAIN_MIN 1 1 1',
      'DOMAIN_MAX 0',
      'LUT_3D_INPUT_RANGE 0 1',
      '1e308 0 0',
      'nan 0 0',
      '# x',
      '',
      '\0',
    ];
    const read = attack(
      MUTATIONS,
      3,
      (roll) => {
        const file = [...lines];
        for (let i = 0; i <= roll(3); i++) {
          const at = roll(file.length);
          const action = roll(4);
          if (action === 0) file.splice(at, 1);
          else if (action === 1) file.splice(at, 0, words[roll(words.length)]!);
          else if (action === 2) file[at] = words[roll(words.length)]!;
          else file[at] = file[at]!.slice(roll(3));
        }
        return file.join(roll(2) ? '\n' : '\r\n');
      },
      (file) => readCube(file, 'table.cube'),
      TableError,
    );
    expect(read).toBeGreaterThan(MUTATIONS / 50);
  }, 60_000);
});
