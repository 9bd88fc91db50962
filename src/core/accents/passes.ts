/** One accent at one frame: every parameter resolved to numbers, every random value drawn. */
import type { ColourTable } from '../document/types.ts';
import { scaleFrames } from './envelope.ts';
import { summed, valueAt, type Moment } from './generators.ts';
import { hash, seedOf, signed } from '../base/hash.ts';
import { applied, scaleOf, turnOf, type Similarity } from '../base/similarity.ts';
import { maskAt, type Mask } from './region.ts';
import type { Copy, EffectContext, EffectRegistry, EffectSpec, ParamSpec, Uniforms } from './effect-spec.ts';
import { repeatCount, repeatOf, type PreparedAccent, type PreparedUse } from './prepare.ts';

/** One effect with everything resolved to numbers, whatever the size of the picture. */
export interface Pass {
  readonly effect: string;
  readonly uniforms: Uniforms;
  readonly mask?: Mask | undefined;
  readonly table?: ColourTable | undefined;
  readonly edge?: 'clamp' | undefined;
  readonly copies?: readonly PassCopy[];
  readonly shutter?: OpenShutter;
  /** Stacks drawn on what lies below, one for each moment of an open shutter: their mean is shown. */
  readonly moments?: readonly (readonly Pass[])[];
}

/** Another frame laid over: `shift` output frames later, and what is done to it. */
export interface PassCopy {
  readonly shift: number;
  /** Its place in the plan's list of other pictures. */
  readonly picture: number;
  readonly passes: readonly Pass[];
  /** Only the subject of it is wanted. */
  readonly subject?: boolean;
  /** A frame of another source is wanted. */
  readonly layer?: NonNullable<Copy['layer']> & { readonly source: string };
  /** The matte of that subject, in the same list, and what is done to it. */
  readonly matte?: { readonly picture: number; readonly passes: readonly Pass[] };
  /** What is behind that subject, and what is done to it. */
  readonly behind?: { readonly picture: number; readonly passes: readonly Pass[] };
}

/** What is drawn at several moments of one frame. */
export interface OpenShutter {
  readonly effects: readonly string[];
  /** Frames the shutter is open, around the middle of the frame. */
  readonly open: number;
  /** Uniforms of each effect `offset` frames away; null where it does nothing then. */
  at(offset: number): readonly (Uniforms | null)[];
}

export interface PlacementContext {
  readonly intensity: number;
  readonly seed: number;
  readonly fps: number;
  readonly mirror: boolean;
  readonly run: Moment['run'];
  /** Where the hit's focus is at an age, frame heights from the middle of the output; absent: it has none. */
  readonly focus?: ((age: number) => readonly [number, number]) | undefined;
  /** How everything with a place has gone with what it is pinned to, frame heights from the middle. */
  readonly gone?: ((age: number) => Similarity | null) | undefined;
}

export const SINGLE_RUN: Moment['run'] = { index: 0, count: 1, length: 0 };

export interface Resolved {
  readonly passes: Pass[];
  /** Output frames by which another frame is shown. */
  readonly shift: number;
}

const NOTHING: Resolved = { passes: [], shift: 0 };

/** What a value becomes at an intensity, mirrored and within its limits. */
function limited(value: number, spec: ParamSpec, intensity: number, mirror: boolean): number {
  let v = Number.isFinite(value) ? value : spec.default;
  if (spec.identity !== undefined && spec.scales !== false) v = spec.identity + (v - spec.identity) * intensity;
  if (mirror && spec.mirrors === 'sign') v = -v;
  if (mirror && spec.mirrors === 'angle') v = 180 - v;
  return within(v, spec);
}

interface Place extends PlacementContext {
  readonly lead: number;
  readonly tail: number;
  readonly perFrame: number;
  readonly effects: EffectRegistry;
}

const within = (value: number, { min, max }: ParamSpec): number => Math.min(max, Math.max(min, value));

