/** Marks of a montage as other programs keep them: what every format reads into and writes from. Times are montage seconds. */
import { LIMITS } from '../document/limits.ts';
import { HIT_KINDS, type HitKind } from '../document/types.ts';
import { fps, framesFrom, frameToSeconds, type Rate } from '../base/time.ts';

export interface Mark {
  readonly t: number;
  readonly end?: number;
  readonly kind?: HitKind;
  /** 0-1. */
  readonly strength?: number;
  readonly name?: string;
}

/** What a file gave, and what of it could not be taken over: by line, with why. */
export interface MarksRead {
  /** In order of time. */
  readonly marks: readonly Mark[];
  readonly left: readonly { readonly line: number; readonly why: string }[];
}

export interface MarksFormat {
  readonly id: string;
  readonly name: string;
  /** The first is written. */
  readonly extensions: readonly string[];
  readonly mime: string;
  /** It is no text: its letters are bytes. */
  readonly binary?: true;
  /** What it can hold, for people. */
  readonly holds: string;
  /** @throws MarksError for a file that is none of its kind */
  read(text: string, rate: Rate): MarksRead;
  write(marks: readonly Mark[], rate: Rate, title: string): string;
}

/** A clip of a row as other programs keep it: which stretch of which file. */
export interface RowClip {
  /** The name of its file, as the other program keeps it. */
  readonly name: string;
  /** Source seconds. */
  readonly in: number;
  readonly out: number;
}

export interface RowRead {
  readonly clips: readonly (RowClip & { readonly line: number })[];
  readonly left: readonly { readonly line: number; readonly why: string }[];
}

export interface RowFormat {
  readonly id: string;
  readonly name: string;
  readonly extensions: readonly string[];
  /** @throws MarksError for a file that is none of its kind */
  read(text: string, rate: Rate): RowRead;
  write(clips: readonly RowClip[], rate: Rate, title: string): string;
}

/** Why a file cannot be read, in a sentence. */
export class MarksError extends Error {}

/** Letters of a file that are read at the most. */
export const MOST_LETTERS = 16 << 20;
/** Bytes of one that is no text. */
export const MOST_BYTES = 64 << 20;

export const isKind = (word: string): word is HitKind => (HIT_KINDS as readonly string[]).includes(word);

/** Marks in order, as many as a montage can have, each within a day; what is not is named. */
export function taken(
  found: readonly (Mark & { readonly line: number })[],
  left: readonly { readonly line: number; readonly why: string }[],
): MarksRead {
  const out = [...left];
  const marks: Mark[] = [];
  for (const { line, ...mark } of found) {
    if (!Number.isFinite(mark.t) || mark.t < 0 || mark.t > LIMITS.montageSeconds)
      out.push({ line, why: 'its time is before the beginning, or more than a day after it' });
    else if (marks.length >= LIMITS.hits) out.push({ line, why: 'there are too many' });
    else marks.push(mark);
  }
  return { marks: marks.sort((a, b) => a.t - b.t), left: out.sort((a, b) => a.line - b.line) };
}

/**
 * Seconds that a text names, in any usual form: `12.5`, `12,5 s`, `1:02.5`, `0:01:02,500`, timecode `00:01:02:15` or
 * `00:01:02;15`, `48f` for frames. Null for none.
 * @param whole what a whole number without more counts
 */
export function secondsIn(text: string, rate: Rate, whole: 'seconds' | 'frames'): number | null {
  const plain = text.trim().replace(',', '.');
  const frames = /^(\d+)\s*f(?:rames?)?$/i.exec(plain);
  if (frames) return frameToSeconds(Number(frames[1]), rate);
  if (/^\d+$/.test(plain)) return whole === 'frames' ? frameToSeconds(Number(plain), rate) : Number(plain);
  const seconds = /^(\d*\.\d+|\d+(?:\.\d+)?)\s*(?:s|sec|seconds)?$/i.exec(plain);
  if (seconds) return Number(seconds[1]);
  const clock = /^(?:(\d+):)?(\d{1,2}):(\d{1,2}(?:\.\d+)?)$/.exec(plain);
  if (clock) {
    const [hours, minutes, rest] = [Number(clock[1] ?? 0), Number(clock[2]), Number(clock[3])];
    return minutes > 59 || rest >= 60 ? null : 3600 * hours + 60 * minutes + rest;
  }
  const code = framesFrom(plain, rate);
  return code === null || code < 0 ? null : frameToSeconds(code, rate);
}

/** Seconds as `0:01:02.500`. */
export function clockTime(seconds: number): string {
  const ms = Math.round(seconds * 1000);
  const two = (n: number): string => String(Math.floor(n)).padStart(2, '0');
  return `${two(ms / 3_600_000)}:${two((ms / 60_000) % 60)}:${two((ms / 1000) % 60)}.${String(ms % 1000).padStart(3, '0')}`;
}

/** The frame that is shown at a time. */
export const frameOf = (seconds: number, rate: Rate): number => Math.round(seconds * fps(rate));
