/**
 * Colour tables: reading `.cube` files and looking colours up.
 * Source of the format: Cube LUT Specification 1.0 (2013).
 */
import type { ColourTable } from './types.ts';
import { fromByteArray, toByteArray } from 'base64-js';

export class TableError extends Error {}

/** Largest table that is read: 65 a side. */
const MOST_SIDE = 65;

const encode = (values: Float64Array): string => {
  const bytes = new Uint8Array(2 * values.length);
  values.forEach((value, i) => {
    const v = Math.round(Math.min(1, Math.max(0, value)) * 65535);
    bytes.set([v & 255, v >> 8], 2 * i);
  });
  return fromByteArray(bytes);
};

/** @throws TableError with a sentence for the person. */
export function readCube(text: string, name: string): ColourTable {
  let size = 0;
  let line1d = 0;
  const [low, high] = [
    [0, 0, 0],
    [1, 1, 1],
  ];
  const rows: number[] = [];
  const three = (line: number, values: number[]): number[] => {
    if (values.length === 3) return values;
    throw new TableError(`${name} cannot be read: line ${line + 1} has ${values.length} numbers instead of three.`);
  };
  text.split(/\r?\n/).forEach((raw, i) => {
    const line = raw.replace(/#.*/, '').trim();
    if (!line) return;
    const words = line.split(/\s+/);
    const numbers = (from: number): number[] =>
      words.slice(from).map((word) => {
        const v = Number(word);
        if (!Number.isFinite(v))
          throw new TableError(`${name} cannot be read: line ${i + 1} holds “${word}” where a number belongs.`);
        return v;
      });
    switch (words[0]!.toUpperCase()) {
      case 'TITLE':
        return;
      case 'LUT_3D_SIZE':
        size = numbers(1)[0] ?? 0;
        return;
      case 'LUT_1D_SIZE':
        line1d = numbers(1)[0] ?? 0;
        return;
      case 'DOMAIN_MIN':
        low.splice(0, 3, ...three(i, numbers(1)));
        return;
      case 'DOMAIN_MAX':
        high.splice(0, 3, ...three(i, numbers(1)));
        return;
      case 'LUT_1D_INPUT_RANGE':
      case 'LUT_3D_INPUT_RANGE': {
        // Two numbers for all three colours.
        const [from, to, ...more] = numbers(1);
        if (from === undefined || to === undefined || more.length)
          throw new TableError(`${name} cannot be read: line ${i + 1} has no two numbers for its input range.`);
        low.fill(from);
        high.fill(to);
        return;
      }
    }
    const row = numbers(0);
    if (row.length !== 3)
      throw new TableError(`${name} cannot be read: line ${i + 1} has ${row.length} numbers instead of three.`);
    rows.push(...row);
  });
  low.forEach((from, c) => {
    if (from < high[c]!) return;
    throw new TableError(
      `${name} cannot be read: its domain begins at ${from} and ends at ${high[c]!}, which is not above it.`,
    );
  });
  if (line1d) throw new TableError(`${name} holds curves, not a table of three dimensions: only LUT_3D_SIZE is read.`);
  if (!Number.isInteger(size) || size < 2 || size > MOST_SIDE)
    throw new TableError(`${name} cannot be read: it says no LUT_3D_SIZE from 2 to ${MOST_SIDE}.`);
  if (rows.length !== 3 * size ** 3)
    throw new TableError(`${name} cannot be read: it holds ${rows.length / 3} colours where ${size ** 3} belong.`);
  if (low.some((v, i) => v !== 0 || high[i] !== 1))
    return { name, size, values: encode(overDomain(Float64Array.from(rows), size, low, high)) };
  return { name, size, values: encode(Float64Array.from(rows)) };
}

/** A table over another domain, resampled onto 0-1. */
function overDomain(rows: Float64Array, size: number, low: readonly number[], high: readonly number[]): Float64Array {
  const out = new Float64Array(rows.length);
  const rgb = new Float64Array(3);
  for (let i = 0; i < size ** 3; i++) {
    [i % size, Math.floor(i / size) % size, Math.floor(i / size / size)].forEach((v, c) => {
      rgb[c] = Math.min(1, Math.max(0, (v / (size - 1) - low[c]!) / Math.max(1e-9, high[c]! - low[c]!)));
    });
    sample(rows, size, rgb);
    out.set(rgb, 3 * i);
  }
  return out;
}

/** Trilinear, in place; red runs fastest. */
function sample(values: ArrayLike<number>, size: number, rgb: Float64Array): void {
  const place = [0, 1, 2].map((c) => {
    const at = rgb[c]! * (size - 1);
    const cell = Math.min(size - 2, Math.floor(at));
    return { cell, share: at - cell };
  });
  const result = [0, 0, 0];
  for (let corner = 0; corner < 8; corner++) {
    let weight = 1;
    let index = 0;
    place.forEach(({ cell, share }, c) => {
      const up = (corner >> c) & 1;
      weight *= up ? share : 1 - share;
      index += (cell + up) * size ** c;
    });
    for (let c = 0; c < 3; c++) result[c] = result[c]! + weight * values[3 * index + c]!;
  }
  rgb.set(result);
}

const decoded = new WeakMap<ColourTable, Float32Array>();

/** The table's values 0-1; cached. A table of the wrong length is filled up with black. */
export function tableValues(table: ColourTable): Float32Array {
  let values = decoded.get(table);
  if (!values) {
    const bytes = toByteArray(table.values);
    values = new Float32Array(3 * table.size ** 3);
    for (let i = 0; i < values.length && 2 * i + 1 < bytes.length; i++)
      values[i] = (bytes[2 * i]! + 256 * bytes[2 * i + 1]!) / 65535;
    decoded.set(table, values);
  }
  return values;
}

/** Looks a displayed colour 0-1 up, in place. */
export const lookUp = (table: ColourTable): ((rgb: Float64Array) => void) => {
  const values = tableValues(table);
  return (rgb) => sample(values, table.size, rgb);
};
