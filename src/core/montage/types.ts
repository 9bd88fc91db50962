/** The document. Everything is plain JSON and read-only; edits make new values. */
import type { ColourTable } from '../accents/effect-spec.ts';
import type { Param } from '../generators/generators.ts';
import type { RegionShape } from '../regions/region.ts';
import type { Rate } from '../units/time.ts';

export const MONTAGE_VERSION = 3;

export const HIT_KINDS = [
  'shot', 'impact', 'kick', 'snare', 'hat', 'note', 'beat', 'drop', 'flash', 'jolt', 'strike',
  'popup', 'cut', 'join', 'match', 'mark',
] as const;
export type HitKind = (typeof HIT_KINDS)[number];

export const HIT_STATES = ['found', 'kept', 'rejected', 'made'] as const;
export type HitState = (typeof HIT_STATES)[number];

/** One reason for a hit: which detector, when (source seconds) and how strong (0-1). */
export interface Evidence {
  readonly detector: string;
  readonly t: number;
  readonly strength: number;
}

/** Probability 0-1 of each kind a hit may be. */
export type Kinds = Readonly<Partial<Record<HitKind, number>>>;

export interface Hit {
  readonly id: string;
  readonly source: string;
  /** Source seconds: timestamp of the contact frame, or the attack where there is no picture. */
  readonly t: number;
  /** Source seconds of the attack in the sound. */
  readonly audioT?: number | undefined;
  /** Source seconds at which its movement begins and ends. */
  readonly start?: number | undefined;
  readonly end?: number | undefined;
  readonly kind: HitKind;
  /** 0-1 */
  readonly strength: number;
  /** 0-1 */
  readonly confidence: number;
  readonly evidence: readonly Evidence[];
  /** What it may be besides its kind. */
  readonly kinds?: Kinds | undefined;
  /** Where in the picture, shares of its width and height. */
  readonly focus?: { readonly x: number; readonly y: number } | undefined;
  /** Close repeats share the id of their first; absent for a single hit. */
  readonly burst?: string | undefined;
  readonly state: HitState;
}

export interface VideoInfo {
  /** Upright display size in pixels, square pixels. */
  readonly width: number;
  readonly height: number;
  /** Clockwise turn from stored to upright, degrees. */
  readonly rotation: 0 | 90 | 180 | 270;
  readonly codec: string;
  readonly rate: Rate;
  readonly count: number;
  /** Start of the first frame in source seconds. */
  readonly first: number;
  readonly variable: boolean;
}

export interface AudioTrackInfo {
  readonly codec: string;
  readonly channels: number;
  readonly sampleRate: number;
  readonly name: string;
  /** False where the browser cannot decode it. */
  readonly readable: boolean;
}

export const SOURCE_ROLES = ['footage', 'music'] as const;

/** What is on a sound track: a voice makes no hits, music has beats and drops, `off` is left out. */
export const TRACK_ROLES = ['game', 'music', 'voice', 'off'] as const;
export type TrackRole = (typeof TRACK_ROLES)[number];

/** How the person corrected the tracked beats of a source. */
export interface GridEdit {
  /** Tapped beats a minute; the tracker looks near it. */
  readonly bpm: number | null;
  /** Source seconds of a beat that is surely one. */
  readonly pin: number | null;
  /** Beats for each tracked one: every second, each, or one between. */
  readonly times: 0.5 | 1 | 2;
  /** Seconds by which all beats are late. */
  readonly shift: number;
  /** Beats by which bars begin later. */
  readonly bar: number;
}

export const PLAIN_GRID: GridEdit = { bpm: null, pin: null, times: 1, shift: 0, bar: 0 };

export interface Source {
  readonly id: string;
  readonly name: string;
  readonly role: (typeof SOURCE_ROLES)[number];
  /** Hex SHA-256 of size and sampled bytes. */
  readonly fingerprint: string;
  readonly size: number;
  /** Seconds, from 0 to the end of the longest track. */
  readonly duration: number;
  readonly video: VideoInfo | null;
  readonly audio: readonly AudioTrackInfo[];
  /** Index into `audio` of the track that is listened to and heard; null for none. */
  readonly listen: number | null;
  /** One for each of `audio`. */
  readonly tracks: readonly TrackRole[];
  /** Seconds by which the sound comes after the picture; null: as estimated. */
  readonly delay: number | null;
  readonly grid: GridEdit;
}

