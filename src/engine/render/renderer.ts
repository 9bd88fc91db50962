/**
 * Draws one planned frame with WebGL2: develops the decoded planes into linear light at the output
 * size, then draws the stack of effects, then encodes to sRGB. Knows nothing of hits or time.
 */
import type { Pass } from '../../core/plan/plan.ts';
import type { Clip, VideoInfo } from '../../core/montage/types.ts';
import { yuvCoefficients } from '../../core/media/colour.ts';
import { composeGlsl, drawGroups } from '../../effects/compose.ts';
import { EFFECTS } from '../../effects/index.ts';
import { EngineError } from '../errors.ts';
import type { YuvFrame } from '../media/yuv.ts';

export interface Picture {
  readonly yuv: YuvFrame;
  readonly rotation: VideoInfo['rotation'];
  /** Upright width / height as displayed. */
  readonly aspect: number;
  readonly fit: Clip['fit'];
}

const VERTEX = `#version 300 es
in vec2 corner;
void main() { gl_Position = vec4(corner, 0.0, 1.0); }`;

const HEAD = `#version 300 es
precision highp float;
precision highp int;
uniform vec2 size;      // output pixels
uniform float flip;     // -1: rows bottom first (screen), 1: top first (read back)
out vec4 result;
vec2 point() {
  vec2 q = gl_FragCoord.xy - size * 0.5;
  return vec2(q.x, q.y * flip) / size.y;
}
float fromLinear(float v) { return v <= 0.0 ? 0.0 : v <= 0.0031308 ? v * 12.92 : 1.055 * pow(v, 1.0 / 2.4) - 0.055; }
float toLinear(float v) { return v <= 0.04045 ? v / 12.92 : pow((v + 0.055) / 1.055, 2.4); }
`;

/** Intermediate textures are stored top row first; `flip` is 1 for them too. */
const DEVELOP = `${HEAD}
uniform sampler2D planeY, planeU, planeV;
uniform vec2 stored;    // luma pixels
uniform vec2 cover;     // share of the picture seen across the output, upright x and y
uniform mat2 turn;      // upright to stored
uniform vec3 range;     // yOffset, yScale, cScale
uniform vec4 matrix;    // rv, gu, gv, bu
uniform float detail;   // box samples a side, for shrinking
void main() {
  vec2 base = vec2(gl_FragCoord.x, gl_FragCoord.y) / size;
  float y = 0.0;
  float seen = 0.0;
  float n = max(1.0, detail);
  for (float j = 0.0; j < n; j += 1.0) for (float i = 0.0; i < n; i += 1.0) {
    vec2 at = base + (vec2(i, j) + 0.5 - n * 0.5) / n / size;
    vec2 q = turn * ((at - 0.5) * cover);
    if (abs(q.x) > 0.5 || abs(q.y) > 0.5) continue;
    vec2 uv = q + 0.5;
    y += texture(planeY, uv).r;
    seen += 1.0;
  }
  vec2 q = turn * ((base - 0.5) * cover);
  float shown = abs(q.x) > 0.5 || abs(q.y) > 0.5 ? 0.0 : seen / (n * n);
  // Chroma sits on the left luma column and between the rows (ITU-T H.264 annex E, type 0).
  vec2 luma = (q + 0.5) * stored;
  vec2 chroma = vec2(luma.x * 0.5 + 0.25, luma.y * 0.5) / floor((stored + 1.0) * 0.5);
  y = (y / max(seen, 1.0) - range.x) * range.y;
  float u = (texture(planeU, chroma).r - 128.0 / 255.0) * range.z;
  float v = (texture(planeV, chroma).r - 128.0 / 255.0) * range.z;
  vec3 rgb = clamp(vec3(y + matrix.x * v, y - matrix.y * u - matrix.z * v, y + matrix.w * u), 0.0, 1.0);
  result = vec4(vec3(toLinear(rgb.r), toLinear(rgb.g), toLinear(rgb.b)) * shown, 1.0);
}`;

const drawShader = (group: readonly string[], encode: boolean): string => `${HEAD}
uniform sampler2D below;
vec4 source(vec2 p) { return texture(below, vec2(p.x * size.y / size.x, p.y) + 0.5); }
${composeGlsl(group)}
void main() {
  vec4 c = picture(point());
  ${encode ? 'result = vec4(fromLinear(c.r), fromLinear(c.g), fromLinear(c.b), 1.0);' : 'result = c;'}
}`;

interface Program {
  readonly program: WebGLProgram;
  readonly locations: Map<string, WebGLUniformLocation | null>;
}

