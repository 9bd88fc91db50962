/** What an effect declares about itself. Panels, uniforms, checks and docs are derived from it. */
import type { ColourTable } from '../document/types.ts';
import type { Mask } from './region.ts';

export type Unit = '%' | '°' | 'stops' | 'Hz' | '%/s' | 'frames' | 'ratio' | 'choice';

export interface ParamSpec {
  readonly label: string;
  readonly unit: Unit;
  /** Limits, both inclusive. Values past them are clamped. */
  readonly min: number;
  readonly max: number;
  readonly default: number;
  /** The value at which this parameter alone does nothing. */
  readonly identity?: number;
  /** False: intensity leaves it alone though it has an identity (a hue, a turn by half). */
  readonly scales?: false;
  /** What left-right mirroring of a placement does to it: the sign changes, or an angle is mirrored. */
  readonly mirrors?: 'sign' | 'angle';
  /** A place in the picture along an axis: it may count from the hit's focus instead of the middle. */
  readonly place?: 'x' | 'y';
  /** What of it goes along with what a bed is pinned to, beside its place. */
  readonly pinned?: 'turn' | 'size';
  /** A part of one colour, which is chosen by eye as a whole. */
  readonly colour?: 'red' | 'green' | 'blue';
  /** A distance travelled: how fast it changes is shown beside it. */
  readonly travels?: true;
  /** Names for whole numbers from 0 on, for `choice`. */
  readonly choices?: readonly string[];
  readonly doc: string;
}

/** Numbers handed to the shader and to the CPU reference: a scalar or a 2-4 vector per name. */
export type Uniforms = Readonly<Record<string, number | readonly number[]>>;

/** All an effect may know beside its parameters. */
export interface EffectContext {
  readonly seed: number;
  /** Output frames since the hit; negative before it; fractions while a shutter is open. */
  readonly age: number;
  /** Frames the accent reaches before and after the hit at the montage's rate. */
  readonly lead: number;
  readonly tail: number;
  /** Output frames a second. */
  readonly fps: number;
  /** A parameter summed over the seconds since the accent's first frame: the phase of a rate. */
  summed(param: string): number;
}

/** Linear-light RGBA, premultiplied, written into `out`. Points in frame heights from the middle. */
export type Image = (x: number, y: number, out: Float64Array) => void;

/** The frame that is drawn, in pixels. */
export interface View {
  readonly width: number;
  readonly height: number;
}

/** A rectangle in frame heights from the middle. */
export interface Box {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
}

/**
 * `move`   changes where the picture is read: vec2 EFFECT(U u, vec2 p)
 * `colour` changes a colour in its place:     vec4 EFFECT(U u, vec4 c, vec2 p)
 * `sample` reads the picture several times:   vec4 EFFECT(U u, vec2 p), the picture being SRC(q)
 *
 * Points are in units of the frame height, origin in the middle, x right, y down. A kernel with
 * layers also reads LAYER0(q) and so on; one with a table reads TABLE(vec3). ASPECT is width / height.
 */
export type Stage = 'move' | 'colour' | 'sample';

/** A shader and the same maths on the CPU. */
export interface Kernel {
  readonly id: string;
  readonly stage: Stage;
  /** Uniform names with their sizes, in the order of the GLSL struct. */
  readonly uniforms: Readonly<Record<string, 1 | 2 | 3 | 4>>;
  /** How often the picture below is read for one output pixel. */
  readonly taps: number;
  readonly table?: true;
  /** Functions it calls, written once a shader however many kernels share them. */
  readonly prelude?: string;
  /** Body of the function EFFECT for the stage. May use what all shaders share. */
  readonly glsl: string;
  reference(
    u: Uniforms,
    source: Image,
    extra: {
      readonly layers: readonly Image[];
      readonly view: View;
      readonly table: ((rgb: Float64Array) => void) | null;
    },
  ): Image;
  /** `move`: what of the picture below is read, at the most, to show a box. Absent: the box itself. */
  reads?(u: Uniforms, box: Box, aspect: number): Box;
}

