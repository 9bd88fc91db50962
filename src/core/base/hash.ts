/**
 * Seeded random numbers by integer hashing, the same bits in JavaScript and in GLSL (uint).
 * Source: M. Jarzynski and M. Olano, "Hash functions for GPU rendering", JCGT 9(3), 2020 (PCG hash).
 */
export function pcg(value: number): number {
  const state = (Math.imul(value >>> 0, 747796405) + 2891336453) >>> 0;
  const word = Math.imul(((state >>> ((state >>> 28) + 4)) ^ state) >>> 0, 277803737) >>> 0;
  return ((word >>> 22) ^ word) >>> 0;
}

/** One 32-bit number from any count of integers (negative ones wrap to unsigned). */
export function hash(...values: number[]): number {
  let h = 0x9e3779b9;
  for (const value of values) h = pcg((h ^ (value >>> 0)) >>> 0);
  return h;
}

/** 0 <= result < 1, 24 bits so that a float32 holds it exactly. */
export const unit = (h: number): number => (h >>> 8) / 16777216;

/** -1 <= result < 1 */
export const signed = (h: number): number => unit(h) * 2 - 1;

/** Text to a 32-bit seed (FNV-1a). */
export function seedOf(text: string): number {
  let h = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 16777619) >>> 0;
  return pcg(h);
}

/** Smooth random walk in -1..1: hashed lattice values at whole `at`, quintic blend between. */
export function valueNoise(at: number, ...seed: number[]): number {
  const cell = Math.floor(at);
  const f = at - cell;
  const w = f * f * f * (f * (f * 6 - 15) + 10);
  return signed(hash(...seed, cell)) * (1 - w) + signed(hash(...seed, cell + 1)) * w;
}

/**
 * Two smooth noises in about -1..1 at a point of space, for the same place always the same.
 * Source: K. Perlin, "Improving noise", SIGGRAPH 2002 (quintic blend, twelve gradients), on hashed lattice points.
 */
export function gradientNoise(x: number, y: number, z: number, seed: number, out: [number, number]): void {
  const [cx, cy, cz] = [Math.floor(x), Math.floor(y), Math.floor(z)];
  const [fx, fy, fz] = [x - cx, y - cy, z - cz];
  const blend = (f: number): number => f * f * f * (f * (f * 6 - 15) + 10);
  const [wx, wy, wz] = [blend(fx), blend(fy), blend(fz)];
  out[0] = 0;
  out[1] = 0;
  for (let corner = 0; corner < 8; corner++) {
    const [ox, oy, oz] = [corner & 1, (corner >> 1) & 1, corner >> 2];
    const h = pcg((pcg((pcg((seed ^ (cx + ox)) >>> 0) ^ (cy + oy)) >>> 0) ^ (cz + oz)) >>> 0);
    const weight = (ox ? wx : 1 - wx) * (oy ? wy : 1 - wy) * (oz ? wz : 1 - wz);
    out[0] += weight * slope(h >>> 28, fx - ox, fy - oy, fz - oz);
    out[1] += weight * slope((h >>> 24) & 15, fx - ox, fy - oy, fz - oz);
  }
}

/** Dot product with one of Perlin's twelve edge directions (four of them twice). */
function slope(h: number, x: number, y: number, z: number): number {
  const u = h < 8 ? x : y;
  const v = h < 4 ? y : h === 12 || h === 14 ? x : z;
  return ((h & 1) === 0 ? u : -u) + ((h & 2) === 0 ? v : -v);
}
