/** Typefaces of one's own: brought in for a title, and gone with the last title that is written in them. */
import { fromByteArray } from 'base64-js';
import { LIMITS } from '../../core/document/limits.ts';
import type { Montage, Title } from '../../core/document/types.ts';
import { fingerprint, ownFont, sentence } from '../../engine/index.ts';
import { derivedNow } from './derived.ts';
import { edit, editMontage } from './montage.ts';
import { notice } from './view.ts';

/** Changes the titles; a typeface that none of them is written in goes. */
const withTitles =
  (work: (titles: readonly Title[]) => readonly Title[]) =>
  (montage: Montage): Montage => {
    const { titles: old = [], typefaces: faces = [], ...rest } = montage;
    const titles = work(old);
    const typefaces = faces.filter(({ id }) => titles.some(({ own }) => own === id));
    return { ...rest, ...(titles.length && { titles }), ...(typefaces.length && { typefaces }) };
  };

export const setTitles = (work: (titles: readonly Title[]) => readonly Title[], group?: string): void =>
  edit(withTitles(work), group);

/** Writes a title in a typeface of a file. */
export async function bringTypeface(title: string, file: File): Promise<void> {
  const owner = derivedNow()?.montage.id;
  if (!owner) return;
  try {
    const data = fromByteArray(new Uint8Array(await file.arrayBuffer()));
    if (data.length > LIMITS.typefaceText) throw new Error(`${file.name} is larger than three megabytes.`);
    // The same file twice is one typeface.
    const print = (await fingerprint(file)).slice(0, 24);
    const typeface = { id: print, name: file.name.slice(0, 200) || 'Typeface', data };
    await ownFont(typeface);
    if ((derivedNow()?.montage.typefaces ?? []).length >= LIMITS.typefaces)
      throw new Error('There are as many typefaces as there can be: take one off its titles first.');
    await editMontage(owner, (montage) =>
      withTitles((titles) => titles.map((one) => (one.id === title ? { ...one, own: print } : one)))({
        ...montage,
        typefaces: [...(montage.typefaces ?? []).filter(({ id }) => id !== print), typeface],
      }),
    );
  } catch (error) {
    notice(sentence(error), 'error');
  }
}
