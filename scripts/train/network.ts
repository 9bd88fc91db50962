/** Training of the small network: Adam (D. P. Kingma and J. Ba, ICLR 2015) with decoupled weight decay, on examples that may allow several classes. */
import { FEATURES } from '../../src/core/kinds/features.ts';
import type { Layer, Model, PackedModel } from '../../src/core/kinds/model.ts';
import { SOUND_CLASSES } from '../../src/core/signals/types.ts';
import { FEATURE_SCALE, type Examples } from './examples.ts';
import { Chance } from './mixtures.ts';

const CLASSES = SOUND_CLASSES.length;
const HIDDEN = [64, 32];
const BATCH = 64;
const DECAY = 0.05;
/** Shares of features and of hidden values left out at random. */
const DROPPED = 0.12;
const HIDDEN_DROPPED = 0.2;

interface Trained extends Layer {
  readonly gradient: Float32Array;
  readonly mean: Float32Array;
  readonly square: Float32Array;
}

/** Weights and bias of a layer lie in one array, the bias last in each row. */
function layer(inputs: number, outputs: number, c: Chance): Trained {
  const size = outputs * (inputs + 1);
  const weights = new Float32Array(size);
  const scale = Math.sqrt(6 / inputs);
  for (let i = 0; i < size; i++) weights[i] = i % (inputs + 1) === inputs ? 0 : c.signed() * scale;
  return { inputs, outputs, weights, bias: new Float32Array(0), gradient: new Float32Array(size), mean: new Float32Array(size), square: new Float32Array(size) };
}

export function train(examples: Examples, epochs: number, seed: number, tell: (epoch: number, loss: number, model: Model) => void): void {
  const c = new Chance(seed);
  const sizes = [FEATURES, ...HIDDEN, CLASSES];
  const layers = sizes.slice(1).map((outputs, i) => layer(sizes[i]!, outputs, c));
  const values = sizes.map((size) => new Float32Array(size));
  const errors = sizes.map((size) => new Float32Array(size));
  const order = Array.from({ length: examples.count }, (_, i) => i);
  let step = 0;
  const steps = Math.ceil(examples.count / BATCH) * epochs;
  for (let epoch = 0; epoch < epochs; epoch++) {
    for (let i = order.length - 1; i > 0; i--) {
      const k = c.whole(0, i);
      [order[i], order[k]] = [order[k]!, order[i]!];
    }
    let loss = 0;
    for (let from = 0; from < order.length; from += BATCH) {
      const batch = order.slice(from, from + BATCH);
      for (const example of batch) {
        const input = values[0]!;
        for (let i = 0; i < FEATURES; i++) input[i] = c.next() < DROPPED ? 0 : examples.features[example * FEATURES + i]! / FEATURE_SCALE / (1 - DROPPED);
        layers.forEach((l, depth) => {
          const [read, write] = [values[depth]!, values[depth + 1]!];
          for (let o = 0, w = 0; o < l.outputs; o++) {
            let sum = 0;
            for (let i = 0; i < l.inputs; i++) sum += l.weights[w++]! * read[i]!;
            sum += l.weights[w++]!;
            write[o] = depth + 1 === layers.length ? sum : sum < 0 || c.next() < HIDDEN_DROPPED ? 0 : sum / (1 - HIDDEN_DROPPED);
          }
        });
        const out = values.at(-1)!;
        const most = Math.max(...out);
        let sum = 0;
        for (let k = 0; k < CLASSES; k++) sum += out[k] = Math.exp(out[k]! - most);
        const allowed = examples.allowed[example]!;
        let right = 1e-9;
        for (let k = 0; k < CLASSES; k++) {
          out[k]! /= sum;
          if ((allowed >> k) & 1) right += out[k]!;
        }
        loss -= Math.log(right);
        const error = errors.at(-1)!;
        for (let k = 0; k < CLASSES; k++) error[k] = out[k]! - ((allowed >> k) & 1 ? out[k]! / right : 0);
        for (let depth = layers.length - 1; depth >= 0; depth--) {
          const l = layers[depth]!;
          const [read, back, error] = [values[depth]!, errors[depth]!, errors[depth + 1]!];
          if (depth > 0) back.fill(0);
          for (let o = 0; o < l.outputs; o++) {
            const e = error[o]!;
            if (e === 0) continue;
            let w = o * (l.inputs + 1);
            for (let i = 0; i < l.inputs; i++, w++) {
              l.gradient[w]! += e * read[i]!;
              if (depth > 0) back[i]! += e * l.weights[w]!;
            }
            l.gradient[w]! += e;
          }
          if (depth > 0) for (let i = 0; i < l.inputs; i++) if (read[i]! <= 0) back[i] = 0;
        }
      }
      step++;
      // Cosine schedule with a short warm-up.
      const rate = 0.0015 * Math.min(1, step / 300) * (0.02 + 0.98 * 0.5 * (1 + Math.cos((Math.PI * step) / steps)));
      const [meanFix, squareFix] = [1 - 0.9 ** step, 1 - 0.999 ** step];
      for (const l of layers) {
        for (let w = 0; w < l.weights.length; w++) {
          const g = l.gradient[w]! / batch.length;
          l.gradient[w] = 0;
          l.mean[w] = 0.9 * l.mean[w]! + 0.1 * g;
          l.square[w] = 0.999 * l.square[w]! + 0.001 * g * g;
          l.weights[w]! -= rate * (l.mean[w]! / meanFix / (Math.sqrt(l.square[w]! / squareFix) + 1e-8) + DECAY * l.weights[w]!);
        }
      }
    }
    tell(epoch + 1, loss / order.length, {
      temperature: 1,
      layers: layers.map(({ inputs, outputs, weights }) => ({
        inputs, outputs,
        weights: weights.filter((_, w) => w % (inputs + 1) !== inputs),
        bias: weights.filter((_, w) => w % (inputs + 1) === inputs),
      })),
    });
  }
}

/** One byte a weight; each layer has its own scale. */
export const packModel = ({ layers, temperature }: Model): PackedModel => ({
  temperature,
  layers: layers.map(({ inputs, outputs, weights, bias }) => {
    const scale = Math.max(...weights.map(Math.abs)) / 127;
    return {
      inputs, outputs, scale,
      weights: Buffer.from(Int8Array.from(weights, (v) => Math.round(v / scale)).buffer).toString('base64'),
      bias: [...bias].map((v) => Number(v.toPrecision(6))),
    };
  }),
});
