/** Formats: versions of one montage in other shapes, each with its own framing of the clips. */
import { sameShape } from '../base/shape.ts';
import type { Edit } from './edits.ts';
import type { Clip, Format, Montage, Title } from './types.ts';

export type Fit = Clip['fit'];
export type Size = Pick<Format, 'width' | 'height'>;

/** The montage as one of its formats shows it; itself where there is no such format. */
export function inFormat(montage: Montage, id: string | null): Montage {
  const format = montage.formats.find((one) => one.id === id);
  if (!format) return montage;
  const { width, height } = format;
  const { settings } = montage;
  return {
    ...montage,
    settings: { ...settings, width, height },
    ...(montage.titles && {
      titles: montage.titles.map((title) => titleIn(title, id!, (width * settings.height) / (height * settings.width))),
    }),
    // What was cut off goes on being framed as what it was cut from.
    clips: montage.clips.map((clip) => ({
      ...clip,
      fit: format.fits[clip.id] ?? format.fits[clip.lineage ?? ''] ?? format.fit,
    })),
  };
}

/** A title in a format: in a place of its own there, else as far to the side in shares of the format's width. */
function titleIn(title: Title, format: string, wider: number): Title {
  const x = Math.min(300, Math.max(-300, title.x * wider));
  return { ...title, x, safe: title.safe ?? true, ...title.places?.[format] };
}

/** Gives a title a place: of its own in a format, or in the montage's shape (null). @param shown the title as it is there */
export function placedTitle(
  title: Title,
  format: string | null,
  shown: Pick<Title, 'x' | 'y' | 'size'>,
  change: Partial<Pick<Title, 'x' | 'y' | 'size'>>,
): Title {
  if (format === null) return { ...title, ...change };
  const { x, y, size } = shown;
  return { ...title, places: { ...title.places, [format]: { x, y, size, ...change } } };
}

/** The title without a place of its own in a format. */
export function unplacedTitle(title: Title, format: string): Title {
  const { [format]: _, ...places } = title.places ?? {};
  const { places: __, ...rest } = title;
  return Object.keys(places).length ? { ...rest, places } : rest;
}

/** Usual shapes, width to height. */
export const SHAPES = [
  { name: '16:9', width: 16, height: 9 },
  { name: '9:16', width: 9, height: 16 },
  { name: '1:1', width: 1, height: 1 },
  { name: '4:5', width: 4, height: 5 },
  { name: '21:9', width: 21, height: 9 },
  { name: '4:3', width: 4, height: 3 },
] as const;

/** Usual sizes: pixels of the shorter side. */
export const LINES = [720, 1080, 1440, 2160] as const;

/** The nearest even number of pixels that a picture may have a side. */
export const evenPixels = (pixels: number): number => Math.min(8192, Math.max(2, Math.round(pixels / 2) * 2));

/** Even pixels of a shape whose shorter side has `lines`; `width` and `height` need only their ratio. */
export function sizeOf(shape: Size, lines: number): Size {
  const unit = lines / Math.min(shape.width, shape.height);
  return { width: evenPixels(shape.width * unit), height: evenPixels(shape.height * unit) };
}

/** What a shape is called: a usual one by its ratio, else its pixels. */
export const shapeName = ({ width, height }: Size): string =>
  SHAPES.find((shape) => sameShape(width / height, shape.width / shape.height))?.name ?? `${width}x${height}`;

/** The montage's own shape, with `id` null, and its formats after it. */
export const formatsOf = ({ settings, formats }: Montage): (Pick<Format, 'name'> & Size & { id: string | null })[] => [
  { id: null, name: shapeName(settings), width: settings.width, height: settings.height },
  ...formats,
];

export const addFormat =
  (format: Format): Edit =>
  (m) => ({ ...m, formats: [...m.formats, format] });

export const changeFormat =
  (id: string, change: Partial<Omit<Format, 'id'>>): Edit =>
  (m) => ({ ...m, formats: m.formats.map((format) => (format.id === id ? { ...format, ...change } : format)) });

export const removeFormat =
  (id: string): Edit =>
  (m) => ({
    ...m,
    formats: m.formats.filter((format) => format.id !== id),
    ...(m.titles && { titles: m.titles.map((title) => unplacedTitle(title, id)) }),
  });

/** How a clip is framed: in the montage itself (null), or in one of its formats. */
export const setFit =
  (clip: string, fit: Fit, format: string | null): Edit =>
  (m) =>
    format === null
      ? { ...m, clips: m.clips.map((one) => (one.id === clip ? { ...one, fit } : one)) }
      : {
          ...m,
          formats: m.formats.map((one) => (one.id === format ? { ...one, fits: { ...one.fits, [clip]: fit } } : one)),
        };
