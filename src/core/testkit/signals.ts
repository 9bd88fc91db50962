/** Made-up sounds and pictures, analysed, for tests. */
import { hash, signed } from '../base/hash.ts';
import { LUMA_HEIGHT, LUMA_WIDTH, PictureAnalyser } from '../finding/signals/picture.ts';
import { SoundAnalyser } from '../finding/signals/sound.ts';
import {
  BARK_BANDS,
  CHROMA_RATE,
  SIGNALS_VERSION,
  SOUND_CLASSES,
  type PictureSignals,
  type Signals,
  type SoundClass,
  type SoundSignals,
} from '../finding/signals/types.ts';

export const ANALYSIS_RATE = 48000;
/** Every kind at its default sensitivity. */
export const atDefault = (): number => 0.5;

export function analyseSound(samples: Float32Array, block = 4096, rate = ANALYSIS_RATE): SoundSignals {
  const analyser = new SoundAnalyser(rate);
  for (let at = 0; at < samples.length; at += block) analyser.push(samples.subarray(at, at + block));
  return analyser.finish();
}

/** Steady noise from -level to level. */
export const noise = (seconds: number, level: number, rate = ANALYSIS_RATE): Float32Array =>
  new Float32Array(seconds * rate).map((_, i) => signed(hash(1, i)) * level);

/** Adds a sound of `seconds` at `t`; `value` gets the seconds since then and a sample number. */
export function add(
  out: Float32Array,
  t: number,
  seconds: number,
  value: (t: number, i: number) => number,
  rate = ANALYSIS_RATE,
): void {
  const from = Math.round(t * rate);
  for (let i = 0; i < seconds * rate && from + i < out.length; i++) out[from + i]! += value(i / rate, i);
}

/** Decaying noise bursts at known times over faint noise. */
export function bursts(seconds: number, starts: readonly number[], rate = ANALYSIS_RATE): Float32Array {
  const out = noise(seconds, 0.001, rate);
  for (const start of starts) add(out, start, 0.1, (t, i) => signed(hash(2, i)) * Math.exp(-t * 60) * 0.5, rate);
  return out;
}

/** A bass drum: a sine that falls from 150 to 50 Hz. A hat: high noise that is gone in 60 ms. */
export const kick = (t: number): number =>
  0.8 * Math.sin(2 * Math.PI * (50 * t + (100 / 40) * (1 - Math.exp(-t * 40)))) * Math.exp(-t * 12);
export const hat = (t: number, i: number): number =>
  0.25 * (signed(hash(3, i)) - signed(hash(3, i - 1))) * Math.exp(-t * 70);

/** What the model says of an attack. */
export type Said = Partial<Record<SoundClass, number>>;

/** Attacks with what the model says of each and its onset function, 20 unless told: a short sound each, all alike. */
export function classified(
  attacks: readonly { readonly t: number; readonly said: Said; readonly height?: number }[],
  seconds = 30,
): SoundSignals {
  const hops = seconds * 100;
  const onset = new Float32Array(hops);
  const bands = new Uint8Array(hops * BARK_BANDS);
  const attackHops = Uint32Array.from(attacks, ({ t }) => Math.round(t * 100));
  attacks.forEach(({ height = 20 }, i) => {
    onset[attackHops[i]!] = height;
    bands.fill(60, attackHops[i]! * BARK_BANDS, (attackHops[i]! + 3) * BARK_BANDS);
  });
  return {
    rate: 100,
    start: 0,
    onset,
    soft: new Uint8Array(hops),
    peaks: new Uint8Array(hops),
    bands,
    chroma: new Uint8Array((hops / CHROMA_RATE) * 12),
    attacks: Float64Array.from(attacks, ({ t }) => t),
    attackHops,
    attackKinds: Uint8Array.from(
      attacks.flatMap(({ said }) => SOUND_CLASSES.map((name) => Math.round(255 * (said[name] ?? 0)))),
    ),
  };
}

export const ofSound = (sound: SoundSignals): Signals => ({
  version: SIGNALS_VERSION,
  sounds: { 0: sound },
  picture: null,
});
export const ofPicture = (picture: PictureSignals): Signals => ({ version: SIGNALS_VERSION, sounds: {}, picture });

/** Frames of a texture that moves one pixel a frame to the left; `edit` draws on top. `from` moves it elsewhere. */
export function pictures(
  count: number,
  edit: (luma: Uint8Array, i: number) => void,
  from: (i: number) => readonly [x: number, y: number] = (i) => [i, 0],
): PictureSignals {
  const analyser = new PictureAnalyser();
  for (let i = 0; i < count; i++) {
    const luma = new Uint8Array(LUMA_WIDTH * LUMA_HEIGHT);
    const [dx, dy] = from(i);
    for (let y = 0; y < LUMA_HEIGHT; y++) {
      for (let x = 0; x < LUMA_WIDTH; x++) {
        const [u, v] = [x + dx, y + dy];
        luma[y * LUMA_WIDTH + x] =
          95 + 30 * Math.sin(u / 9) * Math.cos(v / 7) + 18 * Math.sin(u / 3.1 + 1) + 18 * Math.sin(v / 2.7 + u / 40);
      }
    }
    edit(luma, i);
    analyser.push(luma, i / 30, 1 / 30);
  }
  return analyser.finish();
}

export function box(luma: Uint8Array, x0: number, y0: number, w: number, h: number, by: number): void {
  for (let y = Math.max(0, y0); y < Math.min(LUMA_HEIGHT, y0 + h); y++)
    for (let x = Math.max(0, x0); x < Math.min(LUMA_WIDTH, x0 + w); x++)
      luma[y * LUMA_WIDTH + x] = Math.max(0, Math.min(255, luma[y * LUMA_WIDTH + x]! + by));
}

/** Frame numbers at 30 a second. */
export const frames = (finds: readonly { readonly t: number }[]): number[] =>
  finds.map((find) => Math.round(find.t * 30));
