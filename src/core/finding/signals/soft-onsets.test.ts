/** Made pieces of notes without an edge, with their truth; pads and noise that must stay silent. */
import { describe, expect, it } from 'vitest';
import { hash, signed } from '../../base/hash.ts';
import { add, ANALYSIS_RATE, analyseSound, noise, ofSound } from '../../testkit/signals.ts';
import { beatGrid } from '../beats/track.ts';
import { findHits } from '../detectors/index.ts';
import { softOnsets } from './soft-onsets.ts';
import { SoundAnalyser } from './sound.ts';

/** Share of each partial. */
const TIMBRES = {
  strings: (k: number) => 1 / k,
  organ: (k: number) => [1, 0.8, 0.3, 0.5, 0, 0.25, 0, 0.2][k - 1] ?? 0,
  reed: (k: number) => (k % 2 ? 1 : 0.3) / k,
  choir: (k: number, hz: number) => (0.15 + Math.exp(-(((hz * k - 700) / 300) ** 2))) / k,
} as const;
/** Depth of the vibrato, as a share of the pitch. */
const VIBRATO: Partial<Record<keyof typeof TIMBRES, number>> = { strings: 0.006, choir: 0.006 };
const SCALE = [0, 2, 3, 5, 7, 8, 10, 12, 14, 15];

/** Notes of a piece: when each begins and its pitch; no two neighbours of one pitch. */
function notes(
  seconds: number,
  length: (i: number) => number,
  seed: number,
): { t: number; hz: number; length: number }[] {
  const out: { t: number; hz: number; length: number }[] = [];
  let step = 0;
  for (let t = 0.5, i = 0; t < seconds - 1.5; i++) {
    step = (step + 1 + (hash(seed, i) % (SCALE.length - 1))) % SCALE.length;
    out.push({ t, hz: 196 * 2 ** (SCALE[step]! / 12), length: length(i) });
    t += length(i);
  }
  return out;
}

function played(
  timbre: keyof typeof TIMBRES,
  attack: number,
  list: ReturnType<typeof notes>,
  seconds: number,
): Float32Array {
  const out = noise(seconds, 0.0004);
  const release = 0.2;
  const depth = VIBRATO[timbre] ?? 0;
  for (const { t, hz, length } of list) {
    let phase = 0;
    add(out, t, length + release, (s) => {
      phase +=
        (2 * Math.PI * hz * (1 + depth * Math.min(1, s / 0.3) * Math.sin(2 * Math.PI * 5.4 * s))) / ANALYSIS_RATE;
      let value = 0;
      for (let k = 1; k <= 10 && hz * k < 9000; k++)
        value += TIMBRES[timbre](k, hz) * Math.sin(k * phase + 1.7 * k * k);
      return 0.12 * value * Math.min(1, s / attack) ** 1.5 * Math.max(0, Math.min(1, 1 - (s - length) / release));
    });
  }
  return out;
}

const found = (samples: Float32Array): number[] =>
  findHits({ id: 's', role: 'music', tracks: [], delay: null }, ofSound(analyseSound(samples)))
    .hits.filter(({ kind }) => kind !== 'beat' && kind !== 'drop')
    .map(({ t }) => t);

/** F within 50 ms, as in the MIREX onset task. */
function score(times: readonly number[], truth: readonly number[]): { f: number; wrong: number } {
  const right = truth.filter((t) => times.some((at) => Math.abs(at - t) <= 0.05)).length;
  // Where nothing begins; what is dated badly is told by F.
  const wrong = times.filter((t) => !truth.some((at) => Math.abs(at - t) <= 0.15)).length;
  return { f: (2 * right) / Math.max(1, times.length + truth.length), wrong };
}

describe('notes without an edge', () => {
  const list = notes(20, (i) => 0.5 + 0.25 * (hash(3, i) % 3), 5);
  const truth = list.map(({ t }) => t);

  it.each([
    ['strings', 0.08, 0.8],
    ['strings', 0.15, 0.5],
    ['organ', 0.08, 0.8],
    ['organ', 0.15, 0.7],
    ['reed', 0.08, 0.8],
    ['choir', 0.08, 0.75],
  ] as const)('of %s that take %s s to begin are found, hardly any where there is none', (timbre, attack, least) => {
    const { f, wrong } = score(found(played(timbre, attack, list, 20)), truth);
    expect(f).toBeGreaterThanOrEqual(least);
    expect(wrong).toBeLessThanOrEqual(4);
  });

  it('give a beat, where they are played to one', () => {
    const slow = notes(40, () => 0.6, 9);
    const { beats, tempi } = beatGrid(analyseSound(played('strings', 0.08, slow, 40)));
    expect(beats.length).toBeGreaterThan(20);
    const bpm = tempi[0]!.bpm;
    // At the notes' own pace, or twice or half of it.
    expect(Math.min(...[50, 100, 200].map((wanted) => Math.abs(bpm / wanted - 1)))).toBeLessThan(0.02);
  });

  it('are not found in pads that swell over a second, in noise, or in what hisses on and off', () => {
    const pad = notes(20, () => 2.5, 4);
    expect(found(played('organ', 1.2, pad, 20))).toEqual([]);
    const hiss = noise(12, 0.0004);
    for (let k = 0; k < 8; k++)
      add(
        hiss,
        1 + k * 1.3,
        0.8,
        (s, i) => 0.1 * signed(hash(k, i)) * Math.min(1, s / 0.15) * Math.min(1, (0.8 - s) / 0.2),
      );
    expect(softOnsets(analyseSound(hiss).soft, 0.5)).toEqual([]);
  });

  it('are the same however the sound is cut, and when the analysis goes on later', () => {
    const samples = played('reed', 0.1, list.slice(0, 8), 7);
    const whole = analyseSound(samples).soft;
    expect(Math.max(...whole)).toBeGreaterThan(32);
    expect(analyseSound(samples, 333).soft).toEqual(whole);
    const first = new SoundAnalyser(ANALYSIS_RATE);
    first.push(samples.subarray(0, 100_001));
    const later = SoundAnalyser.resumed(structuredClone(first.state()));
    later.push(samples.subarray(100_001));
    expect(later.finish().soft).toEqual(whole);
    expect(whole).toHaveLength(analyseSound(samples).onset.length);
  });
});
