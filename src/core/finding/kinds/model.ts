/**
 * A small convolutional network (Y. LeCun and others, "Gradient-based learning applied to document
 * recognition", Proc. IEEE 86(11), 1998) that tells kinds of attacks apart. It is trained by `npm run train`
 * (see docs/detection.md) and shipped as weights.json. It runs in whole numbers, as in B. Jacob and others,
 * "Quantization and training of neural networks for efficient integer-arithmetic-only inference", CVPR 2018,
 * but with 16 bits for what the layers give: the same numbers give the same answer everywhere.
 */
import { toByteArray } from 'base64-js';
import { BARK_BANDS } from '../signals/types.ts';
import { BED_AT, FEATURES, ATTACK_SPECTRA_AT, SLOT_COUNT } from './features.ts';
import { Arena } from '../../base/simd/kernels.ts';
import { ATTACK_SPECTRUM_BANDS, ATTACK_SPECTRUM_BYTES } from './attack-spectra.ts';
import shipped from './weights.json' with { type: 'json' };

/** Weights as bytes -127 to 127 times a scale, in base 64. */
interface PackedLayer {
  readonly inputs: number;
  readonly outputs: number;
  readonly scale: number;
  readonly weights: string;
  readonly bias: readonly number[];
}

/** 3x3 with a border of zeros; weights by output, input, row and column. */
interface PackedConvolution extends PackedLayer {
  /** Rows and columns from one place to the next. */
  readonly stride: readonly number[];
}

/** What scripts/train/network.py writes. */
export interface PackedNetwork {
  /** Over the attack's own spectrum in time and frequency, with its bed as a second plane. */
  readonly spectrum: readonly PackedConvolution[];
  /** Over its attack spectra. */
  readonly attackSpectra: readonly PackedConvolution[];
  /** Over what these two give and all other features; weights by output and input. */
  readonly dense: readonly PackedLayer[];
}

export interface PackedModel extends PackedNetwork {
  /** How often each class came among the examples. */
  readonly frequencies: readonly number[];
  /** Divides the outputs before they become probabilities, so that these are honest (C. Guo et al., "On calibration of modern neural networks", ICML 2017). */
  readonly temperature: number;
}

/** What the convolutions and the first dense layer take are whole numbers of one in so many, up to 12.8, and what later layers take up to 51: over twice the most that any example gave. */
const UNIT = 2560;
const LATER_UNIT = 640;
const MOST = 32767;
const whole = (value: number, unit: number): number => Math.max(-MOST, Math.min(MOST, Math.round(value * unit)));

/** Outputs of dense layers come in sixteens, the last few of which may be empty, and inputs of all layers in twos. */
const LANES = 16;
const padded = (outputs: number): number => Math.ceil(outputs / LANES) * LANES;
const even = (inputs: number): number => inputs + (inputs % 2);

const signed = (weights: string): Int8Array => new Int8Array(toByteArray(weights).buffer);

function floats(values: readonly number[], count: number, arena: Arena): Float32Array {
  const out = arena.floats(count);
  out.set(values);
  return out;
}

/** Weights of a convolution by eight outputs, tap, two inputs and output from those by output, input and tap. */
function taps({ inputs, outputs, weights }: PackedLayer, arena: Arena): Int16Array {
  const bytes = signed(weights);
  const pairs = even(inputs) / 2;
  const out = arena.shorts(18 * pairs * outputs);
  for (let o = 0, at = 0; o < outputs; o++) {
    for (let i = 0; i < inputs; i++)
      for (let tap = 0; tap < 9; tap++, at++)
        out[((((o >> 3) * 9 + tap) * pairs + (i >> 1)) * 8 + (o & 7)) * 2 + (i & 1)] = bytes[at]!;
  }
  return out;
}

/** Weights of a dense layer by sixteen outputs, two inputs and output from those by output and input, `order(i)` being the place of input `i` here. */
function turned({ inputs, outputs, weights }: PackedLayer, arena: Arena, order: (i: number) => number): Uint8Array {
  const bytes = signed(weights);
  const pairs = even(inputs) / 2;
  const out = arena.bytes(2 * pairs * padded(outputs));
  for (let o = 0, at = 0; o < outputs; o++) {
    for (let i = 0; i < inputs; i++, at++) {
      const to = order(i);
      out[(((o >> 4) * pairs + (to >> 1)) * 16 + (o & 15)) * 2 + (to & 1)] = bytes[at]!;
    }
  }
  return out;
}

interface Convolutions {
  /** Within a border of one. */
  readonly input: Int16Array;
  readonly output: Int16Array;
  readonly outputs: number;
  run(): void;
}

/** Layers one after another, from planes of this size, each pixel's channels side by side. */
function convolutions(layers: readonly PackedConvolution[], rows: number, columns: number, arena: Arena): Convolutions {
  const input = arena.shorts((rows + 2) * (columns + 2) * even(layers[0]!.inputs));
  let output = input;
  const steps = layers.map((layer, depth) => {
    const [from, high, wide] = [output, rows, columns];
    const [down, across] = layer.stride as [number, number];
    const [weights, bias] = [
      taps(layer, arena),
      floats(
        layer.bias.map((value) => value * UNIT),
        layer.outputs,
        arena,
      ),
    ];
    rows = Math.ceil(rows / down);
    columns = Math.ceil(columns / across);
    const border = depth + 1 < layers.length ? 1 : 0;
    const to = (output = arena.shorts((rows + 2 * border) * (columns + 2 * border) * layer.outputs));
    return () =>
      arena.kernels.convolve(
        from.byteOffset,
        high,
        wide,
        even(layer.inputs),
        weights.byteOffset,
        layer.scale,
        bias.byteOffset,
        to.byteOffset,
        layer.outputs,
        down,
        across,
        border,
      );
  });
  return { input, output, outputs: layers.at(-1)!.outputs, run: () => steps.forEach((step) => step()) };
}

