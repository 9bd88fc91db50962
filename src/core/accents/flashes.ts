/**
 * Flashes a second, as WCAG 2.2 defines them (success criterion 2.3.1 and its "general flash and red
 * flash thresholds"; the wording was taken from memory):
 * - a general flash is a pair of opposing changes of relative luminance of at least 10 % of the greatest
 *   (1.0), where the darker state is below 0.80;
 * - a red flash is a pair of opposing changes to or from a saturated red, R / (R + G + B) >= 0.8 in linear
 *   light, of more than 0.2 in the CIE 1976 UCS diagram;
 * - more than three of one sort within a second are too many, where they cover more than a quarter
 *   of any 10 degrees of the field of view: a 341x256 part of a 1024x768 screen, a third of each side.
 */
import { luminance, toLinear } from '../base/colour.ts';

export const MOST_FLASHES = 3;
const STEP = 0.1;
const BRIGHT = 0.8;
const RED = 0.8;
const RED_STEP = 0.2;
/** Share of the 10-degree field that must change together. */
const AREA = 0.25;
/** Frames within which cells change together: slow changes cross the step a little apart. */
const TOGETHER = 2;

/** A small picture of one frame: rows top first, RGBA as displayed. */
export interface SmallFrame {
  /** Seconds. */
  readonly time: number;
  readonly rgba: ArrayLike<number>;
}

export interface FlashCount {
  /** Most flashes within any second. */
  readonly general: number;
  readonly red: number;
  /** Seconds at which the second with the most begins; null where nothing flashes. */
  readonly at: number | null;
}

/** u' and v' of the CIE 1976 UCS diagram from linear sRGB (IEC 61966-2-1 matrix); black stands at white's place. */
function chromaticity(r: number, g: number, b: number): [number, number] {
  const x = 0.4124 * r + 0.3576 * g + 0.1805 * b;
  const y = luminance(r, g, b);
  const z = 0.0193 * r + 0.1192 * g + 0.9505 * b;
  const sum = x + 15 * y + 3 * z;
  return sum < 1e-6 ? [0.1978, 0.4683] : [(4 * x) / sum, (9 * y) / sum];
}

/** One cell's last turning point for one sort of change. */
interface Turn {
  low: number;
  high: number;
  way: 0 | 1 | -1;
  u: number;
  v: number;
  red: boolean;
}

/** Sorts of a screen-wide change: when, and whether up (+1) or down (-1). */
interface Change {
  readonly time: number;
  readonly way: 1 | -1;
}

/** True where some field of a third of each side has a quarter of its cells set. */
function coversField(marks: Uint8Array, columns: number, rows: number): boolean {
  const [w, h] = [Math.max(1, Math.round(columns / 3)), Math.max(1, Math.round(rows / 3))];
  // Sums over all cells above and to the left, for the count in any field at once.
  const sums = new Int32Array((columns + 1) * (rows + 1));
  for (let y = 0; y < rows; y++)
    for (let x = 0; x < columns; x++) {
      sums[(y + 1) * (columns + 1) + x + 1] =
        marks[y * columns + x]! +
        sums[y * (columns + 1) + x + 1]! +
        sums[(y + 1) * (columns + 1) + x]! -
        sums[y * (columns + 1) + x]!;
    }
  for (let y = 0; y + h <= rows; y++)
    for (let x = 0; x + w <= columns; x++) {
      const at = (i: number, j: number): number => sums[j * (columns + 1) + i]!;
      if (at(x + w, y + h) - at(x, y + h) - at(x + w, y) + at(x, y) > AREA * w * h) return true;
    }
  return false;
}

/** Most opposing pairs within a second, and when that second begins. */
function most(changes: readonly Change[]): { flashes: number; at: number | null } {
  let best = { flashes: 0, at: null as number | null };
  for (let i = 0; i < changes.length; i++) {
    let count = 0;
    let way = 0;
    for (let j = i; j < changes.length && changes[j]!.time - changes[i]!.time < 1; j++) {
      if (changes[j]!.way !== way) {
        count++;
        way = changes[j]!.way;
      }
    }
    const flashes = Math.floor(count / 2);
    if (flashes > best.flashes) best = { flashes, at: changes[i]!.time };
  }
  return best;
}

