import { toByteArray } from 'base64-js';
import { describe, expect, it } from 'vitest';
import { localProminence, localProminenceAt } from '../signals/local-prominence.ts';
import { BARK_EDGES, SoundAnalyser, UNTOLD } from '../signals/sound.ts';
import { ANALYSIS_RATE } from '../signals/spectrum.ts';
import { BARK_BANDS, SOUND_CLASSES } from '../signals/types.ts';
import { BED_AT, FEATURES, ATTACK_SPECTRA_AT, SLOT_COUNT } from './features.ts';
import { ATTACK_SPECTRUM_BANDS, ATTACK_SPECTRUM_BYTES, takeAttackSpectra } from './attack-spectra.ts';
import { kindBytes, network, probabilities } from './model.ts';
import reference from './reference.json' with { type: 'json' };
import weights from './weights.json' with { type: 'json' };

describe('the network of kinds', () => {
  // Outputs of the same weights in PyTorch, written by scripts/train/network.py.
  it.each(reference.examples.map((example, i) => [i, example] as const))(
    'gives what PyTorch gives, example %i',
    (_, { features, outputs }) => {
      const bytes = new Int8Array(toByteArray(features).buffer);
      expect(bytes).toHaveLength(FEATURES);
      const ours = network(weights)(Float32Array.from(bytes, (value) => value / reference.scale));
      outputs.forEach((value, k) => expect(ours[k]).toBeCloseTo(value, 2));
    },
  );

  it('has weights of under a megabyte, and expects every kind now and then', () => {
    expect(JSON.stringify(weights).length).toBeLessThan(1e6);
    expect(weights.frequencies).toHaveLength(SOUND_CLASSES.length);
    expect(Math.min(...weights.frequencies)).toBeGreaterThan(0);
    expect(weights.frequencies.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 3);
  });

  it('answers with probabilities that add up to 1, the same at every call', () => {
    const features = Float32Array.from({ length: FEATURES }, (_, i) => Math.sin(i));
    const p = probabilities(network(weights)(features), weights.temperature);
    expect(p).toHaveLength(SOUND_CLASSES.length);
    expect(p.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 9);
    // As bytes, the same to their rounding, also when other features were asked about in between.
    const bytes = [...kindBytes(features)];
    kindBytes(features.map((v) => -v));
    expect([...kindBytes(features)]).toEqual(bytes);
    bytes.forEach((byte, i) => expect(Math.abs(byte / 255 - p[i]!)).toBeLessThan(0.51 / 255 + 1e-6));
  });
});

describe('attack spectra', () => {
  it('show a full-scale tone at its level from where it begins, and nothing before', () => {
    const at = ANALYSIS_RATE / 10;
    const samples = Float32Array.from({ length: ANALYSIS_RATE / 4 }, (_, i) =>
      i < at ? 0 : Math.sin((2 * Math.PI * 1000 * i) / ANALYSIS_RATE),
    );
    const out = new Uint8Array(ATTACK_SPECTRUM_BYTES);
    takeAttackSpectra(samples, at, out, 0);
    const rows = Array.from({ length: ATTACK_SPECTRUM_BYTES / ATTACK_SPECTRUM_BANDS }, (_, k) =>
      out.subarray(k * ATTACK_SPECTRUM_BANDS, (k + 1) * ATTACK_SPECTRUM_BANDS),
    );
    for (const before of rows.slice(0, 2)) expect(Math.max(...before)).toBe(0);
    // 861 to 1120 Hz; a Hann window's main lobe holds 1.5 times the power of its middle bin: 1.8 dB (F. J. Harris, Proc. IEEE 66(1), 1978).
    for (const row of rows.slice(2)) {
      expect(Math.max(...row)).toBe(row[7]);
      expect(row[7]).toBeGreaterThan(117);
      expect(row[7]).toBeLessThan(123);
    }
  });

  it('read silence past the ends of what is known', () => {
    const out = new Uint8Array(ATTACK_SPECTRUM_BYTES).fill(9);
    takeAttackSpectra(new Float32Array(10), 0, out, 0);
    expect(Math.max(...out)).toBe(0);
  });
});

