/** Test cards, stacks of effects as passes, and what the reference makes of them: what renderers are held against. */
import type { Pass } from '../../core/accents/plan.ts';
import { accentPasses, SINGLE_RUN } from '../../core/accents/passes.ts';
import { prepare } from '../../core/accents/prepare.ts';
import { fromLinear, toLinear, yuvToRgb, type YuvColour } from '../../core/base/colour.ts';
import { readCube } from '../../core/document/colour-table.ts';
import { DEFAULT_ACCENT, type EffectUse, type RegionShape } from '../../core/document/types.ts';
import { drawReference, lower, type Pixels } from '../../effects/compose.ts';
import { EFFECTS } from '../../effects/index.ts';
import type { YuvFrame } from '../media/yuv.ts';
import type { Drawing, FrameRenderer, Picture } from '../render/frame-renderer.ts';

export type Stack = readonly [effect: string, params: EffectUse['params'], more?: Partial<EffectUse>][];

/** Cells and bands end a pixel apart where rounding differs: these few pixels may be far off. */
export const CELLS: ReadonlySet<string> = new Set(['blocks', 'tear', 'mosaic', 'fold', 'slide', 'shutter']);

/** A table of colours in which red and blue change places. */
const TABLE = readCube(
  ['LUT_3D_SIZE 2', '0 0 0', '0 0 1', '0 1 0', '0 1 1', '1 0 0', '1 0 1', '1 1 0', '1 1 1'].join('\n'),
  'swapped',
);

const PUNCHED: Stack[number] = [
  'punch',
  {
    zoom: [
      { at: 0, value: 100, ease: 'linear' },
      { at: 2, value: 124, ease: 'linear' },
    ],
  },
];

/** An effect with its shelf values; a shutter needs a movement below it. */
export const shelf = (id: string): Stack => {
  const { thumbnail, source } = EFFECTS.get(id)!;
  return [
    ...(id === 'shutter' ? [PUNCHED] : []),
    [id, { ...thumbnail }, { ...(id === 'lut' && { table: TABLE }), ...(source && { source: 'another' }) }],
  ];
};

/** A turned ellipse with a box taken off it. */
const REGION: RegionShape[] = [
  { id: 'a', kind: 'ellipse', combine: 'add', invert: false, params: { x: 10, w: 90, h: 60, turn: 20, soft: 15 } },
  { id: 'b', kind: 'box', combine: 'subtract', invert: false, params: { x: -30, w: 30, h: 90, soft: 4 } },
];

/** An effect at its shelf values, limited to a region. */
export const limited = (id: string): Stack =>
  shelf(id).map(([effect, params, more]) => [effect, params, { ...more, region: REGION }]);

/** A test card: gradients, fine lines, a disc and flat fields in neutral and strong colours. */
export function cardYuv(
  width: number,
  height: number,
  colour: YuvColour = { matrix: 'bt709', fullRange: false },
  shift = 0,
): YuvFrame {
  const cw = width >> 1;
  const data = new Uint8Array(width * height + 2 * cw * (height >> 1));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const disc = Math.hypot(x - width * (0.6 + shift * 0.02), y - height * 0.4) < height * 0.2;
      const lines = y > height * 0.7 && x < width * 0.4;
      const stripe = Math.floor((x * 48) / width) & 1;
      data[y * width + x] = disc ? 210 : lines ? (stripe ? 200 : 50) : 40 + (150 * x) / width;
    }
  for (let y = 0; y < height >> 1; y++)
    for (let x = 0; x < cw; x++) {
      const i = width * height + y * cw + x;
      data[i] = 128 + 60 * Math.sin((x / cw) * 6);
      data[i + cw * (height >> 1)] = 128 + 60 * Math.cos((y / (height >> 1)) * 5);
    }
  return { width, height, data, colour };
}

export const picture = (yuv: YuvFrame): Picture => ({
  yuv,
  rotation: 0,
  aspect: yuv.width / yuv.height,
  framed: { fit: 'fit' },
});

