/** What was heard and what was seen become one hit. */
import { ALSO, isBlow } from '../../document/hits.ts';
import type { Hit, HitKind, Kinds } from '../../document/types.ts';
import { lowerBound } from '../../base/search.ts';

/** Sound and picture this close, in seconds, are one moment, unless the person sets another window. */
export const FUSION_WINDOW = 0.08;
/** The same seen twice, heard twice: a flash with its jolt, one attack on two tracks. */
const SAME_PICTURE = 0.045;
const SAME_SOUND = 0.03;
/** How much more often a flash comes with a shot, or an impact, than with any other attack (common practice, no source). */
const FLASH_WITH: Partial<Record<HitKind, number>> = { shot: 20, impact: 4 };

const PICTURE_KINDS: readonly HitKind[] = ['flash', 'jolt', 'strike', 'popup'];

/** Probabilities that speak of a hit by itself: its own where it has them, else its kind. */
const kindsOf = (hit: Hit): Kinds => hit.kinds ?? { [hit.kind]: hit.confidence };

/** Whether a hit stands where the picture shows it, whatever it is named after. */
export const isSeen = ({ kind, evidence }: Pick<Hit, 'kind' | 'evidence'>): boolean =>
  PICTURE_KINDS.includes(kind) ||
  evidence.some(({ detector }) => PICTURE_KINDS.includes(detector as HitKind) || detector.startsWith('watch:'));

/** What was heard at a flash, by Bayes' rule. */
function besideFlash(heard: Kinds): Kinds {
  const odds = (Object.entries(heard) as [HitKind, number][]).map(
    ([kind, p]) => [kind, p * (FLASH_WITH[kind] ?? 1)] as const,
  );
  const none = Math.max(0, 1 - Object.values(heard).reduce<number>((sum, p) => sum + (p ?? 0), 0));
  const all = odds.reduce((sum, [, o]) => sum + o, none);
  return Object.fromEntries(odds.map(([kind, o]) => [kind, Math.round((o / all) * 1000) / 1000]));
}

/** The likeliest of these kinds. */
const likeliest = (kinds: Kinds): HitKind | undefined =>
  (Object.entries(kinds) as [HitKind, number][]).reduce<readonly [HitKind, number] | null>(
    (best, one) => (best && best[1] >= one[1] ? best : one),
    null,
  )?.[0];

/**
 * What is seen and heard at one moment: where it is seen, named after the blow that it is heard as. What was heard beside
 * a picture that shows no blow, a stroke of the music, is chance, and a watched sign has the name that a person gave it.
 */
function seenAndHeard(picture: Hit, sound: Hit, faint: boolean): Hit {
  const heard = picture.kind === 'flash' ? besideFlash(kindsOf(sound)) : kindsOf(sound);
  const kind = likeliest(heard);
  const names =
    kind !== undefined && isBlow({ kind }) && picture.kind !== 'popup' && (!faint || (heard[kind] ?? 0) >= ALSO);
  return { ...merged(picture, { ...sound, kinds: heard }), ...(names ? { kind } : {}) };
}

function merged(main: Hit, other: Hit): Hit {
  return {
    ...main,
    kinds: { ...kindsOf(other), ...kindsOf(main) },
    ...(other.audioT !== undefined && main.audioT === undefined ? { audioT: other.audioT, loud: other.loud } : {}),
    ...((main.focus ?? other.focus) ? { focus: main.focus ?? other.focus } : {}),
    strength: Math.max(main.strength, other.strength),
    confidence: 1 - (1 - main.confidence) * (1 - other.confidence),
    evidence: [...main.evidence, ...other.evidence],
  };
}

/** Joins neighbours within `window`; a shot or an impact gives the name and the place, else the more confident. */
function joined(hits: readonly Hit[], window: number): Hit[] {
  const out: Hit[] = [];
  for (const hit of [...hits].sort((a, b) => a.t - b.t)) {
    const last = out.at(-1);
    if (last && hit.t - last.t <= window) {
      const names = isBlow(hit) === isBlow(last) ? hit.confidence > last.confidence : isBlow(hit);
      out[out.length - 1] = names ? merged(hit, last) : merged(last, hit);
    } else out.push(hit);
  }
  return out;
}

