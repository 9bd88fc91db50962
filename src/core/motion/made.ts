/**
 * A frame between two others, made by their movement: vectors for the middle frame are chosen among those of both, drawn
 * by overlapped blocks, and given up place by place, for a mix of both frames, where they are not to be trusted. Sources:
 * M. T. Orchard, G. J. Sullivan, "Overlapped block motion compensation", IEEE Trans. Image Processing 3 (5), 1994;
 * R. Keys, "Cubic convolution interpolation for digital image processing", IEEE Trans. ASSP 29 (6), 1981.
 */
import { CELL, fieldBetween, held, holds, levelsOf, spokenFor, type Field, type Level, type Luma } from './field.ts';
import { filledIn, halfOf, keepStill, moveAround, stillIn } from './still.ts';

/** Movement between two frames, both ways. */
export interface Motion {
  readonly forward: Field;
  readonly backward: Field;
  /** Share of cells that both ways agree on; little of it is another shot. */
  readonly agreed: number;
  readonly from: Level;
  readonly to: Level;
  /** 1 where something lies over the picture that stands still, a byte a pixel; null where nothing does. */
  readonly still: Uint8Array | null;
}

/** I420: Y rows, then U and V of half the size, rounded up, without gaps. */
export interface Planes {
  readonly width: number;
  readonly height: number;
  readonly data: Uint8Array<ArrayBuffer>;
}

/** Share of agreeing cells under which two frames are of two shots. */
export const SHOT = 0.2;
/** Pixels by which both ways may differ, and the share of the movement that is added to them. */
const AGREES = 1.5;
const AGREES_SHARE = 1 / 32;
/** Candidates of a cell. */
const MOST = 8;
/** As in field.ts, for the middle frame. */
const SMOOTH = 60;
/** Between these a vector is given up for a mix: pixels off both fields, and levels that both frames differ by. */
const FAR = [0.75, 2.25] as const;
const UNLIKE = [4, 9] as const;

/** The cell that holds a place. */
const cellAt = ({ columns, rows }: Field, x: number, y: number): number =>
  held(Math.floor(y / CELL), rows) * columns + held(Math.floor(x / CELL), columns);

/** What of one way the other one takes back, cell by cell. */
function agreement(one: Field, other: Field): Uint8Array {
  const agrees = new Uint8Array(one.x.length);
  for (let cell = 0; cell < agrees.length; cell++) {
    const [x, y] = [((cell % one.columns) + 0.5) * CELL, (Math.floor(cell / one.columns) + 0.5) * CELL];
    const [vx, vy] = [one.x[cell]!, one.y[cell]!];
    const back = cellAt(other, x + vx, y + vy);
    const off = Math.hypot(vx + other.x[back]!, vy + other.y[back]!);
    agrees[cell] = off <= AGREES + Math.hypot(vx, vy) * AGREES_SHARE ? 1 : 0;
  }
  return agrees;
}

/** Cells that nothing agrees with because their movement leads out of the picture move as the nearest that agree. */
function leadOut(field: Field, agrees: Uint8Array, { width, height }: Luma): void {
  const { columns, rows } = field;
  const reach = Math.max(columns, rows);
  for (let cell = 0; cell < agrees.length; cell++) {
    if (agrees[cell]) continue;
    const [column, row] = [cell % columns, Math.floor(cell / columns)];
    let nearest = -1;
    for (let d = 1; d < reach && nearest < 0; d++)
      for (const [dx, dy] of [
        [-d, 0],
        [d, 0],
        [0, -d],
        [0, d],
      ] as const) {
        const [c, r] = [column + dx, row + dy];
        if (c >= 0 && r >= 0 && c < columns && r < rows && agrees[r * columns + c] === 1) {
          nearest = r * columns + c;
          break;
        }
      }
    if (nearest < 0) continue;
    const [x, y] = [(column + 0.5) * CELL + field.x[nearest]!, (row + 0.5) * CELL + field.y[nearest]!];
    const rim = CELL / 2;
    if (x > rim && y > rim && x < width - rim && y < height - rim) continue;
    field.x[cell] = field.x[nearest]!;
    field.y[cell] = field.y[nearest]!;
    agrees[cell] = 2;
  }
}

