/** Families that a person named: which hits are of which, and what a rule or a filter takes them for. */
import { isOfKind } from './hits.ts';
import { HIT_KINDS, type Hit, type NamedFamily } from './types.ts';

const indices = new WeakMap<readonly NamedFamily[], ReadonlyMap<string, NamedFamily>>();

/** By id of a hit, the family that it was put into; kept as long as the list is. */
export function familyByHit(families: readonly NamedFamily[]): ReadonlyMap<string, NamedFamily> {
  const known = indices.get(families);
  if (known) return known;
  const index = new Map(families.flatMap((family) => family.members.map((id) => [id, family] as const)));
  indices.set(families, index);
  return index;
}

/** Families with a name of the person's own, which works wherever a kind does. */
export const ownNamed = (families: readonly NamedFamily[]): readonly NamedFamily[] =>
  families.filter(({ name, state }) => name !== '' && state !== 'rejected');

/** What a hit is known as in lists and filters: its family's own name, by its id, else the kinds that it is of. */
export function labelsOf(hit: Hit, families: readonly NamedFamily[]): readonly string[] {
  const family = familyByHit(families).get(hit.id);
  return family?.name ? [family.id] : HIT_KINDS.filter((kind) => isOfKind(hit, kind));
}

/** Puts a family into the list, new or in place of the one of its id. A hit is of one family: others lose what it has. */
export function withFamily(families: readonly NamedFamily[], family: NamedFamily): NamedFamily[] {
  const taken = new Set(family.members);
  const rest = families.map((other) =>
    other.id !== family.id && other.members.some((id) => taken.has(id))
      ? { ...other, members: other.members.filter((id) => !taken.has(id)) }
      : other,
  );
  return rest.some(({ id }) => id === family.id)
    ? rest.map((other) => (other.id === family.id ? family : other))
    : [...rest, family];
}
