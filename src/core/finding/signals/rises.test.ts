import { describe, expect, it } from 'vitest';
import { onsets } from '../detectors/onsets.ts';
import { add, analyseSound, hat, noise, atDefault } from '../../testkit/signals.ts';
import { isPeak, localProminenceAt, prominence } from './local-prominence.ts';
import { Rises } from './rises.ts';
import { ANALYSIS_RATE } from './spectrum.ts';

const HOPS = 100;

/** All rises of a sound, strongest first. */
function rises(samples: Float32Array): { t: number; decibels: number }[] {
  const found: { t: number; decibels: number }[] = [];
  const analyser = new Rises();
  for (let hop = 0; hop * ANALYSIS_RATE < samples.length * HOPS; hop++)
    analyser.take(samples, (hop * ANALYSIS_RATE) / HOPS, hop, HOPS, (t, decibels) => found.push({ t, decibels }));
  return found.sort((a, b) => b.decibels - a.decibels);
}

/** A boom of 70 Hz. */
const boom = (t: number): number => 0.3 * Math.sin(2 * Math.PI * 70 * t) * Math.exp(-t * 8);

describe('rises in single bands', () => {
  it('are placed within 5 ms, in low bands and in high ones', () => {
    for (const [at, hz] of [
      [0.7013, 70],
      [0.9, 1000],
      [1.2357, 9000],
    ] as const) {
      const samples = noise(2, 0.0001, ANALYSIS_RATE);
      add(samples, at, 0.3, (t) => 0.4 * Math.sin(2 * Math.PI * hz * t) * Math.exp(-t * 20), ANALYSIS_RATE);
      expect(Math.abs(rises(samples)[0]!.t - at)).toBeLessThan(0.005);
    }
  });

  it('are as many decibels as the sound gains: tenfold amplitude is 20', () => {
    const samples = new Float32Array(2 * ANALYSIS_RATE).map(
      (_, i) => (i < ANALYSIS_RATE ? 0.05 : 0.5) * Math.sin((2 * Math.PI * 1500 * i) / ANALYSIS_RATE),
    );
    // The step spreads into other bands: the strongest of the band that sounds on.
    expect(rises(samples).some(({ t, decibels }) => Math.abs(t - 1) < 0.005 && Math.abs(decibels - 20) < 0.5)).toBe(
      true,
    );
  });

  it('are none where a tone holds or fades in, where it ends softly, or where a recording begins', () => {
    const tone = (level: (t: number) => number): Float32Array =>
      new Float32Array(2 * ANALYSIS_RATE).map(
        (_, i) => level(i / ANALYSIS_RATE) * Math.sin((2 * Math.PI * 440 * (i + 1)) / ANALYSIS_RATE),
      );
    expect(rises(tone(() => 0.5))).toEqual([]);
    expect(rises(tone((t) => 0.001 * 10 ** (1.3 * t)))).toEqual([]);
    expect(rises(tone((t) => 0.5 * Math.exp(-4 * t)))).toEqual([]);
    expect(rises(new Float32Array(ANALYSIS_RATE))).toEqual([]);
  });
});

describe.each([44100, 48000])('what a louder attack hides at %i Hz', (rate) => {
  const hidden = noise(3, 0.001, rate);
  add(hidden, 1.5, 0.1, hat, rate);
  add(hidden, 1.522, 0.6, boom, rate);
  const sound = analyseSound(hidden, 4096, rate);

  it('is an attack of its own, in its place, and in order', () => {
    for (const at of [1.5, 1.522]) expect(Math.min(...sound.attacks.map((t) => Math.abs(t - at)))).toBeLessThan(0.005);
    expect([...sound.attacks]).toEqual([...sound.attacks].sort((a, b) => a - b));
  });

  it('stands out as far as what hides it', () => {
    const hop = sound.attackHops[sound.attacks.findIndex((t) => Math.abs(t - 1.522) < 0.005)]!;
    const peak = sound.attackHops[sound.attacks.findIndex((t) => Math.abs(t - 1.5) < 0.005)]!;
    expect([isPeak(sound.onset, peak), isPeak(sound.onset, hop)]).toEqual([true, false]);
    expect(prominence(sound.onset, hop)).toBe(localProminenceAt(sound.onset, peak));
    expect(prominence(sound.onset, peak)).toBe(localProminenceAt(sound.onset, peak));
  });

  it('is a hit of its own where it likely is a blow, and never as a stroke of music', () => {
    const found = (kinds: readonly number[]): boolean =>
      onsets
        .find(
          {
            sound: {
              ...sound,
              attackKinds: Uint8Array.from(sound.attackKinds, (_, i) =>
                Math.abs(sound.attacks[Math.floor(i / 7)]! - 1.522) < 0.005
                  ? kinds[i % 7]!
                  : [0, 0, 0, 0, 0, 0, 255][i % 7]!,
              ),
            },
          },
          atDefault,
        )
        .some(({ t }) => Math.abs(t - 1.522) < 0.005);
    expect(found([240, 0, 0, 0, 0, 0, 15])).toBe(true);
    expect(found([0, 0, 240, 0, 0, 0, 15])).toBe(false);
  });

  it('is told from the peak even where it lies nearer to the hop of that', () => {
    for (const [at, beside] of [1.5, 1.5025, 1.505, 1.5075].flatMap((t) =>
      [0.014, 0.017, 0.02].map((later) => [t, later] as const),
    )) {
      const samples = noise(3, 0.001);
      add(samples, at, 0.6, boom);
      add(samples, at + beside, 0.1, hat);
      const { attacks, attackHops, onset } = analyseSound(samples);
      const here = [...attacks.keys()].filter((i) => Math.abs(attacks[i]! - at) < 0.035);
      expect(here.filter((i) => isPeak(onset, attackHops[i]!))).toHaveLength(1);
      expect(here).toHaveLength(2);
    }
  });

  it('is never taken for one twice', () => {
    const clear = noise(3, 0.001);
    for (const at of [0.5, 1.1, 1.7]) add(clear, at, 0.6, boom);
    for (const at of [0.5, 1.1, 1.7])
      expect(analyseSound(clear).attacks.filter((t) => Math.abs(t - at) < 0.012)).toHaveLength(1);
  });
});
