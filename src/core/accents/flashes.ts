/**
 * Flashes a second, as WCAG 2.2 defines them (success criterion 2.3.1 and its "general flash and red
 * flash thresholds"; the wording was taken from memory):
 * - a general flash is a pair of opposing changes of relative luminance of at least 10 % of the greatest
 *   (1.0), where the darker state is below 0.80;
 * - a red flash is a pair of opposing changes to or from a saturated red, R / (R + G + B) >= 0.8 in linear
 *   light, of more than 0.2 in the CIE 1976 UCS diagram;
 * - more than three of one sort within a second are too many, where they cover more than a quarter
 *   of any 10 degrees of the field of view: a 341x256 part of a 1024x768 screen, a third of each side.
 *
 * And as ITU-R BT.1702 does for television (from memory, too): changes of at least 20 cd/m2 where the darker state is below
 * 160 cd/m2, on a screen of 200 cd/m2, so the same tenth and four fifths; too many where they cover more than a quarter of
 * the whole screen at once, which is less strict than the quarter of a part.
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
  /** Most of either sort over a quarter of the whole screen. */
  readonly screen: number;
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

/** Sums over all cells above and to the left, so that any field is counted with four reads. */
function sumsOf(marks: Uint8Array, columns: number, rows: number, sums: Int32Array): Int32Array {
  const row = columns + 1;
  for (let y = 0; y < rows; y++)
    for (let x = 0, across = 0; x < columns; x++) {
      across += marks[y * columns + x]!;
      sums[(y + 1) * row + x + 1] = sums[y * row + x + 1]! + across;
    }
  return sums;
}

/** Parts of each side that a field of 10 degrees takes; the whole screen is one field of its own. */
const FIELD = 3;

/** Changes to and fro of one sort in every field: an area flashes by itself, whatever others do. */
class FieldCounter {
  private readonly w: number;
  private readonly h: number;
  /** For each field the way of its last change, and when the changes of the last second were. */
  private readonly ways: Int8Array;
  private readonly times: number[][];
  private readonly recent = { up: [] as Uint8Array[], down: [] as Uint8Array[] };
  private readonly sums: readonly Int32Array[];
  flashes = 0;
  at: number | null = null;

  constructor(
    private readonly columns: number,
    private readonly rows: number,
    parts: number,
  ) {
    this.w = Math.max(1, Math.round(columns / parts));
    this.h = Math.max(1, Math.round(rows / parts));
    const fields = (columns - this.w + 1) * (rows - this.h + 1);
    this.ways = new Int8Array(fields);
    this.times = Array.from({ length: fields }, () => []);
    this.sums = Array.from({ length: 4 }, () => new Int32Array((columns + 1) * (rows + 1)));
  }

  add(time: number, up: Uint8Array, down: Uint8Array): void {
    const { columns, rows, w, h } = this;
    if (!up.includes(1) && !down.includes(1)) {
      this.joined('up', up);
      this.joined('down', down);
      return;
    }
    const [freshUp, freshDown, allUp, allDown] = [up, down, this.joined('up', up), this.joined('down', down)].map(
      (marks, i) => sumsOf(marks, columns, rows, this.sums[i]!),
    );
    const row = columns + 1;
    const least = AREA * w * h;
    for (let y = 0, field = 0; y + h <= rows; y++)
      for (let x = 0; x + w <= columns; x++, field++) {
        const at = y * row + x;
        const within = (sums: Int32Array): number =>
          sums[at + h * row + w]! - sums[at + h * row]! - sums[at + w]! + sums[at]!;
        const changes = (fresh: Int32Array, all: Int32Array): boolean => within(all) > least && within(fresh) > 0;
        const rises = changes(freshUp!, allUp!);
        const falls = changes(freshDown!, allDown!);
        if (!rises && !falls) continue;
        const last = this.ways[field]!;
        // Where parts of a field change against each other, its next change is one, not two.
        const way = rises && falls ? -last || 1 : rises ? 1 : -1;
        if (way !== last) this.change(field, way, time);
      }
  }

  private change(field: number, way: number, time: number): void {
    this.ways[field] = way;
    const times = this.times[field]!;
    times.push(time);
    while (time - times[0]! >= 1) times.shift();
    const flashes = Math.floor(times.length / 2);
    if (flashes > this.flashes) {
      this.flashes = flashes;
      this.at = times[0]!;
    }
  }

  /** What is marked on this frame or the one before. */
  private joined(name: 'up' | 'down', now: Uint8Array): Uint8Array {
    const list = this.recent[name];
    list.push(now);
    if (list.length > TOGETHER) list.shift();
    return list.length === 1 ? now : now.map((mark, i) => (list.some((one) => one[i]) ? 1 : mark));
  }
}

export class FlashCounter {
  private readonly luminance: Turn[] = [];
  private readonly redness: Turn[] = [];
  private readonly general: FieldCounter;
  private readonly red: FieldCounter;
  private readonly screen: readonly [general: FieldCounter, red: FieldCounter];

  constructor(
    private readonly columns: number,
    private readonly rows: number,
  ) {
    this.general = new FieldCounter(columns, rows, FIELD);
    this.red = new FieldCounter(columns, rows, FIELD);
    this.screen = [new FieldCounter(columns, rows, 1), new FieldCounter(columns, rows, 1)];
  }

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
    this.general.add(time, marks.up, marks.down);
    this.red.add(time, marks.redUp, marks.redDown);
    this.screen[0].add(time, marks.up, marks.down);
    this.screen[1].add(time, marks.redUp, marks.redDown);
  }

  count(): FlashCount {
    const { general, red } = this;
    const screen = Math.max(...this.screen.map(({ flashes }) => flashes));
    return {
      general: general.flashes,
      red: red.flashes,
      screen,
      at: (red.flashes > general.flashes ? red : general).at,
    };
  }
}

export const tooMany = ({ general, red, screen }: FlashCount): boolean => Math.max(general, red, screen) > MOST_FLASHES;