/** Places among the values, and what turns and grows with them, where what they are pinned to has taken them. */
function pinnedValues(values: Record<string, number>, spec: EffectSpec, gone: Similarity): void {
  const params = Object.entries(spec.params);
  const [x, y] = (['x', 'y'] as const).map((axis) => params.find(([, { place }]) => place === axis)?.[0]);
  const to = applied(gone, { x: x ? values[x]! / 100 : 0, y: y ? values[y]! / 100 : 0 });
  if (x) values[x] = 100 * to.x;
  if (y) values[y] = 100 * to.y;
  for (const [name, { pinned }] of params) {
    if (pinned === 'size') values[name]! *= scaleOf(gone);
    if (pinned === 'turn') values[name]! += (180 / Math.PI) * turnOf(gone);
  }
  for (const [name, param] of params) if (param.unit !== 'frames') values[name] = within(values[name]!, param);
}

/** Parameters of one use at an age, and the context its effect resolves them in. */
function valuesAt(
  use: PreparedUse,
  spec: EffectSpec,
  age: number,
  place: Place,
): { values: Record<string, number>; context: EffectContext } {
  const seed = hash(place.seed, use.seed);
  const moment = (name: string, param: ParamSpec): Moment => ({
    age,
    first: -place.lead,
    fps: place.fps,
    seed: hash(seed, seedOf(name)),
    run: place.run,
    plain: param.identity ?? param.default,
  });
  const [focusX, focusY] = (use.focus && place.focus?.(age)) || [0, 0];
  const gone = place.gone?.(age);
  const values: Record<string, number> = {};
  for (const [name, param] of Object.entries(spec.params)) {
    const set = use.params[name];
    const value = limited(
      set === undefined ? param.default : typeof set === 'number' ? set : valueAt(set, moment(name, param)),
      param,
      place.intensity,
      place.mirror,
    );
    const from = param.place === 'x' ? focusX : param.place === 'y' ? focusY : 0;
    values[name] =
      param.unit === 'frames'
        ? scaleFrames(value, place.perFrame)
        : gone
          ? value + 100 * from
          : within(value + 100 * from, param);
  }
  if (gone) pinnedValues(values, spec, gone);
  const context: EffectContext = {
    seed,
    age,
    lead: place.lead,
    tail: place.tail,
    fps: place.fps,
    summed: (name) => {
      const param = spec.params[name]!;
      // What holds for the value holds for its mean so far: intensity, side and limits.
      const seconds = Math.max(1e-9, (age + place.lead) / place.fps);
      const sum = summed(use.params[name] ?? param.default, moment(name, param)) / place.fps;
      return limited(sum / seconds, param, place.intensity, place.mirror) * seconds;
    },
  };
  return { values, context };
}

/** A use and its repeats: each copy begins later, runs at its own pace and has its own strength. */
function* repeats(use: PreparedUse): Generator<{ at: (age: number) => number; strength: number }> {
  yield { at: (age) => age, strength: 1 };
  for (let i = 1; i <= repeatCount(use.repeat); i++) {
    const { later, pace } = repeatOf(use.repeat!, i);
    yield { at: (age) => (age - later) / pace, strength: use.repeat!.strength ** i };
  }
}

/** Moments at which an open shutter draws what is more than one kernel each. */
const MOMENTS = 8;

/** The same stack at several moments of an open shutter. */
const momentsOf = (uses: readonly PreparedUse[], age: number, open: number, place: Place): (readonly Pass[])[] =>
  Array.from({ length: MOMENTS }, (_, i) => resolveUses(uses, age + ((i + 0.5) / MOMENTS - 0.5) * open, place).passes);

/** Whether anything is drawn otherwise at one moment than at another. */
function differ(moments: readonly (readonly Pass[])[]): boolean {
  const [first, ...rest] = moments.map((moment) =>
    JSON.stringify(moment, (name, value: unknown) => (name === 'table' ? 0 : value)),
  );
  return rest.some((other) => other !== first);
}

const openOn = (
  drawn: readonly { readonly effect: string; at: (offset: number) => Uniforms | null }[],
  open: number,
): Pick<Pass, 'shutter' | 'moments'> => ({
  shutter: { effects: drawn.map((d) => d.effect), open, at: (offset) => drawn.map((d) => d.at(offset)) },
});

