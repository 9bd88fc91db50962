/** Opening, making and saving montages. */
import { nanoid } from 'nanoid';
import { checkedMontage, readMontage, writeMontage } from '../../core/document/akmeon.ts';
import { historyOf, type History, type Steps } from '../../core/document/history.ts';
import { emptyMontage, MONTAGE_VERSION, type Montage } from '../../core/document/types.ts';
import { STARTER_ACCENTS } from '../../effects/starters.ts';
import { addMontage, keepPlaces, rememberOpened, sentence, storedMontage } from '../../engine/index.ts';
import { resumeFinding } from './finding.ts';
import { meetSources } from './media.ts';
import { montageLock, takeJournal, unstored, useMontage } from './montage.ts';
import { stopPlaying } from './player.ts';
import { notice, useView } from './view.ts';

const NO_STEPS: Steps = { back: [], forth: [] };

/** Montages that the browser refuses to store: open for this visit. */
const held = new Map<string, Montage>();

/** The montage that this tab may write. */
let claimed: { id: string; release(): void; over: Promise<unknown> } | null = null;
/** Ends waiting for another tab's montage. */
let waiting = new AbortController();

/** True when this tab is the one that may write the montage. The lock ends with the tab. */
async function claim(id: string): Promise<boolean> {
  waiting.abort();
  if (claimed?.id === id) return true;
  claimed?.release();
  // Back and forward come here again before the browser has freed what was let go.
  await claimed?.over;
  claimed = null;
  return new Promise((resolve) => {
    let release = (): void => undefined;
    const over = navigator.locks.request(montageLock(id), { ifAvailable: true }, (lock) => {
      if (!lock) {
        resolve(false);
        return undefined;
      }
      resolve(true);
      return new Promise<void>((free) => (release = free));
    });
    claimed = { id, release: () => release(), over };
  });
}

/** Takes the montage over when the tab that held it is gone: in its newest state, and to be changed. */
function takeOverLater(id: string): void {
  waiting = new AbortController();
  claimed = null;
  navigator.locks
    .request(montageLock(id), { signal: waiting.signal }, async () => {
      const { montage } = useMontage.getState();
      if (montage?.id !== id) return;
      const over = new Promise<void>((free) => (claimed = { id, release: free, over: Promise.resolve() }));
      const entry = await storedMontage(id);
      const newest = entry?.montage ?? montage;
      useMontage.getState().load(newest, false, historyOf(newest, entry?.steps ?? NO_STEPS));
      notice('The other tab is gone: the montage can be changed here now.');
      await over;
    })
    .catch(() => undefined);
}

/** Why a montage that is stored cannot be shown as it is. */
export interface Broken {
  readonly reason: string;
  readonly stored: unknown;
  /** As it was when it was last opened without trouble. */
  readonly before: Montage | null;
}

/** Opens a stored montage by id. Gives what is broken about it, or `none` when there is none. */
export async function openStored(id: string): Promise<'open' | 'none' | Broken> {
  const refused = held.get(id);
  const entry = refused ? undefined : await storedMontage(id);
  const journal = takeJournal(id);
  const kept: unknown = refused ?? journal ?? entry?.montage;
  if (!kept) return 'none';
  let montage: Montage;
  try {
    montage = checkedMontage(kept);
  } catch (error) {
    let before: Montage | null = null;
    try {
      before = entry?.opened ? checkedMontage(entry.opened) : null;
    } catch {
      // That state is broken as well.
    }
    return { reason: sentence(error), stored: kept, before };
  }
  // What was being written when the page was left is one step more.
  const stored = entry?.montage.version === MONTAGE_VERSION ? entry.montage : null;
  const steps = (stored && entry?.steps) || NO_STEPS;
  const history =
    journal === null || !stored
      ? historyOf(montage, steps)
      : { past: [...historyOf(stored, steps).past, stored], future: [] };
  await present(montage, history, journal === null);
  return 'open';
}

/** Goes back to the state in which a montage could be opened last. */
export async function openBefore({ before }: Broken): Promise<void> {
  if (!before) return;
  await addMontage(before);
  await present(before);
}

async function present(montage: Montage, history?: History, stored = true): Promise<void> {
  stopPlaying();
  const mayWrite = await claim(montage.id);
  useMontage.getState().load(montage, !mayWrite, history, stored);
  if (!mayWrite) takeOverLater(montage.id);
  useView.setState({
    playhead: 0,
    format: null,
    decided: null,
    chosen: null,
    accent: montage.accents[0]?.id ?? null,
    view: null,
    plain: false,
    looping: false,
  });
  await meetSources(montage);
  void resumeFinding();
}

/** Called once a montage is on the screen: from here there is a way back to it. */
export function rememberShown(): void {
  const { montage, readOnly } = useMontage.getState();
  if (montage && !readOnly) void rememberOpened(montage).catch(() => undefined);
}

async function keep(montage: Montage): Promise<void> {
  try {
    await addMontage(montage);
  } catch (error) {
    held.set(montage.id, montage);
    unstored.add(montage.id);
    notice(sentence(error), 'error');
  }
}

const known = (id: string): Promise<Montage | undefined> =>
  storedMontage(id).then(
    (entry) => entry?.montage,
    () => held.get(id),
  );

/** A new, empty montage with the starter accents; gives its id. */
export async function makeMontage(): Promise<string> {
  const montage: Montage = { ...emptyMontage(nanoid(10), 'New montage'), accents: STARTER_ACCENTS };
  await keep(montage);
  return montage.id;
}

/** Takes in a project file as a montage of its own, beside one that already has its id. @throws FormatError */
export async function openProject(text: string): Promise<string> {
  const read = readMontage(text);
  const there = await known(read.id);
  const same = there && writeMontage(there) === writeMontage(read);
  const montage = there && !same ? { ...read, id: nanoid(10) } : read;
  await keep(montage);
  return montage.id;
}

/** Copies of the demo's media addresses, so that its sources are found. */
export async function openDemo(): Promise<string> {
  const text = await (await fetch('/demo/harbour-nights.akmeon')).text();
  const montage = readMontage(text);
  const places = montage.sources.map((source) => ({
    fingerprint: source.fingerprint,
    name: source.name,
    kind: 'url' as const,
    url: `/demo/${source.name}`,
  }));
  await keepPlaces(places).catch((error: unknown) => notice(sentence(error), 'error'));
  if (!(await known(montage.id))) await keep(montage);
  return montage.id;
}

/** A montage's name without what file systems refuse. */
export const plainName = (name: string): string => name.replace(/[^\p{L}\p{N} _-]+/gu, '').trim() || 'montage';

/** Hands the montage over as one `.akmeon` file. */
export const saveProject = (montage: Montage): void =>
  saveText(writeMontage(montage), `${plainName(montage.name)}.akmeon`);

export const saveText = (text: string, name: string): void =>
  saveFile(new Blob([text], { type: 'application/json' }), name);

/** A file's name of these words: small letters, joined. */
export const fileNameOf = (...words: readonly string[]): string =>
  plainName(words.join(' ').trim()).replace(/\s+/g, '-').toLowerCase();

/** Gives a file to the browser's downloads. */
export function saveFile(file: Blob, name: string): void {
  const url = URL.createObjectURL(file);
  saveLink(url, name);
  setTimeout(() => URL.revokeObjectURL(url), 60000);
}

/** Has the browser download what lies at an address of its own. */
export function saveLink(url: string, name: string): void {
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
}
