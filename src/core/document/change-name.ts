/** What an edit did, in a few words, told from the documents before and after it. */
import type { Hit, Montage } from './types.ts';

type Named = readonly { readonly id: string; readonly name?: string }[];

const count = (n: number, [one, many]: readonly [string, string]): string => (n === 1 ? one : `${n} ${many}`);
const sentence = (text: string): string => text[0]!.toUpperCase() + text.slice(1);
/** The only one by its name, where it has one. */
const called = (list: Named, words: readonly [string, string]): string =>
  list.length === 1 && list[0]!.name ? `${words[0]} “${list[0]!.name}”` : count(list.length, words);

/** What a list of things with ids gained, lost and had changed; null where it is as it was. */
function ofList(before: Named, after: Named, words: readonly [string, string]): string | null {
  const [old, now] = [new Map(before.map((x) => [x.id, x])), new Set(after.map(({ id }) => id))];
  const added = after.filter(({ id }) => !old.has(id));
  const removed = before.filter(({ id }) => !now.has(id));
  const changed = after.filter((x) => old.has(x.id) && old.get(x.id) !== x);
  if (added.length && removed.length) return `${called(added, words)} in place of ${count(removed.length, words)}`;
  if (added.length) return `${called(added, words)} added`;
  if (removed.length) return `${called(removed, words)} removed`;
  if (changed.length) return `${called(changed, words)} changed`;
  return after.every(({ id }, i) => before[i]!.id === id) ? null : `order of ${words[1]} changed`;
}

const HIT = ['hit', 'hits'] as const;

function ofHits(before: readonly Hit[], after: readonly Hit[]): string {
  const old = new Map(before.map((hit) => [hit.id, hit]));
  const now = new Set(after.map(({ id }) => id));
  const changed = after.filter((hit) => old.get(hit.id) !== hit);
  const decided = changed.filter((hit) => old.get(hit.id)?.state !== hit.state);
  if (decided.length) {
    const states = new Set(decided.map(({ state }) => state));
    const what = states.size === 1 ? { kept: 'kept', rejected: 'rejected', made: 'added', found: 'open' } : null;
    return `${count(decided.length, HIT)} ${what?.[decided[0]!.state] ?? 'decided on'}`;
  }
  const gone = before.filter(({ id }) => !now.has(id));
  if (gone.length) return `${count(gone.length, HIT)} ${gone[0]!.state === 'made' ? 'removed' : 'undecided again'}`;
  const was = (hit: Hit): Hit => old.get(hit.id)!;
  const how = changed.some((hit) => was(hit).t !== hit.t)
    ? 'moved'
    : changed.some((hit) => was(hit).kind !== hit.kind)
      ? 'named'
      : changed.some((hit) => was(hit).focus !== hit.focus || was(hit).track !== hit.track)
        ? 'given a focus'
        : 'changed';
  return `${count(changed.length, HIT)} ${how}`;
}

/** Lists in the order in which they are spoken of: what brought the rest about comes first. */
const LISTS = {
  sources: ['source', 'sources'],
  families: ['family', 'families'],
  clips: ['clip', 'clips'],
  music: ['piece of music', 'pieces of music'],
  accents: ['accent', 'accents'],
  rules: ['rule', 'rules'],
  byHand: ['accent by hand', 'accents by hand'],
  beds: ['bed', 'beds'],
  watches: ['watched area', 'watched areas'],
  examples: ['sound example', 'sound examples'],
  formats: ['format', 'formats'],
} as const satisfies Partial<Record<keyof Montage, readonly [string, string]>>;

const WHOLES = {
  name: 'montage renamed',
  settings: 'settings changed',
  overrides: 'placements changed',
  sensitivity: 'sensitivity changed',
  forgotten: 'decisions rank no more',
} as const satisfies Partial<Record<keyof Montage, string>>;

/** A few words that begin with a capital letter: “3 hits kept”, “Accent “Punch” changed”. */
export function changeName(before: Montage, after: Montage): string {
  const parts: string[] = [];
  for (const [name, words] of Object.entries(LISTS) as [keyof typeof LISTS, readonly [string, string]][])
    if (before[name] !== after[name]) {
      const part = ofList(before[name], after[name], words);
      if (part) parts.push(part);
    }
  if (before.hits !== after.hits) parts.push(ofHits(before.hits, after.hits));
  for (const [name, words] of Object.entries(WHOLES) as [keyof typeof WHOLES, string][])
    if (before[name] !== after[name]) parts.push(words);
  return sentence(parts.slice(0, 2).join(', ') || 'change');
}