describe('features of an attack', () => {
  let state = 1;
  const noise = (): number => (state = (state * 16807) % 2147483647) / 1073741824 - 1;
  const recording = (value: (t: number) => number, seconds = 4): Float32Array =>
    Float32Array.from({ length: ANALYSIS_RATE * seconds }, (_, i) => value(i / ANALYSIS_RATE));
  /** Features of the strongest attack within 20 ms of 1.5 s. */
  const heard = (samples: Float32Array): Float32Array => {
    const rows = new Map<number, Float32Array>();
    const analyser = new SoundAnalyser(ANALYSIS_RATE, 0, (features, attack) => {
      rows.set(attack, features.slice());
      return UNTOLD;
    });
    analyser.push(samples);
    const { attacks, attackHops, onset } = analyser.finish();
    const near = [...rows.keys()]
      .filter((i) => Math.abs(attacks[i]! - 1.5) < 0.02)
      .sort((a, b) => onset[attackHops[b]!]! - onset[attackHops[a]!]!);
    expect(near.length).toBeGreaterThan(0);
    return rows.get(near[0]!)!;
  };
  const sounding = (t: number): number => (t < 1.5 ? 0 : Math.exp(-6 * (t - 1.5)));
  const mean = (values: Float32Array): number => values.reduce((a, b) => a + b, 0) / values.length;

  it('are about -1 to 1 and say the same of a sound 12 dB fainter, but for its level', () => {
    state = 7;
    const loud = recording((t) => 0.6 * sounding(t) * noise());
    const [one, other] = [heard(loud), heard(loud.map((v) => v / 4))];
    for (const value of one) expect(Math.abs(value)).toBeLessThanOrEqual(2.5);
    for (let i = 0; i < BED_AT; i++) expect(Math.abs(one[i]! - other[i]!)).toBeLessThan(0.1);
    // The last of the context: decibels of the loudest band over 60.
    expect(one[ATTACK_SPECTRA_AT - 1]! - other[ATTACK_SPECTRA_AT - 1]!).toBeCloseTo(12 / 60, 1);
  });

  it('take what sounded before off: a steady tone under an attack is no part of it', () => {
    state = 7;
    // 770 to 920 Hz (Zwicker 1961).
    const band = BARK_EDGES.indexOf(770);
    const tone = (t: number): number => 0.2 * Math.sin(2 * Math.PI * 845 * t);
    const both = heard(recording((t) => tone(t) + 0.3 * sounding(t) * noise()));
    const late = (SLOT_COUNT - 1) * BARK_BANDS + band;
    expect(both[late]).toBe(0);
    expect(both[BED_AT + band]).toBeGreaterThan(0.5);
  });

  it('tell tone from noise by how far single bins stand out', () => {
    state = 7;
    const crests = (features: Float32Array): Float32Array => features.subarray(FEATURES - 35 + 14, FEATURES - 35 + 21);
    const hiss = heard(recording((t) => 0.5 * sounding(t) * noise()));
    const chord = heard(
      recording(
        (t) =>
          0.2 *
          sounding(t) *
          [330, 700, 1500, 2700, 5000, 8000, 14000].reduce((sum, hz) => sum + Math.sin(2 * Math.PI * hz * t), 0),
      ),
    );
    expect(mean(crests(chord))).toBeGreaterThan(mean(crests(hiss)) + 0.3);
  });

  it('are asked for in order, once each, however dense the attacks are', () => {
    state = 7;
    const asked: number[] = [];
    const analyser = new SoundAnalyser(ANALYSIS_RATE, 0, (_, attack) => {
      asked.push(attack);
      return UNTOLD;
    });
    analyser.push(recording((t) => (t % 0.035 < 0.004 ? noise() : 0)));
    const { attacks, attackKinds } = analyser.finish();
    expect(attacks.length).toBeGreaterThan(90);
    expect(attackKinds).toHaveLength(attacks.length * SOUND_CLASSES.length);
    expect(asked).toEqual([...new Set(asked)].sort((a, b) => a - b));
  });
});

it('stands over the mean of 100 ms before and 70 ms after (Boeck and Widmer, DAFx 2013)', () => {
  const onset = new Float32Array(40);
  onset[20] = 18;
  const over = localProminence(onset);
  expect(over[20]).toBeCloseTo(18 - 18 / 18, 6);
  expect(over[12]).toBe(0);
  expect(over[13]).toBeCloseTo(-1, 6);
  expect(over[30]).toBeCloseTo(-18 / 18, 6);
  expect(over[31]).toBe(0);
  expect(localProminenceAt(onset, 20)).toBeCloseTo(over[20]!, 6);
  expect(localProminence(onset)).toBe(over);
});
