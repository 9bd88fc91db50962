/** The document's types, all derived from schema.ts. Everything is plain JSON and read-only; edits make new values. */
import type { Of } from './schema.ts';
import { MONTAGE_VERSION, type HitState } from './words.ts';

export * from './words.ts';

export type Rate = Of<'Rate'>;
/** Control points of a cubic from (0, 0) to (1, 1): x1, y1, x2, y2 with both x in 0-1. */
export type Cubic = Exclude<Of<'Easing'>, string>;
export type Easing = Of<'Easing'>;
export type Envelope = Of<'Envelope'>;
export type Key = Exclude<Envelope, number>[number];
export type Generator = Of<'Generator'>;
export type GeneratorKind = Generator['kind'];
/** A listed value; null: the parameter does nothing. */
export type Listed = number | null;
export type Param = Of<'Param'>;
export type Moved = Exclude<Param, Envelope>;
/** A place in a picture, shares of its width and height. */
export type Point = Of<'Point'>;
export type PathPoint = Of<'PathPoint'>;
export type RegionShape = Of<'RegionShape'>;
/** The points of a path at a frame; between two of these they run straight. */
export type PathKey = NonNullable<RegionShape['path']>[number];
export type ColourTable = Of<'ColourTable'>;
export type Repeat = Of<'Repeat'>;
export type EffectUse = Of<'EffectUse'>;
export type Accent = Of<'Accent'>;
export type Region = Of<'Region'>;
export type Shield = Of<'Shield'>;
export type Brushed = Of<'Brushed'>;
export type Subject = Of<'Subject'>;
export type SubjectPath = Of<'SubjectPath'>;
export type SubjectKey = Of<'SubjectKey'>;
export type Watch = Of<'Watch'>;
export type SoundExample = Of<'SoundExample'>;
/** A moment of a source: found by a detector, or decided on by a person. */
export type Hit = Omit<Of<'Hit'>, 'state'> & { readonly state: HitState };
export type Evidence = Hit['evidence'][number];
export type Kinds = NonNullable<Hit['kinds']>;
export type NamedFamily = Of<'NamedFamily'>;
export type Within = Of<'Within'>;
export type VideoInfo = Of<'VideoInfo'>;
export type AudioTrackInfo = Of<'AudioTrackInfo'>;
export type GridEdit = Of<'GridEdit'>;
export type Source = Of<'Source'>;
export type Clip = Of<'Clip'>;
export type Join = Of<'Join'>;
export type ClipSound = Of<'ClipSound'>;
export type SoundAsset = Of<'SoundAsset'>;
export type AccentSound = Of<'AccentSound'>;
export type LaneMove = Of<'LaneMove'>;
export type Ramp = Of<'Ramp'>;
export type MusicItem = Of<'MusicItem'>;
export type HandPlacement = Of<'HandPlacement'>;
export type Run = Of<'Run'>;
export type Rule = Of<'Rule'>;
export type Stretch = Of<'Stretch'>;
export type Bed = Of<'Bed'>;
/** What goes along with something that was followed in the picture. */
export type Pin = Of<'Pin'>;
export type Title = Of<'Title'>;
export type Typeface = Of<'Typeface'>;
export type Override = Of<'Override'>;
export type OwnRegions = Of<'OwnRegions'>;
export type Format = Of<'Format'>;
export type Settings = Of<'Settings'>;
export type Timing = Settings['timing'];
export type Montage = Omit<Of<'Montage'>, 'hits'> & { readonly hits: readonly Hit[] };
export type Profile = Of<'Profile'>;
export type AccentFile = Of<'AccentFile'>;

export const DEFAULT_GRID: GridEdit = { bpm: null, pin: null, times: 1, shift: 0, bar: 0 };

/** What an accent is where nothing is said. */
export const DEFAULT_ACCENT = {
  unit: 'frames',
  exact: false,
  align: 'peak',
  confine: 'carry',
  cover: 'mirror',
  until: 'tail',
} as const satisfies Partial<Accent>;

/** What a sound of an accent is where nothing is said. */
export const DEFAULT_SOUND = {
  on: true,
  pick: 'turn',
  moment: 'peak',
  place: 'hit',
  offset: 0,
  gain: 0,
  fadeIn: 0,
  fadeOut: 0,
  length: 'whole',
  semitones: 0,
  reversed: false,
  focus: false,
  spreadGain: 0,
  spreadPitch: 0,
  follow: 1,
} as const satisfies Partial<AccentSound>;

/** What a title is where nothing is said. */
export const DEFAULT_TITLE = {
  on: true,
  font: 'sans',
  size: 9,
  weight: 700,
  colour: '#ffffff',
  box: null,
  outline: 0.06,
  shadow: true,
  align: 'middle',
  x: 0,
  y: 36,
  where: { kind: 'all' },
  comes: 'fade',
  goes: 'fade',
  over: 8,
} as const satisfies Partial<Title>;

/** What is heard of a clip where nothing is said. */
export const DEFAULT_CLIP_SOUND: ClipSound = { gain: 1, mute: false, fadeIn: 0, fadeOut: 0, early: 0, late: 0 };

/** The whole mix where nothing is said: as it is, and no true peak above -1 dB, as EBU R 128 asks for. */
export const DEFAULT_MASTER: NonNullable<Settings['master']> = { gain: 0, ceiling: -1, target: null };

/** What a rule is where nothing is said. */
export const DEFAULT_RULE = {
  pick: 'turn',
  on: true,
  kinds: [],
  families: [],
  minStrength: 0,
  maxStrength: 1,
  follow: 0,
  burst: 'each',
  burstEvery: 2,
  beat: 'any',
  gap: 0,
  every: 1,
  phase: 0,
  chance: 1,
  clips: [],
  ranges: [],
  apart: 0,
  meet: 'over',
  mirror: false,
  spread: 0,
  run: null,
} as const satisfies Partial<Rule>;

export const emptyMontage = (id: string, name: string): Montage => ({
  format: 'akmeon',
  version: MONTAGE_VERSION,
  id,
  name,
  settings: {
    width: 1280,
    height: 720,
    timing: { mode: 'constant', rate: { num: 30, den: 1 } },
    clipGain: 1,
    fusionWindow: 0.08,
    bpm: 120,
    framingSpeed: 0.5,
  },
  sources: [],
  clips: [],
  music: [],
  hits: [],
  accents: [],
  rules: [],
  byHand: [],
  beds: [],
  overrides: {},
  sensitivity: {},
  watches: [],
  examples: [],
  families: [],
  formats: [],
  forgotten: [],
});
