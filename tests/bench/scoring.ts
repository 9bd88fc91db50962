/**
 * Scores of detections against truth: one-to-one matching within a tolerance, precision, recall and
 * their harmonic mean F, as the MIREX onset and beat tasks define them (50 and 70 ms).
 */
export interface Truth {
  readonly file: string;
  readonly duration: number;
  readonly tolerance?: number;
  readonly fps?: number;
  readonly hits?: readonly {
    readonly t: number;
    readonly kind: string;
    readonly also?: readonly string[];
    readonly optional?: boolean;
  }[];
  readonly beats?: readonly number[];
  readonly downbeats?: readonly number[];
  readonly tempo?: number | readonly number[];
  readonly cuts?: readonly { readonly t: number }[];
  readonly query?: { readonly start: number; readonly end: number };
  /** Shares of the picture: an object or [x, y, w, h]. */
  readonly region?:
    | { readonly x: number; readonly y: number; readonly w: number; readonly h: number }
    | readonly [number, number, number, number];
  readonly referenceFrame?: number;
}

export interface Score {
  readonly f: number;
  readonly precision: number;
  readonly recall: number;
  readonly falseAlarms: number;
  /** Milliseconds, of the matched; null without. */
  readonly medianError: number | null;
  /** Matched pairs, indices of truth and detection. */
  readonly pairs: readonly (readonly [truth: number, found: number])[];
}

/** Most pairs no further apart than `tolerance`; of sorted times taken greedily by the earliest end, which is optimal on a line. */
export function pairsOf(truth: readonly number[], found: readonly number[], tolerance: number): [number, number][] {
  const a = truth.map((t, i) => ({ t, i })).sort((x, y) => x.t - y.t);
  const b = found.map((t, i) => ({ t, i })).sort((x, y) => x.t - y.t);
  const pairs: [number, number][] = [];
  for (let i = 0, k = 0; i < a.length && k < b.length;) {
    const gap = b[k]!.t - a[i]!.t;
    if (Math.abs(gap) <= tolerance + 1e-9) {
      // The next detection may lie nearer, and the next truth does without this one.
      if (
        k + 1 < b.length &&
        Math.abs(b[k + 1]!.t - a[i]!.t) < Math.abs(gap) &&
        (i + 1 >= a.length ||
          b[k + 1]!.t < a[i + 1]!.t - tolerance ||
          Math.abs(b[k + 1]!.t - a[i]!.t) < Math.abs(b[k + 1]!.t - a[i + 1]!.t))
      )
        k++;
      else pairs.push([a[i++]!.i, b[k++]!.i]);
    } else if (gap < 0) k++;
    else i++;
  }
  return pairs;
}

/** @param optional truths that may be found and need not */
export function score(
  truth: readonly number[],
  found: readonly number[],
  tolerance: number,
  optional: readonly number[] = [],
): Score {
  const pairs = pairsOf(truth, found, tolerance);
  const used = new Set(pairs.map(([, k]) => k));
  const rest = found.filter((_, k) => !used.has(k));
  const claimed = found.length - pairsOf(optional, rest, tolerance).length;
  const precision = claimed ? pairs.length / claimed : truth.length ? 0 : 1;
  const recall = truth.length ? pairs.length / truth.length : claimed ? 0 : 1;
  const errors = pairs.map(([i, k]) => Math.abs(found[k]! - truth[i]!) * 1000).sort((x, y) => x - y);
  return {
    f: precision + recall ? (2 * precision * recall) / (precision + recall) : 0,
    precision,
    recall,
    falseAlarms: claimed - pairs.length,
    medianError: errors.length ? errors[errors.length >> 1]! : null,
    pairs,
  };
}
