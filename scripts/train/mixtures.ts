/** Made-up recordings with known attacks: sounds of the packages and synthesised ones at many levels over many beds. */
import { execFileSync } from 'node:child_process';
import { ANALYSIS_RATE } from '../../src/core/finding/signals/spectrum.ts';
import type { SoundClass } from '../../src/core/finding/signals/types.ts';
import { Chance } from './chance.ts';
import { resample, type Sound } from './sounds.ts';
import { synthesised } from './synthesis.ts';

export interface Event {
  /** Samples. */
  readonly at: number;
  readonly classes: readonly SoundClass[];
  readonly samples: Float32Array;
  /** More attacks of the same class follow in it, nobody knows where. */
  readonly several: boolean;
}

export interface Mixture {
  readonly bed: Float32Array;
  readonly whole: Float32Array;
  readonly events: readonly Event[];
  /** What attacks of the bed itself may be. */
  readonly bedClasses: readonly SoundClass[];
}

/** Mean square of a stretch. */
export const power = (samples: Float32Array, from = 0, to = samples.length): number => {
  let sum = 1e-12;
  for (let i = from; i < Math.min(to, samples.length); i++) sum += samples[i]! ** 2;
  return sum / Math.max(1, Math.min(to, samples.length) - from);
};

/** Where a sound begins: the first millisecond within 20 dB of the loudest of its first 200 ms. */
export function leadIn(samples: Float32Array): number {
  const step = ANALYSIS_RATE / 1000;
  let most = 0;
  const energy: number[] = [];
  for (let at = 0; at < Math.min(samples.length, ANALYSIS_RATE * 0.2); at += step) {
    const e = power(samples, Math.floor(at), Math.floor(at + step));
    energy.push(e);
    most = Math.max(most, e);
  }
  return Math.floor(
    Math.max(
      0,
      energy.findIndex((e) => e > most / 100),
    ) * step,
  );
}

/** Pitch, colour, distance and room, each at times left alone; often all, as a game plays its own sounds. */
function varied(samples: Float32Array, c: Chance, pitch = 0.3): Float32Array {
  if (c.yes(0.45)) return samples.slice();
  let out = c.yes(0.75) ? resample(samples, 2 ** c.between(-pitch, pitch)) : samples.slice();
  if (c.yes(0.25)) {
    // Cut short, as another sound of the same game would.
    const from = Math.floor(c.between(0.08, 0.7) * ANALYSIS_RATE);
    for (let i = from; i < out.length; i++) out[i]! *= Math.exp(-(i - from) / (ANALYSIS_RATE * 0.03));
  }
  if (c.yes(0.4)) {
    // Two shelves, up or down.
    const [lowGain, highGain] = [10 ** (c.between(-12, 12) / 20), 10 ** (c.between(-12, 12) / 20)];
    const [lowCut, highCut] = [c.between(0.01, 0.06), c.between(0.2, 0.6)];
    let low = 0;
    let mid = 0;
    for (let i = 0; i < out.length; i++) {
      low += (out[i]! - low) * lowCut;
      mid += (out[i]! - mid) * highCut;
      out[i] = low * lowGain + (mid - low) + (out[i]! - mid) * highGain;
    }
  }
  if (c.yes(0.35)) {
    const cut = c.between(0.15, 0.8);
    let low = 0;
    for (let i = 0; i < out.length; i++) out[i] = low += (out[i]! - low) * cut;
  } else if (c.yes(0.25)) {
    const cut = c.between(0.01, 0.08);
    let low = 0;
    for (let i = 0; i < out.length; i++) out[i]! -= low += (out[i]! - low) * cut;
  }
  if (c.yes(0.3)) {
    // A room: four feedback delays (M. R. Schroeder, "Natural sounding artificial reverberation", 1962).
    const wet = new Float32Array(out.length + ANALYSIS_RATE * 0.4);
    for (let k = 0; k < 4; k++) {
      const delay = Math.floor(c.between(0.012, 0.06) * ANALYSIS_RATE);
      const back = c.between(0.4, 0.75);
      const line = new Float32Array(wet.length);
      for (let i = delay; i < line.length; i++) line[i] = (out[i - delay] ?? 0) + line[i - delay]! * back;
      for (let i = 0; i < line.length; i++) wet[i]! += line[i]! * 0.25;
    }
    const share = c.between(0.1, 0.5);
    for (let i = 0; i < wet.length; i++) wet[i] = (out[i] ?? 0) + wet[i]! * share;
    out = wet;
  }
  return out;
}

