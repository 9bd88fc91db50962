/**
 * Accents of our own that ship with Akmeon, each chosen by eye on the demo. Numbers: common practice,
 * no source (a punch rises in 1-3 frames to 108-150 % and falls back in 3-10; an impact lasts about 16
 * frames; decaying shakes end in about 10; jitter alternates single frames inside a 110 % enlargement;
 * a flash lifts 3 stops; a join is broken up 4 frames either side).
 */
import {
  type Accent,
  type Easing,
  type EffectUse,
  type Generator,
  type Key,
  DEFAULT_ACCENT,
  type Param,
  type AccentSound,
  type LaneMove,
  DEFAULT_SOUND,
  type Ramp,
} from '../core/document/types.ts';
import { hasPlace } from '../core/accents/effect-spec.ts';
import { EFFECTS } from './index.ts';

type Point = [at: number, value: number, ease?: Easing];
const keys = (...points: Point[]): Key[] => points.map(([at, value, ease = 'linear']) => ({ at, value, ease }));
const held = (...points: [at: number, value: number][]): Key[] =>
  keys(...points.map(([at, value]): Point => [at, value, 'hold']));
const by = (base: Param, generator: Generator): Param => ({ base: base as Key[], by: generator });

const use = (id: string, effect: string, params: Record<string, Param>, more: Partial<EffectUse> = {}): EffectUse => ({
  id,
  effect,
  version: EFFECTS.get(effect)!.version,
  on: true,
  ...(hasPlace(EFFECTS.get(effect)!) && { focus: true }),
  params,
  ...more,
});

const MADE_AT = { num: 30, den: 1 };
const accent = (
  id: string,
  name: string,
  lead: number,
  tail: number,
  seed: number,
  effects: EffectUse[],
  more: Partial<Accent> = {},
): Accent => ({ ...DEFAULT_ACCENT, id, name, rate: MADE_AT, lead, tail, seed, effects, ...more });

type Sounded = Partial<Pick<AccentSound, 'moment' | 'place' | 'length' | 'spreadGain' | 'spreadPitch'>>;
/** One of the sounds that Akmeon makes, at so many decibels; of several one after the other. */
const sound = (id: string, made: string | readonly string[], gain: number, more: Sounded = {}): AccentSound => ({
  ...DEFAULT_SOUND,
  id,
  choices: [made].flat().map((one) => ({ made: one, params: {} })),
  gain,
  spreadGain: 1.5,
  spreadPitch: 0.7,
  ...more,
});
/** Lowers or filters the music about the hit. */
const music = (
  id: string,
  change: LaneMove['change'],
  amount: number,
  [begins, attack, hold, release]: readonly [number, number, number, number],
): LaneMove => ({ id, on: true, lane: 'music', change, amount, begins, attack, hold, release });

/** Speeds in percent, each for so many frames, the first so many frames before the hit. */
const ramp = (before: number, ...steps: [percent: number, frames: number][]): Ramp => ({
  before,
  steps: steps.map(([percent, frames]) => ({ speed: percent / 100, frames })),
  smooth: false,
  gained: 'kept',
  most: 2,
  between: 'blended',
  sound: 'follows',
});

