/** Synthesised sounds of each class, every number drawn anew: what no package has. */
import { ANALYSIS_RATE } from '../../src/core/finding/signals/spectrum.ts';
import type { SoundClass } from '../../src/core/finding/signals/types.ts';
import type { Chance } from './chance.ts';

export type Made = SoundClass | 'step';

const seconds = (length: number): Float32Array => new Float32Array(Math.floor(length * ANALYSIS_RATE));

/** Noise through a one-pole low-pass whose cutoff, 0 to 1 of the rate, may fall while it sounds. */
function dullNoise(
  out: Float32Array,
  c: Chance,
  level: (t: number) => number,
  cut: (t: number) => number,
  from = 0,
): void {
  let low = 0;
  for (let i = from; i < out.length; i++) {
    const t = (i - from) / ANALYSIS_RATE;
    low += (c.signed() - low) * cut(t);
    out[i]! += low * level(t);
  }
}

/** Copies of what is there, later, fainter and duller: walls and ground. */
function reflected(out: Float32Array, c: Chance, count: number, latest: number): void {
  const dry = out.slice();
  for (let k = 0; k < count; k++) {
    const delay = Math.floor(c.between(0.004, latest) * ANALYSIS_RATE);
    const gain = c.between(0.1, 0.6) * (c.yes(0.3) ? -1 : 1);
    const cut = c.between(0.15, 0.9);
    let low = 0;
    for (let i = delay; i < out.length; i++) out[i]! += gain * (low += (dry[i - delay]! - low) * cut);
  }
}

/**
 * A muzzle blast (F. G. Friedlander's pulse, "The diffraction of sound pulses", Proc. Royal Society A 186, 1946),
 * at times after the N-shaped crack of the bullet, with its echoes, a tail of noise and an overdriven microphone.
 */
function gunshot(c: Chance): Float32Array {
  const out = seconds(c.between(0.25, 1.4));
  const blast = Math.floor(c.yes(0.4) ? c.between(0.001, 0.02) * ANALYSIS_RATE : 2);
  if (blast > 10) {
    const width = Math.floor(c.between(0.0002, 0.0006) * ANALYSIS_RATE);
    const gain = c.between(0.2, 1);
    for (let i = 0; i < width; i++) out[i] = gain * (1 - (2 * i) / width);
  }
  const length = c.between(0.0005, 0.005) * ANALYSIS_RATE;
  const fall = c.between(0.8, 3);
  for (let i = 0; i < length * 8 && blast + i < out.length; i++)
    out[blast + i]! += (1 - i / length) * Math.exp((-fall * i) / length);
  const [body, bodyFall, bodyCut, closing] = [
    c.between(0.1, 1.2),
    c.between(12, 70),
    c.between(0.2, 1),
    c.between(3, 40),
  ];
  dullNoise(
    out,
    c,
    (t) => body * Math.exp(-bodyFall * t),
    (t) => bodyCut * (0.1 + 0.9 * Math.exp(-closing * t)),
    blast,
  );
  reflected(out, c, c.whole(0, 7), c.between(0.02, 0.15));
  const [tail, tailFall, tailCut] = [c.between(0, 0.25), c.between(3, 14), c.between(0.03, 0.4)];
  dullNoise(
    out,
    c,
    (t) => tail * Math.min(1, t / 0.01) * Math.exp(-tailFall * t),
    () => tailCut,
    blast,
  );
  if (c.yes(0.3)) {
    // The breech moves.
    const at = Math.floor(c.between(0.03, 0.12) * ANALYSIS_RATE);
    const [ring, level] = [c.between(1500, 6000), c.between(0.02, 0.15)];
    for (let i = at; i < out.length; i++)
      out[i]! +=
        level * Math.sin(((i - at) * 2 * Math.PI * ring) / ANALYSIS_RATE) * Math.exp(-((i - at) / ANALYSIS_RATE) * 80);
  }
  const drive = c.yes(0.6) ? c.between(1, 8) : 0.2;
  return out.map((v) => Math.tanh(v * drive));
}

/** A charge that burns over milliseconds, rumbling noise whose loudness wavers, debris. */
function explosion(c: Chance): Float32Array {
  const out = seconds(c.between(0.8, 2.8));
  const rise = c.between(0.001, 0.05);
  const fall = c.between(1.2, 6);
  const cut = c.between(0.02, 0.35);
  const closing = c.between(0.5, 6);
  let sway = 0;
  dullNoise(
    out,
    c,
    (t) => Math.min(1, t / rise) * Math.exp(-fall * t) * (1 + 3 * (sway += (c.signed() - sway) * 0.002)),
    (t) => cut * (0.12 + 0.88 * Math.exp(-closing * t)),
  );
  const [deep, deepFall, deepSweep] = [c.between(25, 80), c.between(2, 10), c.between(0, 2)];
  const level = c.between(0, 0.6);
  let phase = 0;
  for (let i = 0; i < out.length; i++) {
    const t = i / ANALYSIS_RATE;
    phase += (deep * (1 + deepSweep * Math.exp(-t * 12))) / ANALYSIS_RATE;
    out[i]! += level * Math.min(1, t / rise) * Math.sin(2 * Math.PI * phase) * Math.exp(-deepFall * t);
  }
  for (let k = c.whole(0, 12); k > 0; k--) {
    const at = Math.floor(c.between(0.05, 0.8) * out.length);
    const gain = c.between(0.02, 0.15);
    for (let i = at; i < Math.min(out.length, at + 400); i++) out[i]! += gain * c.signed() * Math.exp(-(i - at) / 80);
  }
  const drive = c.between(1, 6);
  return out.map((v) => Math.tanh(v * drive));
}

