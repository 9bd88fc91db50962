/** What an effect declares about itself. Panels, uniforms, checks and docs are derived from it. */

export type Unit = '%' | '°' | 'stops' | 'Hz' | 'frames' | 'ratio' | 'choice';

export interface ParamSpec {
  readonly label: string;
  readonly unit: Unit;
  /** Limits, both inclusive. Values past them are clamped. */
  readonly min: number;
  readonly max: number;
  readonly default: number;
  /** The value at which this parameter alone does nothing. Only such parameters follow intensity. */
  readonly identity?: number;
  /** Names for whole numbers from 0 on, for `choice`. */
  readonly choices?: readonly string[];
  readonly doc: string;
}

/** Numbers handed to the shader and to the CPU reference: a scalar or a 2-4 vector per name. */
export type Uniforms = Readonly<Record<string, number | readonly number[]>>;

/** All an effect may know beside its parameters. */
export interface EffectContext {
  readonly seed: number;
  /** Output frames since the hit; negative before it. */
  readonly age: number;
  /** Frames the accent reaches before and after the hit at the montage's rate. */
  readonly lead: number;
  readonly tail: number;
  /** Output frames a second. */
  readonly fps: number;
}

/** Linear-light RGBA, premultiplied, written into `out`. */
export type Image = (x: number, y: number, out: Float64Array) => void;

/**
 * `move`   changes where the picture is read: vec2 EFFECT(U u, vec2 p)
 * `colour` changes a colour in its place:     vec4 EFFECT(U u, vec4 c, vec2 p)
 * `sample` reads the picture several times:   vec4 EFFECT(U u, vec2 p), the picture being SRC(q)
 *
 * Points are in units of the frame height, origin in the middle, x right, y down.
 */
export type Stage = 'move' | 'colour' | 'sample';

export interface EffectSpec {
  readonly id: string;
  readonly version: number;
  readonly name: string;
  readonly doc: string;
  readonly stage: Stage;
  readonly params: Readonly<Record<string, ParamSpec>>;
  /** Uniform names with their sizes, in the order of the GLSL struct. */
  readonly uniforms: Readonly<Record<string, 1 | 2 | 3 | 4>>;
  /** How often the picture below is read for one output pixel. */
  readonly taps: number;
  /** Values for the shelf picture, and how many frames it moves. */
  readonly thumbnail: Readonly<Record<string, number>>;
  /** Resolves parameters and randomness into uniforms; null where the effect is the identity. */
  resolve(params: Readonly<Record<string, number>>, context: EffectContext): Uniforms | null;
  /** Body of the function EFFECT for the stage. May use pcg2() of the shared prelude. */
  readonly glsl: string;
  /** The same maths on the CPU. */
  reference(u: Uniforms, source: Image): Image;
}

export type EffectRegistry = ReadonlyMap<string, EffectSpec>;
