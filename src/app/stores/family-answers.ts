/** What a person says of families: keeping, rejecting, naming, parting, joining, moving, and seeking more. */
import { nanoid } from 'nanoid';
import { decideAll, removeFamily, setFamily, together, updateFamily, type Edit } from '../../core/document/edits.ts';
import type { Hit, NamedFamily, Within } from '../../core/document/types.ts';
import { partsOf, seenWith, takeExamples } from '../../core/finding/families/families.ts';
import { MORE_ENOUGH } from '../../core/finding/families/more.ts';
import { choose } from './actions.ts';
import { asNamed, currentFamily, familyName, nowShown, useFamilies, type ShownFamily } from './families.ts';
import { useMedia } from './media.ts';
import { edit } from './montage.ts';
import { notice } from './view.ts';

const NONE_YET = 'There is no family of sounds here yet: find hits first.';

/** A family as the montage keeps it, with these members. */
function record(
  family: ShownFamily,
  change: Partial<NamedFamily> = {},
  hits: readonly Hit[] = family.hits,
): NamedFamily {
  const sounds = Object.values(useMedia.getState().signals[family.source]?.sounds ?? {});
  return {
    id: nanoid(8),
    name: '',
    kind: family.kind,
    state: 'open',
    more: null,
    ...family.named,
    // What came from elsewhere is known by what it sounded like there, too.
    examples: family.named?.examples.length ? family.named.examples : takeExamples(hits, sounds),
    members: hits.map(({ id }) => id),
    ...change,
  };
}

/** Goes on to the next family that is worth an answer. */
function goOn(from: string): void {
  const next = nowShown().find((other) => other.id !== from && other.waits);
  if (next?.shown[0]) choose(next.shown[0]);
}

/** Answers for all members at once, by a kind of the trade or words of the person's own, and goes on. */
export function answerFamily(
  family: ShownFamily | undefined,
  state: 'kept' | 'rejected',
  named: Partial<Pick<NamedFamily, 'kind' | 'name'>> = {},
): void {
  if (!family) return notice(NONE_YET, 'error');
  const kept = record(family, { ...named, state });
  edit(together([setFamily(kept), decideAll(asNamed(family.hits, kept), state)]));
  const name = state === 'kept' ? ` as ${familyName({ named: kept, kind: kept.kind })}` : '';
  notice(`${family.hits.length} hits of one sound ${state}${name}. Undo takes it back.`);
  goOn(family.id);
}

/** Takes an answer back: the members are as undecided as they were found. */
export function takeBack(family: ShownFamily): void {
  if (!family.named) return;
  edit(together([decideAll(family.hits, 'found'), removeFamily(family.named.id)]));
  notice(`${family.hits.length} hits of one sound are undecided again.`);
}

/** Parts a family in two; the second is one that nothing is said of yet. */
function part(
  family: ShownFamily,
  own: readonly Hit[],
  others: readonly Hit[],
  ofOwn: Partial<NamedFamily> = {},
  ofOthers: Partial<NamedFamily> = {},
): void {
  if (!own.length || !others.length) return notice('All members are on one side: there is nothing to split.');
  const rest = record({ ...family, named: null }, { ...ofOthers, id: nanoid(8) }, others);
  edit(
    together([
      setFamily(record({ ...family, named: family.named && { ...family.named, examples: [] } }, ofOwn, own)),
      setFamily(rest),
      // What leaves an answered family is to be answered by itself.
      ...(family.named && family.named.state !== 'open' ? [decideAll(others, 'found')] : []),
    ]),
  );
  notice(`One sound with ${own.length} hits and one with ${others.length}. Undo takes it back.`);
}

/** By likeness: the two parts that it falls into first. */
export function partByLikeness(family: ShownFamily): void {
  const kinship = useFamilies.getState().sorted[family.source]?.kinship;
  const parts = kinship && partsOf(family, kinship);
  if (!parts) return notice('Its members are all alike: there is nothing to split.');
  const at = (indices: readonly number[]): Hit[] => family.hits.filter((_, i) => indices.includes(family.members[i]!));
  part(family, at(parts[0]), at(parts[1]));
}

const EVERYTHING = { from: -1000, to: 1000 };

/** How many lie on each side of a threshold, in decibels or of what is seen. */
export function sidesOf(family: ShownFamily, by: 'loud' | 'seen', from: number): { above: Hit[]; below: Hit[] } {
  const value = (i: number): number => (by === 'loud' ? family.loud[i]! : seenWith(family.hits[i]!));
  return {
    above: family.hits.filter((_, i) => value(i) >= from),
    below: family.hits.filter((_, i) => value(i) < from),
  };
}

/** By loudness, or by what is seen with it: the player's own and theirs. The threshold stays with both, in profiles too. */
export function partBy(family: ShownFamily, by: 'loud' | 'seen', from: number): void {
  const { above, below } = sidesOf(family, by, from);
  const within: Within = family.named?.[by] ?? EVERYTHING;
  part(family, above, below, { [by]: { ...within, from } }, { [by]: { ...within, to: from } });
}

/** Makes one of two; the first one's name and answer stay. */
export function joinFamilies(family: ShownFamily, other: ShownFamily): void {
  const kept = record(family, {}, [...family.hits, ...other.hits]);
  const answered: Edit[] = kept.state === 'open' ? [] : [decideAll(asNamed(other.hits, kept), kept.state)];
  edit(together([...(other.named ? [removeFamily(other.named.id)] : []), setFamily(kept), ...answered]));
  notice(`${kept.members.length} hits are one sound now. Undo takes it back.`);
}

/** Moves one member to another family, or out to stand by itself. */
export function moveMember(family: ShownFamily, hit: Hit, to: ShownFamily | null): void {
  const left = record(
    family,
    {},
    family.hits.filter(({ id }) => id !== hit.id),
  );
  const target = to ? record(to, {}, [...to.hits, hit]) : record({ ...family, named: null, hits: [hit] }, {}, [hit]);
  const answered =
    target.state === 'open' ? decideAll([hit], 'found') : decideAll(asNamed([hit], target), target.state);
  edit(together([setFamily(left), setFamily(target), answered]));
  notice(to ? `It is one of ${familyName(to)} now.` : 'It stands by itself now.');
}

/** Seeks more of a family in all sources, below the sensitivity too, or no longer. */
export function seekMore(family: ShownFamily | undefined, more: number | null = MORE_ENOUGH): void {
  if (!family) return notice(NONE_YET, 'error');
  if (family.named) edit(updateFamily(family.named.id, { more }), `more-${family.id}`);
  else edit(setFamily(record(family, { more })));
}

export const answerCurrent = (state: 'kept' | 'rejected'): void => answerFamily(currentFamily(nowShown()), state);
