/**
 * A small network that tells kinds of attacks apart. It is trained by `npm run train` (see
 * docs/detection.md) and shipped as weights.json; the same numbers give the same answer everywhere,
 * for only additions, products and one exponential a class are used.
 */
import { toByteArray } from 'base64-js';
import { attackFeatures, FEATURES, type Heard } from './features.ts';
import shipped from './weights.json' with { type: 'json' };

/** Layers from the features to the classes; between them negative values become 0. */
export interface Layer {
  readonly inputs: number;
  readonly outputs: number;
  /** Rows of inputs, one row an output. */
  readonly weights: Float32Array;
  readonly bias: Float32Array;
}

export interface Model {
  readonly layers: readonly Layer[];
  /** Divides the outputs before they become probabilities, so that these are honest (C. Guo et al., "On calibration of modern neural networks", ICML 2017). */
  readonly temperature: number;
}

/** Weights as bytes -127 to 127 times a scale a layer, in base 64: {@link packModel} writes them. */
export interface PackedModel {
  /** How often each class came among the examples. */
  readonly frequencies: readonly number[];
  readonly temperature: number;
  readonly layers: readonly { readonly inputs: number; readonly outputs: number; readonly scale: number; readonly weights: string; readonly bias: readonly number[] }[];
}

export const unpackModel = ({ temperature, layers }: Pick<PackedModel, 'temperature' | 'layers'>): Model => ({
  temperature,
  layers: layers.map(({ inputs, outputs, scale, weights, bias }) => ({
    inputs, outputs, weights: Float32Array.from(new Int8Array(toByteArray(weights).buffer), (value) => value * scale), bias: Float32Array.from(bias),
  })),
});

const model: Model = unpackModel(shipped);
export const trainedFrequencies: readonly number[] = shipped.frequencies;

/** One layer; four sums side by side, since one would wait for itself at every step. */
function forward({ inputs, outputs, weights, bias }: Layer, input: Float64Array, last: boolean): Float64Array {
  const output = new Float64Array(outputs);
  const even = inputs - (inputs % 4);
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
}

/** Probabilities of the SOUND_CLASSES, adding up to 1. */
export function classify({ layers, temperature }: Model, features: ArrayLike<number>): Float64Array {
  let input: Float64Array = new Float64Array(features);
  layers.forEach((layer, depth) => (input = forward(layer, input, depth + 1 === layers.length)));
  const out = input.map((value) => value / temperature);
  const most = Math.max(...out);
  let sum = 0;
  for (let i = 0; i < out.length; i++) sum += out[i] = Math.exp(out[i]! - most);
  for (let i = 0; i < out.length; i++) out[i]! /= sum;
  return out;
}

const features = new Float32Array(FEATURES);

/** Probabilities 0-255 of the SOUND_CLASSES for attack `index`, of which `shape` is kept. */
export function kindBytes(sound: Heard, shape: Uint8Array, index: number): Uint8Array {
  attackFeatures(sound, shape, index, features);
  return Uint8Array.from(classify(model, features), (p) => Math.round(p * 255));
}
