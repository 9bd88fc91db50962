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

/** Steps that are stored each way: undo keeps more while a montage is open. */
export const MOST_STORED = 100;

/** What each montage differs in from the one it was compared with last: most steps of a history stay as they were. */
const known = new WeakMap<Montage, { readonly from: Montage; readonly patch: Patch }>();

function step(from: Montage, to: Montage): Patch {
  const kept = known.get(to);
  if (kept?.from === from) return kept.patch;
  const patch = patchOf(from, to) ?? { fields: {}, without: [] };
  known.set(to, { from, patch });
  return patch;
}

export function stepsOf(montage: Montage, { past, future }: History): Steps {
  const chain = (list: readonly Montage[]): Patch[] =>
    list.slice(0, MOST_STORED).map((to, i) => step(i ? list[i - 1]! : montage, to));
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