/** Something struck: modes that ring and fade, a burst of noise while the two touch. */
function struck(c: Chance): Float32Array {
  const out = seconds(c.between(0.15, 0.8));
  const base = c.between(60, 900);
  const soft = c.between(0.0005, 0.006);
  for (let k = c.whole(2, 9); k > 0; k--) {
    const hz = base * (k === 1 ? 1 : c.between(1, 9));
    const [fall, gain, phase] = [c.between(8, 90) * (1 + hz / 3000), c.between(0.1, 1) / k, c.next() * 6.28];
    for (let i = 0; i < out.length; i++)
      out[i]! +=
        gain *
        Math.min(1, i / ANALYSIS_RATE / soft) *
        Math.sin((2 * Math.PI * hz * i) / ANALYSIS_RATE + phase) *
        Math.exp((-fall * i) / ANALYSIS_RATE);
  }
  const [touch, fall, cut] = [c.between(0.2, 2.5), c.between(40, 400), c.between(0.1, 0.9)];
  dullNoise(
    out,
    c,
    (t) => touch * Math.min(1, t / soft) * Math.exp(-fall * t),
    () => cut,
  );
  return out;
}

/** A body or a ball: a dull thump and the slap of skin, leather or cloth. */
function blow(c: Chance): Float32Array {
  const out = seconds(c.between(0.12, 0.6));
  const [hz, sweep, fall] = [c.between(45, 160), c.between(0, 2), c.between(10, 45)];
  let phase = 0;
  for (let i = 0; i < out.length; i++) {
    const t = i / ANALYSIS_RATE;
    phase += (hz * (1 + sweep * Math.exp(-t * 40))) / ANALYSIS_RATE;
    out[i] = Math.sin(2 * Math.PI * phase) * Math.min(1, t / 0.002) * Math.exp(-fall * t);
  }
  const [slap, slapFall, cut] = [c.between(0.1, 2), c.between(25, 180), c.between(0.05, 0.6)];
  dullNoise(
    out,
    c,
    (t) => slap * Math.min(1, t / 0.001) * Math.exp(-slapFall * t),
    () => cut,
  );
  if (c.yes(0.3))
    dullNoise(
      out,
      c,
      (t) => 0.4 * Math.exp(-slapFall * t),
      () => cut,
      Math.floor(c.between(0.02, 0.08) * ANALYSIS_RATE),
    );
  return out;
}

/** Steam, wind through a gap, cloth: noise that swells and goes. */
function hiss(c: Chance): Float32Array {
  const length = c.between(0.15, 1.5);
  const out = seconds(length);
  const [rise, hold, cut] = [c.between(0.002, 0.15), c.between(0, 0.8) * length, c.between(0.1, 1)];
  const fall = c.between(3, 30);
  dullNoise(
    out,
    c,
    (t) => Math.min(1, t / rise) * (t < hold ? 1 : Math.exp(-fall * (t - hold))),
    () => cut,
  );
  if (c.yes(0.7)) {
    const thin = c.between(0.05, 0.6);
    let low = 0;
    for (let i = 0; i < out.length; i++) out[i]! -= low += (out[i]! - low) * thin;
  }
  return out;
}

/** A chime or a signal: partials, in tune or not, in one or several notes. */
function chime(c: Chance): Float32Array {
  const out = seconds(c.between(0.15, 1));
  const notes = c.whole(1, 4);
  const gap = c.between(0.04, 0.15) * ANALYSIS_RATE;
  let hz = 200 * 2 ** c.between(0, 4);
  const [tuned, fall, attack, partials] = [c.yes(0.5), c.between(4, 30), c.between(0.0005, 0.01), c.whole(1, 6)];
  for (let n = 0; n < notes; n++, hz *= 2 ** (c.whole(-5, 7) / 12)) {
    const at = Math.floor(n * gap);
    for (let p = 1; p <= partials; p++) {
      const own = hz * (tuned ? p : p ** c.between(1.1, 1.6));
      if (own > 16000) break;
      for (let i = at; i < out.length; i++) {
        const t = (i - at) / ANALYSIS_RATE;
        out[i]! +=
          0.6 ** p * Math.min(1, t / attack) * Math.sin(2 * Math.PI * own * t) * Math.exp(-fall * t * (1 + 0.3 * p));
      }
    }
  }
  return out;
}

