import { describe, expect, it } from 'vitest';
import { hash, signed } from '../../base/hash.ts';
import type { SoundSignals } from '../signals/types.ts';
import { add, analyseSound, hat, kick, noise, atDefault } from '../../testkit/signals.ts';
import { drops } from './drops.ts';

// Pieces at 120 beats a minute of 32 s, analysed at a low rate: bass, hats and a build-up are all that the detector listens to.
const RATE = 22050;
const BEAT = 0.5;
const SECONDS = 32;

interface Piece {
  /** Seconds between which bass drum and bass line play. */
  readonly bass: readonly (readonly [from: number, to: number])[];
  /** Seconds between which noise rises in level. */
  readonly builds: readonly (readonly [from: number, to: number])[];
  readonly beat?: boolean;
}

function piece({ bass, builds, beat = true }: Piece): SoundSignals {
  const out = noise(SECONDS, 0.001, RATE);
  if (beat)
    for (let t = 0.5, i = 0; t < SECONDS - 0.5; t += BEAT / 2, i++)
      add(out, t, 0.06, (at, k) => hat(at, k) * (i % 2 ? 0.5 : 1), RATE);
  for (const [from, to] of bass) {
    if (beat) for (let t = from; t < to - 0.1; t += BEAT) add(out, t, 0.4, kick, RATE);
    add(out, from, to - from, (t) => 0.35 * Math.sin(2 * Math.PI * 55 * t), RATE);
  }
  for (const [from, to] of builds)
    add(out, from, to - from, (t, i) => 0.25 * (t / (to - from)) * (signed(hash(9, i)) - signed(hash(9, i - 1))), RATE);
  return analyseSound(out, 4096, RATE);
}

const DROP = 16.5;
const found = (sound: SoundSignals, sensitivity = atDefault): { t: number; confidence: number }[] =>
  drops.find({ sound }, sensitivity).map(({ t, confidence }) => ({ t, confidence }));

describe('drops (common practice, no source)', () => {
  const real = piece({ bass: [[DROP, 30]], builds: [[8, DROP]] });

  it('are where the bass enters after a build-up, and stays', () => {
    const [drop, ...more] = found(real);
    expect(more).toEqual([]);
    expect(Math.abs(drop!.t - DROP)).toBeLessThan(0.07);
    expect(drop!.confidence).toBeGreaterThan(0.7);
  });

  it('are not where a build-up leads to nothing', () => {
    const [drop, ...more] = found(
      piece({
        bass: [[24.5, 31]],
        builds: [
          [4, 12],
          [17, 24.5],
        ],
      }),
      () => 1,
    );
    expect(Math.abs(drop!.t - 24.5)).toBeLessThan(0.07);
    expect(more).toEqual([]);
  });

  it('are not where the bass was there before, nor where it soon goes again', () => {
    expect(found(piece({ bass: [[0.5, 31]], builds: [[8, DROP]] }))).toEqual([]);
    expect(
      found(
        piece({
          bass: [
            [DROP, DROP + 1],
            [24.5, 31],
          ],
          builds: [[8, DROP]],
        }),
      ).filter(({ t }) => Math.abs(t - DROP) < 1),
    ).toEqual([]);
  });

  it('are none without a beat, and none in a piece that is too short', () => {
    expect(found(piece({ bass: [[DROP, 30]], builds: [[8, DROP]], beat: false }))).toEqual([]);
    expect(found(analyseSound(noise(3, 0.2, RATE), 4096, RATE))).toEqual([]);
    expect(drops.find({}, atDefault)).toEqual([]);
  });

  it('are asked for with more confidence at less sensitivity', () => {
    const [{ confidence } = { confidence: 0 }] = found(real);
    for (const sensitivity of [0, 0.25, 0.5, 0.75, 1])
      expect(found(real, () => sensitivity)).toHaveLength(confidence >= 0.8 - 0.6 * sensitivity ? 1 : 0);
  });

  it('follow the beats that a person set, and are none where there are none', () => {
    expect(
      drops.find({ sound: real, grid: { beats: [], downbeats: [], tempi: [], confidence: 0 } }, atDefault),
    ).toEqual([]);
    const beats = Array.from({ length: 62 }, (_, i) => 0.5 + i * BEAT);
    const [drop] = drops.find(
      { sound: real, grid: { beats, downbeats: beats.filter((_, i) => i % 4 === 0), tempi: [], confidence: 1 } },
      atDefault,
    );
    expect(Math.abs(drop!.t - DROP)).toBeLessThan(0.07);
  });
});
