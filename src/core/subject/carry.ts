/**
 * Carries a brushed matte from frame to frame. Subject and ground are two layers that move on their own: as a whole
 * (movement.ts), then cell by cell. About the carried edge each pixel asks which layer explains it better, and what colours
 * are near it.
 */
import { cut, pasted, type Box } from './box.ts';
import { after, inverse, Mover, pyramid, STILL, type Affine, type Pyramid } from './movement.ts';
import { Patches, type Origins, type Part } from './patches.ts';
import { settled, sharpened, signedDistance, withoutScraps, type Working } from './working.ts';

/** Pixels on both sides of a carried edge that are thought about anew. */
const BAND = 14;
/** Side of the cells that move on their own, and how far from their layer, pixels. */
const CELL = 8;
const REACH = 4;
/** Pixels about a cell that are looked at with it. */
const MARGIN = 3;

/**
 * Where each pixel of the next frame was in the one before, as a layer says.
 * @param part the layer, of the pictures that are laid
 * @param back the layer's movement as a whole, from the other frame to the first
 * @param wanted cells are sought where this is set
 */
function origins(
  patches: Patches,
  part: Part,
  width: number,
  height: number,
  back: Affine,
  wanted: Uint8Array,
): Origins {
  const [cols, rows] = [Math.ceil(width / CELL), Math.ceil(height / CELL)];
  const [cx, cy, known] = [new Float32Array(cols * rows), new Float32Array(cols * rows), new Float32Array(cols * rows)];
  for (let r = 0; r < rows; r++)
    for (let c = 0; c < cols; c++) {
      const middle = Math.min(height - 1, r * CELL + 4) * width + Math.min(width - 1, c * CELL + 4);
      if (!wanted[middle]) continue;
      const cell = {
        x0: Math.max(0, c * CELL - MARGIN),
        y0: Math.max(0, r * CELL - MARGIN),
        x1: Math.min(width, (c + 1) * CELL + MARGIN),
        y1: Math.min(height, (r + 1) * CELL + MARGIN),
      };
      const [dx, dy, weight, cost] = patches.cell(part, cell, back, REACH) as unknown as [
        number,
        number,
        number,
        number,
      ];
      const at = r * cols + c;
      if (weight) [cx[at], cy[at], known[at]] = [dx, dy, weight / (1 + cost / 8)];
    }
  // Cells agree with their neighbours as far as these know more.
  for (let round = 0; round < 2; round++) {
    const [ox, oy] = [cx.slice(), cy.slice()];
    for (let r = 0; r < rows; r++)
      for (let c = 0; c < cols; c++) {
        let [sx, sy, sum] = [0, 0, 1e-6];
        for (let j = Math.max(0, r - 1); j <= Math.min(rows - 1, r + 1); j++)
          for (let i = Math.max(0, c - 1); i <= Math.min(cols - 1, c + 1); i++) {
            const w = (known[j * cols + i]! + 0.01) * (i === c && j === r ? 3 : 1);
            sx += w * ox[j * cols + i]!;
            sy += w * oy[j * cols + i]!;
            sum += w;
          }
        [cx[r * cols + c], cy[r * cols + c]] = [sx / sum, sy / sum];
      }
  }
  const out = { x: new Float32Array(width * height), y: new Float32Array(width * height) };
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const gx = Math.max(0, (x + 0.5) / CELL - 0.5);
      const gy = Math.max(0, (y + 0.5) / CELL - 0.5);
      const i0 = Math.floor(gx);
      const j0 = Math.floor(gy);
      const i1 = Math.min(cols - 1, i0 + 1);
      const fx = gx - i0;
      const fy = gy - j0;
      const up = j0 * cols;
      const low = Math.min(rows - 1, j0 + 1) * cols;
      const w00 = (1 - fx) * (1 - fy);
      const w10 = fx * (1 - fy);
      const w01 = (1 - fx) * fy;
      const w11 = fx * fy;
      const dx = w00 * cx[up + i0]! + w10 * cx[up + i1]! + w01 * cx[low + i0]! + w11 * cx[low + i1]!;
      const dy = w00 * cy[up + i0]! + w10 * cy[up + i1]! + w01 * cy[low + i0]! + w11 * cy[low + i1]!;
      const i = y * width + x;
      out.x[i] = back[0] + back[1] * x + back[2] * y + dx;
      out.y[i] = back[3] + back[4] * x + back[5] * y + dy;
    }
  return out;
}