/** A rectangle in shares of the picture's width and height. */
export interface Region {
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
}

/** A watched rectangle: hits of kind `popup` wherever the example appears in it, or anything changes. */
export interface Watch {
  readonly id: string;
  readonly name: string;
  readonly mode: 'appears' | 'changes';
  readonly region: Region;
  /** 0-1 */
  readonly sensitivity: number;
  /** What is sought, bytes in base 64, each `width * height`; null when watching for changes. */
  readonly sought: { readonly width: number; readonly height: number; readonly y: string; readonly u: string; readonly v: string; readonly weight: string } | null;
}

/** A sound that more like it are sought of: hits of kind `match`. */
export interface SoundExample {
  readonly id: string;
  readonly name: string;
  /** Rows of kept bands, bytes in base 64; rows before the attack. */
  readonly rows: string;
  readonly lead: number;
  /** 0-1: least likeness. */
  readonly least: number;
  /** The one source it is sought in; null: all. */
  readonly only: string | null;
}

export interface Clip {
  readonly id: string;
  readonly source: string;
  /** Source seconds; in inclusive, out exclusive. */
  readonly in: number;
  readonly out: number;
  readonly fit: 'fit' | 'fill';
}

/** A stretch of sound on the music lane. */
export interface MusicItem {
  readonly id: string;
  readonly source: string;
  /** Montage seconds. */
  readonly at: number;
  readonly in: number;
  readonly out: number;
  /** Linear factor 0-2. */
  readonly gain: number;
}

/** Copies of one effect, each `every` frames later. */
export interface Repeat {
  /** How often beside the first. */
  readonly times: number;
  /** Frames, at the accent's rate. */
  readonly every: number;
  /** Each copy's length and strength, times that of the one before. */
  readonly length: number;
  readonly strength: number;
}

export interface EffectUse {
  readonly id: string;
  /** Effect id; unknown ones are kept and skipped. */
  readonly effect: string;
  readonly version: number;
  readonly on: boolean;
  readonly params: Readonly<Record<string, Param>>;
  /** Where in the picture it acts; everywhere when absent or empty. */
  readonly region?: readonly RegionShape[] | undefined;
  readonly repeat?: Repeat | undefined;
  /** For effects that lay other frames over the picture: what is done to these. */
  readonly stack?: readonly EffectUse[] | undefined;
  readonly table?: ColourTable | undefined;
}

/** What an accent's time is counted in. `%` is a share of its lead before the hit, of its tail after it. */
export const TIME_UNITS = ['frames', 'ms', 'beats', '%'] as const;
export type TimeUnit = (typeof TIME_UNITS)[number];

/** What of the accent lies on the hit: frame 0 for `peak`. */
export const LIES = ['start', 'peak', 'end'] as const;
/** What happens to what reaches over a join. */
export const CONFINES = ['carry', 'cut', 'squeeze'] as const;
/** How borders are hidden: mirrored or stretched edge pixels, or the least enlargement over the accent or its whole shot. */
export const COVERS = ['mirror', 'clamp', 'accent', 'shot'] as const;
/** Where its tail ends: after its own length, or where something else is. */
export const UNTILS = ['tail', 'end', 'clip', 'next'] as const;

export interface Accent {
  readonly id: string;
  readonly name: string;
  /** Frame rate its frame counts were made at. */
  readonly rate: Rate;
  /** How far it reaches before and after the hit's frame: whole frames, or in `unit` when that is ms or beats. */
  readonly lead: number;
  readonly tail: number;
  readonly seed: number;
  readonly effects: readonly EffectUse[];
  readonly unit: TimeUnit;
  /** Frame counts are kept at any rate instead of scaling. */
  readonly exact: boolean;
  readonly lies: (typeof LIES)[number];
  readonly confine: (typeof CONFINES)[number];
  readonly cover: (typeof COVERS)[number];
  readonly until: (typeof UNTILS)[number];
}

