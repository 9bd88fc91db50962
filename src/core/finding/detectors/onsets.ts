import { isBlow } from '../../document/hits.ts';
import { adapted, blowOf, holdsMusic } from '../kinds/adapt.ts';
import { SHORTEST } from '../kinds/rows.ts';
import type { HitKind } from '../../document/types.ts';
import { isPeak, localProminence, prominence } from '../signals/local-prominence.ts';
import { lowerBound } from '../../base/search.ts';
import { softOnsets } from '../signals/soft-onsets.ts';
import { LEAST_OVER, BLOWS, PLAYED, SOUND_CLASSES, type Sounding, type SoundSignals } from '../signals/types.ts';
import type { Detector, Find } from './detector.ts';

const LEAST_GAP = 0.03;

/** Shots and impacts are told from the rest by their kind, so that fainter ones are let through, and still fainter ones that are hardly anything else. */
const FAINTER = 0.4;
const FAINTEST = 0.22;
/** Probability of being a shot or an impact from which one is hardly anything else. */
const SURE = 0.7;

/**
 * Flux over its local mean at sensitivity 0, 0.5 and 1: 12, 3 and 0.75 (a geometric scale), less for shots and impacts.
 * @param blow probability of being a shot or an impact
 */
export const onsetThreshold = (sensitivity: number, kind: HitKind, blow: number): number =>
  Math.max(LEAST_OVER, 12 * (0.75 / 12) ** sensitivity * (isBlow({ kind }) ? (blow >= SURE ? FAINTEST : FAINTER) : 1));

/** Probability of being no hit that is still let through, at sensitivity 0, 0.5 and 1: 0.03, 0.5 and 1. */
const mostOther = (sensitivity: number): number =>
  sensitivity > 0.5 ? sensitivity : 0.03 * (0.5 / 0.03) ** (2 * sensitivity);

/** Flux over the mean at which an onset counts as of full strength. */
const FULL_STRENGTH = 24;

/** Seconds within which a second stroke belongs to the same blow (heel and sole, bolt and bang), unless it goes on as evenly, no faster than anything fires: then it is a burst. */
const ONE_BLOW = 0.08;
/** Gaps of a burst differ by less than this share. */
const EVEN = 0.3;
/** How much stronger a second stroke must be to be the blow itself, if it is as likely a hit. */
const STRONGER = 2;
/** How much less it may be no hit to be the blow itself, if it is weaker. */
const LIKELIER = 0.5;

/** One find for each blow. Those that are none by themselves stay as they are. */
export function withoutSecondStrokes(finds: readonly Find[]): Find[] {
  const clear = finds.filter(({ faint }) => !faint);
  const dropped = new Set<Find>();
  let last: Find | null = null;
  clear.forEach((find, i) => {
    if (last && isBlow(find) && isBlow(last) && find.t - last.t < ONE_BLOW) {
      const gap = find.t - last.t;
      const around = [last.t - (clear[i - 2]?.t ?? -Infinity), (clear[i + 1]?.t ?? Infinity) - find.t];
      if (gap < SHORTEST || !around.some((other) => Math.abs(other - gap) <= EVEN * gap)) {
        const itself =
          (find.strength > STRONGER * last.strength && find.confidence >= last.confidence) ||
          1 - find.confidence < LIKELIER * (1 - last.confidence);
        dropped.add(itself ? last : find);
        if (!itself) return;
      }
    }
    last = find;
  });
  return finds.filter((find) => !dropped.has(find));
}

const OTHER = SOUND_CLASSES.indexOf('other');
const HITS: readonly Sounding[] = [...BLOWS, ...PLAYED];

/** New partials from which a soft onset is a note, at sensitivity 0, 0.5 and 1: 4, 1 and 0.25 (a geometric scale). */
const softThreshold = (sensitivity: number): number => 4 * (1 / 16) ** sensitivity;
/** New partials at which one counts as of full strength. */
const FULL_SOFT = 8;
/** Seconds within which a soft onset is that of an edge, which dates it better. */
const OF_EDGE = 0.1;
/** Edges that are no music for each soft onset, from which these are those of speech. */
const SPEECH = 2;

