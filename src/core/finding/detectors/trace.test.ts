import { describe, expect, it } from 'vitest';
import type { Hit, HitKind, Watch } from '../../document/types.ts';
import { SOUND_CLASSES, type SoundSignals } from '../signals/types.ts';
import { LUMA_WIDTH } from '../signals/picture.ts';
import { analyseSound, box, bursts, ofPicture, ofSound, pictures } from '../../testkit/signals.ts';
import { findHits } from './index.ts';
import { traceOf, type Trace } from './trace.ts';

// The plot beside a hit must say the same as the detector: a hit's peak stands over the line, and where the line is over all peaks there is no hit.
const SOURCE = { id: 's', role: 'footage', tracks: [], delay: null } as const;

/** Highest value within `within` seconds of a time. */
const peak = ({ times, values }: Trace, t: number, within: number): number =>
  Math.max(...values.filter((_, i) => Math.abs(times[i]! - t) <= within));

describe('the line that a hit crosses', () => {
  const picture = pictures(
    150,
    (luma, i) => {
      if (i === 30 || i === 31) box(luma, 60, 30, 30, 30, 60);
      if (i >= 120)
        for (let p = 0; p < luma.length; p++) luma[p] = 40 + ((p * 7 + Math.floor(p / LUMA_WIDTH) * 13) % 150);
    },
    (i) => [
      i + (({ 80: 4, 81: -4 } as Record<number, number>)[i] ?? 0),
      ({ 80: 3, 81: -3 } as Record<number, number>)[i] ?? 0,
    ],
  );
  const seen = (sensitivity: number): readonly Hit[] =>
    findHits(SOURCE, ofPicture(picture), {
      sensitivity: Object.fromEntries((['flash', 'jolt', 'strike', 'cut'] as const).map((kind) => [kind, sensitivity])),
    }).hits;

  it.each(['flash', 'jolt', 'cut'] as const)('lies under the peak of a %s wherever one is found', (kind) => {
    let [met, missed] = [0, 0];
    const example = seen(1).find((hit) => hit.kind === kind)!;
    for (const sensitivity of [0, 0.2, 0.4, 0.5, 0.6, 0.8, 1]) {
      const trace = traceOf(example, [], picture, null, () => sensitivity)!;
      const found = seen(sensitivity).some((hit) => hit.kind === kind && Math.abs(hit.t - example.t) < 0.05);
      if (found) met++;
      else missed++;
      if (found) expect(peak(trace, example.t, 0.1)).toBeGreaterThanOrEqual(trace.threshold);
      else expect(peak(trace, example.t, 0.001)).toBeLessThan(trace.threshold);
      expect(trace.times).toHaveLength(trace.values.length);
      expect(Math.max(...trace.times.map((t) => Math.abs(t - example.t)))).toBeLessThanOrEqual(0.6 + 1e-9);
    }
    expect(met).toBeGreaterThan(0);
    // The jolt is as strong as they come.
    if (kind !== 'jolt') expect(missed + met).toBe(7);
  });

  it('lies under the peak of a sound, on the track whose sound it is', () => {
    // What is told apart is not the matter here.
    const shots = (sound: SoundSignals): SoundSignals => ({
      ...sound,
      attackKinds: sound.attackKinds.map((p, i) => (i % SOUND_CLASSES.length ? 0 : Math.max(p, 200))),
    });
    const [one, other] = [shots(analyseSound(bursts(4, [1]))), shots(analyseSound(bursts(4, [2.5])))];
    for (const sensitivity of [0.3, 0.5, 0.9]) {
      const all = Object.fromEntries(
        (['shot', 'impact', 'kick', 'snare', 'hat', 'note'] as const).map((kind) => [kind, sensitivity]),
      ) as Record<HitKind, number>;
      const hits = findHits(SOURCE, ofSound(other), { sensitivity: all }).hits.filter(
        ({ audioT }) => Math.abs(audioT! - 2.5) < 0.02,
      );
      expect(hits).toHaveLength(1);
      const trace = traceOf(hits[0]!, [one, other], null, null, (kind) => all[kind])!;
      expect(peak(trace, 2.5, 0.03)).toBeGreaterThanOrEqual(trace.threshold);
      expect(peak(trace, 2, 0.1)).toBeLessThan(trace.threshold);
    }
  });

  it('is lower for a shot the likelier it is one, whatever drums it may be', () => {
    const sound = analyseSound(bursts(4, [1]));
    const t = sound.attacks[0]!;
    const line = (kinds: NonNullable<Hit['kinds']>): number =>
      traceOf(
        {
          id: 'h',
          source: 's',
          t,
          audioT: t,
          kind: 'shot',
          strength: 1,
          confidence: 1,
          kinds,
          evidence: [{ detector: 'onset', t, strength: 1 }],
          state: 'found',
        },
        [sound],
        null,
        null,
        () => 0.5,
      )!.threshold;
    expect(line({ shot: 0.5, impact: 0.4 })).toBeLessThan(line({ shot: 0.5, hat: 0.4 }));
    expect(line({ shot: 0.5, hat: 0.4 })).toBe(line({ shot: 0.5 }));
  });

  it('is that of the watched rectangle for what it found', () => {
    const times = Float64Array.from({ length: 90 }, (_, i) => i / 30);
    const scores = Uint8Array.from(times, (_, i) => (i >= 45 && i < 60 ? 240 : 20));
    const hit: Hit = {
      id: 'h',
      source: 's',
      t: 1.5,
      kind: 'popup',
      strength: 1,
      confidence: 1,
      evidence: [{ detector: 'watch:w', t: 1.5, strength: 1 }],
      state: 'found',
    };
    for (const [mode, name] of [
      ['appears', 'likeness to the example'],
      ['changes', 'change in the rectangle'],
    ] as const) {
      const watch: Watch = {
        id: 'w',
        name: 'Icon',
        mode,
        region: { shape: 'rectangle', x: 0, y: 0, width: 0.1, height: 0.1 } as never,
        sensitivity: 0.5,
        sought: null,
      };
      const trace = traceOf(hit, [], null, { watch, signal: { times, scores } }, () => 0.5)!;
      expect(trace.name).toBe(name);
      expect(trace.values[trace.times.indexOf(1.5)]).toBeCloseTo(240 / 255, 6);
      expect(trace.threshold).toBeGreaterThan(0);
      expect(trace.threshold).toBeLessThan(1);
    }
  });

  it('is none without signals, or for what a person set', () => {
    const hit: Hit = {
      id: 'h',
      source: 's',
      t: 1,
      kind: 'flash',
      strength: 1,
      confidence: 1,
      evidence: [],
      state: 'kept',
    };
    expect(traceOf(hit, [], picture, null, () => 0.5)).toBeNull();
    for (const detector of ['flash', 'onset', 'beat'])
      expect(traceOf({ ...hit, evidence: [{ detector, t: 1, strength: 1 }] }, [], null, null, () => 0.5)).toBeNull();
  });
});
