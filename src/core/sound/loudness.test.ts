/**
 * EBU Tech 3341 (2023), table 1, and Tech 3342 (2023), table 1: the signals that a meter must read within 0.1 LU, made here from
 * their descriptions (from memory). All are sines of 1 kHz in both channels, levels in decibels below full scale of each.
 */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { kWeighting, LoudnessMeter, type Loudness } from './loudness.ts';
import { limit } from './limiter.ts';
import { TruePeak } from './true-peak.ts';

const RATE = 48000;
type Part = readonly [decibels: number, seconds: number];

/** `faded`: seconds over which it comes in and goes out, for a sudden end overshoots between samples. */
function measured(parts: readonly Part[], hertz = 1000, phase = 0, faded = 0): Loudness {
  const meter = new LoudnessMeter(RATE);
  let at = 0;
  const all = parts.reduce((sum, [, seconds]) => sum + seconds, 0) * RATE;
  const fade = (): number => (faded ? Math.min(1, at / (faded * RATE), (all - at) / (faded * RATE)) : 1);
  for (const [decibels, seconds] of parts) {
    const level = 10 ** (decibels / 20);
    for (let left = Math.round(seconds * RATE); left > 0; left -= 12000) {
      const samples = Float32Array.from(
        { length: Math.min(12000, left) },
        () => fade() * level * Math.sin((2 * Math.PI * hertz * at++) / RATE + phase),
      );
      meter.add(samples, samples);
    }
  }
  return meter.result();
}

describe('K-weighting', () => {
  it('is that of tables 1 and 2 of ITU-R BS.1770 at 48 kHz', () => {
    const [shelf, high] = kWeighting(48000);
    expect(shelf.b0).toBeCloseTo(1.53512485958697, 9);
    expect(shelf.b1).toBeCloseTo(-2.69169618940638, 9);
    expect(shelf.b2).toBeCloseTo(1.19839281085285, 9);
    expect(shelf.a1).toBeCloseTo(-1.69065929318241, 9);
    expect(shelf.a2).toBeCloseTo(0.73248077421585, 9);
    expect(high.a1).toBeCloseTo(-1.99004745483398, 9);
    expect(high.a2).toBeCloseTo(0.99007225036621, 9);
  });
});

describe('integrated loudness (Tech 3341, cases 1 to 5)', () => {
  it.each<[string, Part[], number]>([
    ['case 1', [[-23, 20]], -23],
    ['case 2', [[-33, 20]], -33],
    [
      'case 3',
      [
        [-36, 10],
        [-23, 60],
        [-36, 10],
      ],
      -23,
    ],
    [
      'case 4',
      [
        [-72, 10],
        [-36, 10],
        [-23, 60],
        [-36, 10],
        [-72, 10],
      ],
      -23,
    ],
    [
      'case 5',
      [
        [-26, 20],
        [-20, 20.1],
        [-26, 20],
      ],
      -23,
    ],
  ])('%s', (_, parts, wanted) => expect(Math.abs(measured(parts).integrated - wanted)).toBeLessThan(0.1));

  it('a sine at full scale is at -3.01 LUFS in one channel (BS.1770, annex 1)', () => {
    const meter = new LoudnessMeter(RATE);
    const sine = Float32Array.from({ length: 5 * RATE }, (_, i) => Math.sin((2 * Math.PI * 997 * i) / RATE));
    meter.add(sine, new Float32Array(sine.length));
    expect(Math.abs(meter.result().integrated + 3.01)).toBeLessThan(0.02);
  });

  it('of silence, and of what is shorter than a moment, is none', () => {
    expect(measured([[-400, 2]]).integrated).toBe(-Infinity);
    expect(measured([[-10, 0.2]]).integrated).toBe(-Infinity);
    expect(measured([]).range).toBe(0);
  });
});

describe('moments and short terms (Tech 3341, cases 9 and 12, in kind)', () => {
  it('short term is steady where a period of three seconds repeats', () => {
    const parts = Array.from({ length: 5 }, (): Part[] => [
      [-20, 1.34],
      [-30, 1.66],
    ]).flat();
    expect(Math.abs(measured(parts).shortTerm + 23)).toBeLessThan(0.1);
  });
  it('momentary is steady where a period of 0.4 seconds repeats', () => {
    const parts = Array.from({ length: 25 }, (): Part[] => [
      [-20, 0.18],
      [-30, 0.22],
    ]).flat();
    expect(Math.abs(measured(parts).momentary + 23)).toBeLessThan(0.1);
  });
});