const stretch = (from: Float32Array, length: number, c: Chance): Float32Array => {
  const out = new Float32Array(length);
  const start = c.whole(0, Math.max(0, from.length - length));
  for (let i = 0; i < length; i++) out[i] = from[(start + i) % from.length] ?? 0;
  return out;
};

/** Decibels of a game's sounds over what lies under them: in montages music is often the loudest. */
const OVER_NOISE = [-10, 16] as const;
const OVER_MUSIC = [-20, 12] as const;

const DRUMS = ['kick', 'snare', 'hat'] as const;

const sorted = new WeakMap<readonly Sound[], ReadonlyMap<Sound['use'], readonly Sound[]>>();

function byUse(sounds: readonly Sound[]): ReadonlyMap<Sound['use'], readonly Sound[]> {
  const known = sorted.get(sounds);
  if (known) return known;
  const made = new Map<Sound['use'], Sound[]>();
  for (const sound of sounds) {
    const alike = made.get(sound.use);
    if (alike) alike.push(sound);
    else made.set(sound.use, [sound]);
  }
  sorted.set(sounds, made);
  return made;
}

/** One recording of `seconds`; which sort it is, is drawn as well. */
export function mixture(sounds: readonly Sound[], seconds: number, seed: number): Mixture {
  const c = new Chance(seed);
  const length = Math.floor(seconds * ANALYSIS_RATE);
  const of = (use: Sound['use']): readonly Sound[] => byUse(sounds).get(use) ?? [];
  const bed = new Float32Array(length);
  const add = (samples: Float32Array, gain: number, at = 0): void => {
    for (let i = Math.max(0, -at); i < samples.length && at + i < length; i++) bed[at + i]! += samples[i]! * gain;
  };
  const toLevel = (samples: Float32Array, decibels: number): number =>
    10 ** (decibels / 20) / Math.sqrt(power(samples));
  const hum = (): void => {
    let low = 0;
    const cut = c.between(0.02, 0.6);
    const noise = new Float32Array(length).map(() => (low += (c.signed() - low) * cut));
    add(noise, toLevel(noise, c.between(-65, -35)));
  };
  const music = (): void => {
    const taken = stretch(c.pick(of('music')).samples, length, c);
    add(taken, toLevel(taken, c.between(-30, -14)));
  };
  const ambience = (): void => {
    const taken = stretch(c.pick(of('ambience').filter((s) => s.samples.length > ANALYSIS_RATE)).samples, length, c);
    add(taken, toLevel(taken, c.between(-40, -18)));
  };
  const voices = (count: number, level: number): void => {
    const talk = new Float32Array(length);
    const spoken = of('voice');
    for (let k = 0; k < count; k++) {
      for (let at = c.whole(0, ANALYSIS_RATE); at < length;) {
        // In a crowd no single voice is told apart.
        const word = count > 4 || c.yes(0.6) ? c.pick(spoken).samples : varied(c.pick(spoken).samples, c);
        for (let i = 0; i < word.length && at + i < length; i++) talk[at + i]! += word[i]!;
        at += word.length + c.whole(0, ANALYSIS_RATE * 0.5);
      }
    }
    add(talk, toLevel(talk, level));
  };
  const events: Event[] = [];
  const put = (
    samples: Float32Array,
    at: number,
    classes: readonly SoundClass[],
    gain: number,
    several = false,
  ): void => {
    const scaled = samples.map((v) => v * gain);
    const begin = Math.floor(at * ANALYSIS_RATE);
    if (begin + ANALYSIS_RATE * 0.1 > length || begin < ANALYSIS_RATE * 0.1) return;
    events.push({ at: begin + leadIn(scaled), classes, samples: scaled, several });
  };
  const single = (kind: SoundClass | 'step' | 'voice'): Float32Array => {
    if ((kind === 'shot' || kind === 'impact') && c.yes(0.2)) {
      // Two layers make a sound that no package has.
      const [one, other] = [part(kind), part(kind)];
      const gain =
        c.between(0.3, 1) * Math.sqrt(power(one, 0, ANALYSIS_RATE / 10) / power(other, 0, ANALYSIS_RATE / 10));
      const [a, b] = [leadIn(one), leadIn(other)];
      const out = new Float32Array(Math.max(one.length - a, other.length - b));
      for (let i = 0; i < out.length; i++) out[i] = (one[a + i] ?? 0) + (other[b + i] ?? 0) * gain;
      return out;
    }
    return part(kind);
  };
  const part = (kind: SoundClass | 'step' | 'voice'): Float32Array => {
    const known = of(kind);
    const made =
      kind !== 'voice' &&
      c.yes(
        known.length < 3
          ? 1
          : { shot: 0.2, impact: 0.2, kick: 0.4, snare: 0.45, hat: 0.35, note: 1, other: 0.2, step: 0.15 }[kind],
      );
    return made ? synthesised(kind, c) : varied(c.pick(known).samples, c);
  };
  /** Gain that puts the sound's first 250 ms this many decibels over a bed of this power. */
  const over = (samples: Float32Array, decibels: number, under: number): number => {
    const from = leadIn(samples);
    return Math.sqrt(Math.max(under, 1e-6) / power(samples, from, from + ANALYSIS_RATE / 4)) * 10 ** (decibels / 20);
  };
  /** Shots, impacts and what is neither, so many of each and so loud. */
  const game = (shots: number, impacts: number, under: number, [least, most]: readonly [number, number]): void => {
    for (
      let at = c.between(0.2, 1.5);
      at < seconds - 0.5;
      at += c.yes(0.25) ? c.between(0.12, 0.35) : c.between(0.3, 1.4)
    ) {
      const draw = c.next();
      const level = c.between(least, most);
      if (draw < shots) {
        const several = c.yes(0.08);
        const shot = several ? varied(c.pick(of('burst')).samples, c) : single('shot');
        const gain = over(shot, level, under);
        const repeats = !several && c.yes(0.25) ? c.whole(2, 8) : 1;
        const gap = c.between(0.06, 0.22);
        for (let k = 0; k < repeats; k++) put(shot, at + k * gap, ['shot'], gain * c.between(0.8, 1.1), several);
        at += (repeats - 1) * gap;
      } else if (draw < shots + impacts) {
        const hit = single('impact');
        put(hit, at, ['impact'], over(hit, level, under));
      } else {
        const kind = c.pick(['other', 'step', 'step', 'voice', 'voice', 'other', 'tone'] as const);
        const decoy = kind === 'tone' ? varied(c.pick(of('tone')).samples, c) : single(kind);
        put(decoy, at, kind === 'tone' ? ['note', 'other'] : ['other'], over(decoy, level - 3, under));
      }
    }
  };

  const sort = c.next();
  let bedClasses: readonly SoundClass[] = ['other'];
  hum();
  if (sort < 0.68) {
    // A game or a hall: beds of many sorts, hits and decoys over it.
    const under = c.next();
    // Where people cheer, feet and balls hit; in games shots do, more often.
    const hall = under >= 0.7;
    if (under < 0.42) {
      music();
      bedClasses = ['kick', 'snare', 'hat', 'note', 'other'];
      if (c.yes(0.3)) ambience();
    } else if (!hall) {
      if (c.yes(0.85)) ambience();
      if (c.yes(0.15)) voices(1, c.between(-34, -22));
    } else voices(c.yes(0.75) ? c.whole(5, 14) : c.whole(1, 4), c.between(-34, -16));
    const [shots, impacts] = hall
      ? [c.yes(0.3) ? 0.1 : 0, 0.5]
      : c.pick([
          [0.5, 0.05],
          [0.4, 0.12],
          [0.15, 0.3],
        ] as const);
    game(shots, impacts, power(bed), under < 0.42 ? OVER_MUSIC : OVER_NOISE);
  } else if (sort < 0.84) {
    // Drums in bars, at times with notes, at times over music or a room.
    const under = c.next();
    if (under < 0.15) {
      music();
      bedClasses = ['kick', 'snare', 'hat', 'note', 'other'];
    } else if (under < 0.25) ambience();
    const beat = 60 / c.between(70, 175);
    const swing = c.yes(0.3) ? c.between(0.55, 0.68) : 0.5;
    const kit = Object.fromEntries(DRUMS.map((kind) => [kind, [single(kind), single(kind)]])) as Record<
      (typeof DRUMS)[number],
      Float32Array[]
    >;
    const gains = Object.fromEntries(
      DRUMS.map((kind) => [
        kind,
        (c.between(0.15, 0.6) * (kind === 'hat' ? c.between(0.2, 0.8) : 1)) /
          Math.sqrt(Math.max(...kit[kind].map((s) => power(s, 0, ANALYSIS_RATE / 10)))) /
          4,
      ]),
    );
    const melodic = c.yes(0.4) ? { tone: c.pick(of('tone')).samples, gain: c.between(0.03, 0.2) } : null;
    const steps = Array.from({ length: 16 }, () =>
      DRUMS.map((kind) => c.yes({ kick: 0.28, snare: 0.2, hat: 0.5 }[kind])),
    );
    for (let step = 0, at = c.between(0.2, 0.8); at < seconds - 0.6; step++) {
      const sounding = DRUMS.filter((_, k) => steps[step % 16]![k]);
      const accent = c.between(0.5, 1);
      for (const kind of sounding)
        put(c.pick(kit[kind]), at + c.between(0, 0.004), [kind], gains[kind]! * accent * c.between(0.7, 1.1));
      if (melodic && c.yes(0.3))
        put(
          resample(melodic.tone, 2 ** (c.whole(-12, 12) / 12)),
          at,
          ['note'],
          melodic.gain / Math.sqrt(power(melodic.tone, 0, ANALYSIS_RATE / 5)) / 4,
        );
      at += ((beat / 2) * (step % 2 ? 2 * (1 - swing) : 2 * swing)) / (c.yes(0.03) ? 2 : 1);
    }
    if (c.yes(0.35)) {
      // What a game adds to music whose every stroke is known.
      const played = bed.slice();
      for (const { at, samples } of events)
        for (let i = 0; i < samples.length && at + i < length; i++) played[at + i]! += samples[i]!;
      game(0.4, 0.15, power(played), OVER_MUSIC);
    }
  } else if (sort < 0.92) {
    // Notes and chords.
    const tones = [c.pick(of('tone')), c.pick(of('tone'))];
    const beat = 60 / c.between(60, 150);
    for (let at = c.between(0.2, 0.8); at < seconds - 0.6; at += beat * c.pick([0.5, 0.5, 1, 1, 2])) {
      const tone = c.yes(0.2) ? { samples: synthesised('note', c) } : c.pick(tones);
      for (let k = c.whole(1, 3); k > 0; k--) {
        const pitched = resample(tone.samples, 2 ** (c.whole(-14, 14) / 12));
        put(
          pitched,
          at + c.between(0, 0.012),
          ['note'],
          c.between(0.15, 0.5) / Math.sqrt(power(pitched, 0, ANALYSIS_RATE / 5)) / 6,
        );
      }
    }
  } else {
    // Speech alone: no hits.
    voices(c.yes(0.7) ? 1 : 3, c.between(-30, -12));
    if (c.yes(0.3)) ambience();
  }
  events.sort((a, b) => a.at - b.at);
  const whole = bed.slice();
  for (const { at, samples } of events) {
    const from = at - leadIn(samples);
    for (let i = 0; i < samples.length && from + i < length; i++) whole[from + i]! += samples[i]!;
  }
  let most = 0;
  for (const value of whole) most = Math.max(most, Math.abs(value));
  const gain = (c.yes(0.7) ? c.between(0.3, 0.99) : c.between(0.05, 0.3)) / Math.max(most, 1e-3);
  for (let i = 0; i < length; i++) {
    whole[i]! *= gain;
    bed[i]! *= gain;
  }
  const scaled = events.map((e) => ({ ...e, samples: e.samples.map((v) => v * gain) }));
  return { bed, whole: c.yes(0.25) ? coded(whole, c) : whole, events: scaled, bedClasses };
}

