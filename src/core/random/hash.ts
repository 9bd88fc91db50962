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
