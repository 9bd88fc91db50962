/** Small upright pictures of brightness that points are sought in. */

export interface Grey {
  readonly width: number;
  readonly height: number;
  /** Rows top first, 0-255. */
  readonly data: Float32Array;
}

/**
 * A luma plane made smaller by means of boxes, and upright.
 * @param luma `width * height` bytes as stored, without gaps between rows
 * @param rotation clockwise turn from stored to upright, degrees
 * @param most pixels of the longer side of what comes back
 */
export function greyOf(
  luma: Uint8Array,
  width: number,
  height: number,
  rotation: 0 | 90 | 180 | 270,
  most: number,
): Grey {
  const scale = Math.min(1, most / Math.max(width, height));
  const [w, h] = [Math.max(1, Math.round(width * scale)), Math.max(1, Math.round(height * scale))];
  const stored = new Float32Array(w * h);
  for (let y = 0; y < h; y++) {
    const [top, bottom] = [Math.floor((y * height) / h), Math.max(Math.floor(((y + 1) * height) / h), 1)];
    for (let x = 0; x < w; x++) {
      const [left, right] = [Math.floor((x * width) / w), Math.floor(((x + 1) * width) / w)];
      let sum = 0;
      let n = 0;
      for (let j = top; j < Math.max(bottom, top + 1); j++)
        for (let i = left; i < Math.max(right, left + 1); i++, n++) sum += luma[j * width + i]!;
      stored[y * w + x] = sum / n;
    }
  }
  if (rotation === 0) return { width: w, height: h, data: stored };
  const [width2, height2] = rotation === 180 ? [w, h] : [h, w];
  const data = new Float32Array(w * h);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const [u, v] = rotation === 90 ? [h - 1 - y, x] : rotation === 180 ? [w - 1 - x, h - 1 - y] : [y, w - 1 - x];
      data[v * width2 + u] = stored[y * w + x]!;
    }
  return { width: width2, height: height2, data };
}
