/** Colours and letters of hit kinds, the same wherever hits are drawn. */
import { familyByHit } from '../../core/document/families.ts';
import type { Hit, HitKind, NamedFamily } from '../../core/document/types.ts';

export const KIND_COLOURS: Record<HitKind, string> = {
  shot: '#f2a541',
  impact: '#e8846b',
  kick: '#c58af0',
  snare: '#b0a2f5',
  hat: '#93b7f2',
  note: '#8fb3d9',
  beat: '#7fd0e0',
  drop: '#f06ab0',
  flash: '#f7e08a',
  jolt: '#d8d06a',
  strike: '#e9a0a0',
  popup: '#7ee0a8',
  cut: '#8a9aa0',
  join: '#58c2bc',
  match: '#b6e36a',
  mark: '#ffffff',
};

/** Colours of families with a name of their own, told apart from each other and from the kinds' by their order. */
const OWN_HUES = [12, 172, 262, 92, 322, 212, 52, 132] as const;

/** The colour of a family: its own where it has a name of its own, else its kind's. */
export function familyColour({ named, kind }: { named: NamedFamily | null; kind: HitKind }): string {
  if (!named?.name) return KIND_COLOURS[kind];
  let sum = 0;
  for (const letter of named.name) sum = (sum * 31 + letter.codePointAt(0)!) >>> 0;
  return `hsl(${OWN_HUES[sum % OWN_HUES.length]} 78% 68%)`;
}

export const kindName = (kind: HitKind): string => (kind === 'kick' ? 'bass drum' : kind);

/** What a hit is called and drawn in: its family's own name, else its kind's. */
export function hitLook(
  { id, kind }: Pick<Hit, 'id' | 'kind'>,
  families: readonly NamedFamily[],
): { name: string; colour: string } {
  const named = familyByHit(families).get(id) ?? null;
  return { name: named?.name || kindName(kind), colour: familyColour({ named, kind }) };
}
