/** The kinds of files that can be exported: containers with their codecs. One entry here is a new kind. */
import type { VideoCodec } from 'mediabunny';

export type SoundChoice = 'aac' | 'opus' | 'none';

export interface ExportKind {
  readonly id: string;
  readonly name: string;
  readonly extension: 'mp4' | 'webm';
  readonly mime: `video/${'mp4' | 'webm'}`;
  readonly codec: VideoCodec;
  /** In the words of people, for reasons of refusal. */
  readonly codecName: string;
  readonly sounds: readonly SoundChoice[];
  /** Bits of a moving pixel at usual quality (common practice, no source): newer codecs need fewer. */
  readonly bits: number;
  /** Longest side that its profiles hold, pixels. */
  readonly mostSide: number;
}

export const EXPORT_KINDS: readonly ExportKind[] = [
  {
    id: 'mp4-h264',
    name: 'MP4, H.264',
    extension: 'mp4',
    mime: 'video/mp4',
    codec: 'avc',
    codecName: 'H.264',
    sounds: ['aac', 'opus', 'none'],
    bits: 0.14,
    mostSide: 8192,
  },
  {
    id: 'mp4-hevc',
    name: 'MP4, HEVC',
    extension: 'mp4',
    mime: 'video/mp4',
    codec: 'hevc',
    codecName: 'HEVC',
    sounds: ['aac', 'opus', 'none'],
    bits: 0.09,
    mostSide: 8192,
  },
  {
    id: 'mp4-av1',
    name: 'MP4, AV1',
    extension: 'mp4',
    mime: 'video/mp4',
    codec: 'av1',
    codecName: 'AV1',
    sounds: ['aac', 'opus', 'none'],
    bits: 0.08,
    mostSide: 16384,
  },
  {
    id: 'webm-vp9',
    name: 'WebM, VP9',
    extension: 'webm',
    mime: 'video/webm',
    codec: 'vp9',
    codecName: 'VP9',
    sounds: ['opus', 'none'],
    bits: 0.1,
    mostSide: 16384,
  },
  {
    id: 'webm-av1',
    name: 'WebM, AV1',
    extension: 'webm',
    mime: 'video/webm',
    codec: 'av1',
    codecName: 'AV1',
    sounds: ['opus', 'none'],
    bits: 0.08,
    mostSide: 16384,
  },
];

/** Codecs of which groups of pictures can be taken over, by what an encoder is asked for where it has none like the source's. */
export const COPIED = { avc: 'avc1.640034', vp9: 'vp09.00.61.08' } as const;
export type CopiedCodec = keyof typeof COPIED;
export const isCopied = (codec: VideoCodec): codec is CopiedCodec => codec in COPIED;

/** The kind by its id; the first where there is none such. */
export const exportKind = (id: string | undefined): ExportKind =>
  EXPORT_KINDS.find((kind) => kind.id === id) ?? EXPORT_KINDS[0]!;

/** A kind's sound, where it does not hold what is asked for the one that it does. */
export const soundIn = (kind: ExportKind, asked: SoundChoice): SoundChoice =>
  kind.sounds.includes(asked) ? asked : kind.sounds[0]!;

/** How much of the usual bits a quality takes: half is seen on fast ground, twice is hardly told from the source. */
export const QUALITIES = { small: 0.5, usual: 1, fine: 2, finest: 4 } as const;
export type Quality = keyof typeof QUALITIES;

const LEAST_BITS = 0.5e6;
const MOST_BITS = 120e6;

/** Bits a second for a size and rate. */
export const bitrateFor = (kind: ExportKind, width: number, height: number, rate: number, quality: Quality): number =>
  Math.round(Math.min(MOST_BITS, Math.max(LEAST_BITS, width * height * rate * kind.bits * QUALITIES[quality])));

/** Bits a second of the sound. */
export const SOUND_BITS = 256e3;

/** Bytes that a file will have, more or less: encoders take fewer where little moves. */
export const expectedSize = (seconds: number, bitrate: number, sound: SoundChoice): number =>
  (seconds * (bitrate + (sound === 'none' ? 0 : SOUND_BITS))) / 8;
