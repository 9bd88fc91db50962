/** Training of the small network: Adam (D. P. Kingma and J. Ba, ICLR 2015) with decoupled weight decay, on examples that may allow several classes. */
import { FEATURES } from '../../src/core/kinds/features.ts';
import type { Model, PackedModel } from '../../src/core/kinds/model.ts';
import { SOUND_CLASSES } from '../../src/core/signals/types.ts';
import { FEATURE_SCALE, type Examples } from './examples.ts';
import { Chance } from './mixtures.ts';

const CLASSES = SOUND_CLASSES.length;
const HIDDEN = [160, 48];
const BATCH = 64;
const RATE = 0.0015;
const DECAY = 0.05;
/** Shares of features and of hidden values left out at random, and noise on the features. */
const DROPPED = 0.1;
const HIDDEN_DROPPED = 0.25;
const NOISE = 0.1;
/** How much an example of each class counts: the rare ones that hits are sought for more. */
export const CLASS_WEIGHTS = [1.5, 2, 1, 1, 1, 1, 1] as const;

/** Weights with the bias last in each row, and what Adam keeps of them. */
interface Trained {
  readonly inputs: number;
  readonly outputs: number;
  readonly weights: Float32Array;
  readonly gradient: Float32Array;
  readonly mean: Float32Array;
  readonly square: Float32Array;
}

function layer(inputs: number, outputs: number, c: Chance): Trained {
  const size = outputs * (inputs + 1);
  const scale = Math.sqrt(6 / inputs);
  const weights = new Float32Array(size).map((_, i) => (i % (inputs + 1) === inputs ? 0 : c.signed() * scale));
  return { inputs, outputs, weights, gradient: new Float32Array(size), mean: new Float32Array(size), square: new Float32Array(size) };
}

function forward({ inputs, outputs, weights }: Trained, read: Float32Array, write: Float32Array, last: boolean, c: Chance): void {
  for (let o = 0, w = 0; o < outputs; o++) {
    let sum = 0;
    for (let i = 0; i < inputs; i++) sum += weights[w++]! * read[i]!;
    sum += weights[w++]!;
    write[o] = last ? sum : sum < 0 || c.next() < HIDDEN_DROPPED ? 0 : sum / (1 - HIDDEN_DROPPED);
  }
}

/** Adds to the gradient, and hands the error back unless this is the first layer. */
function backward({ inputs, outputs, weights, gradient }: Trained, read: Float32Array, error: Float32Array, back: Float32Array | null): void {
  back?.fill(0);
  for (let o = 0; o < outputs; o++) {
    const e = error[o]!;
    if (e === 0) continue;
    const row = o * (inputs + 1);
    for (let i = 0; i < inputs; i++) gradient[row + i]! += e * read[i]!;
    if (back) for (let i = 0; i < inputs; i++) back[i]! += e * weights[row + i]!;
    gradient[row + inputs]! += e;
  }
  if (back) for (let i = 0; i < inputs; i++) if (read[i]! <= 0) back[i] = 0;
}

/** Error of the outputs, which become probabilities; the loss is minus the logarithm of what the allowed classes share. */
function judge(out: Float32Array, allowed: number, error: Float32Array): number {
  const most = Math.max(...out);
  let sum = 0;
  for (let k = 0; k < CLASSES; k++) sum += out[k] = Math.exp(out[k]! - most);
  let right = 1e-9;
  for (let k = 0; k < CLASSES; k++) {
    out[k]! /= sum;
    if ((allowed >> k) & 1) right += out[k]!;
  }
  const weight = CLASS_WEIGHTS[31 - Math.clz32(allowed & -allowed)]! ** Number((allowed & (allowed - 1)) === 0);
  for (let k = 0; k < CLASSES; k++) error[k] = weight * (out[k]! - ((allowed >> k) & 1 ? out[k]! / right : 0));
  return -Math.log(right);
}

/** @param tell is given the model after each epoch */
export function train(examples: Examples, epochs: number, seed: number, tell: (epoch: number, loss: number, model: Model) => void): void {
  const c = new Chance(seed);
  const sizes = [FEATURES, ...HIDDEN, CLASSES];
  const layers = sizes.slice(1).map((outputs, i) => layer(sizes[i]!, outputs, c));
  const values = sizes.map((size) => new Float32Array(size));
  const errors = sizes.map((size) => new Float32Array(size));
  const order = Array.from({ length: examples.count }, (_, i) => i);
  const steps = Math.ceil(examples.count / BATCH) * epochs;
  let step = 0;
  for (let epoch = 1; epoch <= epochs; epoch++) {
    for (let i = order.length - 1; i > 0; i--) {
      const k = c.whole(0, i);
      [order[i], order[k]] = [order[k]!, order[i]!];
    }
    let loss = 0;
    for (let from = 0; from < order.length; from += BATCH) {
      const to = Math.min(order.length, from + BATCH);
      for (let b = from; b < to; b++) {
        const example = order[b]!;
        const input = values[0]!;
        for (let i = 0; i < FEATURES; i++) input[i] = c.next() < DROPPED ? 0 : examples.features[example * FEATURES + i]! / FEATURE_SCALE + c.signed() * NOISE;
        layers.forEach((l, depth) => forward(l, values[depth]!, values[depth + 1]!, depth + 1 === layers.length, c));
        loss += judge(values.at(-1)!, examples.allowed[example]!, errors.at(-1)!);
        for (let depth = layers.length - 1; depth >= 0; depth--) backward(layers[depth]!, values[depth]!, errors[depth + 1]!, depth ? errors[depth]! : null);
      }
      step++;
      // Cosine schedule with a short warm-up.
      const rate = RATE * Math.min(1, step / 300) * (0.02 + 0.98 * 0.5 * (1 + Math.cos((Math.PI * step) / steps)));
      const [meanFix, squareFix] = [1 - 0.9 ** step, 1 - 0.999 ** step];
      for (const { weights, gradient, mean, square } of layers) {
        for (let w = 0; w < weights.length; w++) {
          const g = gradient[w]! / (to - from);
          gradient[w] = 0;
          mean[w] = 0.9 * mean[w]! + 0.1 * g;
          square[w] = 0.999 * square[w]! + 0.001 * g * g;
          weights[w]! -= rate * (mean[w]! / meanFix / (Math.sqrt(square[w]! / squareFix) + 1e-8) + DECAY * weights[w]!);
        }
      }
    }
    tell(epoch, loss / order.length, {
      temperature: 1,
      layers: layers.map(({ inputs, outputs, weights }) => ({
        inputs, outputs, weights: weights.filter((_, w) => w % (inputs + 1) !== inputs), bias: weights.filter((_, w) => w % (inputs + 1) === inputs),
      })),
    });
  }
}

/** One byte a weight; each layer has its own scale. */
export const packModel = ({ layers, temperature }: Model, frequencies: readonly number[]): PackedModel => ({
  temperature, frequencies: frequencies.map((f) => Number(f.toFixed(4))),
  layers: layers.map(({ inputs, outputs, weights, bias }) => {
    const scale = Math.max(...weights.map(Math.abs)) / 127;
    return {
      inputs, outputs, scale,
      weights: Buffer.from(Int8Array.from(weights, (v) => Math.round(v / scale)).buffer).toString('base64'),
      bias: [...bias].map((v) => Number(v.toPrecision(6))),
    };
  }),
});
