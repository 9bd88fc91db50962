/**
 * Onsets without an edge: a note of soft strings, an organ or a choir shows as partials that were not there before and
 * stay. A partial counts by how far its level, at its least from 70 to 160 ms later, stands over the loudest within
 * three quarter tones from 20 to 120 ms before: what swings (vibrato), dies away at once (an edge) or grows over half a second (a
 * pad) hardly does. After the idea of S. Dixon, "Onset detection revisited", DAFx 2006, section 2, that pitch changes tell
 * soft onsets; the figures are common practice, no source, chosen on made pieces.
 */
import { GrowingArray } from './growing-array.ts';

/** Hops before and after, both inclusive, that are compared. */
const BEFORE = { from: 12, to: 2 } as const;
const AFTER = { from: 7, to: 16 } as const;
const ROWS = BEFORE.from + AFTER.to + 1;
/** Quarter tones that a swinging pitch covers, before; and on each side of a partial that it stands over. */
const SWING = 2;
const BESIDE = 4;
/** Logarithm to base 10 by which a partial stands over what is beside it, and from which it counts as new. */
const STANDS = 0.15;
const NEW = 0.15;
/** Kept values are in 32nds. */
const UNIT = 32;

/** All that it must remember to go on later. */
export interface SoftOnsetsState {
  readonly rows: readonly Float32Array[];
  readonly values: Uint8Array;
}

export class SoftOnsets {
  /** The last hops' levels, a quarter tone each. */
  private rows: Float32Array[] = [];
  /** Of all hops whose surroundings are known. */
  private readonly values = new GrowingArray(Uint8Array);

  constructor(state?: SoftOnsetsState) {
    if (!state) return;
    this.rows = state.rows.map((row) => row.slice());
    this.values.put(state.values);
  }

  state(): SoftOnsetsState {
    return { rows: this.rows.map((row) => row.slice()), values: this.values.all() };
  }

  /** One value a hop, those at both ends 0; in 32nds. */
  all(hops: number): Uint8Array {
    const out = new Uint8Array(hops);
    out.set(this.values.view().subarray(0, hops));
    return out;
  }

  /** @param levels as {@link quarterTones} gives them */
  take(levels: Float32Array): void {
    if (!this.rows.length) for (let h = 0; h < BEFORE.from; h++) this.values.push(0);
    const oldest = this.rows.length === ROWS ? this.rows.shift()! : new Float32Array(levels.length);
    oldest.set(levels);
    this.rows.push(oldest);
    if (this.rows.length === ROWS) this.values.push(Math.min(255, Math.round(UNIT * this.newPartials())));
  }

  /** Whether a quarter tone stands over those beside it all the while: noise has other peaks at every moment. */
  private isPartial(b: number): boolean {
    for (let h = AFTER.from; h <= AFTER.to; h += 3) {
      const row = this.rows[BEFORE.from + h]!;
      const own = Math.max(row[b - 1]!, row[b]!, row[b + 1]!);
      if (own < Math.max(row[b - BESIDE] ?? 0, row[b + BESIDE] ?? 0) + STANDS) return false;
    }
    return true;
  }

  private newPartials(): number {
    const { rows } = this;
    const middle = rows[BEFORE.from + AFTER.from + 3]!;
    let sum = 0;
    for (let b = SWING; b < middle.length - SWING; b++) {
      const own = middle[b]!;
      if (own < middle[b - 1]! || own < middle[b + 1]!) continue;
      if (!this.isPartial(b)) continue;
      let before = 0;
      for (let h = 0; h <= BEFORE.from - BEFORE.to; h++) {
        const row = rows[h]!;
        for (let d = -SWING; d <= SWING; d++) before = Math.max(before, row[b + d]!);
      }
      let after = Infinity;
      for (let h = BEFORE.from + AFTER.from; h < ROWS && after > before + NEW; h++) {
        const row = rows[h]!;
        after = Math.min(after, Math.max(row[b - 1]!, row[b]!, row[b + 1]!));
      }
      if (after > before + NEW) sum += after - before - NEW;
    }
    return sum;
  }
}

/** Hops on each side that a soft onset is the largest of. */
const AROUND = 8;

/** Hops of soft onsets from a threshold on, the same unit as the values'; ascending. */
export function softOnsets(values: Uint8Array, threshold: number): number[] {
  const found: number[] = [];
  for (let h = 0; h < values.length; h++) {
    const value = values[h]!;
    if (!value || value < threshold * UNIT) continue;
    let largest = true;
    for (let k = 1; k <= AROUND && largest; k++)
      largest = (values[h - k] ?? 0) < value && (values[h + k] ?? 0) <= value;
    if (largest) found.push(h);
  }
  return found;
}