/** Contrasts up to so many times the other's are brought to it: a flash takes contrast off all of a picture. */
const MOST_GAIN = 2.5;

/** Gives the paler of two flattened frames the contrast of the other. */
function alike(one: Luma, other: Luma): void {
  const contrast = ({ data }: Luma): number => data.reduce((sum, v) => sum + Math.abs(v - 128), 0);
  const [a, b] = [contrast(one), contrast(other)];
  const pale = a < b ? one : other;
  const gain = Math.min(MOST_GAIN, Math.max(a, b) / Math.max(1, Math.min(a, b)));
  if (gain < 1.02) return;
  for (let i = 0; i < pale.data.length; i++)
    pale.data[i] = Math.min(255, Math.max(0, Math.round(128 + (pale.data[i]! - 128) * gain)));
}

/** @param around frames right before the one and right after the other, where there are any: they tell what stands still */
export function motionBetween(one: Luma, other: Luma, around: { before?: Luma; after?: Luma } = {}): Motion {
  const { before, after } = around;
  const still = stillIn([...(before ? [before] : []), one, other, ...(after ? [after] : [])]);
  const [from, to] = still ? levelsOf(filledIn(one, still), filledIn(other, still)) : levelsOf(one, other);
  from.forEach((level, i) => alike(level, to[i]!));
  const [forward, backward] = [fieldBetween(from, to), fieldBetween(to, from)];
  const [there, back] = [agreement(forward, backward), agreement(backward, forward)];
  const agreed = (there.reduce((n, one) => n + one, 0) + back.reduce((n, one) => n + one, 0)) / (2 * there.length);
  leadOut(forward, there, one);
  leadOut(backward, back, other);
  if (still) for (const field of [forward, backward]) moveAround(field, still, one.width);
  return { forward, backward, agreed, from: from[0]!, to: to[0]!, still };
}

/** Vectors of the frame in between, how far each is to be trusted, and how much of it the first frame gives. */
interface Middle extends Field {
  readonly trust: Float32Array;
  readonly first: Float32Array;
}

/** How unlike both frames are along a vector through a block of the middle frame, in levels. */
function along({ from, to, still }: Motion, x: number, y: number, vx: number, vy: number, share: number): number {
  const { width, height } = from;
  const [ax, ay] = [Math.round(-share * vx), Math.round(-share * vy)];
  const [bx, by] = [ax + Math.round(vx), ay + Math.round(vy)];
  if (!still && holds(from, 2 * CELL, x + ax, y + ay) && holds(to, 2 * CELL, x + bx, y + by)) {
    const [a, b] = [(y + ay) * width + x + ax, (y + by) * width + x + bx];
    return from.kernels.blockGap(from.data.byteOffset + a, to.data.byteOffset + b, width, 2 * CELL) / 4;
  }
  let sum = 0;
  let counted = 0;
  for (let j = 0; j < 2 * CELL; j += 2) {
    const [aRow, bRow] = [held(y + j + ay, height) * width, held(y + j + by, height) * width];
    for (let i = 0; i < 2 * CELL; i += 2) {
      const [a, b] = [aRow + held(x + i + ax, width), bRow + held(x + i + bx, width)];
      // What lies over the picture says nothing of how it moves.
      if (still && (still[a] || still[b])) continue;
      const gap = from.data[a]! - to.data[b]!;
      sum += gap < 0 ? -gap : gap;
      counted++;
    }
  }
  return counted ? (sum * CELL * CELL) / counted : CELL * CELL * UNLIKE[0];
}

/** 1 up to the first limit, 0 from the second on. */
const fading = ([low, high]: readonly [number, number], v: number): number => {
  const t = Math.min(1, Math.max(0, (v - low) / (high - low)));
  return 1 - t * t * (3 - 2 * t);
};

