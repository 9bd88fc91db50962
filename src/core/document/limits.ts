import { FPS } from '../base/time.ts';

/**
 * Bounds of what a file can hold, all inclusive. The schema and the loops over what was read take them from here, so that
 * nothing that can be opened costs unbounded time. Many fields of the screen have narrower bounds of their own.
 */
export const LIMITS = {
  /** Seconds within a source; recordings may begin a little before their zero. */
  sourceTime: { min: -3600, max: 1e6 },
  /** Seconds of a montage: a day. */
  montageSeconds: 86_400,
  /** Shares of the recorded speed. */
  speed: { min: 0.01, max: 20 },
  rampSteps: 64,
  pins: 1000,
  joinFrames: 600,
  /** Decibels that anything is turned up or down. */
  decibels: { min: -96, max: 60 },
  semitones: { min: -36, max: 36 },
  /** Sounds, and changes of lanes, of one accent. */
  sounds: 64,
  /** Hertz of filters. */
  cutoff: { min: 20, max: 20_000 },
  /** Frames a second. */
  fps: FPS,
  /** Keys of an envelope, in any unit of time. */
  keyTime: { min: -1e6, max: 1e6 },
  /** Any parameter's value. */
  value: { min: -1e9, max: 1e9 },
  /** Frames of leads, tails and generators. */
  frames: { min: 0, max: 1e6 },
  /** Swings, pulses or steps a second of a generator: past a few hundred no frame rate shows them. */
  generatorRate: 1000,
  keys: 4000,
  listed: 1000,
  pathPoints: 200,
  effects: 200,
  /** Stacks within stacks. */
  stackDepth: 4,
  /** Brackets within brackets of any file of ours. */
  jsonDepth: 64,
  /** Bytes of text of any file of ours. */
  fileText: 256 << 20,
  sources: 2000,
  clips: 5000,
  music: 2000,
  hits: 200_000,
  evidence: 64,
  accents: 2000,
  rules: 500,
  beds: 2000,
  overrides: 50_000,
  watches: 200,
  examples: 500,
  families: 1000,
  formats: 32,
  titles: 500,
  titleText: 10_000,
  /** Typefaces of one's own, and letters of one: three megabytes. */
  typefaces: 16,
  typefaceText: 4_000_000,
  /** Areas of a source that accents leave as they are. */
  shields: 32,
  subjectPaths: 32,
  /** Strokes of a brush, points of one, pieces of kept mattes and letters of one. */
  strokes: 5000,
  strokePoints: 2000,
  pieces: 2000,
  pieceText: 2_000_000,
  subjectPoints: 47,
  subjectKeys: 20_000,
  /** Places of a moving focus. */
  trackPoints: 10_000,
  /** Prints kept of one family. */
  familyExamples: 8,
} as const;

/** The value within the bounds. */
export const within = (value: number, { min, max }: { readonly min: number; readonly max: number }): number =>
  Math.min(max, Math.max(min, value));