/**
 * One list from what all detectors found in a source. An attack within `window` of something seen, the
 * sound's constant delay taken off, is the same moment: it stands at the picture's contact frame,
 * under the name of the blow that was heard, else of what was seen, with all probabilities of both.
 * @param faint attacks that are no hits by themselves, but may be what was heard of something seen
 * @param delay seconds by which the sound comes late
 */
export function fuse(found: readonly Hit[], faint: readonly Hit[] = [], window = FUSION_WINDOW, delay = 0): Hit[] {
  const pictures = joined(found.filter(isSeen), SAME_PICTURE);
  const alone = new Set(faint);
  const sounds = [
    ...joined(
      found.filter((hit) => hit.audioT !== undefined),
      SAME_SOUND,
    ),
    ...faint,
  ].sort((a, b) => a.t - b.t);
  const rest = found.filter((hit) => !isSeen(hit) && hit.audioT === undefined);
  // Nearest pairs first, each hit once.
  const pairs: { gap: number; p: number; s: number }[] = [];
  pictures.forEach((picture, p) => {
    for (
      let s = lowerBound(sounds, picture.t + delay - window, (hit) => hit.t);
      s < sounds.length && sounds[s]!.t <= picture.t + delay + window;
      s++
    ) {
      pairs.push({ gap: Math.abs(sounds[s]!.t - delay - picture.t), p, s });
    }
  });
  pairs.sort((a, b) => a.gap - b.gap);
  const partner = new Map<number, number>();
  const used = new Set<number>();
  for (const { p, s } of pairs) {
    if (partner.has(p) || used.has(s)) continue;
    partner.set(p, s);
    used.add(s);
  }
  return [
    ...pictures.map((picture, p) =>
      partner.has(p) ? seenAndHeard(picture, sounds[partner.get(p)!]!, alone.has(sounds[partner.get(p)!]!)) : picture,
    ),
    ...sounds.filter((sound, s) => !used.has(s) && !alone.has(sound)),
    ...rest,
  ].sort((a, b) => a.t - b.t);
}

export interface Delay {
  /** Seconds by which the sound comes after the picture; 0 where nothing speaks for another. */
  readonly seconds: number;
  /** Coincidences that say so. */
  readonly votes: number;
}

const DELAY_REACH = 0.3;
const DELAY_STEP = 0.01;
const LEAST_VOTES = 4;

/** The constant delay of the sound, from how often each distance occurs between what is seen and what is heard. */
export function estimateDelay(found: readonly Hit[]): Delay {
  const none: Delay = { seconds: 0, votes: 0 };
  const pictures = found.filter((hit) => isSeen(hit) && hit.kind !== 'popup');
  const sounds = found
    .filter((hit) => hit.audioT !== undefined && !['note', 'hat'].includes(hit.kind))
    .sort((a, b) => a.t - b.t);
  const gaps: number[] = [];
  for (const picture of pictures) {
    for (
      let s = lowerBound(sounds, picture.t - DELAY_REACH, (hit) => hit.t);
      s < sounds.length && sounds[s]!.t <= picture.t + DELAY_REACH;
      s++
    )
      gaps.push(sounds[s]!.t - picture.t);
  }
  let best = none;
  for (let at = -DELAY_REACH; at <= DELAY_REACH; at += DELAY_STEP) {
    const near = gaps.filter((gap) => Math.abs(gap - at) <= 0.02).sort((a, b) => a - b);
    if (near.length > best.votes) best = { seconds: near[near.length >> 1]!, votes: near.length };
  }
  // By chance a stretch of 40 ms holds its share of all distances.
  const chance = gaps.length * (0.04 / (2 * DELAY_REACH));
  return best.votes >= LEAST_VOTES && best.votes > 2.5 * chance + 1 ? best : none;
}
