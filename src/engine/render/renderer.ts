/**
 * Draws one planned frame with WebGL2: develops the decoded planes into linear light at the output
 * size, then draws the stack of effects, then encodes to sRGB. Knows nothing of hits or time.
 */
import { I420_WEIGHTS, rgbaToI420 } from '../../core/base/colour.ts';
import type { ColourTable } from '../../core/document/types.ts';
import type { View } from '../../core/accents/effect-spec.ts';
import { tableValues } from '../../core/document/colour-table.ts';
import { groupKey, type Group } from '../../effects/compose.ts';
import { soon } from '../soon.ts';
import { EngineError } from '../errors.ts';
import type { YuvFrame } from '../media/yuv.ts';
import { NOTHING, type Drawing, type FrameRenderer, type Picture, type Wanted } from './frame-renderer.ts';
import { drawFrame, lowered, KeptFrames, type Drawer, type GroupDraw } from './groups.ts';
import type { Stamp } from './stamps.ts';
import { DEVELOP, developUniforms, drawDevelopedShader, drawShader, drawUniforms } from './shaders.ts';

const VERTEX = `#version 300 es
in vec2 corner;
void main() { gl_Position = vec4(corner, 0.0, 1.0); }`;

const HEAD = `#version 300 es
precision highp float;
precision highp int;
out vec4 result;
`;

const withMain = (shader: string): string => `${HEAD}${shader}\nvoid main() { result = shade(gl_FragCoord.xy); }`;

/** A finished frame on the canvas; left of the line another one. */
const SHOW = `${HEAD}
uniform vec2 size;
uniform sampler2D below, beside;
uniform float line;
void main() {
  ivec2 at = ivec2(gl_FragCoord.x, size.y - gl_FragCoord.y);
  float edge = line * size.x;
  result = gl_FragCoord.x < edge ? texelFetch(beside, at, 0) : texelFetch(below, at, 0);
  if (line > 0.0 && abs(gl_FragCoord.x - edge) < 1.0) result = vec4(0.95, 0.65, 0.25, 1.0);
}`;

/** A premultiplied picture in its place. */
const STAMP = `${HEAD}
uniform sampler2D stamp;
uniform vec2 corner;
uniform float opacity;
void main() { result = texelFetch(stamp, ivec2(gl_FragCoord.xy - corner), 0) * opacity; }`;

/** A finished frame as planes of I420, four bytes a pixel: exactly what `rgbaToI420` makes of it. Widths in eights. */
const PACK = `${HEAD}
uniform vec2 size;
uniform sampler2D below;
const int weights[9] = int[9](${I420_WEIGHTS.join(', ')});
ivec3 colour(int x, int y) { return ivec3(texelFetch(below, ivec2(max(x, 0), y), 0).rgb * 255.0 + 0.5); }
int weighed(ivec3 c, int row) { return weights[3 * row] * c.r + weights[3 * row + 1] * c.g + weights[3 * row + 2] * c.b; }
int byteAt(int at, ivec2 whole) {
  int area = whole.x * whole.y;
  if (at < area) return 16 + ((weighed(colour(at % whole.x, at / whole.x), 0) + 32768) >> 16);
  int plane = at < area + area / 4 ? 1 : 2;
  int place = at - area - (plane - 1) * area / 4;
  int x = 2 * (place % (whole.x / 2));
  int y = 2 * (place / (whole.x / 2));
  ivec3 sum = ivec3(0);
  for (int row = 0; row < 2; row++) sum += colour(x - 1, y + row) + 2 * colour(x, y + row) + colour(x + 1, y + row);
  return 128 + ((weighed(sum, plane) + 262144) >> 19);
}
void main() {
  ivec2 whole = ivec2(size);
  int first = 4 * (int(gl_FragCoord.y) * (whole.x / 4) + int(gl_FragCoord.x));
  result = vec4(byteAt(first, whole), byteAt(first + 1, whole), byteAt(first + 2, whole), byteAt(first + 3, whole)) / 255.0;
}`;

const PLANES = ['planeY', 'planeU', 'planeV'];

/** Sets of planes that stay on the graphics unit, for frames that are used again. */
const MOST_PLANES = 10;
/** Work textures that wait to be used again: how many, and of how many bytes in all. */
const MOST_FREE = 12;
const FREE_BYTES = 256 << 20;
/** Colour tables that stay on the graphics unit. */
const MOST_TABLES = 4;

