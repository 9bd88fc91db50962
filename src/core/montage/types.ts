/** The document. Everything is plain JSON and read-only; edits make new values. */
import type { Envelope } from '../envelopes/envelope.ts';
import type { Rate } from '../units/time.ts';

export const MONTAGE_VERSION = 1;

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

export interface Hit {
  readonly id: string;
  readonly source: string;
  /** Source seconds: timestamp of the contact frame, or the attack where there is no picture. */
  readonly t: number;
  /** Source seconds of the attack in the sound. */
  readonly audioT?: number | undefined;
  readonly kind: HitKind;
  /** 0-1 */
  readonly strength: number;
  /** 0-1 */
  readonly confidence: number;
  readonly evidence: readonly Evidence[];
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

export interface EffectUse {
  readonly id: string;
  /** Effect id; unknown ones are kept and skipped. */
  readonly effect: string;
  readonly version: number;
  readonly on: boolean;
  readonly params: Readonly<Record<string, Envelope>>;
}

export interface Accent {
  readonly id: string;
  readonly name: string;
  /** Frame rate its frame counts were made at. */
  readonly rate: Rate;
  /** Whole frames before and after the hit's frame that the accent reaches. */
  readonly lead: number;
  readonly tail: number;
  readonly seed: number;
  readonly effects: readonly EffectUse[];
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
  /** By {@link placementKey}. */
  readonly overrides: Readonly<Record<string, Override>>;
  /** Detector id to 0-1. */
  readonly sensitivity: Readonly<Record<string, number>>;
}

export const emptyMontage = (id: string, name: string): Montage => ({
  format: 'akmeon', version: MONTAGE_VERSION, id, name,
  settings: { width: 1280, height: 720, timing: { mode: 'constant', rate: { num: 30, den: 1 } }, clipGain: 1 },
  sources: [], clips: [], music: [], hits: [], accents: [], rules: [], overrides: {}, sensitivity: {},
});