function middleOf(motion: Motion, share: number): Middle {
  const { forward, backward } = motion;
  const { columns, rows } = forward;
  const { width, height } = motion.from;
  const isOut = (x: number, y: number): boolean => x < 0 || y < 0 || x >= width || y >= height;
  const count = columns * rows;
  const candidates = new Float32Array(count * MOST * 2);
  const filled = new Uint8Array(count);
  const offer = (x: number, y: number, vx: number, vy: number): void => {
    const [column, row] = [Math.floor(x / CELL), Math.floor(y / CELL)];
    if (column < 0 || row < 0 || column >= columns || row >= rows) return;
    const cell = row * columns + column;
    if (filled[cell]! >= MOST) return;
    const at = (cell * MOST + filled[cell]!++) * 2;
    candidates[at] = vx;
    candidates[at + 1] = vy;
  };
  for (let cell = 0; cell < count; cell++) {
    const [x, y] = [((cell % columns) + 0.5) * CELL, (Math.floor(cell / columns) + 0.5) * CELL];
    offer(x + share * forward.x[cell]!, y + share * forward.y[cell]!, forward.x[cell]!, forward.y[cell]!);
    const [vx, vy] = [-backward.x[cell]!, -backward.y[cell]!];
    offer(x - (1 - share) * vx, y - (1 - share) * vy, vx, vy);
  }
  const [mx, my] = [new Float32Array(count), new Float32Array(count)];
  const [trust, first] = [new Float32Array(count), new Float32Array(count).fill(1 - share)];
  const seen = new Float32Array(48);
  for (let cell = 0; cell < count; cell++) {
    const [column, row] = [cell % columns, Math.floor(cell / columns)];
    const [x, y] = [column * CELL - CELL / 2, row * CELL - CELL / 2];
    const left = column > 0 ? cell - 1 : -1;
    const up = row > 0 ? cell - columns : -1;
    const corner = row > 0 && column < columns - 1 ? cell - columns + 1 : -1;
    const [px, py] = [
      spokenFor(mx, left, up, corner, forward.x[cell]!),
      spokenFor(my, left, up, corner, forward.y[cell]!),
    ];
    let bx = 0;
    let by = 0;
    let best = Infinity;
    let unlike = 0;
    let tried = 0;
    const [cx, cy] = [x + CELL, y + CELL];
    const attempt = (vx: number, vy: number): void => {
      const near = SMOOTH * Math.min(4, Math.hypot(vx - px, vy - py));
      if (near >= best) return;
      for (let k = 0; k < tried; k += 2) if (seen[k] === vx && seen[k + 1] === vy) return;
      if (tried < seen.length) {
        seen[tried++] = vx;
        seen[tried++] = vy;
      }
      let gap = along(motion, x, y, vx, vy, share);
      // What comes in or goes out is in one of both frames only: nothing can be said of it.
      if (isOut(cx - share * vx, cy - share * vy) !== isOut(cx + (1 - share) * vx, cy + (1 - share) * vy))
        gap = Math.min(gap, CELL * CELL * UNLIKE[0]);
      if (near + gap < best) {
        bx = vx;
        by = vy;
        best = near + gap;
        unlike = gap;
      }
    };
    for (let k = 0; k < filled[cell]!; k++)
      attempt(candidates[(cell * MOST + k) * 2]!, candidates[(cell * MOST + k) * 2 + 1]!);
    attempt(0, 0);
    attempt(forward.x[cell]!, forward.y[cell]!);
    attempt(-backward.x[cell]!, -backward.y[cell]!);
    for (const near of [left, up, corner]) if (near >= 0) attempt(mx[near]!, my[near]!);
    mx[cell] = bx;
    my[cell] = by;
    // What only one way knows of is covered in the other frame, or outside of it.
    const [there, back] = [
      cellAt(forward, cx - share * bx, cy - share * by),
      cellAt(backward, cx + (1 - share) * bx, cy + (1 - share) * by),
    ];
    const gone = Math.hypot(forward.x[there]! - bx, forward.y[there]! - by);
    const come = Math.hypot(backward.x[back]! + bx, backward.y[back]! + by);
    const samples = CELL * CELL;
    const [outside, leaves] = [
      isOut(cx - share * bx, cy - share * by),
      isOut(cx + (1 - share) * bx, cy + (1 - share) * by),
    ];
    if (outside !== leaves) first[cell] = leaves ? 1 : 0;
    else if (gone < FAR[0] && come > FAR[1]) first[cell] = 1;
    else if (come < FAR[0] && gone > FAR[1]) first[cell] = 0;
    const covered = first[cell] !== 1 - share;
    trust[cell] = fading(FAR, Math.min(gone, come)) * (covered ? 1 : fading(UNLIKE, unlike / samples));
  }
  return { cell: CELL, columns, rows, x: mx, y: my, trust, first };
}