interface Target {
  readonly texture: WebGLTexture;
  readonly framebuffer: WebGLFramebuffer;
  readonly width: number;
  readonly height: number;
}

export class Renderer {
  private gl: WebGL2RenderingContext;
  private programs = new Map<string, Program>();
  private targets = new Map<string, Target>();
  private planes: WebGLTexture[] = [];
  private uploaded: YuvFrame | null = null;
  private lost = false;
  /** "half-float" or, where the extension is missing, "srgb-8-bit". */
  readonly precision: 'half-float' | 'srgb-8-bit';

  /** @throws EngineError where WebGL2 is missing. */
  constructor(readonly canvas: OffscreenCanvas, onRestored?: () => void) {
    const gl = canvas.getContext('webgl2', { alpha: false, antialias: false, depth: false, stencil: false, preserveDrawingBuffer: true });
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
    this.targets.clear();
    this.planes = [];
    this.uploaded = null;
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
    const compile = (type: number, text: string): WebGLShader => {
      const shader = gl.createShader(type)!;
      gl.shaderSource(shader, text);
      gl.compileShader(shader);
      if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS) && !gl.isContextLost()) {
        throw new EngineError('graphics', `An effect cannot be drawn here: ${gl.getShaderInfoLog(shader) ?? 'unknown reason'}`);
      }
      return shader;
    };
    const program = gl.createProgram()!;
    gl.attachShader(program, compile(gl.VERTEX_SHADER, VERTEX));
    gl.attachShader(program, compile(gl.FRAGMENT_SHADER, source()));
    gl.bindAttribLocation(program, 0, 'corner');
    gl.linkProgram(program);
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

  private target(name: string, width: number, height: number, kind: 'linear' | 'bytes'): Target {
    const old = this.targets.get(name);
    if (old && old.width === width && old.height === height) return old;
    const { gl } = this;
    if (old) {
      gl.deleteTexture(old.texture);
      gl.deleteFramebuffer(old.framebuffer);
    }
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
    const made = { texture, framebuffer, width, height };
    this.targets.set(name, made);
    return made;
  }

  private upload(yuv: YuvFrame): void {
    if (this.uploaded === yuv) return;
    const { gl } = this;
    const same = this.uploaded && this.uploaded.width === yuv.width && this.uploaded.height === yuv.height;
    const cw = (yuv.width + 1) >> 1;
    const ch = (yuv.height + 1) >> 1;
    const area = yuv.width * yuv.height;
    gl.pixelStorei(gl.UNPACK_ALIGNMENT, 1);
    const sizes = [[yuv.width, yuv.height, 0], [cw, ch, area], [cw, ch, area + cw * ch]] as const;
    sizes.forEach(([width, height, at], i) => {
      if (!same) {
        if (this.planes[i]) gl.deleteTexture(this.planes[i]!);
        this.planes[i] = gl.createTexture()!;
      }
      gl.activeTexture(gl.TEXTURE0 + i);
      gl.bindTexture(gl.TEXTURE_2D, this.planes[i]!);
      const bytes = yuv.data.subarray(at, at + width * height);
      if (same) gl.texSubImage2D(gl.TEXTURE_2D, 0, 0, 0, width, height, gl.RED, gl.UNSIGNED_BYTE, bytes);
      else {
        gl.texImage2D(gl.TEXTURE_2D, 0, gl.R8, width, height, 0, gl.RED, gl.UNSIGNED_BYTE, bytes);
        for (const [name, value] of [[gl.TEXTURE_MIN_FILTER, gl.LINEAR], [gl.TEXTURE_MAG_FILTER, gl.LINEAR], [gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE], [gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE]] as const) {
          gl.texParameteri(gl.TEXTURE_2D, name, value);
        }
      }
    });
    this.uploaded = yuv;
  }

  private develop(picture: Picture, width: number, height: number): Target {
    const { gl } = this;
    const entry = this.program('develop', () => DEVELOP);
    const target = this.target('developed', width, height, 'linear');
    gl.useProgram(entry.program);
    this.upload(picture.yuv);
    ['planeY', 'planeU', 'planeV'].forEach((name, i) => {
      gl.activeTexture(gl.TEXTURE0 + i);
      gl.bindTexture(gl.TEXTURE_2D, this.planes[i]!);
      gl.uniform1i(this.locate(entry, name), i);
    });
    const k = yuvCoefficients(picture.yuv.colour);
    const out = width / height;
    const wide = picture.aspect > out;
    // `fit` shows the whole picture with bars, `fill` the whole output with the rest cut away.
    const cover = (picture.fit === 'fit') === wide ? [1, picture.aspect / out] : [out / picture.aspect, 1];
    const angle = (-picture.rotation * Math.PI) / 180;
    const [c, s] = [Math.round(Math.cos(angle)), Math.round(Math.sin(angle))];
    const upright = picture.rotation % 180 ? picture.yuv.height : picture.yuv.width;
    this.set(entry, 'size', [width, height]);
    this.set(entry, 'stored', [picture.yuv.width, picture.yuv.height]);
    this.set(entry, 'cover', cover);
    gl.uniformMatrix2fv(this.locate(entry, 'turn'), false, [c, s, -s, c]);
    this.set(entry, 'range', [k.yOffset, k.yScale, k.cScale]);
    this.set(entry, 'matrix', [k.rv, k.gu, k.gv, k.bu]);
    this.set(entry, 'detail', Math.min(4, Math.ceil((upright * cover[0]!) / width - 0.01) > 1 ? 2 * Math.ceil(((upright * cover[0]!) / width) / 3) : 1));
    this.drawTo(target.framebuffer, width, height);
    return target;
  }

  private drawTo(framebuffer: WebGLFramebuffer | null, width: number, height: number): void {
    const { gl } = this;
    gl.bindFramebuffer(gl.FRAMEBUFFER, framebuffer);
    gl.viewport(0, 0, width, height);
    gl.drawArrays(gl.TRIANGLES, 0, 3);
  }

  private render(picture: Picture | null, passes: readonly Pass[], width: number, height: number, into: WebGLFramebuffer | null): void {
    const { gl } = this;
    if (!picture) {
      gl.bindFramebuffer(gl.FRAMEBUFFER, into);
      gl.clearColor(0, 0, 0, 1);
      gl.clear(gl.COLOR_BUFFER_BIT);
      return;
    }
    let below = this.develop(picture, width, height);
    const groups = drawGroups(passes);
    if (!groups.length) groups.push([]);
    groups.forEach((group, g) => {
      const last = g === groups.length - 1;
      const ids = group.map((pass) => pass.effect);
      const entry = this.program(`${ids.join('+')}${last ? '>' : ''}`, () => drawShader(ids, last));
      const target = last ? null : this.target(`work${g % 2}`, width, height, 'linear');
      gl.useProgram(entry.program);
      gl.activeTexture(gl.TEXTURE0);
      gl.bindTexture(gl.TEXTURE_2D, below.texture);
      gl.uniform1i(this.locate(entry, 'below'), 0);
      this.set(entry, 'size', [width, height]);
      this.set(entry, 'flip', last && into === null ? -1 : 1);
      group.forEach((pass, i) => {
        for (const name of Object.keys(EFFECTS.get(pass.effect)!.uniforms)) this.set(entry, `u${i}.${name}`, pass.uniforms[name] ?? 0);
      });
      this.drawTo(target ? target.framebuffer : into, width, height);
      if (target) below = target;
    });
  }

  /** Draws onto the canvas, which takes the given size. */
  show(picture: Picture | null, passes: readonly Pass[], width: number, height: number): void {
    if (this.canvas.width !== width || this.canvas.height !== height) {
      this.canvas.width = width;
      this.canvas.height = height;
    }
    this.render(picture, passes, width, height, null);
  }

  /** Draws aside and reads back: RGBA rows, top first. @throws EngineError when the context is lost. */
  read(picture: Picture | null, passes: readonly Pass[], width: number, height: number): Uint8ClampedArray<ArrayBuffer> {
    const { gl } = this;
    if (!this.ready) throw new EngineError('graphics', 'The graphics context was lost.');
    const most = gl.getParameter(gl.MAX_TEXTURE_SIZE) as number;
    if (width > most || height > most) throw new EngineError('graphics', `The graphics unit draws at most ${most} pixels a side; ${width}x${height} was asked for.`);
    const target = this.target('bytes', width, height, 'bytes');
    this.render(picture, passes, width, height, target.framebuffer);
    const bytes = new Uint8ClampedArray(width * height * 4);
    gl.bindFramebuffer(gl.FRAMEBUFFER, target.framebuffer);
    gl.readPixels(0, 0, width, height, gl.RGBA, gl.UNSIGNED_BYTE, bytes);
    return bytes;
  }

  /** For tests: loses the context and brings it back after `ms`. */
  loseContext(ms: number): void {
    const extension = this.gl.getExtension('WEBGL_lose_context');
    extension?.loseContext();
    setTimeout(() => extension?.restoreContext(), ms);
  }
}