export class FlashCounter {
  private readonly luminance: Turn[] = [];
  private readonly redness: Turn[] = [];
  private readonly recent = {
    up: [] as Uint8Array[],
    down: [] as Uint8Array[],
    redUp: [] as Uint8Array[],
    redDown: [] as Uint8Array[],
  };
  private readonly general: Change[] = [];
  private readonly red: Change[] = [];

  constructor(
    private readonly columns: number,
    private readonly rows: number,
  ) {}

  /** Frames in order of time. */
  add({ time, rgba }: SmallFrame): void {
    const n = this.columns * this.rows;
    const marks = {
      up: new Uint8Array(n),
      down: new Uint8Array(n),
      redUp: new Uint8Array(n),
      redDown: new Uint8Array(n),
    };
    for (let i = 0; i < n; i++) {
      const [r, g, b] = [
        toLinear(rgba[4 * i]! / 255),
        toLinear(rgba[4 * i + 1]! / 255),
        toLinear(rgba[4 * i + 2]! / 255),
      ];
      const y = luminance(r, g, b);
      const [u, v] = chromaticity(r, g, b);
      const red = r + g + b > 1e-6 && r / (r + g + b) >= RED;
      const turn = this.luminance[i];
      if (!turn) {
        this.luminance[i] = { low: y, high: y, way: 0, u, v, red };
        this.redness[i] = { low: 0, high: 0, way: 0, u, v, red };
        continue;
      }
      turn.low = Math.min(turn.low, y);
      turn.high = Math.max(turn.high, y);
      if (turn.way !== 1 && y - turn.low >= STEP - 1e-9 && turn.low < BRIGHT) {
        marks.up[i] = 1;
        Object.assign(turn, { way: 1, low: y, high: y });
      } else if (turn.way !== -1 && turn.high - y >= STEP - 1e-9 && y < BRIGHT) {
        marks.down[i] = 1;
        Object.assign(turn, { way: -1, low: y, high: y });
      } else if (turn.way === 1) turn.low = turn.high = Math.max(turn.high, y);
      else if (turn.way === -1) turn.low = turn.high = Math.min(turn.low, y);
      const seen = this.redness[i]!;
      if ((red || seen.red) && Math.hypot(u - seen.u, v - seen.v) > RED_STEP) {
        // Towards red counts as up, away from it as down.
        const up = red && !seen.red ? true : !red && seen.red ? false : seen.way !== 1;
        (up ? marks.redUp : marks.redDown)[i] = 1;
        Object.assign(seen, { u, v, red, way: up ? 1 : -1 });
      } else if (!red && !seen.red) Object.assign(seen, { u, v });
    }
    const together = (list: Uint8Array[], now: Uint8Array): Uint8Array => {
      list.push(now);
      if (list.length > TOGETHER) list.shift();
      return list.length === 1 ? now : now.map((mark, i) => (list.some((one) => one[i]) ? 1 : mark));
    };
    const change = (name: 'up' | 'down' | 'redUp' | 'redDown', to: Change[], way: 1 | -1): void => {
      const all = together(this.recent[name], marks[name]);
      if (!coversField(all, this.columns, this.rows)) return;
      this.recent[name].length = 0;
      if (to.at(-1)?.way !== way) to.push({ time, way });
      else to[to.length - 1] = { time: to.at(-1)!.time, way };
    };
    change('up', this.general, 1);
    change('down', this.general, -1);
    change('redUp', this.red, 1);
    change('redDown', this.red, -1);
  }

  count(): FlashCount {
    const [general, red] = [most(this.general), most(this.red)];
    return { general: general.flashes, red: red.flashes, at: (red.flashes > general.flashes ? red : general).at };
  }
}

export const tooMany = ({ general, red }: FlashCount): boolean => general > MOST_FLASHES || red > MOST_FLASHES;
