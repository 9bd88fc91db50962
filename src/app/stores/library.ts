/** Accents kept beyond one montage, in this browser and in files. */
import { nanoid } from 'nanoid';
import { readAccents, writeAccents } from '../../core/document/accents.ts';
import { addAccent } from '../../core/document/edits.ts';
import type { Accent } from '../../core/document/types.ts';
import { EFFECTS } from '../../effects/index.ts';
import { accentTable } from '../../engine/index.ts';
import { frameServer } from './media.ts';
import { edit, useMontage } from './montage.ts';
import { plainName, saveText } from './opening.ts';
import { notice, useView } from './view.ts';
import { shelf } from './shelf.ts';

const library = shelf(accentTable);
export const useLibrary = library.use;
export const forgetAccent = library.drop;

/** A small picture of an accent on a frame, as a data URL; empty where none can be drawn. */
async function pictureOf(accent: Accent, frame: number | null): Promise<string> {
  if (frame === null) return '';
  try {
    const bitmap = await frameServer().bitmap(frame + (accent.tail > 1 ? 1 : 0), {
      width: 160,
      height: 90,
      plain: false,
      audition: { accent, frame, intensity: 1 },
    });
    const canvas = document.createElement('canvas');
    Object.assign(canvas, { width: bitmap.width, height: bitmap.height });
    canvas.getContext('2d')!.drawImage(bitmap, 0, 0);
    return canvas.toDataURL('image/jpeg', 0.8);
  } catch {
    return '';
  }
}

export const keepAccent = async (accent: Accent, frame: number | null): Promise<void> =>
  library.keep(
    accent.name,
    { accent, picture: await pictureOf(accent, frame) },
    `${accent.name} is kept in your library.`,
  );

/** Puts an accent into the montage under an id of its own and chooses it. */
export function takeAccent(accent: Accent): void {
  const { montage } = useMontage.getState();
  const id = montage?.accents.some((a) => a.id === accent.id) ? nanoid(8) : accent.id;
  edit(addAccent({ ...accent, id }));
  useView.setState({ accent: id });
  notice(`${accent.name} is in this montage now.`);
}

export async function saveAccentFile(accent: Accent, frame: number | null): Promise<void> {
  saveText(
    writeAccents([accent], (await pictureOf(accent, frame)) || undefined),
    `${plainName(accent.name)}.akmeon-accent`,
  );
}

/** Reads an accent file into the montage; what it cannot draw is said and kept. */
export async function openAccentFile(file: File): Promise<void> {
  try {
    const { accents } = readAccents(await file.text());
    accents.forEach(takeAccent);
    const unknown = [...new Set(accents.flatMap((a) => a.effects.map((e) => e.effect)))].filter(
      (id) => !EFFECTS.has(id),
    );
    if (unknown.length)
      notice(
        `${file.name} has effects that this Akmeon does not know (${unknown.join(', ')}): they are kept, but not drawn.`,
        'error',
      );
  } catch (error) {
    notice(`${file.name}: ${error instanceof Error ? error.message : 'it cannot be read.'}`, 'error');
  }
}
