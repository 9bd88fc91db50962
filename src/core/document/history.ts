/** The steps of undo as they are stored: each says what it changes, since whole documents of each step would fill the disk. */
import { patched, patchOf, type Patch } from './patch.ts';
import type { Montage } from './types.ts';

/** The way back from a montage and forward again, the nearest step first. */
export interface Steps {
  readonly back: readonly Patch[];
  readonly forth: readonly Patch[];
}

/** Montages before this one, oldest first, and those that were taken back, nearest first. */
export interface History {
  readonly past: readonly Montage[];
  readonly future: readonly Montage[];
}

/** Steps that are stored each way, and letters of them: undo keeps more while a montage is open. */
export const MOST_STORED = 100;
const MOST_LETTERS = 1_000_000;

/** What each montage differs in from the one it was compared with last: most steps of a history stay as they were. */
const known = new WeakMap<Montage, { readonly from: Montage; readonly patch: Patch; readonly letters: number }>();

function step(from: Montage, to: Montage): { readonly patch: Patch; readonly letters: number } {
  const kept = known.get(to);
  if (kept?.from === from) return kept;
  const patch = patchOf(from, to) ?? { fields: {}, without: [] };
  const made = { from, patch, letters: JSON.stringify(patch).length };
  known.set(to, made);
  return made;
}

export function stepsOf(montage: Montage, { past, future }: History): Steps {
  const chain = (list: readonly Montage[]): Patch[] => {
    const patches: Patch[] = [];
    let [from, left] = [montage, MOST_LETTERS];
    for (const to of list.slice(0, MOST_STORED)) {
      const { patch, letters } = step(from, to);
      // They are written again with every edit.
      if ((left -= letters) < 0) break;
      patches.push(patch);
      from = to;
    }
    return patches;
  };
  return { back: chain([...past].reverse()), forth: chain(future) };
}

/** The history that steps lead through; none where they do not belong to this montage. */
export function historyOf(montage: Montage, { back, forth }: Steps): History {
  try {
    const chain = (patches: readonly Patch[]): Montage[] => {
      let at = montage;
      return patches.map((patch) => (at = patched(at, patch) as Montage));
    };
    return { past: chain(back).reverse(), future: chain(forth) };
  } catch {
    return { past: [], future: [] };
  }
}