function resolveUses(uses: readonly PreparedUse[], age: number, place: Place): Resolved {
  const passes: Pass[] = [];
  let shift = 0;
  /** Draws since the last shutter, for as long as each is of one kernel: a shutter draws these at many moments at once. */
  let drawn: { effect: string; at: (offset: number) => Uniforms | null }[] | null = [];
  let below: PreparedUse[] = [];
  let since = 0;
  for (const use of uses) {
    const spec = place.effects.get(use.effect);
    if (!spec || !use.on) continue;
    for (const repeat of repeats(use)) {
      const here = { ...place, intensity: place.intensity * repeat.strength };
      /** Null where the effect does nothing. */
      const resolve = (moment: number) => {
        const at = repeat.at(moment);
        if (at < -place.lead || at > place.tail) return null;
        const { values, context } = valuesAt(use, spec, at, here);
        const uniforms = spec.resolve(values, context);
        return uniforms && { uniforms, values, context };
      };
      const now = resolve(age);
      if (spec.retime) {
        if (now) shift += spec.retime(now.values, now.context);
        continue;
      }
      if (spec.shutter) {
        const open = now ? spec.shutter(now.values) : 0;
        if (now && open > 0 && below.length) {
          const opened = drawn ? openOn(drawn, open) : { moments: momentsOf(below, age, open, place) };
          if (!opened.moments || differ(opened.moments))
            passes.splice(since, passes.length - since, { effect: spec.id, uniforms: now.uniforms, ...opened });
        }
        [drawn, below, since] = [[], [], passes.length];
        continue;
      }
      if (below.at(-1) !== use) below.push(use);
      // Without a source of its own there is nothing to lay over.
      if (spec.source && use.source === undefined) continue;
      const wanted = now ? (spec.copies?.(now.values, now.context) ?? []) : [];
      // What its own kernel draws, and nothing else.
      const simple = spec.glsl !== '' && !spec.table && !use.region.length && !spec.copies;
      if (!simple) drawn = null;
      else
        drawn?.push({
          effect: spec.id,
          at: (offset) => (offset === 0 ? now : resolve(age + offset))?.uniforms ?? null,
        });
      if (!now) continue;
      const onCopies = wanted.length ? resolveUses(use.stack, age, place).passes : [];
      passes.push({
        effect: spec.id,
        uniforms: now.uniforms,
        ...(use.region.length && {
          mask: maskAt(use.region, repeat.at(age), place.focus?.(age), place.gone?.(age)),
        }),
        ...(wanted.length && {
          copies: wanted.map(({ shift: later, subject, layer }) => ({
            shift: later,
            picture: -1,
            passes: onCopies,
            ...(subject && { subject }),
            ...(layer && { layer: { ...layer, source: use.source! } }),
          })),
        }),
        ...(use.table && { table: use.table }),
      });
    }
  }
  return { passes, shift };
}

/**
 * Passes of one accent `age` frames from its hit, in drawing order. Parameters that follow
 * intensity move from their identity; all are clamped to their limits. Unknown effects are skipped.
 */
export function accentPasses(
  accent: PreparedAccent,
  age: number,
  context: PlacementContext,
  effects: EffectRegistry,
): Resolved {
  if (age < -accent.before || age > accent.after || context.intensity <= 0) return NOTHING;
  return resolveUses(accent.effects, age, {
    ...context,
    lead: accent.lead,
    tail: accent.tail,
    perFrame: accent.perFrame,
    effects,
  });
}

/** All parameters of one use at an age, as they are drawn, places without the hit's focus: what a ladder shows. */
export function shownValues(
  accent: PreparedAccent,
  use: PreparedUse,
  age: number,
  context: PlacementContext,
  effects: EffectRegistry,
): Readonly<Record<string, number>> {
  const spec = effects.get(use.effect);
  return spec
    ? valuesAt(use, spec, age, {
        ...context,
        focus: undefined,
        gone: undefined,
        lead: accent.lead,
        tail: accent.tail,
        perFrame: 1,
        effects,
      }).values
    : {};
}

/** Random spread of an intensity about its value. */
export const spreadIntensity = (intensity: number, spread: number, seed: number): number =>
  Math.max(0, intensity * (1 + spread * signed(hash(seed, 991))));