/** Keys' cubic (a = -1/2) at a fraction: weights of the four neighbours. */
function cubic(t: number, into: Float32Array): void {
  const [t2, t3] = [t * t, t * t * t];
  into[0] = -0.5 * t + t2 - 0.5 * t3;
  into[1] = 1 - 2.5 * t2 + 1.5 * t3;
  into[2] = 0.5 * t + 2 * t2 - 1.5 * t3;
  into[3] = -0.5 * t2 + 0.5 * t3;
}

/** One of a picture's planes: bytes of `data` from `from` on. */
interface Plane {
  readonly data: Uint8Array;
  readonly from: number;
  readonly width: number;
  readonly height: number;
}
/** Pixels of a plane, `columns` by `rows` of them. */
interface Block {
  readonly x: number;
  readonly y: number;
  readonly columns: number;
  readonly rows: number;
}

const [across, down] = [new Float32Array(4), new Float32Array(4)];
/** Fractions of a pixel under which a place is a pixel. */
const WHOLE = 1 / 64;
/** What is read across, three rows more than a block has. */
const lines = new Float32Array(CELL * (CELL + 3));

/**
 * What a block shows that is so far away, between pixels too: the fraction is the same for all of it, so rows and columns
 * are weighed on their own.
 */
function moved({ data, from, width, height }: Plane, block: Block, dx: number, dy: number, out: Float32Array): void {
  const { columns, rows } = block;
  const x0 = Math.floor(block.x + dx);
  const y0 = Math.floor(block.y + dy);
  const fx = block.x + dx - x0;
  const fy = block.y + dy - y0;
  const inside = x0 > 0 && y0 > 0 && x0 + columns + 2 < width && y0 + rows + 2 < height;
  if (fx < WHOLE && fy < WHOLE) {
    for (let j = 0, o = 0; j < rows; j++) {
      const row = from + held(y0 + j, height) * width;
      for (let i = 0; i < columns; i++) out[o++] = data[row + (inside ? x0 + i : held(x0 + i, width))]!;
    }
    return;
  }
  cubic(fx, across);
  cubic(fy, down);
  const a0 = across[0]!;
  const a1 = across[1]!;
  const a2 = across[2]!;
  const a3 = across[3]!;
  for (let j = 0, o = 0; j < rows + 3; j++) {
    const row = from + held(y0 - 1 + j, height) * width;
    if (inside) {
      for (let i = 0, k = row + x0 - 1; i < columns; i++, k++)
        lines[o++] = a0 * data[k]! + a1 * data[k + 1]! + a2 * data[k + 2]! + a3 * data[k + 3]!;
    } else
      for (let i = 0; i < columns; i++)
        lines[o++] =
          a0 * data[row + held(x0 + i - 1, width)]! +
          a1 * data[row + held(x0 + i, width)]! +
          a2 * data[row + held(x0 + i + 1, width)]! +
          a3 * data[row + held(x0 + i + 2, width)]!;
  }
  const d0 = down[0]!;
  const d1 = down[1]!;
  const d2 = down[2]!;
  const d3 = down[3]!;
  for (let n = 0; n < rows * columns; n++)
    out[n] = d0 * lines[n]! + d1 * lines[n + columns]! + d2 * lines[n + 2 * columns]! + d3 * lines[n + 3 * columns]!;
}