/** A mask moved: `back` says where its pixels were. */
function moved(mask: Float32Array, width: number, height: number, [a, b, c, d, e, f]: Affine): Float32Array {
  const out = new Float32Array(mask.length);
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) out[i] = sampled(mask, width, height, a + b * x + c * y, d + e * x + f * y);
  return out;
}

/** Where each pixel is taken by a movement. */
function placesBy([a, b, c, d, e, f]: Affine, width: number, height: number): Origins {
  const places = { x: new Float32Array(width * height), y: new Float32Array(width * height) };
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      places.x[i] = a + b * x + c * y;
      places.y[i] = d + e * x + f * y;
    }
  return places;
}

/** A value between pixels; borders are continued. */
function sampled(plane: Float32Array, width: number, height: number, x: number, y: number): number {
  const cx = Math.min(width - 1.001, Math.max(0, x));
  const cy = Math.min(height - 1.001, Math.max(0, y));
  const i = Math.floor(cx);
  const j = Math.floor(cy);
  const fx = cx - i;
  const fy = cy - j;
  const at = j * width + i;
  return (
    (plane[at]! * (1 - fx) + plane[at + 1]! * fx) * (1 - fy) +
    (plane[at + width]! * (1 - fx) + plane[at + width + 1]! * fx) * fy
  );
}

/** Mean and spread of the colours of a layer about each pixel, by sums over squares. */
class Near {
  private readonly sums: readonly Float64Array[];

  constructor(
    private readonly of: Working,
    weight: Float32Array,
    private readonly reach: number,
  ) {
    const { width, height, y, u, v } = of;
    const stride = width + 1;
    this.sums = Array.from({ length: 7 }, () => new Float64Array(stride * (height + 1)));
    const [s0, s1, s2, s3, s4, s5, s6] = this.sums as [
      Float64Array,
      Float64Array,
      Float64Array,
      Float64Array,
      Float64Array,
      Float64Array,
      Float64Array,
    ];
    for (let r = 0; r < height; r++) {
      let [n, ny, nu, nv, qy, qu, qv] = [0, 0, 0, 0, 0, 0, 0];
      for (let x = 0; x < width; x++) {
        const i = r * width + x;
        // What is half of both layers tells nothing of either.
        if (weight[i]! > 0.8) {
          n++;
          ny += y[i]!;
          nu += u[i]!;
          nv += v[i]!;
          qy += y[i]! * y[i]!;
          qu += u[i]! * u[i]!;
          qv += v[i]! * v[i]!;
        }
        const at = (r + 1) * stride + x + 1;
        const up = at - stride;
        s0[at] = s0[up]! + n;
        s1[at] = s1[up]! + ny;
        s2[at] = s2[up]! + nu;
        s3[at] = s3[up]! + nv;
        s4[at] = s4[up]! + qy;
        s5[at] = s5[up]! + qu;
        s6[at] = s6[up]! + qv;
      }
    }
  }

  /** Logarithm of how likely the colour of a pixel of another frame is here about a place; null: nothing is known here. */
  likely(other: Working, i: number, px: number, py: number): number | null {
    const { width, height } = this.of;
    const stride = width + 1;
    const x = Math.min(width - 1, Math.max(0, Math.round(px)));
    const y = Math.min(height - 1, Math.max(0, Math.round(py)));
    const left = Math.max(0, x - this.reach);
    const right = Math.min(width, x + this.reach + 1);
    const top = Math.max(0, y - this.reach) * stride;
    const bottom = Math.min(height, y + this.reach + 1) * stride;
    const total = (k: number): number => {
      const s = this.sums[k]!;
      return s[bottom + right]! - s[top + right]! - s[bottom + left]! + s[top + left]!;
    };
    const count = total(0);
    if (count < 12) return null;
    let sum = 0;
    for (let k = 1; k <= 3; k++) {
      const value = k === 1 ? other.y[i]! : k === 2 ? other.u[i]! : other.v[i]!;
      const mean = total(k) / count;
      const spread = Math.max(0, total(k + 3) / count - mean * mean) + (k === 1 ? 40 : 8);
      sum -= (value - mean) ** 2 / (2 * spread) + Math.log(spread) / 2;
    }
    return sum;
  }
}