/** Heel and sole: one or two short dull bursts. */
function step(c: Chance): Float32Array {
  const out = seconds(0.3);
  const [cut, fall] = [c.between(0.05, 0.6), c.between(25, 110)];
  dullNoise(
    out,
    c,
    (t) => Math.min(1, t / 0.003) * Math.exp(-fall * t),
    () => cut,
  );
  if (c.yes(0.6)) {
    const later = c.between(0.2, 1.2);
    dullNoise(
      out,
      c,
      (t) => later * Math.min(1, t / 0.005) * Math.exp(-fall * t),
      () => cut * 0.8,
      Math.floor(c.between(0.03, 0.12) * ANALYSIS_RATE),
    );
  }
  const thump = c.between(0, 0.6);
  const hz = c.between(60, 180);
  for (let i = 0; i < out.length; i++)
    out[i]! += thump * Math.sin((2 * Math.PI * hz * i) / ANALYSIS_RATE) * Math.exp((-50 * i) / ANALYSIS_RATE);
  return out;
}

/** A tone that may fall in pitch, noise over it, and both fading: drums, notes, and plain forms of the rest. */
function swept(kind: SoundClass, c: Chance): Float32Array {
  const length = { kick: 0.5, snare: 0.4, hat: 0.3, shot: 0.9, impact: 0.7, note: 1.2, other: 0.6 }[kind];
  const out = seconds(length);
  let low = 0;
  let high = 0;
  const noise = (cut: number, top: number): number => {
    const raw = c.signed();
    low += (raw - low) * cut;
    high += (low - high) * top;
    return low - high;
  };
  let phase = c.next();
  const base = {
    kick: c.between(38, 70),
    snare: c.between(150, 260),
    hat: 0,
    shot: c.between(60, 160),
    impact: c.between(45, 140),
    note: 55 * 2 ** c.between(0, 4.5),
    other: 200 * 2 ** c.between(0, 3.5),
  }[kind];
  const decay = {
    kick: c.between(6, 22),
    snare: c.between(12, 35),
    hat: c.between(12, 90),
    shot: c.between(5, 30),
    impact: c.between(7, 30),
    note: c.between(2, 9),
    other: c.between(3, 20),
  }[kind];
  const sweep =
    kind === 'kick'
      ? c.between(1.5, 7)
      : kind === 'impact'
        ? c.between(0, 2)
        : kind === 'shot'
          ? c.between(0, 3)
          : kind === 'other'
            ? c.between(-0.5, 1)
            : 0;
  const sweepRate = c.between(20, 90);
  const tone = {
    kick: 1,
    snare: c.between(0.2, 0.7),
    hat: 0,
    shot: c.between(0, 0.5),
    impact: c.between(0.3, 0.9),
    note: 1,
    other: c.yes(0.6) ? 1 : 0.1,
  }[kind];
  const cut = {
    kick: 0.2,
    snare: c.between(0.4, 1),
    hat: 1,
    shot: c.between(0.3, 1),
    impact: c.between(0.05, 0.35),
    note: 0.5,
    other: c.between(0.1, 1),
  }[kind];
  const top = kind === 'hat' ? c.between(0.5, 0.85) : kind === 'snare' ? c.between(0.02, 0.2) : 0.002;
  const attack =
    kind === 'note' ? c.between(0.001, 0.015) : kind === 'other' ? c.between(0.002, 0.12) : c.between(0.0003, 0.002);
  const click = kind === 'kick' ? c.between(0, 0.5) : 0;
  const closing = c.between(2, 25);
  const partials = kind === 'note' || kind === 'other' ? c.whole(1, 8) : 1;
  const bright = c.between(0.3, 0.9);
  for (let i = 0; i < out.length; i++) {
    const t = i / ANALYSIS_RATE;
    phase += (base * (1 + sweep * Math.exp(-t * sweepRate))) / ANALYSIS_RATE;
    let sine = 0;
    for (let p = 1; p <= partials; p++)
      sine += Math.sin(2 * Math.PI * phase * p) * bright ** (p - 1) * Math.exp(-t * (p - 1) * 2);
    // A shot and an impact grow dull as they fade.
    const n = noise(kind === 'shot' || kind === 'impact' ? cut * (0.15 + 0.85 * Math.exp(-t * closing)) : cut, top);
    const envelope = Math.min(1, t / attack) * Math.exp(-t * decay);
    out[i] = envelope * (tone * sine + (1 - tone * 0.7) * n * 1.5) + click * c.signed() * Math.exp(-t * 600);
  }
  return out;
}

const VARIANTS: Readonly<Record<Made, readonly ((c: Chance) => Float32Array)[]>> = {
  shot: [gunshot, gunshot, gunshot, (c) => swept('shot', c)],
  impact: [explosion, explosion, struck, blow, blow, (c) => swept('impact', c)],
  other: [hiss, hiss, chime, (c) => swept('other', c)],
  step: [step],
  kick: [(c) => swept('kick', c)],
  snare: [(c) => swept('snare', c)],
  hat: [(c) => swept('hat', c)],
  note: [(c) => swept('note', c)],
};

export const synthesised = (kind: Made, c: Chance): Float32Array => c.pick(VARIANTS[kind])(c);