/** Vectors less apart than this are one. */
const SAME = 0.125;

/**
 * What a source that stands alone is multiplied by, so that a flash between both frames leaves no seam. `part`: how much
 * of the place it gives, from its usual share (0) to all (1).
 */
const levelled = (ratio: number, part: number): number => 1 + Math.max(0, part) * (ratio - 1);

const [blockOne, blockOther] = [new Float32Array(CELL * CELL), new Float32Array(CELL * CELL)];
const [sums, totals] = [new Float32Array(CELL * CELL), new Float32Array(CELL * CELL)];

/** @param cell pixels of this plane a side of a cell */
function drawPlane(
  out: Uint8Array,
  [one, other]: readonly [Uint8Array, Uint8Array],
  from: number,
  width: number,
  height: number,
  cell: number,
  middle: Middle,
  share: number,
  [oneRatio, otherRatio]: readonly [number, number],
): void {
  const { columns, rows, x: mx, y: my, trust, first } = middle;
  const scale = cell / CELL;
  const planes = [one, other].map((data): Plane => ({ data, from, width, height })) as [Plane, Plane];
  const near = [0, 0, 0, 0];
  /** Both frames along a vector, into the two blocks. */
  const guess = (block: Block, vx: number, vy: number): void => {
    moved(planes[0], block, -share * vx * scale, -share * vy * scale, blockOne);
    moved(planes[1], block, (1 - share) * vx * scale, (1 - share) * vy * scale, blockOther);
  };
  const weights = (part: number): readonly [number, number] => [
    part * levelled(oneRatio, (part - 1 + share) / share),
    (1 - part) * levelled(otherRatio, (1 - share - part) / (1 - share)),
  ];
  const usual = weights(1 - share);
  // Blocks lie between the middles of four cells.
  for (let row = -1; row < rows; row++) {
    const top = Math.max(0, (row + 0.5) * cell);
    const bottom = Math.min(height, (row + 1.5) * cell);
    for (let column = -1; column < columns; column++) {
      const left = Math.max(0, (column + 0.5) * cell);
      const block: Block = {
        x: left,
        y: top,
        columns: Math.min(width, (column + 1.5) * cell) - left,
        rows: bottom - top,
      };
      if (block.columns <= 0 || block.rows <= 0) continue;
      const [r0, r1] = [held(row, rows) * columns, held(row + 1, rows) * columns];
      const [c0, c1] = [held(column, columns), held(column + 1, columns)];
      near[0] = r0 + c0;
      near[1] = r0 + c1;
      near[2] = r1 + c0;
      near[3] = r1 + c1;
      const [n0, n1, n2, n3] = near as [number, number, number, number];
      const apart = (n: number): number => Math.abs(mx[n]! - mx[n0]!) + Math.abs(my[n]! - my[n0]!);
      const alike = apart(n1) <= SAME && apart(n2) <= SAME && apart(n3) <= SAME;
      const trusted = trust[n0]! + trust[n1]! + trust[n2]! + trust[n3]! > 0;
      const size = block.columns * block.rows;
      if (trusted && alike)
        guess(block, (mx[n0]! + mx[n1]! + mx[n2]! + mx[n3]!) / 4, (my[n0]! + my[n1]! + my[n2]! + my[n3]!) / 4);
      else if (trusted) {
        // Overlapped blocks: each neighbour's own guess, as far as it is trusted.
        sums.fill(0, 0, size);
        totals.fill(0, 0, size);
        for (let k = 0; k < 4; k++) {
          const n = near[k]!;
          if (trust[n]! < 1e-3) continue;
          guess(block, mx[n]!, my[n]!);
          const [p, q] = weights(first[n]!);
          for (let j = 0, o = 0; j < block.rows; j++) {
            const fy = (block.y + j + 0.5) / cell - 0.5 - row;
            const wy = (k < 2 ? 1 - fy : fy) * trust[n]!;
            for (let i = 0; i < block.columns; i++, o++) {
              const fx = (block.x + i + 0.5) / cell - 0.5 - column;
              const weight = wy * (k & 1 ? fx : 1 - fx);
              sums[o]! += weight * (p * blockOne[o]! + q * blockOther[o]!);
              totals[o]! += weight;
            }
          }
        }
      }
      const plain = first[n0] === first[n1] && first[n0] === first[n2] && first[n0] === first[n3];
      const even = plain ? (first[n0] === 1 - share ? usual : weights(first[n0]!)) : usual;
      for (let j = 0, o = 0; j < block.rows; j++) {
        const fy = (block.y + j + 0.5) / cell - 0.5 - row;
        const sureLeft = (1 - fy) * trust[n0]! + fy * trust[n2]!;
        const sureRight = (1 - fy) * trust[n1]! + fy * trust[n3]!;
        const ofLeft = (1 - fy) * first[n0]! + fy * first[n2]!;
        const ofRight = (1 - fy) * first[n1]! + fy * first[n3]!;
        let at = from + (block.y + j) * width + block.x;
        for (let i = 0; i < block.columns; i++, o++, at++) {
          const fx = (block.x + i + 0.5) / cell - 0.5 - column;
          const sure = (1 - fx) * sureLeft + fx * sureRight;
          let value = (1 - share) * one[at]! + share * other[at]!;
          if (sure > 0 && alike) {
            const [p, q] = plain ? even : weights((1 - fx) * ofLeft + fx * ofRight);
            value += sure * (p * blockOne[o]! + q * blockOther[o]! - value);
          } else if (sure > 0 && totals[o]! > 0) value += sure * (sums[o]! / totals[o]! - value);
          value += 0.5;
          out[at] = value < 0 ? 0 : value > 255 ? 255 : value;
        }
      }
    }
  }
}

