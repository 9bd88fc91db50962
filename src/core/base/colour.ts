/** Transfer functions and Y'CbCr matrices. All channel values are 0-1 unless a name says 8. */

/** IEC 61966-2-1: encoded value to linear light. */
export const toLinear = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);

/** IEC 61966-2-1: linear light to encoded value. */
export const fromLinear = (v: number): number =>
  v <= 0 ? 0 : v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055;

/** Relative luminance, ITU-R BT.709 weights on linear light. */
export const luminance = (r: number, g: number, b: number): number => 0.2126 * r + 0.7152 * g + 0.0722 * b;

export type Matrix = 'bt709' | 'bt601' | 'bt2020';

/** How the numbers of a decoded frame are to be read. */
export interface YuvColour {
  readonly matrix: Matrix;
  readonly fullRange: boolean;
}

/** The one kind of frame the encoder is given. */
export const OUTPUT_COLOUR: YuvColour = { matrix: 'bt709', fullRange: false };

/** Kr and Kb: ITU-R BT.709-6 item 3.2, BT.601-7 item 2.5.1, BT.2020-2 table 4. */
const LUMA: Record<Matrix, readonly [number, number]> = {
  bt709: [0.2126, 0.0722],
  bt601: [0.299, 0.114],
  bt2020: [0.2627, 0.0593],
};

/**
 * Coefficients from 8-bit planes (0-1) to R'G'B': r = y + rv*v, g = y - gu*u - gv*v, b = y + bu*u
 * with y = (Y - yOffset)*yScale and u, v = (C - 128/255)*cScale.
 */
export interface YuvCoefficients {
  yOffset: number;
  yScale: number;
  cScale: number;
  rv: number;
  gu: number;
  gv: number;
  bu: number;
}

export function yuvCoefficients({ matrix, fullRange }: YuvColour): YuvCoefficients {
  const [kr, kb] = LUMA[matrix];
  const kg = 1 - kr - kb;
  return {
    yOffset: fullRange ? 0 : 16 / 255,
    yScale: fullRange ? 1 : 255 / 219,
    cScale: fullRange ? 1 : 255 / 224,
    rv: 2 * (1 - kr),
    gu: (2 * (1 - kb) * kb) / kg,
    gv: (2 * (1 - kr) * kr) / kg,
    bu: 2 * (1 - kb),
  };
}

/** Luma of R'G'B' by the matrix that the coefficients are of. */
export const lumaOf = ({ rv, bu }: YuvCoefficients, red: number, green: number, blue: number): number =>
  green + (1 - rv / 2) * (red - green) + (1 - bu / 2) * (blue - green);

/** One 8-bit Y'CbCr triple to R'G'B' 0-1, unclamped. */
export function yuvToRgb(y8: number, u8: number, v8: number, colour: YuvColour): [number, number, number] {
  const k = yuvCoefficients(colour);
  const y = (y8 / 255 - k.yOffset) * k.yScale;
  const u = (u8 / 255 - 128 / 255) * k.cScale;
  const v = (v8 / 255 - 128 / 255) * k.cScale;
  return [y + k.rv * v, y - k.gu * u - k.gv * v, y + k.bu * u];
}

/**
 * Weights of red, green and blue in Y, Cb and Cr, limited-range BT.709, in 65536ths: rows of the matrix times 219/255 and
 * 224/255, each row of colour adding up to nothing.
 */
type Nine = readonly [number, number, number, number, number, number, number, number, number];
export const I420_WEIGHTS: Nine = (() => {
  const [kr, kb] = LUMA.bt709;
  const kg = 1 - kr - kb;
  const fix = (v: number): number => Math.round(v * 65536);
  const [cb, cr] = [224 / 255 / (2 * (1 - kb)), 224 / 255 / (2 * (1 - kr))];
  const [ur, ug] = [fix(-kr * cb), fix(-kg * cb)];
  const [vg, vb] = [fix(-kg * cr), fix(-kb * cr)];
  const luma = (k: number): number => fix((k * 219) / 255);
  return [luma(kr), luma(kg), luma(kb), ur, ug, -ur - ug, -vg - vb, vg, vb];
})();

/**
 * 8-bit RGBA rows (top first) to limited-range BT.709 I420. Chroma lies on the left luma column, as
 * H.264 means it by default (ITU-T H.264 annex E, chroma sample location type 0).
 * `width` and `height` must be even; `out` holds width*height*3/2 bytes.
 */
export function rgbaToI420(rgba: Uint8Array | Uint8ClampedArray, width: number, height: number, out: Uint8Array): void {
  const [yr, yg, yb, ur, ug, ub, vr, vg, vb] = I420_WEIGHTS;
  const uAt = width * height;
  const vAt = uAt + (uAt >> 2);
  const half = width >> 1;
  for (let y = 0; y < height; y++) {
    for (let x = 0, at = y * width; x < width; x++, at++) {
      const i = at * 4;
      out[at] = 16 + ((yr * rgba[i]! + yg * rgba[i + 1]! + yb * rgba[i + 2]! + 32768) >> 16);
    }
  }
  for (let y = 0; y < height; y += 2) {
    for (let x = 0; x < width; x += 2) {
      let r = 0,
        g = 0,
        b = 0;
      for (let row = 0; row < 2; row++) {
        const i = ((y + row) * width + x) * 4;
        const left = x > 0 ? i - 4 : i;
        r += rgba[left]! + 2 * rgba[i]! + rgba[i + 4]!;
        g += rgba[left + 1]! + 2 * rgba[i + 1]! + rgba[i + 5]!;
        b += rgba[left + 2]! + 2 * rgba[i + 2]! + rgba[i + 6]!;
      }
      const c = (y >> 1) * half + (x >> 1);
      out[uAt + c] = 128 + ((ur * r + ug * g + ub * b + 262144) >> 19);
      out[vAt + c] = 128 + ((vr * r + vg * g + vb * b + 262144) >> 19);
    }
  }
}
