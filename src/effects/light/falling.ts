/** Cells that a picture is covered with and that travel over it, each with one thing in it: rain, sparks. */
import { pcg } from '../../core/base/hash.ts';

/** GLSL: the hash of the cell that holds a place, and where in it the place is (-0.5 to 0.5). */
export const CELLS = `
uint cellHash(vec2 cell, uint seed) { return pcg(pcg(seed ^ uint(int(cell.x))) ^ uint(int(cell.y))); }`;

export const cellHash = (x: number, y: number, seed: number): number => pcg((pcg((seed ^ x) >>> 0) ^ y) >>> 0);

/** A phase of any size as a whole and a fraction, which floats carry exactly. */
export const phaseOf = (phase: number): [number, number] => {
  const whole = Math.floor(phase);
  return [phase - whole, whole % 0x400000];
};