/** What an accent is where nothing is said. */
export const PLAIN_ACCENT = { unit: 'frames', exact: false, lies: 'peak', confine: 'carry', cover: 'mirror', until: 'tail' } as const satisfies Partial<Accent>;

/** What comes after the last hit of a run: nothing once the accent's own tail is over, or the last value until the clip ends. */
export const AFTERS = ['plain', 'stay'] as const;

export interface Run {
  /** Hits in one run; 0: all that the rule takes. */
  readonly count: number;
  readonly after: (typeof AFTERS)[number];
}

export interface Rule {
  readonly id: string;
  readonly accent: string;
  readonly on: boolean;
  readonly kinds: readonly HitKind[];
  /** 0-1, inclusive. */
  readonly minStrength: number;
  /** 0: every placement at full intensity; 1: intensity equals the hit's strength. */
  readonly follow: number;
  /** Which members of a burst it takes. */
  readonly burst: 'each' | 'first' | 'last';
  readonly seed: number;
  /** Every second placement is mirrored left to right. */
  readonly mirror: boolean;
  /** 0-1: how far intensities spread at random about their value. */
  readonly spread: number;
  /** The accent takes one value a hit and lasts until the next one. */
  readonly run: Run | null;
}

/** Where a bed lies. Hits by their ids, of which the first occurrence counts. */
export type Stretch =
  | { readonly kind: 'all' }
  | { readonly kind: 'clip'; readonly clip: string }
  | { readonly kind: 'hits'; readonly from: string; readonly to: string };

/** An accent's effects on a stretch: its frame 0 is the stretch's first. */
export interface Bed {
  readonly id: string;
  readonly accent: string;
  readonly on: boolean;
  readonly stretch: Stretch;
  /** Drawn over the accents instead of under them. */
  readonly above: boolean;
  /** 0-2 */
  readonly intensity: number;
  readonly seed: number;
}

/** What a person changed on one placement. */
export interface Override {
  readonly mute?: boolean | undefined;
  /** Output frames. */
  readonly nudge?: number | undefined;
  /** 0-2, replaces the rule's. */
  readonly intensity?: number | undefined;
  readonly seed?: number | undefined;
}

export type Timing =
  | { readonly mode: 'constant'; readonly rate: Rate }
  /** Every source frame once, with its own timestamp. */
  | { readonly mode: 'source' };

export interface Settings {
  readonly width: number;
  readonly height: number;
  readonly timing: Timing;
  /** Linear factor 0-2 for the clips' own sound. */
  readonly clipGain: number;
  /** Seconds within which what is heard and what is seen are one moment. */
  readonly fusionWindow: number;
  /** Beats a minute, for accents that count in beats. */
  readonly bpm: number;
}

export interface Montage {
  readonly format: 'akmeon';
  readonly version: typeof MONTAGE_VERSION;
  readonly id: string;
  readonly name: string;
  readonly settings: Settings;
  readonly sources: readonly Source[];
  readonly clips: readonly Clip[];
  readonly music: readonly MusicItem[];
  /** Only decisions: kept, rejected and hand-made hits. Found ones come from the signals. */
  readonly hits: readonly Hit[];
  readonly accents: readonly Accent[];
  readonly rules: readonly Rule[];
  readonly beds: readonly Bed[];
  /** By {@link placementKey}. */
  readonly overrides: Readonly<Record<string, Override>>;
  /** Kind of hit to 0-1; 0.5 where absent. */
  readonly sensitivity: Readonly<Partial<Record<HitKind, number>>>;
  readonly watches: readonly Watch[];
  readonly examples: readonly SoundExample[];
  /** Ids of decided hits that no longer teach how undecided ones are ranked. */
  readonly forgotten: readonly string[];
}

export const emptyMontage = (id: string, name: string): Montage => ({
  format: 'akmeon', version: MONTAGE_VERSION, id, name,
  settings: { width: 1280, height: 720, timing: { mode: 'constant', rate: { num: 30, den: 1 } }, clipGain: 1, fusionWindow: 0.08, bpm: 120 },
  sources: [], clips: [], music: [], hits: [], accents: [], rules: [], beds: [], overrides: {}, sensitivity: {}, watches: [], examples: [], forgotten: [],
});