/** A kernel drawn with everything resolved, at a size known. */
export interface Step {
  readonly kernel: string;
  readonly uniforms: Uniforms;
  readonly layers?: readonly Layer[];
  readonly mask?: Mask | undefined;
  readonly table?: ColourTable | undefined;
  /** Size of what is drawn as a share of the output's width and height; full where absent. */
  readonly scale?: readonly [number, number];
  /** What lies past the border of what is read: an endless mirror where absent. */
  readonly edge?: 'clamp' | undefined;
  /** An open shutter's: effects and their uniforms at each moment, null where one does nothing. */
  readonly moments?: {
    readonly effects: readonly string[];
    readonly uniforms: readonly (readonly (Uniforms | null)[])[];
  };
}

/** A picture beside the one below: another source frame by its number in the plan, or the one below again. */
export interface Layer {
  readonly picture: number | 'below';
  readonly steps: readonly Step[];
  /** It says how far the layer before it belongs to the subject. */
  readonly matte?: true;
}

export type EffectGroup = 'move' | 'colour' | 'light' | 'time';

/** A copy of another frame: how many output frames later it is (negative: earlier). */
export interface Copy {
  readonly shift: number;
  /** Only the subject of it, where its source has one. */
  readonly subject?: boolean;
  /** The use's own source instead, so many seconds after its beginning, over and over; whole, or cut to the output's shape. */
  readonly layer?: { readonly seconds: number; readonly whole: boolean };
}

type Values = Readonly<Record<string, number>>;

export interface EffectSpec extends Kernel {
  readonly version: number;
  readonly name: string;
  readonly group: EffectGroup;
  readonly doc: string;
  /** Other words that people look for it by. */
  readonly also?: string;
  readonly params: Readonly<Record<string, ParamSpec>>;
  /** Values for the shelf picture, and how many frames it moves. */
  readonly thumbnail: Values;
  /** Resolves parameters and randomness into uniforms; null where the effect is the identity. */
  resolve(params: Values, context: EffectContext): Uniforms | null;
  /** Where one kernel is not enough: the steps that draw it. `self` is the effect's own step. */
  expand?(u: Uniforms, view: View, self: Step): readonly Step[];
  /** Shows another frame: how many output frames later (negative: earlier). */
  retime?(params: Values, context: EffectContext): number;
  /** It shows a source that each use names. */
  readonly source?: true;
  /** Other frames laid over the picture, each with the effect's own stack on it. */
  copies?(params: Values, context: EffectContext): readonly Copy[];
  /** Tone curves that are drawn as such: the parameters of the points of each, evenly from black to white, in %. */
  readonly tone?: {
    readonly curves: readonly { readonly name: string; readonly params: readonly string[] }[];
    /** What a displayed value 0-1 becomes through points 0-1. */
    at(value: number, points: readonly number[]): number;
  };
  /** True where its copies are only measured: none is laid over, so no stack is drawn on them. */
  readonly measures?: true;
  /** The uniforms by which it enlarges the picture about its middle by a factor; one effect is asked to hide borders. */
  enlarge?(factor: number): Uniforms;
  /** Values that a new one has, where they are other than those of its shelf picture. */
  readonly fresh?: Values;
  /** Effects that its shelf picture needs below it to show anything. */
  readonly thumbnailBelow?: readonly { readonly effect: string; readonly params: Values }[];
  /** How long the shutter is open, in frames: what lies below in the accent is drawn at several moments. */
  shutter?(params: Values): number;
}

/** Whether it has a place in the picture that may go by the hit's focus. */
export const hasPlace = ({ params }: Pick<EffectSpec, 'params'>): boolean =>
  Object.values(params).some(({ place }) => place !== undefined);

/** Whether it has a colour that is chosen as a whole. */
export const hasColour = ({ params }: Pick<EffectSpec, 'params'>): boolean =>
  Object.values(params).some(({ colour }) => colour !== undefined);

export type EffectRegistry = ReadonlyMap<string, EffectSpec>;
