/**
 * Draws planned frames on the processor: the same shaders as on the graphics unit, compiled to WebAssembly that draws four
 * pixels at once, over light in floats.
 */
import type { ColourTable } from '../../../core/document/types.ts';
import { tableValues } from '../../../core/document/colour-table.ts';
import { I420_WEIGHTS } from '../../../core/base/colour.ts';
import type { View } from '../../../core/accents/effect-spec.ts';
import { groupKey } from '../../../effects/compose.ts';
import { EngineError } from '../../errors.ts';
import { NOTHING, type Drawing, type FrameRenderer, type Picture, type Wanted } from '../frame-renderer.ts';
import { drawFrame, KeptFrames, lowered, type Lowered, type Drawer, type GroupDraw } from '../groups.ts';
import { drawShader, drawUniforms } from '../shaders.ts';
import { laidOver } from '../stamps.ts';
import { develop, kernelsIn } from './develop.ts';
import { compileShader, PICTURES, type Place } from './compile.ts';

const PAGE = 1 << 16;
/** Pages that the memory may have: 3 GB. */
const MOST_PAGES = 48 << 10;

interface Program {
  run(from: number, to: number): void;
  readonly places: ReadonlyMap<string, Place>;
}

/** Light in floats, or what is displayed in bytes; `stride` pixels from row to row. */
interface Target extends View {
  readonly at: number;
  readonly stride: number;
  readonly bytes: number;
}

/** Rows are a multiple of four pixels long: four are drawn at once. */
const strideOf = (width: number): number => (width + 3) & ~3;

interface Piece {
  readonly at: number;
  readonly bytes: number;
}

export class LanesRenderer implements FrameRenderer, Drawer<Target> {
  readonly kind = 'cpu';
  readonly ready = true;
  drawn = 0;
  private readonly memory = new WebAssembly.Memory({ initial: 2, maximum: MOST_PAGES });
  private readonly kernels = kernelsIn(this.memory);
  private readonly programs = new Map<string, Program>();
  private readonly kept = new KeptFrames<ImageData>(() => undefined);
  /** Where free memory begins, and pieces before it that are free again. */
  private top = PICTURES;
  private free: Piece[] = [];

  /** @param canvas on which frames are shown; without one they are only read */
  constructor(readonly canvas: OffscreenCanvas | null) {}

  private take(bytes: number): number {
    const fits = this.free.findIndex((piece) => piece.bytes >= bytes && piece.bytes < 2 * bytes);
    if (fits >= 0) return this.free.splice(fits, 1)[0]!.at;
    const at = this.top;
    this.top += (bytes + 15) & ~15;
    const missing = Math.ceil((this.top - this.memory.buffer.byteLength) / PAGE);
    if (missing > 0) {
      try {
        this.memory.grow(missing);
      } catch {
        throw new EngineError('graphics', 'The picture is too large: there is not enough memory to draw it.');
      }
    }
    return at;
  }

  private target({ width, height }: View, each: number): Target {
    const stride = strideOf(width);
    const bytes = stride * height * each;
    return { at: this.take(bytes), width, height, stride, bytes };
  }

  acquire(size: View): Target {
    return this.target(size, 16);
  }

  release({ at, bytes }: Target): void {
    this.free.push({ at, bytes });
  }

  private program(key: string, shader: () => string, bytes: boolean): Program {
    let program = this.programs.get(key);
    if (!program) {
      const compiled = compileShader(shader(), bytes);
      const module = new WebAssembly.Module(compiled.bytes);
      const { exports } = new WebAssembly.Instance(module, { env: { memory: this.memory } });
      program = { run: exports['run'] as Program['run'], places: compiled.places };
      this.programs.set(key, program);
    }
    return program;
  }

  private set({ places }: Program, name: string, value: number | readonly number[]): void {
    const place = places.get(name);
    if (!place) return;
    const words = new Float32Array(this.memory.buffer, place.at, place.count);
    if (typeof value === 'number') words[0] = value;
    else for (let i = 0; i < Math.min(place.count, value.length); i++) words[i] = value[i]!;
  }

  private bind({ places }: Program, name: string, { at, width, height, stride }: Omit<Target, 'bytes'>): void {
    const place = places.get(name);
    if (place) new Int32Array(this.memory.buffer, place.at, 4).set([at, width, height, stride]);
  }

  private draw(program: Program, into: Target): void {
    this.bind(program, 'target', into);
    program.run(0, into.height);
  }

  develop(picture: Picture, view: View): Target {
    const target = this.acquire(view);
    const aside: Piece[] = [];
    const take = (bytes: number): number => {
      const at = this.take(bytes);
      aside.push({ at, bytes });
      return at;
    };
    develop(this.kernels, this.memory, take, picture, view, target);
    this.free.push(...aside);
    return target;
  }