/** Chroma as the renderer reads it: left-sited, bilinear. */
function chromaAt(yuv: YuvFrame, plane: 0 | 1, x: number, y: number): number {
  const cw = (yuv.width + 1) >> 1,
    ch = (yuv.height + 1) >> 1;
  const from = yuv.width * yuv.height + plane * cw * ch;
  const sx = Math.min(cw - 1, Math.max(0, (x + 0.5) / 2 + 0.25 - 0.5));
  const sy = Math.min(ch - 1, Math.max(0, (y + 0.5) / 2 - 0.5));
  const x0 = Math.floor(sx),
    y0 = Math.floor(sy);
  const x1 = Math.min(cw - 1, x0 + 1),
    y1 = Math.min(ch - 1, y0 + 1);
  const at = (i: number, j: number): number => yuv.data[from + j * cw + i]!;
  const fx = sx - x0,
    fy = sy - y0;
  return (at(x0, y0) * (1 - fx) + at(x1, y0) * fx) * (1 - fy) + (at(x0, y1) * (1 - fx) + at(x1, y1) * fx) * fy;
}

/** The same picture developed on the CPU: linear RGBA. */
export function developed(yuv: YuvFrame): Float64Array {
  const out = new Float64Array(yuv.width * yuv.height * 4);
  for (let y = 0; y < yuv.height; y++)
    for (let x = 0; x < yuv.width; x++) {
      const rgb = yuvToRgb(yuv.data[y * yuv.width + x]!, chromaAt(yuv, 0, x, y), chromaAt(yuv, 1, x, y), yuv.colour);
      const i = (y * yuv.width + x) * 4;
      rgb.forEach((v, c) => (out[i + c] = toLinear(Math.min(1, Math.max(0, v)))));
      out[i + 3] = 1;
    }
  return out;
}

export function difference(a: ArrayLike<number>, b: ArrayLike<number>): { mean: number; p999: number; max: number } {
  const gaps: number[] = [];
  for (let i = 0; i < a.length; i++) if (i % 4 !== 3) gaps.push(Math.abs(a[i]! - b[i]!));
  gaps.sort((x, y) => x - y);
  return {
    mean: gaps.reduce((s, v) => s + v, 0) / gaps.length,
    p999: gaps[Math.floor(gaps.length * 0.999)]!,
    max: gaps.at(-1)!,
  };
}

/** Passes of a stack at an age, and which shifts of the frame its other pictures are. */
export function stackPasses(effects: EffectUse[], age: number, seed: number): { passes: Pass[]; shifts: number[] } {
  const accent = { ...DEFAULT_ACCENT, id: 'a', name: '', rate: { num: 30, den: 1 }, lead: 2, tail: 8, seed, effects };
  const shifts: number[] = [];
  const placed = (list: readonly Pass[]): Pass[] =>
    list.map((pass) =>
      pass.copies
        ? {
            ...pass,
            copies: pass.copies.map((copy) => {
              if (!shifts.includes(copy.shift)) shifts.push(copy.shift);
              return { ...copy, picture: shifts.indexOf(copy.shift), passes: placed(copy.passes) };
            }),
          }
        : pass,
    );
  const { passes } = accentPasses(
    prepare(accent, { fps: 30, bpm: 120 }),
    age,
    { intensity: 1, seed, fps: 30, mirror: false, run: SINGLE_RUN },
    EFFECTS,
  );
  return { passes: placed(passes), shifts };
}

export const asUses = (list: Stack): EffectUse[] =>
  list.map(([effect, params, more], i) => ({ id: `e${i}`, effect, version: 1, on: true, params, ...more }));

export const asDrawing = (passes: readonly Pass[], main: YuvFrame, others: readonly YuvFrame[] = []): Drawing => ({
  picture: picture(main),
  others: others.map(picture),
  passes,
});

/**
 * A renderer against the reference for passes on the test card, in steps of 1/255.
 * @param shifts by which the other pictures that passes read differ from it
 */
export function comparedPasses(
  renderer: FrameRenderer,
  passes: readonly Pass[],
  shifts: readonly number[],
  width = 128,
  height = 72,
) {
  const main = cardYuv(width, height);
  const others = shifts.map((shift) => cardYuv(width, height, undefined, shift));
  const drawn = renderer.read(asDrawing(passes, main, others), width, height);
  const linear = (yuv: YuvFrame): Pixels => ({ width, height, data: developed(yuv) });
  const reference = drawReference(lower(passes, { width, height }), linear(main), others.map(linear)).data.map(
    (v) => 255 * Math.min(1, Math.max(0, fromLinear(v))),
  );
  return { ...difference(drawn, reference), passes: passes.length };
}

/** The same for a stack. */
export function compared(renderer: FrameRenderer, list: Stack, age = 1, seed = 7, width = 128, height = 72) {
  const { passes, shifts } = stackPasses(asUses(list), age, seed);
  return comparedPasses(renderer, passes, shifts, width, height);
}
