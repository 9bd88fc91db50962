import { toByteArray } from 'base64-js';
import { describe, expect, it } from 'vitest';
import { SOUND_CLASSES } from '../signals/types.ts';
import { FEATURES } from './features.ts';
import { GLIMPSE_BANDS, GLIMPSE_BYTES, Glimpses } from './glimpses.ts';
import { kindBytes, network, probabilities } from './model.ts';
import reference from './reference.json' with { type: 'json' };
import weights from './weights.json' with { type: 'json' };

describe('the network of kinds', () => {
  // Outputs of the same weights in PyTorch, written by scripts/train/network.py.
  it.each(reference.examples.map((example, i) => [i, example] as const))('gives what PyTorch gives, example %i', (_, { features, outputs }) => {
    const bytes = new Int8Array(toByteArray(features).buffer);
    expect(bytes).toHaveLength(FEATURES);
    const ours = network(weights)(Float32Array.from(bytes, (value) => value / reference.scale));
    outputs.forEach((value, k) => expect(ours[k]).toBeCloseTo(value, 2));
  });

  it('answers with probabilities that add up to 1, the same at every call', () => {
    const features = Float32Array.from({ length: FEATURES }, (_, i) => Math.sin(i));
    const p = probabilities(network(weights)(features), weights.temperature);
    expect(p).toHaveLength(SOUND_CLASSES.length);
    expect(p.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 9);
    expect([...kindBytes(features)]).toEqual([...kindBytes(features)]);
  });
});

describe('glimpses', () => {
  const RATE = 44100;

  it('show a full-scale tone at its level from where it begins, and nothing before', () => {
    const at = RATE / 10;
    const samples = Float32Array.from({ length: RATE / 5 }, (_, i) => (i < at ? 0 : Math.sin((2 * Math.PI * 1000 * i) / RATE)));
    const out = new Uint8Array(GLIMPSE_BYTES);
    new Glimpses(RATE).take(samples, at, out, 0);
    const rows = Array.from({ length: GLIMPSE_BYTES / GLIMPSE_BANDS }, (_, k) => out.subarray(k * GLIMPSE_BANDS, (k + 1) * GLIMPSE_BANDS));
    expect(Math.max(...rows[0]!)).toBe(0);
    // 861 to 1120 Hz; a Hann window's main lobe holds 1.5 times the power of its middle bin: 1.8 dB (F. J. Harris, Proc. IEEE 66(1), 1978).
    for (const row of rows.slice(1)) {
      expect(Math.max(...row)).toBe(row[7]);
      expect(row[7]).toBeGreaterThan(117);
      expect(row[7]).toBeLessThan(123);
    }
  });

  it('read silence past the ends of what is known', () => {
    const out = new Uint8Array(GLIMPSE_BYTES).fill(9);
    new Glimpses(RATE).take(new Float32Array(10), 0, out, 0);
    expect(Math.max(...out)).toBe(0);
  });
});