/** Through a lossy codec and back, its delay taken off by the decoder. */
function coded(samples: Float32Array, c: Chance): Float32Array {
  const [codec, format] = c.pick([
    ['aac', 'mp4'],
    ['libopus', 'ogg'],
    ['libvorbis', 'ogg'],
  ] as const);
  const raw = ['-f', 'f32le', '-ac', '1', '-ar', String(ANALYSIS_RATE)];
  const input = Buffer.from(samples.buffer, samples.byteOffset, samples.byteLength);
  const small = execFileSync(
    'ffmpeg',
    [
      '-v',
      'error',
      ...raw,
      '-i',
      '-',
      '-c:a',
      codec,
      '-b:a',
      `${c.whole(48, 128)}k`,
      '-f',
      format,
      ...(format === 'mp4' ? ['-movflags', 'frag_keyframe+empty_moov'] : []),
      '-',
    ],
    { input, maxBuffer: 1 << 27 },
  );
  const back = execFileSync('ffmpeg', ['-v', 'error', '-i', '-', ...raw, '-'], { input: small, maxBuffer: 1 << 28 });
  const out = new Float32Array(samples.length);
  out.set(
    new Float32Array(back.buffer.slice(back.byteOffset, back.byteOffset + back.length - (back.length % 4))).subarray(
      0,
      samples.length,
    ),
  );
  return out;
}
