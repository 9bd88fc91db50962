/** More of a family: where else in a sound it is heard, below the sensitivity too (common practice, no source). */
import type { NamedFamily } from '../../document/types.ts';
import { prominence } from '../signals/local-prominence.ts';
import { LEAST_OVER, type SoundSignals } from '../signals/types.ts';
import { examplesOf } from './families.ts';
import { commonPrint, Prints, printOf, type Print } from './prints.ts';

/** Likeness that is enough unless the person sets another. */
export const MORE_ENOUGH = 0.55;

/** How alike each attack of each track is to a family, 0-255, by number of the track; and the examples that say so. */
export interface FamilySignal {
  readonly examples: readonly string[];
  readonly tracks: Readonly<Record<number, Uint8Array>>;
}

/** @param examples as {@link NamedFamily.examples} are kept */
export const familySignal = (
  sounds: Readonly<Record<number, SoundSignals>>,
  { examples }: Pick<NamedFamily, 'examples'>,
): FamilySignal => ({
  examples,
  tracks: Object.fromEntries(
    Object.entries(sounds).map(([track, sound]) => [track, likenessToFamily(sound, examplesOf({ examples }))]),
  ),
});

/**
 * How alike each attack of a sound is to a family, 0-255: to what its examples share, or to all but the most alike of
 * them, for one may be covered by what is elsewhere a sound of its own. What hardly stands out is 0.
 */
export function likenessToFamily(sound: SoundSignals, examples: readonly Print[]): Uint8Array {
  const out = new Uint8Array(sound.attacks.length);
  if (!examples.length) return out;
  const asked = [...sound.attackHops.keys()].filter((i) => prominence(sound.onset, sound.attackHops[i]!) >= LEAST_OVER);
  const known = [...examples, commonPrint(examples)];
  const prints = new Prints([...known, ...asked.map((i) => printOf(sound, sound.attackHops[i]!))]);
  asked.forEach((attack, k) => {
    const likes = examples.map((_, e) => prints.likeness(e, known.length + k)).sort((a, b) => b - a);
    const most = Math.max(prints.likeness(examples.length, known.length + k), likes[Math.min(1, likes.length - 1)]!);
    out[attack] = Math.round(255 * most);
  });
  return out;
}
