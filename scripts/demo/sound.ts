/** The demo's sounds, synthesised: mono arrays of samples at SOUND_RATE. */
import { hash, signed } from '../../src/core/base/hash.ts';
import { LANTERN_DRIFT, MUSIC, RAMPART_RALLY, RATE, SOUND_RATE } from './events.ts';

const noise = (seed: number, i: number): number => signed(hash(seed, i));
const TAU = 2 * Math.PI;

/** Adds `voice(seconds)` into `out` from `at` seconds on. */
function add(out: Float32Array, at: number, length: number, gain: number, voice: (t: number, i: number) => number): void {
  const from = Math.round(at * SOUND_RATE);
  const n = Math.round(length * SOUND_RATE);
  for (let i = 0; i < n && from + i < out.length; i++) out[from + i]! += gain * voice(i / SOUND_RATE, i);
}

/** Low-passed noise as a bed of water or crowd. */
function bed(out: Float32Array, seed: number, gain: number, smooth: number): void {
  let low = 0;
  for (let i = 0; i < out.length; i++) {
    low += (noise(seed, i) - low) * smooth;
    out[i]! += low * gain * (0.8 + 0.2 * Math.sin((TAU * i) / SOUND_RATE / 3.1));
  }
}

export function lanternSound(): Float32Array {
  const out = new Float32Array((LANTERN_DRIFT.frames / RATE) * SOUND_RATE);
  bed(out, 1, 0.09, 0.02);
  for (const { frame, kind, strength } of LANTERN_DRIFT.events) {
    const at = frame / RATE;
    if (kind === 'shot') {
      add(out, at, 0.4, 0.75 * strength, (t, i) => noise(frame, i) * Math.exp(-t * 26) * 0.7 + Math.sin(TAU * 70 * t * Math.exp(-t * 3)) * Math.exp(-t * 12) * 0.6);
    } else {
      // The tag line's confirm sound: two bell tones.
      add(out, at, 0.22, 0.16, (t) => (Math.sin(TAU * 1320 * t) * Math.exp(-t * 18) + (t > 0.07 ? Math.sin(TAU * 1760 * (t - 0.07)) * Math.exp(-(t - 0.07) * 18) : 0)));
    }
  }
  return out;
}

export function rallySound(): Float32Array {
  const out = new Float32Array((RAMPART_RALLY.frames / RATE) * SOUND_RATE);
  bed(out, 2, 0.22, 0.05);
  for (const { frame, strength } of RAMPART_RALLY.events) {
    add(out, frame / RATE, 0.3, 0.8 * strength, (t, i) => Math.sin(TAU * 110 * t * Math.exp(-t * 6)) * Math.exp(-t * 18) * 0.7 + noise(frame, i) * Math.exp(-t * 70) * 0.6 + Math.sin(TAU * 410 * t) * Math.exp(-t * 40) * 0.3);
  }
  return out;
}

export function music(): Float32Array {
  const out = new Float32Array(MUSIC.seconds * SOUND_RATE);
  const beat = 60 / MUSIC.bpm;
  const roots = [55, 65.41, 49, 58.27];
  for (let b = 0; b * beat < MUSIC.seconds; b++) {
    const at = b * beat;
    const root = roots[Math.floor(b / 4) % 4]!;
    const dropped = at >= MUSIC.drop;
    const silent = at >= MUSIC.drop - beat && !dropped;
    if (silent) continue;
    // A slow pad with soft attacks throughout.
    if (b % 4 === 0) add(out, at, beat * 4, 0.05, (t) => Math.min(1, t * 2) * Math.min(1, (beat * 4 - t) * 2) * [4, 5, 6].reduce((sum, k) => sum + Math.sin(TAU * root * k * t + k), 0));
    if (dropped || at < 2) add(out, at, 0.25, dropped ? 0.6 : 0.35, (t) => Math.sin(TAU * (48 * t + 6 * (1 - Math.exp(-t * 30)))) * Math.exp(-t * 11));
    add(out, at + beat / 2, 0.06, 0.1, (t, i) => noise(b + 900, i) * Math.exp(-t * 80));
    if (dropped) {
      add(out, at, beat, 0.16, (t) => Math.sign(Math.sin(TAU * root * t)) * Math.exp(-t * 2) * (0.6 + 0.4 * Math.sin(TAU * 4 * t)));
      if (b % 2) add(out, at, 0.18, 0.3, (t, i) => noise(b + 500, i) * Math.exp(-t * 24));
    } else if (at >= 4) {
      // Build-up: a roll that doubles.
      const parts = at >= 6 ? 4 : 2;
      for (let k = 0; k < parts; k++) add(out, at + (k * beat) / parts, 0.08, 0.06 + 0.1 * ((at - 4) / 4), (t, i) => noise(b * 8 + k, i) * Math.exp(-t * 50));
    }
  }
  return out;
}