/** Off by so much, a layer explains nothing: what neither explains was mostly behind the subject before. */
const POOR = 16;

/** Off by so much more with the subject than with the ground, a pixel is not of the subject; an eighth of them is too many. */
const AGAINST = 3;
const MOST_AGAINST = 4;
/**
 * Share of what lies about it that moves with the subject and not with the ground, by so much more than when its carrying
 * began (a shadow does all along), is too much: some of the subject was lost.
 */
const MOST_BEYOND = 0.15;
/** Frames ago that movement is asked of, too: layers that differ little in one frame differ in several. */
const PAST = 4;

const held = (value: number, most: number): number => Math.min(most, Math.max(-most, value));

export interface Carried {
  /** 0-1, one a pixel. */
  readonly mask: Float32Array;
  /**
   * How well it is known, 0-1. Below {@link SURE} it is only taken to go on as before; after more than {@link BRIDGED} such
   * frames it should be asked.
   */
  readonly sure: number;
}
export const SURE = 0.5;
/** Frames in a row that need not be known, if one after them is. */
export const BRIDGED = 3;

const cutOut = ({ width, y, u, v }: Working, box: Box): Working => ({
  width: box.w,
  height: box.h,
  y: cut(y, width, box),
  u: cut(u, width, box),
  v: cut(v, width, box),
});

/** The part of a frame that a subject can be in: where it was and where it is taken to, and what is thought about anew. */
function around(mask: Float32Array, width: number, height: number, [a, b, c, d, e, f]: Affine): Box | null {
  let [left, right, top, bottom] = [width, -1, height, -1];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      if (mask[y * width + x]! > 0.05) {
        if (x < left) left = x;
        if (x > right) right = x;
        if (y < top) top = y;
        bottom = y;
      }
  if (right < 0) return null;
  const corners = [left, right].flatMap((x) =>
    [top, bottom].map((y) => [a + b * x + c * y, d + e * x + f * y] as const),
  );
  const margin = BAND + CELL + REACH;
  const [x0, x1] = [Math.min(left, ...corners.map(([x]) => x)), Math.max(right, ...corners.map(([x]) => x))];
  const [y0, y1] = [Math.min(top, ...corners.map(([, y]) => y)), Math.max(bottom, ...corners.map(([, y]) => y))];
  const box = {
    left: Math.max(0, Math.floor(x0 - margin)),
    top: Math.max(0, Math.floor(y0 - margin)),
  };
  const w = Math.min(width, Math.ceil(x1 + margin)) - box.left;
  const h = Math.min(height, Math.ceil(y1 + margin)) - box.top;
  return w > 4 && h > 4 ? { ...box, w, h } : null;
}
/** A movement in the coordinates of a part. */
const within = ([a, b, c, d, e, f]: Affine, { left, top }: Box): Affine => [
  a + b * left + c * top - left,
  b,
  c,
  d + e * left + f * top - top,
  e,
  f,
];

/**
 * Which of two layers moves as each pixel does until another frame: above nothing the subject's, below the ground's.
 * @param mask what is taken for the subject so far
 */
export function movesWith(one: Working, other: Working, mask: Float32Array): Float32Array {
  const { width, height } = one;
  const area = width * height;
  const [from, to] = [pyramid(one.y, width, height), pyramid(other.y, width, height)];
  const [patches, mover] = [new Patches(area), new Mover(area)];
  patches.lay('one', other, mask);
  patches.lay('other', one, mask);
  const all = new Uint8Array(area).fill(1);
  const [on, off] = [mask, mask.map((value) => 1 - value)].map((weight, n) => {
    const by = mover.movement(from, to, weight, width, height, null, 1 + n);
    return patches.off('one', 'all', placesBy(by, width, height), all).map((value) => Math.min(POOR, value));
  }) as [Float32Array, Float32Array];
  return on.map((value, i) => (off[i]! - value) / 4);
}

