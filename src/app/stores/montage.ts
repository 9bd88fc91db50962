/** The open montage, its undo history and its saving. */
import { create } from 'zustand';
import type { Edit } from '../../core/document/edits.ts';
import type { Montage } from '../../core/document/types.ts';
import { database, stored } from '../../engine/storage/database.ts';
import { sentence } from '../../engine/index.ts';

const MOST_UNDO = 500;

interface MontageState {
  montage: Montage | null;
  past: readonly Montage[];
  future: readonly Montage[];
  /** Edits with the same group follow one another as a single step of undo. */
  group: string | null;
  saved: 'saved' | 'saving' | 'failed';
  problem: string | null;
  /** Another tab holds this montage. */
  readOnly: boolean;
  edit(edit: Edit, group?: string): void;
  undo(): void;
  redo(): void;
  load(montage: Montage, readOnly: boolean): void;
}

export const useMontage = create<MontageState>((set, get) => ({
  montage: null,
  past: [],
  future: [],
  group: null,
  saved: 'saved',
  problem: null,
  readOnly: false,
  edit(edit, group) {
    const { montage, past, readOnly, group: last } = get();
    if (!montage || readOnly) return;
    const next = edit(montage);
    if (next === montage) return;
    const joined = group !== undefined && group === last;
    set({
      montage: next,
      past: joined ? past : [...past.slice(-MOST_UNDO), montage],
      future: [],
      group: group ?? null,
    });
  },
  undo() {
    const { montage, past, future } = get();
    const before = past.at(-1);
    if (montage && before) set({ montage: before, past: past.slice(0, -1), future: [montage, ...future], group: null });
  },
  redo() {
    const { montage, past, future } = get();
    const after = future[0];
    if (montage && after) set({ montage: after, past: [...past, montage], future: future.slice(1), group: null });
  },
  load: (montage, readOnly) =>
    set({ montage, readOnly, past: [], future: [], group: null, saved: 'saved', problem: null }),
}));

let running = false;

/** Writes the newest state; edits made while writing are written right after. */
async function save(): Promise<void> {
  if (running) return;
  running = true;
  try {
    for (let written: Montage | null = null; ;) {
      const { montage, readOnly } = useMontage.getState();
      if (!montage || readOnly || montage === written) break;
      useMontage.setState({ saved: 'saving' });
      await stored(() => database.montages.put({ id: montage.id, name: montage.name, updated: Date.now(), montage }));
      written = montage;
    }
    useMontage.setState({ saved: 'saved', problem: null });
  } catch (error) {
    useMontage.setState({ saved: 'failed', problem: sentence(error) });
  } finally {
    running = false;
  }
}

useMontage.subscribe((state, before) => {
  if (state.montage !== before.montage) void save();
});

/** Applies an edit to the open montage. */
export const edit = (change: Edit, group?: string): void => useMontage.getState().edit(change, group);