const bytesOf = ({ width, height, kind }: Pick<Target, 'width' | 'height' | 'kind'>): number =>
  width * height * (kind === 'bytes' ? 4 : 8);

interface Program {
  readonly program: WebGLProgram;
  readonly locations: Map<string, WebGLUniformLocation | null>;
}

interface Target {
  readonly texture: WebGLTexture;
  readonly framebuffer: WebGLFramebuffer;
  readonly width: number;
  readonly height: number;
  readonly kind: 'linear' | 'bytes';
}

export class Renderer implements FrameRenderer, Drawer<Target> {
  readonly kind = 'gpu';
  private gl: WebGL2RenderingContext;
  private programs = new Map<string, Program>();
  private free: Target[] = [];
  /** Targets that are being drawn into or read from: after an error they go. */
  private readonly borrowed = new Set<Target>();
  private uploads = new Map<YuvFrame, WebGLTexture[]>();
  /** By their content: an edit elsewhere makes new objects of the same tables. */
  private tables = new Map<string, WebGLTexture>();
  private readonly kept = new KeptFrames<Target>((target) => this.release(target));
  private lost = false;
  /** Frames drawn so far; those that were kept are not drawn again. */
  drawn = 0;
  /** "half-float" or, where the extension is missing, "srgb-8-bit". */
  readonly precision: 'half-float' | 'srgb-8-bit';

  /** @throws EngineError where WebGL2 is missing. */
  constructor(
    readonly canvas: OffscreenCanvas,
    onRestored?: () => void,
  ) {
    const gl = canvas.getContext('webgl2', {
      alpha: false,
      antialias: false,
      depth: false,
      stencil: false,
      preserveDrawingBuffer: true,
    });
    if (!gl) throw new EngineError('graphics', 'This browser gives no WebGL2: effects cannot be drawn.');
    this.gl = gl;
    canvas.addEventListener('webglcontextlost', (event) => {
      event.preventDefault();
      this.lost = true;
    });
    canvas.addEventListener('webglcontextrestored', () => {
      this.lost = false;
      this.forget();
      this.prepare();
      onRestored?.();
    });
    this.precision = this.prepare() ? 'half-float' : 'srgb-8-bit';
  }

  get ready(): boolean {
    return !this.lost && !this.gl.isContextLost();
  }

  private forget(): void {
    this.programs.clear();
    this.free = [];
    this.uploads.clear();
    this.tables.clear();
    this.borrowed.clear();
    this.kept.clear();
  }

