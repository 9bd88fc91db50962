/**
 * Draws planned frames on the processor: the same shaders as on the graphics unit, compiled to WebAssembly that draws four
 * pixels at once, over light in half floats.
 */
import type { ColourTable } from '../../../core/document/types.ts';
import { tableValues } from '../../../core/document/colour-table.ts';
import type { View } from '../../../core/accents/effect-spec.ts';
import { groupKey } from '../../../effects/compose.ts';
import { EngineError } from '../../errors.ts';
import { NOTHING, type Drawing, type FrameRenderer, type Picture, type Wanted } from '../frame-renderer.ts';
import { drawFrame, KeptFrames, type Drawer, type GroupDraw } from '../groups.ts';
import { DEVELOP, developUniforms, drawShader, drawUniforms } from '../shaders.ts';
import { compileShader, PICTURES, type Place } from './compile.ts';

const PAGE = 1 << 16;
/** Pages that the memory may have: 3 GB. */
const MOST_PAGES = 48 << 10;

interface Program {
  run(from: number, to: number): void;
  readonly places: ReadonlyMap<string, Place>;
}

/** Light in half floats, or what is displayed in bytes; `stride` pixels from row to row. */
interface Target extends View {
  readonly at: number;
  readonly stride: number;
  readonly bytes: number;
}

/** Rows are a multiple of four pixels long: four are drawn at once. */
const strideOf = (width: number): number => (width + 3) & ~3;

export class LanesRenderer implements FrameRenderer, Drawer<Target> {
  readonly kind = 'cpu';
  readonly ready = true;
  drawn = 0;
  private readonly memory = new WebAssembly.Memory({ initial: 2, maximum: MOST_PAGES });
  private readonly programs = new Map<string, Program>();
  private readonly kept = new KeptFrames<ImageData>(() => undefined);
  /** Where free memory begins, and pieces before it that are free again. */
  private top = PICTURES;
  private free: { at: number; bytes: number }[] = [];

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
    return this.target(size, 8);
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
    const { yuv } = picture;
    const [cw, ch] = [(yuv.width + 1) >> 1, (yuv.height + 1) >> 1];
    const planes = this.take(yuv.width * yuv.height + 2 * cw * ch);
    new Uint8Array(this.memory.buffer, planes).set(yuv.data.subarray(0, yuv.width * yuv.height + 2 * cw * ch));
    const program = this.program('develop', () => DEVELOP, false);
    const target = this.acquire(view);
    const area = yuv.width * yuv.height;
    this.bind(program, 'planeY', { at: planes, width: yuv.width, height: yuv.height, stride: yuv.width });
    this.bind(program, 'planeU', { at: planes + area, width: cw, height: ch, stride: cw });
    this.bind(program, 'planeV', { at: planes + area + cw * ch, width: cw, height: ch, stride: cw });
    for (const [name, value] of developUniforms(picture, view.width, view.height)) this.set(program, name, value);
    this.draw(program, target);
    this.free.push({ at: planes, bytes: area + 2 * cw * ch });
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

  /** A frame in eight bits as displayed, rows top first. */
  private frame({ picture, ...rest }: Drawing, view: View): Uint8ClampedArray<ArrayBuffer> {
    const { width, height } = view;
    const out = new Uint8ClampedArray(width * height * 4);
    if (!picture) {
      for (let i = 3; i < out.length; i += 4) out[i] = 255;
      return out;
    }
    this.top = PICTURES;
    this.free = [];
    const target = this.target(view, 4);
    drawFrame(this, { picture, ...rest }, view, target);
    const { at, stride } = target;
    const drawn = new Uint8Array(this.memory.buffer, at, stride * height * 4);
    if (stride === width) out.set(drawn);
    else
      for (let y = 0; y < height; y++) out.set(drawn.subarray(y * stride * 4, (y * stride + width) * 4), y * width * 4);
    return out;
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
    this.drawn++;
    return this.frame(drawing, { width, height });
  }
}
