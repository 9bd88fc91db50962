import { describe, expect, it } from 'vitest';
import { rgbaToI420, toLinear, yuvToRgb, fromLinear } from '../../../core/base/colour.ts';
import { windowOf } from '../../../core/timeline/framing.ts';
import { asDrawing, cardYuv, difference } from '../../testkit/stacks.ts';
import type { Picture } from '../frame-renderer.ts';
import { detailOf } from '../shaders.ts';
import { develop, kernelsIn } from './develop.ts';
import { LanesRenderer } from './lanes-renderer.ts';

const renderer = new LanesRenderer(null);
const shown = (picture: Picture, width: number, height: number) =>
  renderer.read({ picture, others: [], passes: [] }, width, height);

/** What DEVELOP says of one output pixel, in double floats, place by place. */
function expected({ yuv, rotation, framed, aspect }: Picture, width: number, height: number): number[] {
  const seen = windowOf(framed, aspect, width / height);
  const n = detailOf({ yuv, rotation, framed, aspect }, { width, height });
  const angle = (-rotation * Math.PI) / 180;
  const [cos, sin] = [Math.round(Math.cos(angle)), Math.round(Math.sin(angle))];
  const [cw, ch] = [(yuv.width + 1) >> 1, (yuv.height + 1) >> 1];
  const sample = (from: number, w: number, h: number, x: number, y: number): number => {
    const held = (v: number, most: number): number => Math.min(most, Math.max(0, v));
    const [px, py] = [held(x - 0.5, w - 1), held(y - 0.5, h - 1)];
    const [x0, y0] = [Math.floor(px), Math.floor(py)];
    const at = (cx: number, cy: number): number => yuv.data[from + Math.min(h - 1, cy) * w + Math.min(w - 1, cx)]!;
    const row = (cy: number): number => at(x0, cy) + (at(x0 + 1, cy) - at(x0, cy)) * (px - x0);
    return row(y0) + (row(y0 + 1) - row(y0)) * (py - y0);
  };
  const out: number[] = [];
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const upright = (dx: number, dy: number): [number, number] => [
        ((x + 0.5 + dx) / width - 0.5) * seen.width + seen.centre.x - 0.5,
        ((y + 0.5 + dy) / height - 0.5) * seen.height + seen.centre.y - 0.5,
      ];
      const turned = ([qx, qy]: [number, number]): [number, number] => [cos * qx - sin * qy, sin * qx + cos * qy];
      const inside = ([qx, qy]: [number, number]): boolean => Math.abs(qx) <= 0.5 && Math.abs(qy) <= 0.5;
      const middle = turned(upright(0, 0));
      let [luma, count] = [0, 0];
      for (let j = 0; j < n; j++)
        for (let i = 0; i < n; i++) {
          const part = turned(upright((i + 0.5 - n / 2) / n, (j + 0.5 - n / 2) / n));
          if (n > 1 && !inside(part)) continue;
          luma += sample(0, yuv.width, yuv.height, (part[0] + 0.5) * yuv.width, (part[1] + 0.5) * yuv.height);
          count++;
        }
      const [lx, ly] = [(middle[0] + 0.5) * yuv.width, (middle[1] + 0.5) * yuv.height];
      const [cx, cy] = [lx / 2 + 0.25, ly / 2];
      const area = yuv.width * yuv.height;
      const rgb = yuvToRgb(
        luma / Math.max(1, count),
        sample(area, cw, ch, cx, cy),
        sample(area + cw * ch, cw, ch, cx, cy),
        yuv.colour,
      );
      const there = inside(middle) ? count / (n * n) : 0;
      out.push(...rgb.map((v) => 255 * fromLinear(toLinear(Math.min(1, Math.max(0, v))) * there)), 255);
    }
  return out;
}

describe('a decoded picture on the processor', () => {
  const card = cardYuv(94, 62);
  const odd = cardYuv(46, 34);
  const picture = (more: Partial<Picture>): Picture => ({ ...asDrawing([], card).picture!, ...more });
  it.each<[string, Picture, number, number]>([
    ['as it is stored', picture({}), 94, 62],
    ['enlarged', picture({}), 200, 132],
    ['shrunk to two thirds', picture({}), 62, 41],
    ['shrunk to a fifth', picture({}), 18, 12],
    ['turned by 90', picture({ rotation: 90, aspect: 62 / 94 }), 62, 94],
    ['turned by 180', picture({ rotation: 180 }), 94, 62],
    ['turned by 270 and shrunk', picture({ rotation: 270, aspect: 62 / 94 }), 30, 46],
    ['with bars at the sides', picture({ framed: { fit: 'fit' } }), 128, 44],
    ['with bars above, shrunk', picture({ framed: { fit: 'fit' } }), 40, 60],
    [
      'cut to an upright frame off its middle',
      picture({ framed: { fit: 'fill', centre: { x: 0.8, y: 0.4 } } }),
      36,
      64,
    ],
    ['of full range in BT.601', picture({ yuv: { ...odd, colour: { matrix: 'bt601', fullRange: true } } }), 46, 34],
  ])('%s is what the shader says', (_, one, width, height) => {
    const { mean, max } = difference(shown(one, width, height), expected(one, width, height));
    expect(mean).toBeLessThan(0.35);
    expect(max).toBeLessThan(1.6);
  });

  it.each([
    [2, 2],
    [6, 4],
    [190, 106],
    [1282, 2],
  ])('goes to the encoder at %i by %i as the plain conversion gives it, to the byte', async (width, height) => {
    const drawing = asDrawing([{ effect: 'split', uniforms: { direction: [0.02, 0.01] } }], cardYuv(width, height));
    const plain = new Uint8Array(width * height * 1.5);
    rgbaToI420(renderer.read(drawing, width, height), width, height, plain);
    expect(Buffer.from(await renderer.planes(drawing, width, height)).equals(Buffer.from(plain))).toBe(true);
  });

  it('is drawn the same wherever it lies in the memory, beyond two gigabytes too', () => {
    const [width, height] = [94, 62];
    const drawn = (begin: number): Buffer => {
      const memory = new WebAssembly.Memory({ initial: Math.ceil(begin / 65536) + 64 });
      let at = begin;
      const take = (bytes: number): number => {
        at += (bytes + 15) & ~15;
        return at - ((bytes + 15) & ~15);
      };
      const into = { at: take(96 * height * 16), stride: 96 };
      develop(kernelsIn(memory), memory, take, picture({}), { width, height }, into);
      return Buffer.from(new Uint8Array(memory.buffer, into.at, 96 * height * 16).slice());
    };
    const low = drawn(65536);
    expect(low.some((byte) => byte !== 0)).toBe(true);
    expect(drawn(2 ** 31 + 65536).equals(low)).toBe(true);
  });

  it('that shows nothing goes to the encoder as black', async () =>
    expect([...(await renderer.planes({ picture: null, others: [], passes: [] }, 2, 2))]).toEqual([
      16, 16, 16, 16, 128, 128,
    ]));
});