describe('loudness range (Tech 3342, cases 1 to 4)', () => {
  it.each<[string, Part[], number]>([
    [
      'case 1',
      [
        [-20, 20],
        [-30, 20],
      ],
      10,
    ],
    [
      'case 2',
      [
        [-20, 20],
        [-15, 20],
      ],
      5,
    ],
    [
      'case 3',
      [
        [-40, 20],
        [-20, 20],
      ],
      20,
    ],
    [
      'case 4',
      [
        [-50, 20],
        [-35, 20],
        [-20, 20],
        [-35, 20],
        [-50, 20],
      ],
      15,
    ],
  ])('%s', (_, parts, wanted) => expect(Math.abs(measured(parts).range - wanted)).toBeLessThan(1));
});

describe('true peak (Tech 3341, cases 15 to 19)', () => {
  // A quarter of the rate at half of full scale: sampled off its peaks by the phase, and yet -6 dBTP.
  it.each<[string, number, number, number]>([
    ['case 15', RATE / 4, 0, -6],
    ['case 16', RATE / 4, Math.PI / 4, -6],
    ['case 17', RATE / 6, Math.PI / 3, -6],
    ['case 18', RATE / 8, (67.5 * Math.PI) / 180, -6],
  ])('%s', (_, hertz, phase, wanted) => {
    const { truePeak } = measured([[20 * Math.log10(0.5), 1]], hertz, phase, 0.1);
    expect(truePeak).toBeGreaterThan(wanted - 0.4);
    expect(truePeak).toBeLessThan(wanted + 0.2);
  });
  it('case 19: above full scale', () => {
    const { truePeak } = measured([[20 * Math.log10(1.41), 1]], RATE / 4, Math.PI / 4, 0.1);
    expect(truePeak).toBeGreaterThan(3 - 0.4);
    expect(truePeak).toBeLessThan(3 + 0.2);
  });
});

describe('the limiter', () => {
  const peakOf = (left: Float32Array, right: Float32Array): number => {
    const peak = new TruePeak();
    peak.add(left, right);
    return 20 * Math.log10(Math.max(1e-9, peak.most));
  };

  it('never passes its ceiling by more than a tenth of a decibel, on a thousand random sounds', () => {
    fc.assert(
      fc.property(
        fc.integer(),
        fc.double({ min: -12, max: 0, noNaN: true }),
        fc.double({ min: 0.2, max: 8, noNaN: true }),
        fc.constantFrom('noise', 'bursts', 'tones'),
        (seed, ceiling, level, kind) => {
          let state = seed | 1;
          const next = (): number => {
            state = (Math.imul(state, 1664525) + 1013904223) | 0;
            return state / 2147483648;
          };
          const [a, b] = [200 + 9000 * Math.abs(next()), Math.abs(next())];
          const sound = (): Float32Array =>
            Float32Array.from({ length: 700 }, (_, i) => {
              if (kind === 'noise') return level * next();
              if (kind === 'tones') return level * Math.sin((2 * Math.PI * a * i) / RATE + b);
              return next() > 0.9 ? level * next() : 0.05 * next();
            });
          const [left, right] = [sound(), sound()];
          limit(left, right, ceiling, RATE);
          expect(peakOf(left, right)).toBeLessThan(ceiling + 0.1);
        },
      ),
      { numRuns: 1000 },
    );
  });

  it('leaves alone what is under it, to the bit, and gives back the decibels that it takes off', () => {
    const quiet = Float32Array.from({ length: 4800 }, (_, i) => 0.5 * Math.sin(i / 20));
    const copy = quiet.slice();
    expect(limit(quiet, quiet.slice(), -1, RATE).every((v) => v === 0)).toBe(true);
    expect(quiet).toEqual(copy);
    const loud = Float32Array.from({ length: 4800 }, (_, i) => 2 * Math.sin(i / 20));
    const down = limit(loud, loud.slice(), -1, RATE);
    // Where it is steady: it was cut off at its ends.
    expect(Math.abs(down[2400]! + 7.05)).toBeLessThan(0.15);
  });

  it('what it does hangs on what is near: a stretch asked for by itself is limited as in the whole', () => {
    const sound = Float32Array.from({ length: 96000 }, (_, i) => (i % 9600 < 300 ? 1.6 : 0.4) * Math.sin(i / 7));
    const whole = sound.slice();
    limit(whole, whole.slice(), -1, RATE);
    const part = sound.slice(20000, 70000);
    limit(part, part.slice(), -1, RATE);
    expect(part.slice(20000, 40000)).toEqual(whole.slice(40000, 60000));
  });
});
