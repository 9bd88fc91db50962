/** Typefaces of one's own: read in each thread that draws with them, and asked which letters they hold. */
import { toByteArray } from 'base64-js';
import type { Typeface } from '../../core/document/types.ts';
import { EngineError } from '../errors.ts';

export const ownFamily = (id: string): string => `Akmeon own ${id}`;

const loading = new Map<string, Promise<void>>();

/** Has a typeface in this thread. @throws EngineError `unreadable` for what is none */
export function ownFont({ id, name, data }: Typeface): Promise<void> {
  let known = loading.get(id);
  if (!known) {
    known = (async () => {
      try {
        const face = new FontFace(ownFamily(id), toByteArray(data) as Uint8Array<ArrayBuffer>);
        const { fonts = document.fonts } = globalThis as unknown as { fonts?: FontFaceSet };
        fonts.add(await face.load());
      } catch {
        throw new EngineError('unreadable', `${name} is no typeface that this browser can read.`);
      }
    })();
    loading.set(id, known);
  }
  return known;
}

/** A place of private use that no typeface fills. */
const NOBODYS = '\u{10fffd}';

/** Side of the picture that a letter is tried on, pixels. */
const TRIED = 24;

/**
 * The letters of a text that a typeface does not hold: they look as if it were not there, whatever stands in for it (common
 * practice, no source).
 */
export async function lettersMissing(typeface: Typeface, text: string): Promise<string[]> {
  await ownFont(typeface);
  const pen = new OffscreenCanvas(2 * TRIED, 2 * TRIED).getContext('2d', { willReadFrequently: true })!;
  const looks = (letter: string, families: string): string => {
    pen.clearRect(0, 0, 2 * TRIED, 2 * TRIED);
    pen.font = `${TRIED}px ${families}`;
    pen.fillText(letter, TRIED / 4, 1.4 * TRIED);
    return `${pen.measureText(letter).width} ${pen.getImageData(0, 0, 2 * TRIED, 2 * TRIED).data.join(',')}`;
  };
  const own = ownFamily(typeface.id);
  const held = (letter: string): boolean =>
    ['serif', 'monospace'].some((other) => {
      const shown = looks(letter, `"${own}", ${other}`);
      // Where no typeface has it, the first one draws what it draws for everything that it has not.
      return shown !== looks(letter, other) && shown !== looks(NOBODYS, `"${own}", ${other}`);
    });
  return [...new Set(text)].filter((letter) => letter.trim() && !held(letter));
}
