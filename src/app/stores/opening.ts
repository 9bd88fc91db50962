/** Opening, making and saving montages. */
import { nanoid } from 'nanoid';
import { readMontage, writeMontage } from '../../core/document/akmeon.ts';
import { emptyMontage, type Montage } from '../../core/document/types.ts';
import { STARTER_ACCENTS } from '../../effects/starters.ts';
import { database, stored } from '../../engine/storage/database.ts';
import { meetSources } from './media.ts';
import { useMontage } from './montage.ts';
import { stopPlaying } from './player.ts';
import { sentence } from '../../engine/index.ts';
import { notice, useView } from './view.ts';

/** Montages that the browser refuses to store: open for this visit. */
const held = new Map<string, Montage>();

let release: (() => void) | null = null;

/** True when this tab is the one that may write the montage. The lock ends with the tab. */
async function claim(id: string): Promise<boolean> {
  release?.();
  release = null;
  return new Promise((resolve) => {
    void navigator.locks.request(`montage ${id}`, { ifAvailable: true }, (lock) => {
      if (!lock) {
        resolve(false);
        return undefined;
      }
      resolve(true);
      return new Promise<void>((free) => (release = free));
    });
  });
}

/** Opens a stored montage by id. Returns false when there is none. */
export async function openStored(id: string): Promise<boolean> {
  const montage = held.get(id) ?? (await stored(() => database.montages.get(id)))?.montage;
  if (!montage) return false;
  await present(montage);
  return true;
}

async function present(montage: Montage): Promise<void> {
  stopPlaying();
  const mayWrite = await claim(montage.id);
  useMontage.getState().load(montage, !mayWrite);
  useView.setState({
    playhead: 0,
    chosen: null,
    accent: montage.accents[0]?.id ?? null,
    view: null,
    plain: false,
    looping: false,
  });
  await meetSources(montage);
}

async function keep(montage: Montage): Promise<void> {
  try {
    await stored(() => database.montages.put({ id: montage.id, name: montage.name, updated: Date.now(), montage }));
  } catch (error) {
    held.set(montage.id, montage);
    notice(sentence(error), 'error');
  }
}

const known = (id: string): Promise<Montage | undefined> =>
  stored(() => database.montages.get(id)).then(
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
  await stored(() => database.media.bulkPut(places)).catch((error: unknown) => notice(sentence(error), 'error'));
  if (!(await known(montage.id))) await keep(montage);
  return montage.id;
}

/** A montage's name without what file systems refuse. */
export const plainName = (name: string): string => name.replace(/[^\p{L}\p{N} _-]+/gu, '').trim() || 'montage';

/** Hands the montage over as one `.akmeon` file. */
export const saveProject = (montage: Montage): void =>
  saveText(writeMontage(montage), `${plainName(montage.name)}.akmeon`);

/** Gives a file to the browser's downloads. */
export function saveText(text: string, name: string): void {
  const url = URL.createObjectURL(new Blob([text], { type: 'application/json' }));
  const link = document.createElement('a');
  link.href = url;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 60000);
}