  /** Sets the context up, also a restored one. True when half-float targets can be drawn into. */
  private prepare(): boolean {
    const { gl } = this;
    const halfFloat = gl.getExtension('EXT_color_buffer_float') ?? gl.getExtension('EXT_color_buffer_half_float');
    const corners = gl.createBuffer();
    gl.bindBuffer(gl.ARRAY_BUFFER, corners);
    gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 3, -1, -1, 3]), gl.STATIC_DRAW);
    gl.enableVertexAttribArray(0);
    gl.vertexAttribPointer(0, 2, gl.FLOAT, false, 0, 0);
    gl.disable(gl.DITHER);
    return halfFloat !== null;
  }

  private program(key: string, source: () => string): Program {
    let entry = this.programs.get(key);
    if (entry) return entry;
    const { gl } = this;
    const program = gl.createProgram()!;
    const compile = (type: number, text: string): WebGLShader => {
      const shader = gl.createShader(type)!;
      gl.shaderSource(shader, text);
      gl.compileShader(shader);
      if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS) && !gl.isContextLost()) {
        const why = gl.getShaderInfoLog(shader) ?? 'unknown reason';
        gl.deleteShader(shader);
        gl.deleteProgram(program);
        throw new EngineError('graphics', `An effect cannot be drawn here: ${why}`);
      }
      return shader;
    };
    const shaders = [compile(gl.VERTEX_SHADER, VERTEX), compile(gl.FRAGMENT_SHADER, source())];
    for (const shader of shaders) gl.attachShader(program, shader);
    gl.bindAttribLocation(program, 0, 'corner');
    gl.linkProgram(program);
    // The program keeps what it needs of them.
    for (const shader of shaders) gl.deleteShader(shader);
    entry = { program, locations: new Map() };
    this.programs.set(key, entry);
    return entry;
  }

  /** Where a uniform lies, asked of the driver once. */
  private locate(entry: Program, name: string): WebGLUniformLocation | null {
    let location = entry.locations.get(name);
    if (location === undefined) entry.locations.set(name, (location = this.gl.getUniformLocation(entry.program, name)));
    return location;
  }

  private set(entry: Program, name: string, value: number | readonly number[]): void {
    const { gl } = this;
    const location = this.locate(entry, name);
    if (!location) return;
    if (typeof value === 'number') gl.uniform1f(location, value);
    else if (value.length === 2) gl.uniform2f(location, value[0]!, value[1]!);
    else if (value.length === 3) gl.uniform3f(location, value[0]!, value[1]!, value[2]!);
    else gl.uniform4f(location, value[0]!, value[1]!, value[2]!, value[3]!);
  }

  /** A texture to draw into, one that is free if there is one of that size. */
  acquire({ width, height }: View, kind: Target['kind'] = 'linear'): Target {
    const at = this.free.findIndex((t) => t.width === width && t.height === height && t.kind === kind);
    if (at >= 0) {
      const target = this.free.splice(at, 1)[0]!;
      this.borrowed.add(target);
      return target;
    }
    const { gl } = this;
    const texture = gl.createTexture()!;
    gl.bindTexture(gl.TEXTURE_2D, texture);
    const format = kind === 'bytes' ? gl.RGBA8 : this.precision === 'half-float' ? gl.RGBA16F : gl.SRGB8_ALPHA8;
    gl.texStorage2D(gl.TEXTURE_2D, 1, format, width, height);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.LINEAR);
    // Endless mirror: what moves never shows a border.
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_S, gl.MIRRORED_REPEAT);
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_T, gl.MIRRORED_REPEAT);
    const framebuffer = gl.createFramebuffer()!;
    gl.bindFramebuffer(gl.FRAMEBUFFER, framebuffer);
    gl.framebufferTexture2D(gl.FRAMEBUFFER, gl.COLOR_ATTACHMENT0, gl.TEXTURE_2D, texture, 0);
    const target: Target = { texture, framebuffer, width, height, kind };
    this.borrowed.add(target);
    return target;
  }

  release(target: Target): void {
    this.borrowed.delete(target);
    this.free.push(target);
    let bytes = this.free.reduce((sum, one) => sum + bytesOf(one), 0);
    while (this.free.length > MOST_FREE || (bytes > FREE_BYTES && this.free.length > 1)) {
      const oldest = this.free.shift()!;
      bytes -= bytesOf(oldest);
      this.destroy(oldest);
    }
  }

  private destroy(target: Target): void {
    this.gl.deleteTexture(target.texture);
    this.gl.deleteFramebuffer(target.framebuffer);
  }

  /** @throws EngineError for a size that the graphics unit does not draw. */
  private fits(width: number, height: number, what: string): void {
    const most = this.gl.getParameter(this.gl.MAX_TEXTURE_SIZE) as number;
    if (width > most || height > most)
      throw new EngineError(
        'graphics',
        `The graphics unit draws at most ${most} pixels a side; ${what} has ${width}x${height}.`,
      );
  }

  private upload(yuv: YuvFrame): WebGLTexture[] {
    const old = this.uploads.get(yuv);
    if (old) {
      this.uploads.delete(yuv);
      this.uploads.set(yuv, old);
      return old;
    }
    this.fits(yuv.width, yuv.height, 'the footage');
    const { gl } = this;
    const cw = (yuv.width + 1) >> 1;
    const ch = (yuv.height + 1) >> 1;
    const area = yuv.width * yuv.height;
    // The planes used longest ago give their textures away when their size is right.
    const [oldest] = this.uploads.keys();
    const full = oldest && this.uploads.size >= MOST_PLANES;
    const reused =
      full && oldest.width === yuv.width && oldest.height === yuv.height ? this.uploads.get(oldest)! : null;
    if (full) {
      if (!reused) for (const texture of this.uploads.get(oldest)!) gl.deleteTexture(texture);
      this.uploads.delete(oldest);
    }
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
    const textures = (
      [
        [yuv.width, yuv.height, 0],
        [cw, ch, area],
        [cw, ch, area + cw * ch],
      ] as const
    ).map(([width, height, at], i) => {
      const texture = reused?.[i] ?? gl.createTexture()!;
      gl.activeTexture(gl.TEXTURE0 + i);
      gl.bindTexture(gl.TEXTURE_2D, texture);
      const bytes = yuv.data.subarray(at, at + width * height);
      if (reused) gl.texSubImage2D(gl.TEXTURE_2D, 0, 0, 0, width, height, gl.RED, gl.UNSIGNED_BYTE, bytes);
      else {
        gl.texImage2D(gl.TEXTURE_2D, 0, gl.R8, width, height, 0, gl.RED, gl.UNSIGNED_BYTE, bytes);
        for (const [name, value] of [
          [gl.TEXTURE_MIN_FILTER, gl.LINEAR],
          [gl.TEXTURE_MAG_FILTER, gl.LINEAR],
          [gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE],
          [gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE],
        ] as const) {
          gl.texParameteri(gl.TEXTURE_2D, name, value);
        }
      }
      return texture;
    });
    this.uploads.set(yuv, textures);
    return textures;
  }

  private tableTexture(table: ColourTable): WebGLTexture {
    const key = `${table.size} ${table.values}`;
    let texture = this.tables.get(key);
    if (texture) {
      this.tables.delete(key);
      this.tables.set(key, texture);
      return texture;
    }
    const { gl } = this;
    texture = gl.createTexture()!;
    gl.bindTexture(gl.TEXTURE_3D, texture);
    const values = tableValues(table);
    const texels = new Float32Array(table.size ** 3 * 4);
    for (let i = 0; i < table.size ** 3; i++) texels.set(values.subarray(3 * i, 3 * i + 3), 4 * i);
    gl.texImage3D(gl.TEXTURE_3D, 0, gl.RGBA16F, table.size, table.size, table.size, 0, gl.RGBA, gl.FLOAT, texels);
    for (const name of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER]) gl.texParameteri(gl.TEXTURE_3D, name, gl.LINEAR);
    for (const name of [gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T, gl.TEXTURE_WRAP_R])
      gl.texParameteri(gl.TEXTURE_3D, name, gl.CLAMP_TO_EDGE);
    this.tables.set(key, texture);
    const [oldest] = this.tables.keys();
    if (this.tables.size > MOST_TABLES && oldest !== undefined) {
      gl.deleteTexture(this.tables.get(oldest)!);
      this.tables.delete(oldest);
    }
    return texture;
  }

  /** Gives a shader the planes of a picture, in the first texture units, and how they lie in a frame of this size. */
  private bindPlanes(entry: Program, picture: Picture, view: View): void {
    const { gl } = this;
    const planes = this.upload(picture.yuv);
    PLANES.forEach((name, i) => {
      gl.activeTexture(gl.TEXTURE0 + i);
      gl.bindTexture(gl.TEXTURE_2D, planes[i]!);
      gl.uniform1i(this.locate(entry, name), i);
    });
    for (const [name, value] of developUniforms(picture, view)) this.set(entry, name, value);
  }

  develop(picture: Picture, view: View): Target {
    const entry = this.program('develop', () => withMain(DEVELOP));
    const target = this.acquire(view);
    this.gl.useProgram(entry.program);
    this.bindPlanes(entry, picture, view);
    this.drawTo(target.framebuffer, view.width, view.height);
    return target;
  }

  drawDeveloped(
    picture: Picture,
    { group, encoding, into, view }: Pick<GroupDraw<Target>, 'group' | 'encoding' | 'into' | 'view'>,
  ): void {
    const entry = this.program(`developed ${groupKey(group)}${encoding ?? ''}`, () =>
      withMain(drawDevelopedShader(group, encoding)),
    );
    this.gl.useProgram(entry.program);
    this.bindPlanes(entry, picture, view);
    this.bindGroup(entry, group, into, view, PLANES.length);
    this.drawTo(into.framebuffer, into.width, into.height);
  }

  private drawTo(framebuffer: WebGLFramebuffer | null, width: number, height: number): void {
    const { gl } = this;
    gl.bindFramebuffer(gl.FRAMEBUFFER, framebuffer);
    gl.viewport(0, 0, width, height);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }

  drawGroup({ group, encoding, into, below, layers, view }: GroupDraw<Target>): void {
    const { gl } = this;
    const entry = this.program(`${groupKey(group)}${encoding ?? ''}`, () => withMain(drawShader(group, encoding)));
    gl.useProgram(entry.program);
    [['below', below] as const, ...layers].forEach(([name, { texture }], i) => {
      gl.activeTexture(gl.TEXTURE0 + i);
      gl.bindTexture(gl.TEXTURE_2D, texture);
      gl.uniform1i(this.locate(entry, name), i);
    });
    this.bindGroup(entry, group, into, view, 1 + layers.length);
    this.drawTo(into.framebuffer, into.width, into.height);
  }

  /** Gives a shader a group's tables, in texture units from `unit` on, and its numbers. */
  private bindGroup(entry: Program, group: Group, into: Target, view: View, unit: number): void {
    const { gl } = this;
    let next = unit;
    group.steps.forEach(({ table }, i) => {
      if (!table) return;
      gl.activeTexture(gl.TEXTURE0 + next);
      gl.bindTexture(gl.TEXTURE_3D, this.tableTexture(table));
      gl.uniform1i(this.locate(entry, `table${i}`), next++);
    });
    for (const [name, value] of drawUniforms(group, into, view)) {
      if (name.endsWith('_points[0]')) gl.uniform2fv(this.locate(entry, name), value as number[]);
      else this.set(entry, name, value);
    }
  }

  /** Draws a frame into eight bits as displayed, rows top first. */
  private draw({ picture, ...rest }: Drawing, target: Target): void {
    const { gl } = this;
    if (picture) {
      const { stamps, ...drawing } = lowered({ picture, ...rest }, target);
      drawFrame(this, { ...drawing, picture }, target, target);
      stamps.forEach((stamp) => this.lay(stamp, target));
      return;
    }
    gl.bindFramebuffer(gl.FRAMEBUFFER, target.framebuffer);
    gl.clearColor(0, 0, 0, 1);
    gl.clear(gl.COLOR_BUFFER_BIT);
  }

  /** Lays a title over a finished frame. */
  private lay({ data, width, height, x, y, opacity }: Stamp, target: Target): void {
    const { gl } = this;
    const entry = this.program('stamp', () => STAMP);
    gl.useProgram(entry.program);
    const texture = gl.createTexture()!;
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D, texture);
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 4);
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA8, width, height, 0, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(data.buffer));
    for (const name of [gl.TEXTURE_MIN_FILTER, gl.TEXTURE_MAG_FILTER])
      gl.texParameteri(gl.TEXTURE_2D, name, gl.NEAREST);
    gl.uniform1i(this.locate(entry, 'stamp'), 0);
    this.set(entry, 'corner', [x, y]);
    this.set(entry, 'opacity', opacity);
    gl.enable(gl.BLEND);
    gl.blendFunc(gl.ONE, gl.ONE_MINUS_SRC_ALPHA);
    gl.bindFramebuffer(gl.FRAMEBUFFER, target.framebuffer);
    gl.viewport(x, y, width, height);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
    gl.disable(gl.BLEND);
    gl.deleteTexture(texture);
  }

  /** True where a frame made of this is kept. */
  has(key: string): boolean {
    return this.kept.has(key);
  }

  /** The finished frame, drawn unless one made of the same is kept; null draws black. @throws EngineError for sizes and a lost context. */
  private finished(drawing: Drawing | null, width: number, height: number, key: string | null): Target {
    if (!this.ready) throw new EngineError('graphics', 'The graphics context was lost.');
    this.fits(width, height, 'the picture asked for');
    const old = key === null ? undefined : this.kept.get(key);
    if (old) return old;
    const target = this.acquire({ width, height }, 'bytes');
    this.drawn++;
    try {
      this.draw(drawing ?? NOTHING, target);
    } catch (error) {
      for (const one of this.borrowed) this.destroy(one);
      this.borrowed.clear();
      throw error;
    }
    this.borrowed.delete(target);
    if (key !== null) this.kept.add(key, target, bytesOf(target));
    return target;
  }

  /**
   * Shows a frame on the canvas, which takes the given size; left of a line another one, if wanted.
   * With a key a frame is kept for the next time; without a drawing it is one that was kept.
   */
  show(frame: Wanted, width: number, height: number, beside?: Wanted & { readonly line: number }): void {
    const { gl } = this;
    const shown = [frame, ...(beside ? [beside] : [])];
    const targets = shown.map(({ drawing, key }) => this.finished(drawing, width, height, key));
    if (this.canvas.width !== width || this.canvas.height !== height) {
      this.canvas.width = width;
      this.canvas.height = height;
    }
    const entry = this.program('show', () => SHOW);
    gl.useProgram(entry.program);
    ['below', 'beside'].forEach((name, i) => {
      gl.activeTexture(gl.TEXTURE0 + i);
      gl.bindTexture(gl.TEXTURE_2D, (targets[i] ?? targets[0]!).texture);
      gl.uniform1i(this.locate(entry, name), i);
    });
    this.set(entry, 'size', [width, height]);
    this.set(entry, 'line', beside?.line ?? 0);
    this.drawTo(null, width, height);
    targets.forEach((target, i) => {
      if (shown[i]!.key === null) this.release(target);
    });
  }

  /** Draws aside and reads back: RGBA rows, top first. @throws EngineError when the context is lost. */
  read(drawing: Drawing, width: number, height: number): Uint8ClampedArray<ArrayBuffer> {
    const { gl } = this;
    const target = this.finished(drawing, width, height, null);
    const bytes = new Uint8ClampedArray(width * height * 4);
    gl.bindFramebuffer(gl.FRAMEBUFFER, target.framebuffer);
    gl.readPixels(0, 0, width, height, gl.RGBA, gl.UNSIGNED_BYTE, bytes);
    this.release(target);
    return bytes;
  }

  async planes(drawing: Drawing, width: number, height: number): Promise<Uint8Array<ArrayBuffer>> {
    const { gl } = this;
    const out = new Uint8Array(width * height * 1.5);
    if (width % 8) {
      rgbaToI420(this.read(drawing, width, height), width, height, out);
      return out;
    }
    const drawn = this.finished(drawing, width, height, null);
    const packed = this.acquire({ width: width / 4, height: height * 1.5 }, 'bytes');
    const entry = this.program('pack', () => PACK);
    gl.useProgram(entry.program);
    gl.activeTexture(gl.TEXTURE0);
    gl.bindTexture(gl.TEXTURE_2D, drawn.texture);
    gl.uniform1i(this.locate(entry, 'below'), 0);
    this.set(entry, 'size', [width, height]);
    this.drawTo(packed.framebuffer, packed.width, packed.height);
    // Copied aside when it is drawn, so that nothing waits here: the next frame is drawn meanwhile.
    const buffer = gl.createBuffer();
    gl.bindBuffer(gl.PIXEL_PACK_BUFFER, buffer);
    gl.bufferData(gl.PIXEL_PACK_BUFFER, out.length, gl.STREAM_READ);
    gl.readPixels(0, 0, packed.width, packed.height, gl.RGBA, gl.UNSIGNED_BYTE, 0);
    gl.bindBuffer(gl.PIXEL_PACK_BUFFER, null);
    const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0)!;
    gl.flush();
    this.release(drawn);
    this.release(packed);
    while (this.ready && gl.clientWaitSync(fence, 0, 0) === gl.TIMEOUT_EXPIRED) await soon();
    if (!this.ready) throw new EngineError('graphics', 'The graphics context was lost.');
    gl.bindBuffer(gl.PIXEL_PACK_BUFFER, buffer);
    gl.getBufferSubData(gl.PIXEL_PACK_BUFFER, 0, out);
    gl.bindBuffer(gl.PIXEL_PACK_BUFFER, null);
    gl.deleteSync(fence);
    gl.deleteBuffer(buffer);
    return out;
  }

  /** For tests: textures to draw into that are neither free nor kept. */
  get borrowedTargets(): number {
    return this.borrowed.size;
  }

  /** For tests: loses the context and brings it back after `ms`. */
  loseContext(ms: number): void {
    const extension = this.gl.getExtension('WEBGL_lose_context');
    extension?.loseContext();
    setTimeout(() => extension?.restoreContext(), ms);
  }
}