/**
 * The frame `share` of the way from one to the other, 0-1. Between two shots it is the nearer of both.
 * @param motion of their luma
 */
export function madeFrame(one: Planes, other: Planes, motion: Motion, share: number): Planes {
  if (motion.agreed < SHOT) return share < 0.5 ? one : other;
  const { width, height } = one;
  const middle = middleOf(motion, share);
  const data = new Uint8Array(one.data.length);
  const both = [one.data, other.data] as const;
  const area = width * height;
  const mean = (plane: Uint8Array): number => {
    let sum = 0;
    for (let i = 0; i < area; i++) sum += plane[i]!;
    return Math.max(1, sum / area);
  };
  const [dark, bright] = [mean(one.data), mean(other.data)];
  const between = (1 - share) * dark + share * bright;
  drawPlane(data, both, 0, width, height, CELL, middle, share, [between / dark, between / bright]);
  const [w, h] = [(width + 1) >> 1, (height + 1) >> 1];
  for (let plane = 0; plane < 2; plane++)
    drawPlane(data, both, area + plane * w * h, w, h, CELL / 2, middle, share, [1, 1]);
  if (motion.still) {
    const planeOf = (of: Uint8Array, from: number, size: number): Uint8Array => of.subarray(from, from + size);
    const keep = (from: number, size: number, still: Uint8Array, wide: number, cell: number): void =>
      keepStill(
        planeOf(data, from, size),
        [planeOf(one.data, from, size), planeOf(other.data, from, size)],
        still,
        wide,
        middle,
        cell,
        share,
      );
    keep(0, area, motion.still, width, CELL);
    const half = halfOf(motion.still, width);
    for (let plane = 0; plane < 2; plane++) keep(area + plane * w * h, w * h, half, w, CELL / 2);
  }
  return { width, height, data };
}

/** Both mixed, `share` of them the second, in the light of the screen. */
export function mixedFrame<T extends Planes>(one: T, other: Planes, share: number): T {
  if (one.width !== other.width || one.height !== other.height) return one;
  const data = new Uint8Array(one.data.length);
  const part = Math.round(share * 256);
  for (let i = 0; i < data.length; i++) {
    const a = one.data[i]!;
    data[i] = a + (((other.data[i]! - a) * part + 128) >> 8);
  }
  return { ...one, data };
}