export const STARTER_ACCENTS: readonly Accent[] = [
  accent(
    'harbour-knock',
    'Harbour knock',
    2,
    10,
    11,
    [
      use('hk1', 'punch', {
        zoom: keys([-2, 100, 'slow out'], [0, 124, 'fast out'], [8, 100]),
        roll: keys([-1, 0], [0, 2.5, 'fast out'], [7, 0]),
      }),
      use('hk2', 'shake', {
        x: keys([-1, 0], [0, 3, 'fast out'], [10, 0]),
        y: keys([-1, 0], [0, 4, 'fast out'], [10, 0]),
        rateX: 14,
        rateY: 17,
      }),
    ],
    { sounds: [sound('hk-s', 'knock', -9)] },
  ),
  accent(
    'lantern-burst',
    'Lantern burst',
    1,
    8,
    23,
    [
      use('lb1', 'flash', { exposure: keys([-1, 0, 'linear'], [0, 3, 'fast out'], [7, 0]) }),
      use('lb2', 'split', { amount: keys([-1, 0], [0, 2.4, 'fast out'], [8, 0]), mode: 1, falloff: 60 }),
      use('lb3', 'punch', { zoom: keys([-1, 100], [0, 112, 'fast out'], [6, 100]) }),
    ],
    { sounds: [sound('lb-s', ['boom', 'knock', 'snap'], -14)] },
  ),
  accent(
    'splinter',
    'Splinter',
    1,
    6,
    37,
    [
      use('sp1', 'blocks', {
        amountX: held([-1, 0], [0, 16], [2, 9], [4, 4], [6, 0]),
        amountY: keys([-1, 0], [0, 3, 'linear'], [6, 0]),
        coverage: 55,
        width: 30,
        height: 5,
        refresh: 1,
      }),
      use('sp2', 'split', { amount: held([-1, 0], [0, 3], [2, -2], [4, 1], [6, 0]), angle: 0 }),
    ],
    { sounds: [sound('sp-s', 'burst', -20, { moment: 'begin' })] },
  ),
  accent('tide-pulse', 'Tide pulse', 1, 7, 41, [
    use('tp1', 'punch', { zoom: keys([-1, 100], [0, 108, 'fast out'], [7, 100]) }),
    use('tp2', 'saturation', { amount: keys([-1, 100], [0, 135, 'fast out'], [7, 100]) }),
  ]),
  accent(
    'pier-ram',
    'Pier ram',
    3,
    16,
    53,
    [
      use('pr1', 'punch', {
        zoom: keys([-3, 100, 'slow out'], [0, 150, 'fast out'], [4, 118, 'both slow'], [16, 100]),
        roll: keys([-1, 0], [0, -4, 'overshoot'], [12, 0]),
      }),
      use('pr2', 'shake', {
        x: keys([-1, 0], [0, 6, 'fast out'], [14, 0]),
        y: keys([-1, 0], [0, 9, 'fast out'], [14, 0]),
        roll: keys([-1, 0], [0, 3, 'fast out'], [12, 0]),
        rateX: 13,
        rateY: 16,
        rateRoll: 9,
      }),
      use('pr3', 'shutter', { opening: 240 }),
      use('pr4', 'rush', { amount: keys([-2, 0], [0, 14, 'fast out'], [6, 0]) }),
    ],
    {
      cover: 'mirror',
      sounds: [sound('pr-s', 'boom', -6), sound('pr-w', 'whoosh-in', -20, { moment: 'end' })],
      lanes: [music('pr-m', 'lower', 8, [-3, 3, 8, 14])],
    },
  ),
  accent(
    'bolt-glare',
    'Bolt glare',
    0,
    5,
    59,
    [
      use('bg1', 'flash', { exposure: keys([0, 3, 'fast out'], [5, 0]), adapt: 100 }),
      use('bg2', 'glow', {
        gain: keys([0, 160, 'fast out'], [5, 0]),
        radius: 9,
        threshold: 55,
        red: 100,
        green: 90,
        blue: 70,
      }),
    ],
    { align: 'start' },
  ),
  accent('red-sluice', 'Red sluice', 1, 24, 61, [
    use('rs1', 'tint', {
      amount: keys([-1, 0], [0, 92, 'hold'], [3, 92, 'both slow'], [24, 0]),
      red: 100,
      green: 16,
      blue: 12,
    }),
    use('rs2', 'levels', { black: keys([-1, 0], [0, 22, 'both slow'], [24, 0]) }),
    use('rs3', 'vignette', { amount: keys([-1, 0], [0, 70, 'both slow'], [24, 0]), size: 40 }),
  ]),
  // Two frames before for one frame, on the hit for two, then two dark frames.
  accent(
    'night-reverse',
    'Night reverse',
    2,
    4,
    67,
    [
      use('nr1', 'negative', { amount: held([-2, 100], [-1, 0], [0, 100], [2, 0]) }),
      use('nr2', 'saturation', { amount: held([-2, 50], [-1, 100], [0, 50], [2, 100]) }),
      use('nr3', 'levels', { black: held([-2, 0], [2, 45], [4, 0]) }),
    ],
    { exact: true },
  ),
  accent(
    'loose-rail',
    'Loose rail',
    0,
    8,
    71,
    [
      use('lr1', 'rattle', {
        amount: keys([0, 100, 'hold'], [5, 100, 'linear'], [8, 0]),
        of: 1,
        enlarge: held([0, 110], [8, 100]),
        angle: 20,
        pattern: 0,
        every: 1,
      }),
    ],
    { align: 'start' },
  ),
  accent('floor-drop', 'Floor drop', 1, 10, 73, [
    use('fd1', 'slide', { y: keys([-1, 0], [0, 9, 'overshoot'], [6, 0]), edge: 1 }),
    use('fd2', 'streak', { length: keys([-1, 0], [0, 16, 'fast out'], [6, 0]), angle: 90 }),
    use('fd3', 'shake', { y: keys([0, 0], [1, 5, 'fast out'], [10, 0]), rateY: 15 }),
  ]),
  accent(
    'twin-wake',
    'Twin wake',
    0,
    14,
    79,
    [
      use(
        'tw1',
        'trail',
        { opacity: keys([0, 55, 'both slow'], [14, 0]), count: 1, every: -3, blend: 2, scale: 104 },
        {
          stack: [use('tw2', 'flip', { amount: 100, way: 0 }), use('tw3', 'saturation', { amount: 20 })],
        },
      ),
    ],
    { align: 'start' },
  ),
  accent('prism-beat', 'Prism beat', 1, 9, 83, [
    use('pb1', 'split', { amount: keys([-1, 0], [0, 3.2, 'fast out'], [9, 0]), mode: 1, falloff: 70, smear: 1 }),
    use('pb2', 'punch', { zoom: keys([-1, 100], [0, 106, 'fast out'], [9, 100]) }),
  ]),
  accent(
    'lost-signal',
    'Lost signal',
    0,
    9,
    89,
    [
      use('ls1', 'dropout', { amount: held([0, 100], [3, 0], [5, 100], [8, 0]), drops: 6, every: 1 }),
      use('ls2', 'flip', {
        amount: by(0, { kind: 'cadence', values: [100, null, null, 100], every: 1, once: true }),
        way: 2,
      }),
      use('ls3', 'tear', { amount: held([0, 10], [6, 0]), coverage: 45, refresh: 1 }),
    ],
    { align: 'start', exact: true },
  ),
  // Broken up four frames either side of a join.
  accent('breakwater', 'Breakwater', 4, 4, 97, [
    use('bw1', 'blocks', {
      amountX: keys([-4, 0, 'slow out'], [0, 40, 'fast out'], [4, 0]),
      amountY: keys([-4, 0, 'slow out'], [0, 10, 'fast out'], [4, 0]),
      width: 22,
      height: 7,
      coverage: keys([-4, 20], [0, 90], [4, 20]),
      refresh: 1,
    }),
    use('bw2', 'split', { amount: keys([-4, 0, 'slow out'], [0, 4, 'fast out'], [4, 0]) }),
    use('bw3', 'mosaic', { amount: held([-4, 0], [-1, 60], [2, 0]), size: 3 }),
  ]),
  accent(
    'ghost-lamp',
    'Ghost lamp',
    0,
    20,
    101,
    [
      use(
        'gl1',
        'blink',
        {
          opacity: 70,
          chance: keys([0, 100, 'linear'], [20, 0]),
          period: 2,
          open: 1,
          shift: -4,
          x: 6,
          scatter: 8,
          scale: 112,
          blend: 2,
        },
        {
          stack: [use('gl2', 'hue', { turn: 150 })],
        },
      ),
    ],
    { align: 'start' },
  ),
  accent('deep-swell', 'Deep swell', 6, 24, 103, [
    use('ds1', 'swim', { amount: keys([-6, 0, 'both slow'], [0, 7, 'both slow'], [24, 0]), size: 55, rate: 1.2 }),
    use('ds2', 'punch', { zoom: keys([-6, 100, 'both slow'], [0, 110, 'both slow'], [24, 100]) }),
  ]),
  accent(
    'ring-runner',
    'Ring runner',
    0,
    18,
    107,
    [
      use('rr1', 'wave', {
        amount: keys([0, 0], [1, 3.5, 'slow out'], [18, 0]),
        length: 36,
        rate: 4,
        form: 2,
        push: 1,
      }),
      use('rr2', 'split', { amount: keys([0, 0], [1, 1.8, 'slow out'], [18, 0]), mode: 1, falloff: 60 }),
    ],
    { align: 'start' },
  ),
  accent('sun-break', 'Sun break', 1, 30, 109, [
    use('sb1', 'rays', {
      gain: keys([-1, 0], [0, 320, 'fast out'], [30, 0]),
      length: 120,
      threshold: 45,
      soft: 1.2,
      y: -12,
    }),
    use('sb2', 'glow', { gain: keys([-1, 0], [0, 120, 'fast out'], [30, 0]), radius: 16, threshold: 55 }),
    use('sb3', 'flash', { exposure: keys([-1, 0], [0, 1.4, 'fast out'], [12, 0]) }),
  ]),
  accent('low-beam', 'Low beam', 1, 12, 113, [
    use('lo1', 'glow', {
      gain: keys([-1, 0], [0, 420, 'fast out'], [12, 0]),
      radius: 3,
      stretch: 22,
      threshold: 62,
      red: 70,
      green: 85,
      blue: 100,
    }),
  ]),
  accent(
    'wire-wake',
    'Wire wake',
    0,
    22,
    127,
    [
      use(
        'ww1',
        'trail',
        { opacity: keys([0, 75, 'both slow'], [22, 0]), count: 4, every: -2, fade: 70, scale: 103, blend: 2 },
        {
          stack: [use('ww2', 'edges', { brightness: 150, plain: 0, width: 0.35, red: 60, green: 95, blue: 100 })],
        },
      ),
    ],
    { align: 'start' },
  ),
  accent(
    'still-splash',
    'Still splash',
    0,
    12,
    131,
    [
      use('ss1', 'freeze', { on: held([0, 100], [8, 0]), creep: 1 }),
      use('ss2', 'punch', { zoom: keys([0, 118, 'fast out'], [8, 112, 'fast out'], [12, 100]) }),
      use('ss3', 'saturation', { amount: held([0, 20], [8, 100]) }),
    ],
    { align: 'start' },
  ),
  accent(
    'skip-stone',
    'Skip stone',
    0,
    12,
    137,
    [
      use('sk1', 'stutter', { on: held([0, 100], [12, 0]), every: 3, way: 1 }),
      use('sk2', 'scanlines', { amount: keys([0, 45, 'linear'], [12, 0]), pitch: 1.1, roll: 6, mask: 20 }),
      use('sk3', 'grain', { amount: keys([0, 35], [12, 0]), size: 0.8 }),
    ],
    { align: 'start' },
  ),
  accent(
    'slack-water',
    'Slack water',
    4,
    40,
    149,
    [
      use('sw1', 'punch', {
        zoom: keys([-4, 100, 'slow out'], [0, 106, 'both slow'], [30, 112, 'fast out'], [40, 100]),
      }),
      use('sw2', 'saturation', { amount: keys([-4, 100], [10, 62, 'linear'], [30, 62, 'fast out'], [40, 100]) }),
    ],
    {
      ramp: ramp(0, [75, 10], [50, 10], [25, 10], [10, 10]),
      sounds: [sound('sw-s', 'drop', -10)],
      lanes: [music('sw-m', 'low-pass', 500, [-2, 6, 26, 12])],
    },
  ),
  accent(
    'long-swell',
    'Long swell',
    8,
    18,
    151,
    [
      use('lw1', 'punch', { zoom: keys([-8, 100, 'both slow'], [0, 114, 'fast out'], [18, 100]) }),
      use('lw2', 'vignette', { amount: keys([-8, 0], [0, 55, 'linear'], [18, 0]) }),
    ],
    {
      ramp: { ...ramp(8, [100, 6], [30, 14], [30, 6]), smooth: true, gained: 'paid back', sound: 'goes on' },
      sounds: [sound('lw-s', 'swell', -14, { moment: 'end' })],
    },
  ),
  accent(
    'line-snap',
    'Line snap',
    6,
    16,
    157,
    [
      use('ls1', 'flash', { exposure: keys([-1, 0], [0, 2.2, 'fast out'], [6, 0]) }),
      use('ls2', 'shake', {
        x: keys([-1, 0], [0, 3.5, 'fast out'], [12, 0]),
        y: keys([-1, 0], [0, 2.5, 'fast out'], [12, 0]),
        rateX: 15,
        rateY: 12,
      }),
    ],
    {
      ramp: { ...ramp(6, [250, 6], [0, 5], [40, 11]), gained: 'paid back', most: 3 },
      sounds: [sound('ls-s', 'snap', -9), sound('ls-r', 'ring', -24)],
      lanes: [music('ls-m', 'lower', 96, [-4, 1, 3, 1])],
    },
  ),
];
