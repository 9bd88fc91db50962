/**
 * A small convolutional network (Y. LeCun and others, "Gradient-based learning applied to document
 * recognition", Proc. IEEE 86(11), 1998) that tells kinds of attacks apart. It is trained by `npm run train`
 * (see docs/detection.md) and shipped as weights.json; the same numbers give the same answer everywhere,
 * for only additions, products and one exponential a class are used.
 */
import { toByteArray } from 'base64-js';
import { BARK_BANDS } from '../signals/types.ts';
import { BED_AT, FEATURES, GLIMPSES_AT, SLOT_COUNT } from './features.ts';
import { Arena } from '../simd/kernels.ts';
import { GLIMPSE_BANDS, GLIMPSE_BYTES } from './glimpses.ts';
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
  /** Over its glimpses. */
  readonly glimpses: readonly PackedConvolution[];
  /** Over what these two give and all other features; weights by output and input. */
  readonly dense: readonly PackedLayer[];
}

export interface PackedModel extends PackedNetwork {
  /** How often each class came among the examples. */
  readonly frequencies: readonly number[];
  /** Divides the outputs before they become probabilities, so that these are honest (C. Guo et al., "On calibration of modern neural networks", ICML 2017). */
  readonly temperature: number;
}

/** Outputs of dense layers come in sixteens, the last few of which may be empty. */
const LANES = 16;
const padded = (outputs: number): number => Math.ceil(outputs / LANES) * LANES;

function biasOf({ bias }: PackedLayer, row: number, arena: Arena): Float32Array {
  const out = arena.floats(row);
  out.set(bias);
  return out;
}

/** Weights of a convolution by tap, input and output from those by output, input and tap. */
function taps({ inputs, outputs, scale, weights }: PackedLayer, arena: Arena): Float32Array {
  const bytes = new Int8Array(toByteArray(weights).buffer);
  const out = arena.floats(9 * inputs * outputs);
  for (let o = 0, at = 0; o < outputs; o++) {
    for (let i = 0; i < inputs; i++) for (let tap = 0; tap < 9; tap++, at++) out[(tap * inputs + i) * outputs + o] = bytes[at]! * scale;
  }
  return out;
}

/** Weights of a dense layer by input and output from those by output and input, `order(i)` being the place of input `i` here. */
function turned({ inputs, outputs, weights }: PackedLayer, arena: Arena, order: (i: number) => number): Uint8Array {
  const bytes = toByteArray(weights);
  const row = padded(outputs);
  const out = arena.bytes(inputs * row);
  for (let o = 0, at = 0; o < outputs; o++) for (let i = 0; i < inputs; i++, at++) out[order(i) * row + o] = bytes[at]!;
  return out;
}

interface Convolutions {
  /** Within a border of one. */
  readonly input: Float32Array;
  readonly output: Float32Array;
  readonly outputs: number;
  run(): void;
}

/** Layers one after another, from planes of this size, each pixel's channels side by side. */
function convolutions(layers: readonly PackedConvolution[], rows: number, columns: number, arena: Arena): Convolutions {
  const input = arena.floats((rows + 2) * (columns + 2) * layers[0]!.inputs);
  let output = input;
  const steps = layers.map((layer, depth) => {
    const [from, high, wide] = [output, rows, columns];
    const [down, across] = layer.stride as [number, number];
    const [weights, bias] = [taps(layer, arena), biasOf(layer, layer.outputs, arena)];
    rows = Math.ceil(rows / down);
    columns = Math.ceil(columns / across);
    const border = depth + 1 < layers.length ? 1 : 0;
    const to = (output = arena.floats((rows + 2 * border) * (columns + 2 * border) * layer.outputs));
    return () => arena.kernels.convolve(from.byteOffset, high, wide, layer.inputs, weights.byteOffset, bias.byteOffset, to.byteOffset, layer.outputs, down, across, border);
  });
  return { input, output, outputs: layers.at(-1)!.outputs, run: () => steps.forEach((step) => step()) };
}

