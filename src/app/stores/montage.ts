/** The open montage, its undo history and its saving. */
import { create } from 'zustand';
import type { Edit } from '../../core/document/edits.ts';
import { isSame } from '../../core/document/patch.ts';
import { stepsOf, type History } from '../../core/document/history.ts';
import type { Montage } from '../../core/document/types.ts';
import { addMontage, EngineError, sentence, storedMontage, storeMontage } from '../../engine/index.ts';
import { notice } from './view.ts';

const MOST_UNDO = 500;
/** Milliseconds after which the next change of one control is another gesture, but for one that the pointer holds. */
const GESTURE = 1000;
let held = false;

const NO_HISTORY: History = { past: [], future: [] };

interface MontageState extends History {
  montage: Montage | null;
  /** Edits with the same group that follow at once are a single step of undo. */
  group: { readonly name: string; readonly until: number } | null;
  saved: 'saved' | 'saving' | 'failed';
  problem: string | null;
  /** Another tab has deleted it. */
  gone: boolean;
  /** Another tab holds this montage. */
  readOnly: boolean;
  /** The state was gone to by undo or redo: nothing follows from it that did not then. */
  walked: boolean;
  /** Clips are shown at their recorded speed, for comparison; nothing is edited meanwhile. */
  recorded: boolean;
  edit(edit: Edit, group?: string): void;
  /** Makes an edit part of the last step of undo: what follows from that step. */
  amend(edit: Edit): void;
  undo(): void;
  redo(): void;
  /** So many steps forward at once; negative: back. */
  walk(by: number): void;
  /** `stored`: whether it lies in the browser as it is. */
  load(montage: Montage, readOnly: boolean, history?: History, stored?: boolean): void;
}

/** The state that is known to be stored. */
let written: Montage | null = null;

export const useMontage = create<MontageState>((set, get) => ({
  montage: null,
  past: [],
  future: [],
  group: null,
  saved: 'saved',
  problem: null,
  gone: false,
  readOnly: false,
  walked: false,
  recorded: false,
  edit(edit, group) {
    const { montage, past, readOnly, recorded, group: last } = get();
    if (!montage || readOnly) return;
    if (recorded) return notice('Speeds are left out for comparison: bring them back (T) to change anything.', 'error');
    const next = edit(montage);
    // What changes nothing is no step.
    if (isSame(next, montage)) return;
    const now = performance.now();
    const joined = group !== undefined && group === last?.name && now < last.until;
    set({
      montage: next,
      past: joined ? past : [...past.slice(1 - MOST_UNDO), montage],
      future: [],
      walked: false,
      group: group === undefined ? null : { name: group, until: held ? Infinity : now + GESTURE },
    });
  },
  amend(edit) {
    const { montage, readOnly, walked } = get();
    // A state that was gone to is as it was.
    if (montage && !readOnly && !walked) set({ montage: edit(montage) });
  },
  undo: () => get().walk(-1),
  redo: () => get().walk(1),
  walk(by) {
    const { montage, past, future, readOnly } = get();
    if (!montage || readOnly) return;
    const all = [...past, montage, ...future];
    const at = Math.min(all.length - 1, Math.max(0, past.length + by));
    if (at !== past.length)
      set({ montage: all[at]!, past: all.slice(0, at), future: all.slice(at + 1), walked: true, group: null });
  },
  load(montage, readOnly, { past, future } = NO_HISTORY, stored = true) {
    if (stored) written = montage;
    set({
      montage,
      readOnly,
      past,
      future,
      walked: false,
      recorded: false,
      group: null,
      saved: 'saved',
      problem: null,
      gone: false,
    });
  },
}));

// A gesture ends when the pointer or the key is let go: the next one on the same control is another step of undo.
if (typeof addEventListener === 'function') {
  addEventListener('pointerdown', () => (held = true), { capture: true });
  for (const name of ['pointerup', 'pointercancel', 'focusout'] as const)
    addEventListener(
      name,
      () => {
        if (name !== 'focusout') held = false;
        if (useMontage.getState().group) useMontage.setState({ group: null });
      },
      { capture: true },
    );
}