  drawGroup({ group, encoding, into, below, layers, view }: GroupDraw<Target>): void {
    const key = `${groupKey(group)}${encoding ?? ''}`;
    const program = this.program(key, () => drawShader(group, encoding), encoding !== null);
    this.bind(program, 'below', below);
    for (const [name, picture] of layers) this.bind(program, name, picture);
    const tables = group.steps.flatMap(({ table }, i) => (table ? [this.table(program, `table${i}`, table)] : []));
    for (const [name, value] of drawUniforms(group, into, view)) this.set(program, name, value);
    this.draw(program, into);
    tables.forEach((one) => this.release(one));
  }

  /** A colour table where a program reads it. */
  private table(program: Program, name: string, table: ColourTable): Target {
    const n = table.size;
    const target = this.target({ width: n ** 3, height: 1 }, 16);
    const values = tableValues(table);
    const texels = new Float32Array(this.memory.buffer, target.at, n ** 3 * 4);
    for (let t = 0; t < n ** 3; t++) texels.set(values.subarray(3 * t, 3 * t + 3), 4 * t);
    this.bind(program, name, { at: target.at, width: n, height: n, stride: n });
    return target;
  }

  /** Draws a frame in eight bits as displayed, rows top first; null where it shows nothing. */
  private frame({ picture, ...rest }: Lowered, view: View): Target | null {
    this.drawn++;
    this.top = PICTURES;
    this.free = [];
    if (!picture) return null;
    const target = this.target(view, 4);
    drawFrame(this, { picture, ...rest }, view, target);
    if (rest.stamps.length) {
      const { at, stride, bytes } = target;
      laidOver(new Uint8Array(this.memory.buffer, at, bytes), view, stride, rest.stamps);
    }
    return target;
  }

  /** For tests: bytes of memory that it draws in. */
  get bytes(): number {
    return this.memory.buffer.byteLength;
  }

  has(key: string): boolean {
    return this.kept.has(key);
  }

  private finished({ drawing, key }: Wanted, width: number, height: number): ImageData {
    const old = key === null ? undefined : this.kept.get(key);
    if (old) return old;
    const image = new ImageData(this.read(drawing ?? NOTHING, width, height), width, height);
    if (key !== null) this.kept.add(key, image, image.data.length);
    return image;
  }

  show(frame: Wanted, width: number, height: number, beside?: Wanted & { readonly line: number }): void {
    const { canvas } = this;
    if (!canvas) return;
    const image = this.finished(frame, width, height);
    const other = beside && this.finished(beside, width, height);
    if (canvas.width !== width || canvas.height !== height) [canvas.width, canvas.height] = [width, height];
    const pen = canvas.getContext('2d', { alpha: false })!;
    pen.putImageData(image, 0, 0);
    if (!beside || !other) return;
    const edge = beside.line * width;
    pen.putImageData(other, 0, 0, 0, 0, Math.round(edge), height);
    pen.fillStyle = 'rgb(242,166,64)';
    pen.fillRect(Math.round(edge) - 1, 0, 2, height);
  }

  read(drawing: Drawing, width: number, height: number): Uint8ClampedArray<ArrayBuffer> {
    const target = this.frame(lowered(drawing, { width, height }), { width, height });
    const out = new Uint8ClampedArray(width * height * 4);
    if (!target) {
      for (let i = 3; i < out.length; i += 4) out[i] = 255;
      return out;
    }
    const { at, stride } = target;
    const drawn = new Uint8Array(this.memory.buffer, at, stride * height * 4);
    if (stride === width) out.set(drawn);
    else
      for (let y = 0; y < height; y++) out.set(drawn.subarray(y * stride * 4, (y * stride + width) * 4), y * width * 4);
    return out;
  }

  async planes(drawing: Drawing, width: number, height: number): Promise<Uint8Array<ArrayBuffer>> {
    return this.planesOf(lowered(drawing, { width, height }), width, height);
  }

  /** @throws EngineError where there is not enough memory */
  planesOf(frame: Lowered, width: number, height: number): Uint8Array<ArrayBuffer> {
    const target = this.frame(frame, { width, height });
    const out = new Uint8Array(width * height * 1.5);
    if (!target) return out.fill(16, 0, width * height).fill(128, width * height);
    // Planes are written four bytes at once, rows read eight pixels.
    const [weights, planes] = [this.take(4 * I420_WEIGHTS.length), this.take(out.length + 16)];
    new Int32Array(this.memory.buffer, weights).set(I420_WEIGHTS);
    this.kernels.planes(target.at, target.stride, width, height, weights, planes);
    out.set(new Uint8Array(this.memory.buffer, planes, out.length));
    return out;
  }
}