/** The same with notes that have no edge, in music, and in what has hardly any edges that are something else. */
function withSoftNotes(finds: readonly Find[], sound: SoundSignals, music: boolean, sensitivity: number): Find[] {
  const soft = softOnsets(sound.soft, softThreshold(sensitivity));
  if (!soft.length || (!music && finds.filter(({ faint }) => faint).length > SPEECH * soft.length)) return [...finds];
  const clear = finds.filter(({ faint }) => !faint).map(({ t }) => t);
  const notes = soft
    .map((hop): Find => {
      const strength = Math.min(1, sound.soft[hop]! / 32 / FULL_SOFT);
      const confidence = Math.min(0.95, 0.5 + strength);
      return { t: sound.start + hop / sound.rate, kind: 'note', strength, confidence, kinds: { note: confidence } };
    })
    .filter(({ t }) => {
      const next = lowerBound(clear, t - OF_EDGE, (at) => at);
      return next === clear.length || clear[next]! > t + OF_EDGE;
    });
  return [...finds, ...notes].sort((a, b) => a.t - b.t);
}

/** Probability of being a shot or an impact from which an attack that another stroke hides is one; as a stroke of music it is no hit. */
const HIDDEN = 0.4;

/** Probability of being a shot or an impact below which a stroke in music is called neither, though each other kind may be less likely still. */
const UNLIKELY = 0.22;

const likeliest = (probabilities: Float32Array, kinds: readonly Sounding[]): Sounding =>
  kinds.reduce((best, kind) =>
    probabilities[SOUND_CLASSES.indexOf(kind)]! > probabilities[SOUND_CLASSES.indexOf(best)]! ? kind : best,
  );

export const onsets: Detector = {
  id: 'onset',
  version: 10,
  name: 'Onsets',
  doc: 'Sudden new energy in many bands at once, told apart by a small trained model: shots, impacts, drums, notes.',
  reference:
    'S. Boeck and G. Widmer, "Maximum filter vibrato suppression for onset detection", DAFx 2013; kinds: docs/detection.md',
  kinds: HITS,
  find({ sound, music: said = false, content = 'unsaid' }, sensitivity) {
    if (!sound) return [];
    const { onset, attacks, attackHops } = sound;
    const over = localProminence(onset);
    const probabilities = adapted(sound, said, content);
    const music = content === 'drums' || holdsMusic(sound);
    const finds: Find[] = [];
    attackHops.forEach((hop, i) => {
      const p = probabilities.subarray(i * SOUND_CLASSES.length, (i + 1) * SOUND_CLASSES.length);
      const blow = blowOf(p);
      const hidden = !isPeak(onset, hop);
      if (hidden && blow < HIDDEN) return;
      const possible: readonly Sounding[] = hidden ? BLOWS : HITS;
      const kind = likeliest(p, music && blow < UNLIKELY ? PLAYED : possible);
      const asked = sensitivity(kind);
      const stands = prominence(onset, hop, (at) => over[at]!);
      if (stands < onsetThreshold(asked, kind, blow)) return;
      const last = finds.at(-1);
      const t = attacks[i]!;
      // In music every stroke that stands out is one; elsewhere most of what is heard is no hit.
      const none = p[OTHER]! > mostOther(asked) && !(music && PLAYED.includes(kind));
      const find: Find = {
        t,
        kind,
        ...(none ? { faint: true } : {}),
        strength: Math.min(1, stands / FULL_STRENGTH),
        confidence: hidden ? blow : Math.max(1 - p[OTHER]!, music && PLAYED.includes(kind) ? stands / (stands + 6) : 0),
        kinds: Object.fromEntries(
          possible
            .map((name) => [name, Math.round(p[SOUND_CLASSES.indexOf(name)]! * 1000) / 1000] as const)
            .filter(([, probability]) => probability >= 0.02),
        ),
      };
      if (last && t - last.t < LEAST_GAP && isBlow(last) === isBlow(find)) {
        // A hit before what is none, the stronger before the weaker.
        if (Boolean(find.faint) === Boolean(last.faint) ? find.strength > last.strength : last.faint)
          finds[finds.length - 1] = find;
      } else finds.push(find);
    });
    return withSoftNotes(withoutSecondStrokes(finds), sound, said || music, sensitivity('note'));
  },
};
