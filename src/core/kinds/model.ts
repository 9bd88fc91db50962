/**
 * A small convolutional network (Y. LeCun and others, "Gradient-based learning applied to document
 * recognition", Proc. IEEE 86(11), 1998) that tells kinds of attacks apart. It is trained by `npm run train`
 * (see docs/detection.md) and shipped as weights.json; the same numbers give the same answer everywhere,
 * for only additions, products and one exponential a class are used.
 */
import { toByteArray } from 'base64-js';
import { BARK_BANDS } from '../signals/types.ts';
import { BED_AT, FEATURES, GLIMPSES_AT, SLOT_COUNT } from './features.ts';
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

/** Planes of rows and columns, one after another. Doubles, since reading single floats costs a third more. */
interface Planes {
  readonly rows: number;
  readonly columns: number;
  readonly values: Float64Array;
}

type Step = (input: Planes) => Planes;

const unpacked = ({ weights, scale }: PackedLayer): Float64Array => Float64Array.from(new Int8Array(toByteArray(weights).buffer), (value) => value * scale);

/** The same memory is written at every call. Negative values become 0. */
function convolution(layer: PackedConvolution, rows: number, columns: number): Step {
  const { inputs, outputs, bias, stride: [down, across] } = layer as typeof layer & { stride: [number, number] };
  const weights = unpacked(layer);
  const wide = columns + 2;
  const bordered = new Float64Array(inputs * (rows + 2) * wide);
  const out = { rows: Math.ceil(rows / down), columns: Math.ceil(columns / across), values: new Float64Array(outputs * Math.ceil(rows / down) * Math.ceil(columns / across)) };
  const size = out.rows * out.columns;
  return ({ values }) => {
    for (let i = 0; i < inputs; i++) {
      for (let y = 0; y < rows; y++) bordered.set(values.subarray((i * rows + y) * columns, (i * rows + y + 1) * columns), (i * (rows + 2) + y + 1) * wide + 1);
    }
    const { values: written, rows: high, columns: broad } = out;
    for (let o = 0, w = 0; o < outputs; o++) {
      const first = o * size;
      written.fill(bias[o]!, first, first + size);
      for (let i = 0; i < inputs; i++, w += 9) {
        const a = weights[w]!, b = weights[w + 1]!, c = weights[w + 2]!, d = weights[w + 3]!, e = weights[w + 4]!, f = weights[w + 5]!, g = weights[w + 6]!, h = weights[w + 7]!, k = weights[w + 8]!;
        for (let y = 0, at = first; y < high; y++) {
          let p = (i * (rows + 2) + y * down) * wide;
          for (const end = at + broad; at < end; at++, p += across) {
            const q = p + wide;
            const r = q + wide;
            written[at] = written[at]! + a * bordered[p]! + b * bordered[p + 1]! + c * bordered[p + 2]! + d * bordered[q]! + e * bordered[q + 1]! + f * bordered[q + 2]! + g * bordered[r]! + h * bordered[r + 1]! + k * bordered[r + 2]!;
          }
        }
      }
      for (let at = first; at < first + size; at++) if (written[at]! < 0) written[at] = 0;
    }
    return out;
  };
}

function convolutions(layers: readonly PackedConvolution[], rows: number, columns: number): Step {
  const steps: Step[] = [];
  for (const layer of layers) {
    steps.push(convolution(layer, rows, columns));
    rows = Math.ceil(rows / layer.stride[0]!);
    columns = Math.ceil(columns / layer.stride[1]!);
  }
  return (input) => steps.reduce((planes, step) => step(planes), input);
}

/** Four sums side by side, since one would wait for itself at every step. */
function dense(layer: PackedLayer, last: boolean): (input: Float64Array) => Float64Array {
  const { inputs, outputs, bias } = layer;
  const weights = unpacked(layer);
  const output = new Float64Array(outputs);
  const even = inputs - (inputs % 4);
  return (input) => {
    for (let o = 0; o < outputs; o++) {
      const row = o * inputs;
      let [a, b, c, d] = [bias[o]!, 0, 0, 0];
      for (let i = 0; i < even; i += 4) {
        a += weights[row + i]! * input[i]!;
        b += weights[row + i + 1]! * input[i + 1]!;
        c += weights[row + i + 2]! * input[i + 2]!;
        d += weights[row + i + 3]! * input[i + 3]!;
      }
      for (let i = even; i < inputs; i++) a += weights[row + i]! * input[i]!;
      const sum = a + b + c + d;
      output[o] = !last && sum < 0 ? 0 : sum;
    }
    return output;
  };
}

/** Outputs of the network for the {@link FEATURES} of an attack, before they become probabilities; valid until the next call. */
export function network(packed: PackedNetwork): (features: Float32Array) => Float64Array {
  const spectrum = convolutions(packed.spectrum, SLOT_COUNT, BARK_BANDS);
  const glimpses = convolutions(packed.glimpses, GLIMPSE_BYTES / GLIMPSE_BANDS, GLIMPSE_BANDS);
  const layers = packed.dense.map((layer, depth) => dense(layer, depth + 1 === packed.dense.length));
  const planes = new Float64Array(2 * BED_AT);
  const glimpsed = new Float64Array(GLIMPSE_BYTES);
  const joined = new Float64Array(packed.dense[0]!.inputs);
  return (features) => {
    planes.set(features.subarray(0, BED_AT));
    for (let slot = 0; slot < SLOT_COUNT; slot++) planes.set(features.subarray(BED_AT, BED_AT + BARK_BANDS), BED_AT + slot * BARK_BANDS);
    glimpsed.set(features.subarray(GLIMPSES_AT, GLIMPSES_AT + GLIMPSE_BYTES));
    let at = 0;
    const add = (values: ArrayLike<number>): void => {
      joined.set(values, at);
      at += values.length;
    };
    add(spectrum({ rows: SLOT_COUNT, columns: BARK_BANDS, values: planes }).values);
    add(glimpses({ rows: GLIMPSE_BYTES / GLIMPSE_BANDS, columns: GLIMPSE_BANDS, values: glimpsed }).values);
    add(features.subarray(BED_AT, GLIMPSES_AT));
    add(features.subarray(GLIMPSES_AT + GLIMPSE_BYTES, FEATURES));
    let values: Float64Array = joined;
    for (const layer of layers) values = layer(values);
    return values;
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
