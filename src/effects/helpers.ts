/** What the effects share: small helpers for declarations and for the CPU side. */
import type { Box, EffectContext, Image, ParamSpec, Uniforms } from '../core/accents/effect-spec.ts';
import { toLinear } from '../core/base/colour.ts';

export const num = (u: Uniforms, name: string): number => u[name] as number;
export const vec = (u: Uniforms, name: string): readonly number[] => u[name] as readonly number[];
export const radians = (degrees: number): number => (degrees * Math.PI) / 180;

/** A 24-bit seed, which a float uniform carries exactly. */
export const seed24 = (h: number): number => h >>> 8;

/** Where a `move` reads the picture: writes the point for (x, y) into `q`. */
export type Read = (x: number, y: number, q: [number, number]) => void;

export const moved = (read: Read, source: Image): Image => {
  const q: [number, number] = [0, 0];
  return (x, y, out) => {
    read(x, y, q);
    source(q[0], q[1], out);
  };
};

/** The box that holds a box's corners after a straight mapping. */
export function straightReads(read: Read, box: Box): Box {
  const q: [number, number] = [0, 0];
  const xs: number[] = [];
  const ys: number[] = [];
  for (const [x, y] of [
    [box.left, box.top],
    [box.right, box.top],
    [box.left, box.bottom],
    [box.right, box.bottom],
  ] as const) {
    read(x, y, q);
    xs.push(q[0]);
    ys.push(q[1]);
  }
  return { left: Math.min(...xs), top: Math.min(...ys), right: Math.max(...xs), bottom: Math.max(...ys) };
}

export const grown = (box: Box, x: number, y: number): Box => ({
  left: box.left - x,
  top: box.top - y,
  right: box.right + x,
  bottom: box.bottom + y,
});

/** Which turn of `every` frames it is, from the accent's first frame on. */
export const turnOf = ({ age, lead }: Pick<EffectContext, 'age' | 'lead'>, every: number): number =>
  Math.floor((age + lead) / Math.max(1, Math.round(every)) + 1e-9);

/** A direction in degrees, clockwise from the right. */
export const heading = (degrees: number): [number, number] => [Math.cos(radians(degrees)), Math.sin(radians(degrees))];

/** The displayed colour of {@link colourOf}'s parameters as light. */
export const lightOf = (p: Readonly<Record<string, number>>, gain = 1): [number, number, number] => [
  toLinear(p['red']! / 100) * gain,
  toLinear(p['green']! / 100) * gain,
  toLinear(p['blue']! / 100) * gain,
];

/** For effects that have no kernel of their own: others draw them, or they ask for other frames. */
export const NO_KERNEL = {
  stage: 'sample',
  taps: 1,
  glsl: '',
  reference: (_: Uniforms, source: Image): Image => source,
} as const;

/** Common parameters, said once. A share of an effect that is nothing at 0. */
export const share = (label: string, doc: string, extra: Partial<ParamSpec> = {}): ParamSpec => ({
  label,
  unit: '%',
  min: 0,
  max: 100,
  default: 0,
  identity: 0,
  doc,
  ...extra,
});
/** A share that by itself does nothing either way. */
export const portion = (label: string, doc: string, initial = 0): ParamSpec => ({
  label,
  unit: '%',
  min: 0,
  max: 100,
  default: initial,
  doc,
});
export const placeX = (what: string): ParamSpec => ({
  label: `${what} x`,
  unit: '%',
  min: -100,
  max: 100,
  default: 0,
  mirrors: 'sign',
  place: 'x',
  doc: `${what} right of the middle, in % of the frame height.`,
});
export const placeY = (what: string): ParamSpec => ({
  label: `${what} y`,
  unit: '%',
  min: -50,
  max: 50,
  default: 0,
  place: 'y',
  doc: `${what} below the middle, in % of the frame height.`,
});
export const colourOf = (red: number, green: number, blue: number): Record<'red' | 'green' | 'blue', ParamSpec> => ({
  red: partOfColour('red', red),
  green: partOfColour('green', green),
  blue: partOfColour('blue', blue),
});
const partOfColour = (colour: 'red' | 'green' | 'blue', initial: number): ParamSpec => {
  const label = colour[0]!.toUpperCase() + colour.slice(1);
  return { label, unit: '%', min: 0, max: 100, default: initial, colour, doc: `${label} of the colour, as displayed.` };
};
export const angleOf = (doc: string): ParamSpec => ({
  label: 'Angle',
  unit: '°',
  min: -3600,
  max: 3600,
  default: 0,
  mirrors: 'angle',
  doc,
});
