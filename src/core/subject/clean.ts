/** A frame as its subject is shown: the colour of what it was keyed against, and what shines in at its edge, taken off. */
import { lumaOf, yuvCoefficients } from '../base/colour.ts';
import type { Subject, SubjectKey } from '../document/types.ts';
import { withoutSubject } from './fill.ts';
import type { Frame } from './matte.ts';

/**
 * Takes the key's hue off wherever a colour leans more to it than to either side of it; brightness stays. For green it is
 * the usual bound by the mean of red and blue (common practice, no source), for any hue.
 */
function withoutSpill(data: Uint8Array, { width, height, colour }: Frame, key: SubjectKey): void {
  const k = yuvCoefficients(colour);
  const luma = lumaOf(k, key.red, key.green, key.blue);
  const [u, v] = [(key.blue - luma) / k.bu, (key.red - luma) / k.rv];
  const length = Math.hypot(u, v);
  if (length < 0.02) return;
  const [hu, hv] = [u / length, v / length];
  const area = width * height;
  const quarter = ((width + 1) >> 1) * ((height + 1) >> 1);
  for (let i = area; i < area + quarter; i++) {
    const [cu, cv] = [data[i]! - 128, data[i + quarter]! - 128];
    const over = cu * hu + cv * hv - Math.abs(cu * hv - cv * hu);
    if (over <= 0) continue;
    data[i] = Math.round(data[i]! - key.spill! * over * hu);
    data[i + quarter] = Math.round(data[i + quarter]! - key.spill! * over * hv);
  }
}

/** @param mask how far each pixel belongs to the subject, 0-1 */
export function cleaned<T extends Frame>(frame: T, mask: Float32Array, { key, clean = 0 }: Subject): T {
  const within = clean
    ? withoutSubject(
        frame,
        mask.map((share) => 1 - share),
      ).data
    : frame.data;
  const data = frame.data.slice();
  if (within !== frame.data)
    for (let i = 0; i < data.length; i++) data[i] = Math.round(data[i]! + clean * (within[i]! - data[i]!));
  if (key?.spill && key.by === 'colour' && key.invert) withoutSpill(data, frame, key);
  return { ...frame, data };
}
