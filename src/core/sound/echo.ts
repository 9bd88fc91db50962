/** Echoes and rooms: what goes in comes back later. Left and right each have their own. */

/** Share of an echo that the next one has. */
const AGAIN = 0.45;

export interface Reflections {
  /** What comes back of one more sample. */
  next(left: number, right: number): readonly [number, number];
}

/** @param seconds from one echo to the next @param rate samples a second */
export function echo(seconds: number, rate: number): Reflections {
  const length = Math.max(1, Math.round(seconds * rate));
  const lines = [new Float32Array(length), new Float32Array(length)] as const;
  let at = 0;
  return {
    next(left, right) {
      const [l, r] = [lines[0][at]!, lines[1][at]!];
      lines[0][at] = left + AGAIN * l;
      lines[1][at] = right + AGAIN * r;
      at = (at + 1) % length;
      return [l, r];
    },
  };
}

/** Milliseconds of the combs and the allpasses. Source: M. R. Schroeder, "Natural sounding artificial reverberation", JAES 10 (3), 1962. */
const COMBS = [29.7, 37.1, 41.1, 43.7];
const ALLPASSES = [5, 1.7];
const ALLPASS = 0.7;
/** Milliseconds by which the right differs from the left. */
const APART = 0.53;
/** Loudness of what comes back. */
const WET = 0.22;

/** @param seconds in which it dies away by 60 dB */
export function room(seconds: number, rate: number): Reflections {
  const side = (apart: number): ((x: number) => number) => {
    const combs = COMBS.map((ms) => {
      const length = Math.round(((ms + apart) / 1000) * rate);
      return { line: new Float32Array(length), back: 10 ** ((-3 * length) / rate / seconds), at: 0 };
    });
    const passes = ALLPASSES.map((ms) => ({ line: new Float32Array(Math.round(((ms + apart) / 1000) * rate)), at: 0 }));
    return (x) => {
      let sum = 0;
      for (const comb of combs) {
        const y = comb.line[comb.at]!;
        comb.line[comb.at] = x + comb.back * y;
        comb.at = (comb.at + 1) % comb.line.length;
        sum += y;
      }
      for (const pass of passes) {
        const held = pass.line[pass.at]!;
        const v = sum + ALLPASS * held;
        pass.line[pass.at] = v;
        pass.at = (pass.at + 1) % pass.line.length;
        sum = held - ALLPASS * v;
      }
      return WET * sum;
    };
  };
  const [left, right] = [side(0), side(APART)];
  return { next: (l, r) => [left(l), right(r)] };
}
