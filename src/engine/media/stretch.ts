/**
 * Sound slowed, hurried or shifted without what usually comes with it, by the library signalsmith-stretch. That is made for
 * audio worklets; here the class that it registers there is caught and its module driven directly, in any thread.
 */
import { once } from '../../core/base/once.ts';

/** What is used of the library's WebAssembly. */
interface Module {
  _seek(samples: number, rate: number): void;
  _process(input: number, output: number): void;
  _reset(): void;
  _inputLatency(): number;
  _outputLatency(): number;
  _setTransposeSemitones(semitones: number, tonality: number): void;
  readonly HEAP8: Int8Array;
  readonly exports?: { readonly memory: WebAssembly.Memory };
}

/**
 * Milliseconds of its blocks and from one to the next: a tone slowed to a quarter keeps its pitch within a cent, an attack
 * its place within 2 ms.
 */
const CONFIG = { blockMs: 80, intervalMs: 10 };

interface Processor {
  config: object;
  configure(): void;
  readonly wasmModule: Module | null;
  readonly channels: number;
  readonly bufferLength: number;
  /** Addresses of the channels. */
  readonly buffersIn: readonly number[];
  readonly buffersOut: readonly number[];
}

type ProcessorClass = new (options: { numberOfOutputs: number; outputChannelCount: number[] }) => Processor;

/** Hertz above which partials are shifted less than in proportion, as the library suggests. */
const TONALITY = 8000;
/** Milliseconds from one look to the next whether the module is compiled. */
const LOOK = 2;

/** The class, caught as the library hands it to what it takes for a worklet. */
const processorClass = once(async (): Promise<ProcessorClass> => {
  const world = globalThis as unknown as Record<string, unknown>;
  const names = ['AudioWorkletProcessor', 'registerProcessor', 'sampleRate', 'currentTime'] as const;
  const before = names.map((name) => world[name]);
  let caught: ProcessorClass | undefined;
  world['AudioWorkletProcessor'] = class {
    readonly port = { postMessage: () => undefined, onmessage: null };
  };
  world['registerProcessor'] = (_name: string, made: ProcessorClass) => (caught = made);
  world['sampleRate'] = 48000;
  world['currentTime'] = 0;
  await import('signalsmith-stretch');
  // The class goes on asking for the rate; nothing else is left behind.
  names.forEach((name, i) => name !== 'sampleRate' && (world[name] = before[i]));
  if (!caught) throw new Error('signalsmith-stretch registers nothing');
  return caught;
});

export class Stretcher {
  private constructor(
    private readonly processor: Processor,
    private readonly module: Module,
  ) {}

  /** For left and right at 48 kHz. */
  static async make(): Promise<Stretcher> {
    const processor = new (await processorClass())({ numberOfOutputs: 1, outputChannelCount: [2] });
    while (!processor.wasmModule || !processor.channels) await new Promise((resolve) => setTimeout(resolve, LOOK));
    processor.config = CONFIG;
    processor.configure();
    return new Stretcher(processor, processor.wasmModule);
  }

  /** Samples of input that one step reads, and how many of these come after the place it is asked for. */
  get reads(): number {
    return this.processor.bufferLength;
  }
  get ahead(): number {
    return this.module._inputLatency();
  }
  /** Samples that come out later than they went in. */
  get delay(): number {
    return this.module._outputLatency();
  }

  private channel(address: number, length: number): Float32Array {
    const { module } = this;
    return new Float32Array(module.exports?.memory.buffer ?? module.HEAP8.buffer, address, length);
  }

  reset(): void {
    this.module._reset();
  }

  /**
   * The next samples.
   * @param fill writes the {@link reads} samples of input that end {@link ahead} after the place
   * @param rate input samples for one of output, at least 0
   */
  next(
    fill: (left: Float32Array, right: Float32Array) => void,
    rate: number,
    semitones: number,
    count: number,
  ): readonly [Float32Array, Float32Array] {
    const { module, processor } = this;
    const [left, right] = processor.buffersIn;
    fill(this.channel(left!, processor.bufferLength), this.channel(right!, processor.bufferLength));
    module._setTransposeSemitones(semitones, TONALITY / 48000);
    module._seek(processor.bufferLength, rate);
    module._process(0, count);
    const [l, r] = processor.buffersOut;
    return [this.channel(l!, count), this.channel(r!, count)];
  }
}