/** Carries a matte through frames that are given to it in turn, the first being the one it stands on. */
export class MatteCarrier {
  private picture: Working;
  private light: Pyramid;
  private mask: Float32Array;
  /** Frames since the last one that was known. */
  private bridged = 0;
  private last: { readonly subject: Affine; readonly ground: Affine } | null = null;
  /** Frames some time ago, and how both layers moved from them until now, the oldest first. */
  private past: { readonly picture: Working; readonly subject: Affine; readonly ground: Affine }[] = [];
  /** How much about it moved with it when its carrying began. */
  private beyond: number | null = null;
  private readonly patches: Patches;
  private readonly mover: Mover;

  constructor(picture: Working, mask: Float32Array) {
    const area = picture.width * picture.height;
    [this.patches, this.mover] = [new Patches(area), new Mover(area)];
    this.picture = picture;
    this.light = pyramid(picture.y, picture.width, picture.height);
    this.mask = mask;
  }

  /** The matte of the next frame; null where there is nothing to carry, or the picture is of another size. */
  next(other: Working): Carried | null {
    const { picture: one, mask } = this;
    const { width, height } = other;
    if (one.width !== width || one.height !== height) return null;
    const light = pyramid(other.y, width, height);
    const expected = (last: Affine | undefined): Affine | null => (this.bridged || !last ? null : last);
    const move = (weight: Float32Array, last: Affine | null | undefined, every: number): Affine =>
      this.mover.movement(this.light, light, weight, width, height, last ?? null, every);
    const subject = move(mask, expected(this.last?.subject), 1);
    const ground = move(
      mask.map((value) => 1 - value),
      expected(this.last?.ground),
      2,
    );
    const box = around(mask, width, height, subject);
    if (!box) return null;
    const past = [...this.past, { picture: one, subject: STILL, ground: STILL }].map((then) => ({
      picture: then.picture,
      subject: after(then.subject, subject),
      ground: after(then.ground, ground),
    }));
    const [longAgo] = past;
    const part = carriedPart(
      this.patches,
      cutOut(one, box),
      cutOut(other, box),
      cut(mask, width, box),
      within(subject, box),
      within(ground, box),
      {
        picture: cutOut(longAgo!.picture, box),
        subject: within(longAgo!.subject, box),
        ground: within(longAgo!.ground, box),
      },
    );
    if (this.beyond === null && past.length === PAST) this.beyond = part.beyond;
    const more = this.beyond === null ? 0 : Math.max(0, part.beyond - this.beyond);
    const sure = Math.min(part.sure, Math.max(0, 1 - ((1 - SURE) * more) / MOST_BEYOND));
    if (part.sure < SURE && this.bridged < BRIDGED) {
      // A flash or something that flits across: it goes on as it went, and is sought again in the next frame.
      let step = STILL;
      this.bridged++;
      for (let n = 0; n < this.bridged; n++) step = after(step, this.last?.subject ?? STILL);
      return { mask: moved(mask, width, height, inverse(step)), sure: part.sure };
    }
    this.bridged = 0;
    const next = new Float32Array(width * height);
    pasted(next, width, part.mask, box);
    this.past = past.slice(-PAST);
    this.picture = other;
    this.light = light;
    this.mask = next;
    this.last = { subject, ground };
    return { mask: next, sure };
  }
}

