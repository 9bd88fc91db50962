/** How kinds of hits look, the same wherever hits are drawn. */
import { familyByHit } from '../../core/document/families.ts';
import { kindName, type Hit, type HitKind, type NamedFamily } from '../../core/document/types.ts';

export { kindName };

/** Forms in which hits stand in the landscape, so that no kind is told by its colour alone. */
export type PinShape = 'disc' | 'square' | 'diamond' | 'triangle' | 'drop' | 'bar';

interface KindLook {
  readonly colour: string;
  readonly shape: PinShape;
}

/** What each kind is drawn as; all that shows kinds takes it from here. */
const KINDS: Record<HitKind, KindLook> = {
  shot: { colour: '#f2a541', shape: 'disc' },
  impact: { colour: '#e8846b', shape: 'square' },
  kick: { colour: '#c58af0', shape: 'square' },
  snare: { colour: '#b0a2f5', shape: 'diamond' },
  hat: { colour: '#93b7f2', shape: 'bar' },
  note: { colour: '#8fb3d9', shape: 'disc' },
  beat: { colour: '#7fd0e0', shape: 'bar' },
  drop: { colour: '#f06ab0', shape: 'drop' },
  flash: { colour: '#f7e08a', shape: 'diamond' },
  jolt: { colour: '#d8d06a', shape: 'triangle' },
  strike: { colour: '#e9a0a0', shape: 'triangle' },
  popup: { colour: '#7ee0a8', shape: 'square' },
  cut: { colour: '#8a9aa0', shape: 'bar' },
  join: { colour: '#58c2bc', shape: 'bar' },
  match: { colour: '#b6e36a', shape: 'diamond' },
  mark: { colour: '#ffffff', shape: 'triangle' },
};

const each = <T>(of: (look: KindLook) => T): Record<HitKind, T> =>
  Object.fromEntries(Object.entries(KINDS).map(([kind, look]) => [kind, of(look)])) as Record<HitKind, T>;

export const KIND_COLOURS = each(({ colour }) => colour);
export const KIND_SHAPES = each(({ shape }) => shape);

/** Colours of families with a name of their own, told apart from each other and from the kinds' by their order. */
const OWN_HUES = [12, 172, 262, 92, 322, 212, 52, 132] as const;

/** The colour of a family: its own where it has a name of its own, else its kind's. */
export function familyColour({ named, kind }: { named: NamedFamily | null; kind: HitKind }): string {
  if (!named?.name) return KIND_COLOURS[kind];
  let sum = 0;
  for (const letter of named.name) sum = (sum * 31 + letter.codePointAt(0)!) >>> 0;
  return `hsl(${OWN_HUES[sum % OWN_HUES.length]} 78% 68%)`;
}

/** What a hit is called and drawn in: its family's own name, else its kind's. */
export function hitLook(
  { id, kind }: Pick<Hit, 'id' | 'kind'>,
  families: readonly NamedFamily[],
): { name: string; colour: string } {
  const named = familyByHit(families).get(id) ?? null;
  return { name: named?.name || kindName(kind), colour: familyColour({ named, kind }) };
}