/** Puts plane `channel` of `channels` into an input of {@link convolutions}. */
function place(
  values: Float32Array,
  rows: number,
  columns: number,
  input: Int16Array,
  channel: number,
  channels: number,
): void {
  for (let y = 0, i = 0; y < rows; y++) {
    for (let x = 0; x < columns; x++, i++)
      input[((y + 1) * (columns + 2) + x + 1) * channels + channel] = whole(values[i]!, UNIT);
  }
}

/** Outputs of the network for the {@link FEATURES} of an attack, before they become probabilities; valid until the next call. */
export function network(packed: PackedNetwork): (features: Float32Array) => Float32Array {
  const spectrumRows = ATTACK_SPECTRUM_BYTES / ATTACK_SPECTRUM_BANDS;
  const all = [...packed.spectrum, ...packed.attackSpectra];
  const most = Math.max(...all.map(({ outputs }) => outputs));
  const arena = new Arena(
    all.reduce((sum, { inputs, outputs }) => sum + (18 * even(inputs) + 4) * outputs, 0) +
      packed.dense.reduce(
        (sum, { inputs, outputs }) => sum + (even(inputs) + 8) * padded(outputs) + 2 * even(inputs),
        0,
      ) +
      2 * (all.length + 2) * most * (SLOT_COUNT + 2) * (BARK_BANDS + 2),
  );
  const spectrum = convolutions(packed.spectrum, SLOT_COUNT, BARK_BANDS, arena);
  const attackSpectra = convolutions(packed.attackSpectra, spectrumRows, ATTACK_SPECTRUM_BANDS, arena);
  // Training flattens plane after plane; here the channels of a pixel lie side by side.
  const places = [spectrum, attackSpectra].flatMap(({ output, outputs }, k) => {
    const base = k ? spectrum.output.length : 0;
    return Array.from(
      output,
      (_, i) => base + (i % (output.length / outputs)) * outputs + Math.floor(i / (output.length / outputs)),
    );
  });
  const layers = packed.dense.map((layer, depth) => {
    const [weights, bias] = [
      turned(layer, arena, (i) => (depth ? i : (places[i] ?? i))),
      floats(layer.bias, padded(layer.outputs), arena),
    ];
    const input = arena.shorts(even(layer.inputs));
    const output = arena.floats(padded(layer.outputs));
    return {
      input,
      output,
      run: () =>
        arena.kernels.connect(
          input.byteOffset,
          input.length,
          weights.byteOffset,
          layer.scale / (depth ? LATER_UNIT : UNIT),
          bias.byteOffset,
          output.byteOffset,
          output.length,
        ),
    };
  });
  const joined = layers[0]!.input;
  const answer = layers.at(-1)!.output.subarray(0, packed.dense.at(-1)!.outputs);
  return (features) => {
    place(features, SLOT_COUNT, BARK_BANDS, spectrum.input, 0, 2);
    const bed = features.subarray(BED_AT, BED_AT + BARK_BANDS);
    for (let slot = 0; slot < SLOT_COUNT; slot++)
      place(bed, 1, BARK_BANDS, spectrum.input.subarray(slot * (BARK_BANDS + 2) * 2), 1, 2);
    place(features.subarray(ATTACK_SPECTRA_AT), spectrumRows, ATTACK_SPECTRUM_BANDS, attackSpectra.input, 0, 2);
    spectrum.run();
    attackSpectra.run();
    joined.set(spectrum.output);
    joined.set(attackSpectra.output, spectrum.output.length);
    let at = spectrum.output.length + attackSpectra.output.length;
    for (const [from, to] of [
      [BED_AT, ATTACK_SPECTRA_AT],
      [ATTACK_SPECTRA_AT + ATTACK_SPECTRUM_BYTES, FEATURES],
    ] as const)
      for (let i = from; i < to; i++) joined[at++] = whole(features[i]!, UNIT);
    layers.forEach((layer, depth) => {
      layer.run();
      const next = layers[depth + 1]?.input;
      if (next) for (let i = 0; i < next.length; i++) next[i] = whole(Math.max(0, layer.output[i]!), LATER_UNIT);
    });
    return answer;
  };
}

/** Probabilities of the SOUND_CLASSES, adding up to 1, from the outputs of a network. */
export function probabilities(outputs: ArrayLike<number>, temperature: number): Float64Array {
  const out = Float64Array.from(outputs, (value) => value / temperature);
  const most = Math.max(...out);
  let sum = 0;
  for (let i = 0; i < out.length; i++) sum += out[i] = Math.exp(out[i]! - most);
  for (let i = 0; i < out.length; i++) out[i]! /= sum;
  return out;
}

/** Gives probabilities 0-255 of the SOUND_CLASSES for an attack's {@link FEATURES}. */
export function classifier(model: PackedModel): (features: Float32Array) => Uint8Array {
  const answer = network(model);
  return (features) => Uint8Array.from(probabilities(answer(features), model.temperature), (p) => Math.round(p * 255));
}

let ready: ReturnType<typeof classifier> | null = null;

/** What the shipped network says. */
export const kindBytes = (features: Float32Array): Uint8Array => (ready ??= classifier(shipped))(features);