/** The matte of a part of the next frame. */
function carriedPart(
  patches: Patches,
  one: Working,
  other: Working,
  mask: Float32Array,
  subjectMove: Affine,
  groundMove: Affine,
  longAgo: { readonly picture: Working; readonly subject: Affine; readonly ground: Affine },
): Carried & { readonly beyond: number } {
  const { width, height } = other;
  const area = width * height;
  const ground = mask.map((value) => 1 - value);
  const back = inverse(subjectMove);
  const first = moved(mask, width, height, back);
  patches.lay('one', one, mask);
  patches.lay('other', other, mask);
  const near = signedDistance(first, width, height);
  const [within, about] = [new Uint8Array(area), new Uint8Array(area)];
  for (let i = 0; i < area; i++) {
    if (near[i]! > -BAND - CELL) within[i] = 1;
    if (Math.abs(near[i]!) < BAND + CELL) about[i] = 1;
  }
  const ofSubject = origins(patches, 'layer', width, height, back, within);
  const ofGround = origins(patches, 'rest', width, height, inverse(groundMove), about);
  const carried = new Float32Array(area);
  for (let i = 0; i < area; i++) carried[i] = sampled(mask, width, height, ofSubject.x[i]!, ofSubject.y[i]!);
  const edge = signedDistance(carried, width, height);
  const onNear = new Near(one, mask, 7);
  const offNear = new Near(one, ground, 7);
  const [open, asked] = [new Uint8Array(area), new Uint8Array(area)];
  // Of what lies within one pixel in three is asked.
  for (let i = 0; i < area; i++) {
    if (Math.abs(edge[i]!) <= BAND) open[i] = asked[i] = 1;
    else if (edge[i]! > 0 && i % 3 === 0) asked[i] = 1;
  }
  patches.lay('other', other, carried);
  const onBy = patches.off('one', 'layer', ofSubject, asked);
  const offBy = patches.off('one', 'rest', ofGround, open);
  const [subjectThen, groundThen] = [
    placesBy(inverse(longAgo.subject), width, height),
    placesBy(inverse(longAgo.ground), width, height),
  ];
  const belief = new Float32Array(area);
  const hold = new Float32Array(area);
  let poor = 0;
  let inside = 0;
  for (let i = 0; i < area; i++) {
    const d = edge[i]!;
    if (Math.abs(d) > BAND) {
      belief[i] = d > 0 ? 1 : 0;
      if (d > 0 && i % 3 === 0) {
        inside++;
        if (onBy[i]! > POOR) poor++;
      }
      continue;
    }
    const [on, off] = [onBy[i]!, offBy[i]!];
    if (d > 0) {
      inside++;
      if (on > POOR) poor++;
    }
    const a = onNear.likely(other, i, ofSubject.x[i]!, ofSubject.y[i]!);
    const b = offNear.likely(other, i, ofGround.x[i]!, ofGround.y[i]!);
    const colour = a !== null && b !== null ? held(a - b, 3) : 0;
    // Ground that was behind the subject may be anything; ground that was seen and is not found again is covered anew.
    const hidden = sampled(mask, width, height, ofGround.x[i]!, ofGround.y[i]!) > 0.5;
    const known = Math.max(0, 1 - Math.min(on, off) / POOR);
    const logit =
      held(0.55 * d, 4) +
      (Math.min(off, POOR) - Math.min(on, POOR)) / 4 +
      (1 - 0.5 * known) * colour +
      (1 - known) * (hidden ? -0.6 : 1);
    belief[i] = 1 / (1 + Math.exp(-logit));
    hold[i] = 0.15;
  }
  const next = settled(other, belief, hold, open, 20);
  withoutScraps(next, width, (i) => carried[i]! > 0.5, 0.02);
  sharpened(next);
  // What is taken for the subject but has moved with the ground for some frames is not of it; and the other way about.
  const then = new Uint8Array(area);
  for (let i = 0; i < area; i += 3) if (next[i]! >= 0.5 || open[i]) then[i] = 1;
  patches.lay('ago', longAgo.picture, mask);
  const withSubject = patches.off('ago', 'all', subjectThen, then);
  const withGround = patches.off('ago', 'all', groundThen, then);
  let [kept, against, left, beyond] = [0, 0, 0, 0];
  for (let i = 0; i < area; i += 3) {
    if (!then[i]) continue;
    const [subject, ground] = [Math.min(POOR, withSubject[i]!), Math.min(POOR, withGround[i]!)];
    if (next[i]! >= 0.5) {
      kept++;
      if (ground + AGAINST < subject) against++;
    } else {
      left++;
      if (subject + AGAINST < ground) beyond++;
    }
  }
  return {
    mask: next,
    sure: Math.max(0, 1 - Math.max(inside ? poor / inside : 1, kept ? (MOST_AGAINST * against) / kept : 1)),
    beyond: beyond / Math.max(1, left),
  };
}