/** Puts plane `channel` of `channels` into an input of {@link convolutions}. */
function place(values: Float32Array, rows: number, columns: number, input: Float32Array, channel: number, channels: number): void {
  for (let y = 0, i = 0; y < rows; y++) {
    for (let x = 0; x < columns; x++, i++) input[((y + 1) * (columns + 2) + x + 1) * channels + channel] = values[i]!;
  }
}

/** Outputs of the network for the {@link FEATURES} of an attack, before they become probabilities; valid until the next call. */
export function network(packed: PackedNetwork): (features: Float32Array) => Float32Array {
  const glimpseRows = GLIMPSE_BYTES / GLIMPSE_BANDS;
  const all = [...packed.spectrum, ...packed.glimpses];
  const most = Math.max(...all.map(({ outputs }) => outputs));
  const arena = new Arena(4 * (9 * all.reduce((sum, { inputs, outputs }) => sum + (inputs + 1) * outputs, 0)
    + packed.dense.reduce((sum, { inputs, outputs }) => sum + (2 * inputs + 2) * padded(outputs), 0)
    + (all.length + 2) * most * (SLOT_COUNT + 2) * (BARK_BANDS + 2)));
  const spectrum = convolutions(packed.spectrum, SLOT_COUNT, BARK_BANDS, arena);
  const glimpses = convolutions(packed.glimpses, glimpseRows, GLIMPSE_BANDS, arena);
  const joined = arena.floats(packed.dense[0]!.inputs);
  // Training flattens plane after plane; here the channels of a pixel lie side by side.
  const places = [spectrum, glimpses].flatMap(({ output, outputs }, k) => {
    const base = k ? spectrum.output.length : 0;
    return Array.from(output, (_, i) => base + (i % (output.length / outputs)) * outputs + Math.floor(i / (output.length / outputs)));
  });
  let values = joined;
  const layers = packed.dense.map((layer, depth) => {
    const from = values;
    const [weights, bias] = [turned(layer, arena, (i) => (depth ? i : places[i] ?? i)), biasOf(layer, padded(layer.outputs), arena)];
    const to = (values = arena.floats(padded(layer.outputs)));
    const least = depth + 1 < packed.dense.length ? 0 : -Infinity;
    return () => arena.kernels.connect(from.byteOffset, layer.inputs, weights.byteOffset, layer.scale, bias.byteOffset, to.byteOffset, padded(layer.outputs), least);
  });
  const answer = values.subarray(0, packed.dense.at(-1)!.outputs);
  return (features) => {
    place(features, SLOT_COUNT, BARK_BANDS, spectrum.input, 0, 2);
    const bed = features.subarray(BED_AT, BED_AT + BARK_BANDS);
    for (let slot = 0; slot < SLOT_COUNT; slot++) place(bed, 1, BARK_BANDS, spectrum.input.subarray(slot * (BARK_BANDS + 2) * 2), 1, 2);
    place(features.subarray(GLIMPSES_AT), glimpseRows, GLIMPSE_BANDS, glimpses.input, 0, 1);
    spectrum.run();
    glimpses.run();
    let at = 0;
    for (const part of [spectrum.output, glimpses.output, features.subarray(BED_AT, GLIMPSES_AT), features.subarray(GLIMPSES_AT + GLIMPSE_BYTES, FEATURES)]) {
      joined.set(part, at);
      at += part.length;
    }
    for (const layer of layers) layer();
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

export const trainedFrequencies: readonly number[] = shipped.frequencies;

let ready: ReturnType<typeof network> | null = null;

/** Probabilities 0-255 of the SOUND_CLASSES for an attack's {@link FEATURES}. */
export const kindBytes = (features: Float32Array): Uint8Array => Uint8Array.from(probabilities((ready ??= network(shipped))(features), shipped.temperature), (p) => Math.round(p * 255));
