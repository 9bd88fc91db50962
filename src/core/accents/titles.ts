/** Titles on a frame: which are seen, what they say there, and how far they have come or gone. */
import { hash, unit } from '../base/hash.ts';
import { lowerBound } from '../base/search.ts';
import { isOfKind } from '../document/hits.ts';
import type { Montage, Stretch, Title, TitleMove } from '../document/types.ts';
import type { Occurrence } from '../timeline/occurrences.ts';
import type { Timeline } from '../timeline/timeline.ts';
import { titleWords, type Said } from './title-words.ts';

/** A title as it is drawn on one frame. Places and sizes in frame heights, from the middle. */
export interface PlannedTitle extends Pick<
  Title,
  'font' | 'own' | 'spacing' | 'weight' | 'colour' | 'box' | 'outline' | 'shadow' | 'align'
> {
  readonly id: string;
  readonly text: string;
  readonly size: number;
  readonly x: number;
  readonly y: number;
  /** 0-1, more than 0. */
  readonly opacity: number;
  /** What it says and where it lies when it has come, where that is kept within the safe area. */
  readonly within?: { readonly text: string; readonly x: number; readonly y: number };
  /** Radians clockwise about its place; only of one that a pass lays over. */
  readonly turn?: number;
  /** A pass lays it over: it is not to be drawn at the end. */
  readonly laid?: true;
}

/** One stretch that a title is seen on, output frames, both inclusive. */
interface Seen extends Said {
  readonly title: Title;
}
export interface TitleOnFrame extends Seen {
  readonly drawn: PlannedTitle;
}

/** Share of each side within which titles are surely seen: EBU R 95, 2017, graphics safe area of 16:9. */
export const SAFE_AREA = 0.05;

/** How far a title falls, and is pushed, as it comes; frame heights. */
const DROP = 0.12;
const PUSH = 0.5;

/** @param stretches output frames that a stretch lies on, in their order */
export function titlePlanner(
  montage: Pick<Montage, 'titles' | 'families' | 'sources'>,
  shown: readonly Occurrence[],
  line: Timeline,
  stretches: (stretch: Stretch) => readonly { readonly from: number; readonly to: number }[],
): {
  at(frame: number): TitleOnFrame[];
  /** Output frames that each title is seen on, both inclusive. */
  readonly stretches: readonly { readonly id: string; readonly from: number; readonly to: number }[];
} {
  const wordsOf = titleWords(montage, shown, line);
  const seen = (montage.titles ?? []).map((title): Seen[] => {
    const { where } = title;
    if (!title.on) return [];
    if (where.kind !== 'each') {
      const list = stretches(where).filter(({ from, to }) => to >= from);
      return list.map(({ from, to }, i) => ({ title, from, to, n: i + 1, of: list.length, hit: null, at: null }));
    }
    const on = shown.filter(({ hit }) =>
      where.kinds.length ? where.kinds.some((kind) => isOfKind(hit, kind)) : hit.kind !== 'join',
    );
    return on.map(({ frame, hit }, i) => {
      const next = on[i + 1];
      const to = Math.min(line.count - 1, frame + where.after, next ? next.frame - where.before - 1 : Infinity);
      const from = Math.max(0, frame - where.before);
      return { title, from, to, n: i + 1, of: on.length, hit, at: frame };
    });
  });
  const at = (frame: number): TitleOnFrame[] =>
    seen.flatMap((list) => {
      // Stretches of one title can lie over one another: the last that began counts.
      let at = lowerBound(list, frame + 1, ({ from }) => from) - 1;
      while (at >= 0 && list[at]!.to < frame) at--;
      const one = list[at];
      const said = one && wordsOf(one.title.text, one.title.pace ?? 1, one, frame);
      const drawn = said ? planned(one, frame, said) : null;
      return one && drawn ? [{ ...one, drawn }] : [];
    });
  return { at, stretches: seen.flatMap((list) => list.map(({ title: { id }, from, to }) => ({ id, from, to }))) };
}

function planned(seen: Seen, frame: number, said: string): PlannedTitle | null {
  const { title, from, to } = seen;
  const over = Math.min(title.over, Math.floor((to - from + 1) / 2));
  // On its first frame it has come some way already, so that one frame of it is seen, too.
  const come = over ? Math.min(1, (frame - from + 1) / over) : 1;
  const left = over ? Math.min(1, (to - frame + 1) / over) : 1;
  const [inward, outward] = [moved(title.comes, come, frame), moved(title.goes, left, frame)];
  const letters = Math.floor(Math.min(inward.letters, outward.letters) * said.length + 1e-9);
  const opacity = inward.opacity * outward.opacity;
  if (opacity <= 0 || letters === 0 || !said.trim()) return null;
  const { font, own, spacing, weight, colour, box, outline, shadow, align } = title;
  return {
    ...{ font, weight, colour, box, outline, shadow, align },
    ...(own && { own }),
    ...(spacing && { spacing }),
    ...((title.below || title.comesBy || title.goesBy) && { laid: true }),
    id: title.id,
    text: said.slice(0, letters),
    size: title.size / 100,
    ...(title.safe && !title.pin && { within: { text: said, x: title.x / 100, y: title.y / 100 } }),
    x: title.x / 100 + inward.x - outward.x,
    y: title.y / 100 + inward.y - outward.y,
    opacity,
  };
}

/** What a move does when so much of it is done, 0-1. */
function moved(
  move: TitleMove,
  done: number,
  frame: number,
): { readonly opacity: number; readonly x: number; readonly y: number; readonly letters: number } {
  const still = { opacity: 1, x: 0, y: 0, letters: 1 };
  if (done >= 1) return still;
  const rest = (1 - done) ** 3;
  switch (move) {
    case 'cut':
      return still;
    case 'fade':
      return { ...still, opacity: done };
    case 'drop':
      return { ...still, y: -DROP * rest, opacity: Math.min(1, done * 2) };
    case 'push':
      return { ...still, x: -PUSH * rest, opacity: Math.min(1, done * 3) };
    case 'type':
      return { ...still, letters: done };
    case 'flicker':
      return { ...still, opacity: unit(hash(frame, 77)) < done ? 1 : 0 };
  }
}

/** Letters that the typefaces that ship do not hold: scripts other than Latin, Greek and Cyrillic, and small pictures. */
export const missingLetters = (text: string): string[] => [
  ...new Set(
    [...text].filter(
      (letter) =>
        /\p{Extended_Pictographic}/u.test(letter) ||
        !/[\p{Script=Latin}\p{Script=Greek}\p{Script=Cyrillic}\p{Script=Common}\p{Script=Inherited}]/u.test(letter),
    ),
  ),
];
