/** What a title says on a frame: fields in braces stand for numbers, names and clocks. */
import { lowerBound } from '../base/search.ts';
import { familyByHit } from '../document/families.ts';
import { isOfKind } from '../document/hits.ts';
import { kindName, kindNamed, type Hit, type Montage } from '../document/types.ts';
import type { Occurrence } from '../timeline/occurrences.ts';
import type { Timeline } from '../timeline/timeline.ts';

/** How clocks are read where nothing is said of it. */
const CLOCK = 'm:ss.cc';

/**
 * Seconds by a form: runs of m, s, c and f stand for minutes, seconds, hundredths and frames, with as many digits at the
 * least; the largest that is named takes all above it. Frames are counted as the rate's whole number has them.
 */
export function clockedBy(seconds: number, fps: number, form: string): string {
  const whole = Math.max(0, Number.isFinite(seconds) ? seconds : 0);
  const names = (letter: string): boolean => form.includes(letter);
  const parts = names('f') ? Math.max(1, Math.round(fps)) : names('c') ? 100 : 1;
  const all = names('f')
    ? Math.floor(whole * fps + 1e-6)
    : names('c')
      ? Math.round(whole * 100)
      : Math.floor(whole + 1e-6);
  const above = Math.floor(all / parts);
  const values: Readonly<Record<string, number>> = {
    m: Math.floor(above / 60),
    s: names('m') ? above % 60 : above,
    // Without seconds or minutes they take all.
    c: names('s') || names('m') ? all % parts : all,
    f: names('s') || names('m') ? all % parts : all,
  };
  return form.replace(/m+|s+|c+|f+/g, (run) => String(values[run[0]!]).padStart(run.length, '0'));
}

/** A stretch that a title is seen on, as far as its words ask for it; frames inclusive. */
export interface Said {
  readonly from: number;
  readonly to: number;
  /** Which of how many it is, counted from 1, and the hit it is on. */
  readonly n: number;
  readonly of: number;
  readonly hit: Pick<Hit, 'id' | 'kind'> | null;
  /** The frame of that hit. */
  readonly at: number | null;
}

/** @param shown hits that carry accents, where the montage shows them, by frame */
export function titleWords(
  { families, sources }: Pick<Montage, 'families' | 'sources'>,
  shown: readonly Occurrence[],
  line: Timeline,
): (text: string, pace: number, said: Said, frame: number) => string {
  const byHit = familyByHit(families);
  const nameOf = ({ id, kind }: Pick<Hit, 'id' | 'kind'>): string => byHit.get(id)?.name || kindName(kind);
  const named = new Map<string, readonly number[]>();
  /** Frames of the hits of a kind or of a family's own name, in their order; of all but joins where none is named. */
  const framesOf = (name: string): readonly number[] => {
    let frames = named.get(name);
    if (!frames) {
      const kind = kindNamed(name);
      const counts = ({ hit }: Occurrence): boolean =>
        name === '' ? hit.kind !== 'join' : nameOf(hit) === name || (kind !== undefined && isOfKind(hit, kind));
      frames = shown.filter(counts).map(({ frame }) => frame);
      named.set(name, frames);
    }
    return frames;
  };
  /** How many of them there were up to a frame. */
  const countAt = (name: string, frame: number): number => lowerBound(framesOf(name), frame + 1, (at) => at);
  const games = new Map(sources.map(({ id, game = '' }) => [id, game]));

  return (text, pace, { from, to, n, of, hit, at }, frame) => {
    if (!text.includes('{')) return text;
    const now = line.timeOf(frame);
    const clock = (seconds: number, form: string): string => clockedBy(seconds * pace, line.fps, form || CLOCK);
    const fields: Readonly<Record<string, (about: string) => string>> = {
      n: () => String(n),
      of: () => String(of),
      kind: () => (hit ? kindName(hit.kind) : ''),
      name: () => (hit ? nameOf(hit) : ''),
      nth: () => (hit ? String(countAt(nameOf(hit), at ?? frame)) : ''),
      score: (name) => String(countAt(name, frame)),
      game: () => games.get(line.spanAt(frame)?.clip.source ?? '') ?? '',
      frame: () => String(frame),
      time: (form) => clockedBy(now, line.fps, form || 'm:ss'),
      up: (form) => clock(now - line.timeOf(from), form),
      down: (form) => clock(line.timeOf(to + 1) - now, form),
    };
    return text.replace(
      /\{(\w+)(?::([^{}]*))?\}/g,
      (whole, name: string, about = '') => fields[name]?.(about as string) ?? whole,
    );
  };
}