let running = false;
/** Montages that are not in the browser's storage yet, since it refused them. */
export const unstored = new Set<string>();

/** Writes the newest state; edits made while writing are written right after. */
async function save(): Promise<void> {
  if (running) return;
  running = true;
  try {
    for (;;) {
      const { montage, readOnly, past, future } = useMontage.getState();
      if (!montage || readOnly || montage === written) break;
      useMontage.setState({ saved: 'saving' });
      const store = unstored.has(montage.id) ? addMontage : storeMontage;
      await store(montage, stepsOf(montage, { past, future }));
      unstored.delete(montage.id);
      written = montage;
      dropJournal(montage);
    }
    useMontage.setState({ saved: 'saved', problem: null, gone: false });
  } catch (error) {
    const gone = error instanceof EngineError && error.code === 'deleted';
    useMontage.setState({ saved: 'failed', problem: sentence(error), gone });
  } finally {
    running = false;
  }
}

/** Tries again to store what could not be. */
export const saveAgain = save;

/** Milliseconds after which what a drag has changed so far is written, while it goes on. */
const DURING_DRAG = 250;
let waiting: ReturnType<typeof setTimeout> | undefined;

useMontage.subscribe((state, before) => {
  if (state.montage === before.montage && state.group === before.group) return;
  clearTimeout(waiting);
  // Steps of one gesture are not written one by one: a long montage takes longer to write than a frame lasts.
  if (state.group === null) void save();
  else {
    if (state.saved === 'saved') useMontage.setState({ saved: 'saving' });
    waiting = setTimeout(() => void save(), DURING_DRAG);
  }
});

const journalKey = (id: string): string => `akmeon unsaved ${id}`;

/** A page that is left while a write is in flight has only this moment: local storage takes it at once. */
function keepJournal(): void {
  const { montage, readOnly, problem } = useMontage.getState();
  if (!montage || readOnly || montage === written || problem) return;
  try {
    localStorage.setItem(journalKey(montage.id), JSON.stringify(montage));
  } catch {
    // Too large for it: the write in flight is what there is.
  }
}

function dropJournal({ id }: Montage): void {
  try {
    localStorage.removeItem(journalKey(id));
  } catch {
    // Where storage is refused there is no journal.
  }
}

/** The state that was being written when the page was left last; null where all was written. Taken once. */
export function takeJournal(id: string): unknown {
  try {
    const text = localStorage.getItem(journalKey(id));
    localStorage.removeItem(journalKey(id));
    return text === null ? null : (JSON.parse(text) as unknown);
  } catch {
    return null;
  }
}

if (typeof addEventListener === 'function') {
  addEventListener('pagehide', keepJournal);
  document.addEventListener('visibilitychange', () => {
    if (document.visibilityState === 'hidden') keepJournal();
  });
}

/** Applies an edit to the open montage. */
export const edit = (change: Edit, group?: string): void => useMontage.getState().edit(change, group);

let gestures = 0;
/** A name for one gesture, whose edits are one step of undo. */
export const newGesture = (): string => `gesture-${++gestures}`;

/** The lock of the tab that may write a montage. */
export const montageLock = (id: string): string => `montage ${id}`;

/** A montage as it is now, open or not. */
export async function montageNow(id: string): Promise<Montage | undefined> {
  const { montage } = useMontage.getState();
  return montage?.id === id ? montage : (await storedMontage(id))?.montage;
}

/**
 * Applies an edit to a montage whether it is open or not: what a job finds belongs to the montage it was begun in.
 * @throws when another tab holds it, or it is gone
 */
export async function editMontage(id: string, change: Edit): Promise<void> {
  const { montage, readOnly } = useMontage.getState();
  if (montage?.id === id && !readOnly) return edit(change);
  await navigator.locks.request(montageLock(id), { ifAvailable: true }, async (lock) => {
    const entry = await storedMontage(id);
    if (!lock) throw new Error('Its montage is open in another tab: do it there again.');
    if (!entry) throw new Error('Its montage is gone.');
    await storeMontage(change(entry.montage));
  });
}
