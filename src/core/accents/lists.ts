/** Lists of values as they are typed. */
import type { Listed } from '../document/types.ts';

/** A typed list: numbers and the word plain. Null where something else stands in it. */
export function readList(text: string): Listed[] | null {
  const words = text.split(/[\s,;]+/).filter(Boolean);
  const values = words.map((word) => (/^(plain|p|-)$/i.test(word) ? null : Number(word)));
  return values.some((v) => v !== null && !Number.isFinite(v)) ? null : values;
}

export const listText = (values: readonly Listed[]): string => values.map((v) => v ?? 'plain').join(' ');
